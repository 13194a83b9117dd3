"""No request, however odd, breaks the server: every answer is one that the description knows."""

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from schemathesis import Case

from tests.conftest import Stack

# Following a run is a stream without an end.
LEFT_OUT = "/events$"
WAYS = (
    "begin",
    "gear",
    "places",
    "shots",
    "programs",
    "calculators",
    "runs",
    "films",
    "tonight",
    "rig",
    "health",
    "handbook",
)


@pytest.mark.parametrize("way", WAYS)
def test_no_request_whatever_makes_the_server_fail(stack: Stack, way: str) -> None:
    described = schemathesis.openapi.from_url(f"{stack.home}/api/openapi.json")
    chosen = described.include(path_regex=f"^/api/{way}").exclude(path_regex=LEFT_OUT)
    operations = [found.ok() for found in chosen.get_all_operations()]
    assert operations

    for operation in operations:

        @given(case=operation.as_strategy())
        @settings(max_examples=8, suppress_health_check=list(HealthCheck), deadline=None, database=None)
        def probe(case: Case) -> None:
            response = case.call(timeout=20)
            log = (stack.folder / "web.log").read_text()[-3000:] if response.status_code >= 500 else ""
            assert response.status_code < 500, f"{case.method} {case.path}: {response.text[:300]}\n{log}"
            if response.status_code >= 400:
                assert response.headers["content-type"][0].startswith("application/problem+json")

        probe()
