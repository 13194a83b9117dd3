"""What a move of seven axes costs beside the compile of the same shot, and what a dragged post feels like."""

import statistics
import tempfile

import httpx
from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

from bench.compiling import _serial
from bench.desk import HOME
from bench.table import Row, median_s
from revani.core.documents import FilmOutput, Move, Shot
from revani.core.documents.timing import Timing
from revani.core.move.axes import motion_of
from revani.core.move.overload import over_speed_or_force
from revani.core.program.compiled import compile_shot
from revani.core.timing.moments import ShotClock
from tests.browser.conftest import FLAGS, Page
from tests.conftest import make_shot
from tests.core.test_moves import axis, key, rig

FRAMES, KEYS = 10_000, 12
NAMES = ("slide", "lift", "pan", "tilt", "roll", "zoom", "focus")
LOW = {"slide": 0.0, "lift": 0.0, "pan": -40.0, "tilt": -10.0, "roll": -5.0, "zoom": 24.0, "focus": 1.0}
HIGH = {"slide": 1200.0, "lift": 700.0, "pan": 40.0, "tilt": 25.0, "roll": 5.0, "zoom": 60.0, "focus": 20.0}


def _moving(frames: int, interval_s: int, keys: int = KEYS) -> Shot:
    event = frames * interval_s
    made = [
        key(event * i / (keys - 1), **{n: LOW[n] + (HIGH[n] - LOW[n]) * ((i * 7) % keys) / (keys - 1) for n in NAMES})
        for i in range(keys)
    ]
    move = Move.model_validate({"keys": [one.model_dump() for one in made]})
    timing = Timing(fps=30, interval_s=interval_s, frame_count=frames)
    return make_shot(name=f"bench {next(_serial)}", kit=rig(*(axis(name) for name in NAMES)), move=move, timing=timing)


def _motion() -> list[Row]:
    shot = _moving(FRAMES, 4)
    shot = shot.model_copy(update={"light": shot.light.model_copy(update={"shutter_s": shot.kit.body.shutter_min_s})})
    program = compile_shot(shot)
    clock = ShotClock(program.start_s, program.t_s, float(program.timing.event_s), 1 / 30, program.sky)

    def moves() -> None:
        motion_of(shot, clock)
        over_speed_or_force(program.motion, program.start_s)

    def still() -> None:
        compile_shot(shot.model_copy(update={"move": None, "name": f"bench {next(_serial)}"}))

    with_move, without = median_s(moves, runs=15), median_s(still, runs=15)
    return [
        Row("seven axes, 12 keys, 10,000 frames sampled and checked / compile without it", with_move / without, 0.5,
            detail=f"{with_move * 1000:.1f} ms / {without * 1000:.1f} ms")
    ]  # fmt: skip


# Moves a post a little and says how long it took until its trace was drawn anew.
_DRAG = """
const [dx, dy, held, line, done] = arguments;
const post = document.querySelector(held);
const trace = () => document.querySelector(line).getAttribute('d');
const box = post.getBoundingClientRect();
const at = {clientX: box.x + box.width / 2, clientY: box.y + 4, pointerId: 1, bubbles: true, buttons: 1};
if (!window.held) {
  window.held = at;
  Element.prototype.setPointerCapture = () => {};
  post.dispatchEvent(new PointerEvent('pointerdown', at));
}
const before = trace();
const begin = performance.now();
const to = {clientX: window.held.clientX + dx, clientY: window.held.clientY + dy};
post.dispatchEvent(new PointerEvent('pointermove', {...window.held, ...to}));
const look = () => {
  if (trace() !== before) requestAnimationFrame(() => done(performance.now() - begin));
  else if (performance.now() - begin > 3000) done(3000);
  else requestAnimationFrame(look);
};
requestAnimationFrame(look);
"""


_SLIDE = ("[data-post='slide-5']", "[data-testid=trace-slide]")
_CROP = ("[data-crop-post='0-1']", "[data-testid=crop-trace-0]")


def _dragging() -> list[Row]:
    keys = [{"at_s": 0, "zoom": 1.1}, {"at_s": 12, "zoom": 1.3}, {"at_s": 33, "zoom": 1.2}]
    outputs = [FilmOutput.model_validate({"name": f"Output {n}", "keys": keys}) for n in range(3)]
    shot = _moving(1000, 30).with_outputs(outputs)
    with httpx.Client(base_url=HOME, trust_env=False) as http:
        http.post("/api/shots", json=shot.model_dump(mode="json")).raise_for_status()
        slide = _dragged(shot, "3", *_SLIDE, [(3 + n % 20, 0) for n in range(60)])
        crop = _dragged(shot, "5", *_CROP, [(0, -3 - n % 20) for n in range(60)])
        # What was only measured does not stay among the shots.
        http.put(
            f"/api/shots/{shot.id}", params={"archived": True}, headers={"If-Match": "1"},
            json=shot.model_dump(mode="json"),
        )  # fmt: skip
    return [
        Row(f"{what} dragged, 1,000 frames and seven axes, to redrawn trace, p95",
            statistics.quantiles(took, n=20)[-1], 100, "ms", f"median {statistics.median(took):.0f} ms")
        for what, took in (("post", slide), ("key of a crop", crop))
    ]  # fmt: skip


def _dragged(shot: Shot, step: str, held: str, line: str, by: list[tuple[int, int]]) -> list[float]:
    """How long each little drag of a post takes until its line is drawn anew, ms."""
    options = Options()
    with tempfile.TemporaryDirectory() as profile:
        for flag in (*FLAGS, f"--user-data-dir={profile}", "--window-size=1280,900"):
            options.add_argument(flag)
        driver = webdriver.Chrome(options, Service("/usr/bin/chromedriver"))
        try:
            page = Page(driver, HOME)
            page.open(f"/shots/{shot.id}")
            page.until("timing.frame_count", "1,000 frames")
            page.script("document.activeElement.blur()")
            page.find("body").send_keys(step)
            page.find(held)
            return [driver.execute_async_script(_DRAG, dx, dy, held, line) for dx, dy in by]
        finally:
            driver.quit()


def rows() -> list[Row]:
    """The move's own cost, and the drag."""
    return [*_motion(), *_dragging()]
