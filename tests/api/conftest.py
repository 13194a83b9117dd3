"""What tests of the routes stand on beside the running Revani."""

from collections.abc import Iterator

import httpx
import pytest

from tests.conftest import eventually
from tests.desk import on_the_rig


@pytest.fixture
def quiet_rig(client: httpx.Client) -> Iterator[None]:
    """A rig without runs, before and afterwards."""

    def end() -> None:
        for id in on_the_rig(client):
            client.post(f"/api/runs/{id}/stop")
        eventually(lambda: not on_the_rig(client))

    end()
    yield
    end()
