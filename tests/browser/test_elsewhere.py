"""A page of another origin, in a real browser, against every port of this machine's Revani."""

import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import ClassVar

import httpx
import pytest

from tests.browser.conftest import Page
from tests.conftest import Stack
from tests.runs import saved, short

PAGE = """<!doctype html><title>elsewhere</title><body><script>
async function tries(base, camera, mover, shot) {
  const told = {};
  const ask = async (name, url, options) => {
    try { const answer = await fetch(url, options); told[name] = answer.type + " " + answer.status; }
    catch (error) { told[name] = "no"; }
  };
  await ask("read", base + "/api/shots");
  await ask("arm", base + "/api/runs", {method: "POST", mode: "no-cors",
    body: JSON.stringify({shot_id: shot, when: "now", anyway: true})});
  await ask("arm json", base + "/api/runs", {method: "POST", headers: {"Content-Type": "application/json"},
    body: JSON.stringify({shot_id: shot, when: "now", anyway: true})});
  await ask("look", base + "/api/runs/00000000-0000-0000-0000-000000000000/live.jpg", {mode: "no-cors"});
  await ask("capture", camera + "/capture", {method: "POST", mode: "no-cors", body: '{"number": 999999}'});
  await ask("status", camera + "/status", {mode: "no-cors"});
  await ask("move", mover + "/", {method: "POST", mode: "no-cors", body: "\\nG28\\nG90 G21\\nG0 X900\\n"});
  const frame = document.createElement("iframe");
  frame.src = base + "/";
  const loaded = new Promise((done) => { frame.onload = done; setTimeout(done, 5000); });
  document.body.append(frame);
  await loaded;
  try { told.frame = frame.contentWindow.length >= 0 && frame.contentDocument ? "open" : "closed"; }
  catch (error) { told.frame = "closed"; }
  const image = new Image();
  told.picture = await new Promise((done) => {
    image.onload = () => done("shown"); image.onerror = () => done("no"); image.src = base + "/favicon.svg"; });
  return told;
}
</script>"""


class _Elsewhere(BaseHTTPRequestHandler):
    heard: ClassVar[list[str]] = []

    def do_GET(self) -> None:
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        self.wfile.write(PAGE.encode())

    def log_message(self, format: str, *_args: object) -> None:
        self.heard.append(format)


@pytest.fixture
def elsewhere() -> Iterator[str]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), _Elsewhere)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def test_a_page_from_elsewhere_reads_nothing_arms_nothing_and_moves_nothing(
    page: Page, stack: Stack, client: httpx.Client, elsewhere: str
) -> None:
    shot = saved(client, **short(5))
    frames = len(httpx.get(f"{stack.camera}/frames").json()) if httpx.get(f"{stack.camera}/frames").is_success else 0
    runs = {run["id"] for run in client.get("/api/runs").json()}
    mover = f"http://127.0.0.1:{int(stack.environment['REVANI_PORT']) + 3}"
    page.driver.get(elsewhere)
    told = page.driver.execute_async_script(
        "const done = arguments[4]; tries(arguments[0], arguments[1], arguments[2], arguments[3]).then(done)",
        stack.home, stack.camera, mover, str(shot.id),
    )  # fmt: skip
    # What a browser calls opaque is an answer that the page may not read; nothing came of it below.
    assert told.pop("read") == "no" and told.pop("arm json") == "no" and told.pop("frame") == "closed"
    assert told.pop("picture") == "no" and set(told.values()) <= {"no", "opaque 0"}
    assert {run["id"] for run in client.get("/api/runs").json()} == runs
    after = httpx.get(f"{stack.camera}/frames")
    assert (len(after.json()) if after.is_success else 0) == frames
