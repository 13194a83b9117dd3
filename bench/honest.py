"""What is acknowledged is stored: a save is read at once, by somebody else."""

import httpx

from bench.table import Row
from revani.settings import settings
from tests.conftest import make_shot

HOME = f"http://127.0.0.1:{settings().port}"
PAIRS = 1_000


def rows() -> list[Row]:
    """Of a thousand saves, how many were not there for another client that read right afterwards."""
    shot = make_shot(name="Bench saves")
    stale, document = 0, shot.model_dump(mode="json")
    with httpx.Client(base_url=HOME, trust_env=False) as writer, httpx.Client(base_url=HOME, trust_env=False) as reader:
        writer.post("/api/shots", json=document).raise_for_status()
        for version in range(1, PAIRS + 1):
            document["note"] = f"save {version}"
            saved = writer.put(f"/api/shots/{shot.id}", json=document, headers={"If-Match": str(version)})
            saved.raise_for_status()
            read = reader.get(f"/api/shots/{shot.id}").json()
            stale += read["document"]["note"] != document["note"] or read["version"] != version + 1
        kept = len(reader.get(f"/api/shots/{shot.id}/earlier").json())
        writer.put(f"/api/shots/{shot.id}?archived=true", json=document, headers={"If-Match": str(PAIRS + 1)})
    return [
        Row(f"stale of {PAIRS:,} save–read pairs", stale, 0, ""),
        Row("earlier versions that are not kept", PAIRS - kept, 0, ""),
    ]
