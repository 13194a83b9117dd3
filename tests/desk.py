"""Shots put before the application, armed and printed, for tests of its routes and pages."""

import io
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import httpx
import pypdfium2
import zxingcpp

from revani.core.documents import ClockStart, Light
from revani.core.documents.timing import Timing
from revani.settings import Settings
from tests.conftest import make_shot


def new_shot(client: httpx.Client, **change: object) -> str:
    """Save a shot; its id."""
    shot = make_shot(**change)
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    return str(shot.id)


def on_the_rig(client: httpx.Client) -> list[str]:
    """The runs that have the rig of this machine, or wait for it."""
    return [
        one["id"]
        for one in client.get("/api/runs", params={"most": 200}).json()
        if one["state"] in ("armed", "running") and one["rig"] == Settings().rig
    ]


def refused(answer: httpx.Response, path: str) -> dict:  # type: ignore[type-arg]
    """The problem of an answer that must refuse at `path`."""
    assert answer.status_code == 422, answer.text
    assert answer.headers["content-type"].startswith("application/problem+json")
    problem = answer.json()
    assert path in [fault["path"] for fault in problem["faults"]], problem
    return problem


def in_hours(hours: float) -> dict[str, object]:
    """A shot of ten minutes that begins so much later on the clock of its place."""
    begins = datetime.now(ZoneInfo("Europe/London")) + timedelta(hours=hours)
    return {
        "date": begins.date(), "start": ClockStart(time=f"{begins:%H:%M}"),
        "timing": Timing(fps=30, interval_s=60, frame_count=10), "light": Light(aperture=2.8, shutter_s=10),
    }  # fmt: skip


def order(id: str, **change: object) -> dict[str, object]:
    return {"shot_id": id, "when": "planned", "speed": 1} | change


def cards_of(client: httpx.Client, id: str) -> list[str]:
    """The cards of a sheet, read from its pages by a reader that did not write them."""
    answer = client.get(f"/api/shots/{id}/sheet.pdf", params={"size": "a5"})
    assert answer.headers["content-type"] == "application/pdf"
    pages = pypdfium2.PdfDocument(io.BytesIO(answer.content))
    return [
        one.text
        for page in pages
        for one in zxingcpp.read_barcodes(page.render(scale=4).to_pil().convert("L"))
        if one.valid
    ]
