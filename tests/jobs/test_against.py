"""What came home held against its rehearsal, over HTTP."""

import io

import httpx
import numpy as np
import pytest
from PIL import Image

from tests.runs import saved, short, shot_whole


def test_frames_of_a_run_are_looked_at_and_held_against_what_was_rehearsed(client: httpx.Client) -> None:
    run = shot_whole(client, saved(client, **short(26, name="Held against")), 26)
    path = f"/api/runs/{run['id']}"
    number = next(row["number"] for row in client.get(f"{path}/frames").json() if row["outcome"] == "taken")
    frame = f"{path}/frames/{number}"
    one = client.get(f"{frame}/against").json()
    # The simulated camera takes what was planned, so next to nothing is left.
    assert one["number"] == number and abs(one["stops"]) < 0.15 and abs(one["right_px"]) < 1.5
    assert one["told"].startswith("As bright as rehearsed") or "than rehearsed" in one["told"]
    meant = np.asarray(Image.open(io.BytesIO(client.get(f"{frame}/rehearsed").content)))
    assert meant.shape[1] == 480
    all_through = client.get(f"{path}/against").json()
    assert len(all_through["frames"]) == min(run["taken"], 24) and "half are within" in all_through["told"]
    looked = client.get(f"{frame}/looked").json()
    assert sum(looked["shares"]) == pytest.approx(1, abs=1e-3) and looked["horizon"]
    whole = Image.open(io.BytesIO(client.get(f"{frame}/picture").content))
    stripes = Image.open(io.BytesIO(client.get(f"{frame}/zebra").content))
    assert stripes.size == whole.size
    # The loupe shows the file's own pixels, and stays within it.
    for across, down, left, top in ((0, 0, 0, 0), (1, 1, whole.width - 320, whole.height - 220)):
        piece = client.get(f"{frame}/loupe", params={"across": across, "down": down}).content
        cut = whole.convert("RGB").crop((left, top, left + 320, top + 220))
        off = np.asarray(Image.open(io.BytesIO(piece)), dtype=int) - np.asarray(cut, dtype=int)
        assert np.abs(off).mean() < 2
    assert client.get(f"{path}/frames/31/against").status_code == 404
    assert client.get(f"{path}/frames/31/rehearsed").status_code == 404


def test_the_finder_is_looked_at_before_the_first_frame(client: httpx.Client) -> None:
    run = shot_whole(client, saved(client, **short(4, name="Finder")), 4)
    path = f"/api/runs/{run['id']}/live"
    assert client.get(f"{path}/looked").json()["shares"]
    assert Image.open(io.BytesIO(client.get(f"{path}/zebra").content)).mode == "RGBA"
    assert Image.open(io.BytesIO(client.get(f"{path}/loupe?across=0.5&down=0.5").content)).size == (320, 220)
