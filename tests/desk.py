"""Shots put before the application, for tests of its pages."""

import httpx

from tests.conftest import make_shot


def new_shot(client: httpx.Client, **change: object) -> str:
    """Save a shot; its id."""
    shot = make_shot(**change)
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    return str(shot.id)
