"""Shots put before the application, for tests of its pages."""

import httpx

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
