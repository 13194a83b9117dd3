"""Compile and findings against the bare ephemeris, and against themselves at ten times the frames."""

from collections.abc import Sequence
from itertools import count

import numpy as np
from skyfield.api import load, load_file, wgs84
from skyfield_data import get_skyfield_data_path

from bench.table import Row, median_s
from revani.core.documents import FilmOutput
from revani.core.documents.timing import Timing
from revani.core.edit.outputs import OutputEdit, apply_output_edit
from revani.core.findings import judge
from revani.core.program import compiled as programs
from revani.core.program.afterwards import way_of
from revani.core.program.compiled import Program, compile_shot
from revani.core.sky import sun_and_moon as sky
from tests.conftest import make_shot

_serial = count()


def _bare() -> None:
    """Sun and moon for 256 instants with Skyfield alone, as its documentation does it."""
    t = _scale.utc(2026, 11, 24, 12, np.arange(256) * 5)
    observer = (_planets["earth"] + wgs84.latlon(57.6, -7.4)).at(t)
    for body in ("sun", "moon"):
        observer.observe(_planets[body]).apparent().altaz()


_planets = load_file(f"{get_skyfield_data_path()}/de421.bsp")
_scale = load.timescale(builtin=True)


def _forget_sky() -> None:
    sky._kept.cache_clear()
    programs._kept.cache_clear()


def _plan(frames: int) -> None:
    # Another name each time, so that nothing but the sky can have been kept.
    timing = Timing(fps=30, interval_s=15 + next(_serial) % 7, frame_count=frames)
    _all_said(compile_shot(make_shot(name=f"bench {next(_serial)}", timing=timing)))


def _all_said(program: programs.Program) -> None:
    """What the desk shows: the findings, and the fixes, which are worked out when they are asked for."""
    for finding in judge(program):
        assert finding.fixes is not None


def _long(frames: int) -> None:
    timing = Timing(fps=30, interval_s="0.7", frame_count=frames)
    shot = make_shot(name=f"bench {next(_serial)}", timing=timing)
    light = shot.light.model_copy(update={"shutter_s": shot.kit.body.shutter_min_s})
    _all_said(compile_shot(shot.model_copy(update={"light": light})))


def _film(walks: bool) -> None:
    """Ten thousand frames of a film at speed, walked or on a stand."""
    timing = Timing.model_validate({"fps": 30, "interval_s": "1/30", "event_s": 333})
    points = [{"x_mm": 0, "y_mm": 0}, {"x_mm": 9_000, "y_mm": 200_000}, {"x_mm": 0, "y_mm": 400_000}]
    light = {"school": "automatic", "aperture": 2.8, "scene": "ground"}
    compile_shot(
        make_shot(
            name=f"bench {next(_serial)}", timing=timing, move={"kind": "live"}, light=light,
            start={"by": "clock", "time": "12:00"}, walk={"points": points} if walks else None,
        )
    )  # fmt: skip


def _walk(name: str, outputs: Sequence[FilmOutput] = ()) -> Program:
    """Ten thousand frames of a walk past a shed."""
    timing = Timing.model_validate({"fps": 30, "interval_s": "1/30", "event_s": 333})
    points = [{"x_mm": 0, "y_mm": 0}, {"x_mm": 9_000, "y_mm": 200_000}, {"x_mm": 0, "y_mm": 400_000}]
    things = [{"name": "Shed", "x_mm": 30_000, "y_mm": 600_000}]
    return compile_shot(
        make_shot(
            name=name, timing=timing, move={"kind": "live", "things": things}, outputs=outputs,
            light={"school": "automatic", "aperture": 2.8, "scene": "ground"},
            start={"by": "clock", "time": "12:00"}, walk={"points": points, "factor": 1},
        )
    )  # fmt: skip


def _outputs() -> tuple[FilmOutput, ...]:
    """Three outputs of a walk: one moves, one is shaken, one goes after the shed."""
    keys = [{"at_s": t, "zoom": 1 + t / 10, "across": 0.5 + t / 100} for t in range(8)]
    made = [{"name": "Moves", "keys": keys}, {"name": "Shaken", "shake_part": 0.004}, {"name": "Goes after"}]
    program = _walk("bench", [FilmOutput.model_validate(one) for one in made])
    return apply_output_edit(program, OutputEdit(do="follow", output=2, name="Shed")).outputs


def _made(outputs: Sequence[FilmOutput]) -> None:
    program = _walk(f"bench {next(_serial)}", outputs)
    for output in outputs:
        way_of(program, output)


def rows() -> list[Row]:
    """The ratios of compiling."""
    outputs = _outputs()
    bare = median_s(_bare)
    cold = median_s(lambda: _plan(1000), prepare=_forget_sky)
    _plan(1000)
    warm = median_s(lambda: _plan(1000), runs=15)
    small, large = median_s(lambda: _long(10_000), runs=7), median_s(lambda: _long(100_000), runs=5)
    return [
        Row("compile + findings, 1,000 frames, new sky / bare sun and moon of 256 instants", cold / bare, 2,
            detail=f"{cold * 1000:.1f} ms / {bare * 1000:.1f} ms"),
        Row("the same, only numbers changed / bare", warm / bare, 0.3, detail=f"{warm * 1000:.1f} ms"),
        Row("compile, 10,000 frames of a film, walked / on a stand",
            median_s(lambda: _film(True)) / median_s(lambda: _film(False)), 1.5),
        Row("three outputs of 10,000 film frames, one that follows, beside the compile of their walk",
            median_s(lambda: _made(outputs)) / median_s(lambda: _made(())) - 1, 0.5),
        Row("compile + findings, 100,000 frames / 10,000 frames", large / small, 15,
            detail=f"{large * 1000:.0f} ms / {small * 1000:.0f} ms"),
    ]  # fmt: skip
