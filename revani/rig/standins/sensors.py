"""Simulated sensors beside the simulated camera: how light it is, how loud, and what stirs, said over the webhook."""

import os
import random
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx
import structlog

from revani.core.documents import Place
from revani.core.light.scene import ev100_of_illuminance, illuminance_lx
from revani.core.sky.sun_and_moon import sky_over

log = structlog.get_logger()

_EVERY_S, _PATIENCE_S = 2.0, 10.0
# Where they stand: made up, as all that they say of sound and movement.
_PLACE = Place(
    name="Beside the camera", latitude_deg=57.6, longitude_deg=-7.4, elevation_m=20, time_zone="Europe/London"
)
_QUIET_DBFS, _LOUD_DBFS, _STILL, _STIRRED = -61.0, -19.0, 0.002, 0.09
_WARM_C, _LEVEL_DEG = 6.0, 0.12
_NOW_AND_THEN = 1 / 90


def words(at_s: float, chance: random.Random) -> list[dict[str, Any]]:
    """What they say at an instant: the light of a clear sky, and a quiet place where now and then something is."""
    sky = sky_over(_PLACE, at_s, at_s)
    ev = float(ev100_of_illuminance(illuminance_lx(sky, at_s, _PLACE.sky_brightness)))
    something = chance.random() < _NOW_AND_THEN
    return [
        {"kind": "light", "value": round(min(max(ev, -9.0), 20.0) + chance.gauss(0, 0.05), 2)},
        {"kind": "sound", "value": round((_LOUD_DBFS if something else _QUIET_DBFS) + chance.gauss(0, 1.5), 1)},
        {"kind": "motion", "value": round((_STIRRED if something else _STILL) * chance.uniform(0.7, 1.3), 4)},
        {"kind": "temperature", "value": round(_WARM_C + chance.gauss(0, 0.1), 1)},
        {"kind": "level", "value": round(_LEVEL_DEG + chance.gauss(0, 0.01), 2)},
    ]


def _token(client: httpx.Client, file: Path) -> str:
    """Their token: the one that they were given, or a first one; nothing where the rig's sensors are others."""
    if file.exists():
        return file.read_text().strip()
    if client.get("/api/sensors").json()["may"]:
        return ""
    token = str(client.post("/api/sensors/token").json()["token"])
    file.touch(mode=0o600)
    file.write_text(token)
    return token


def speak(home: str, folder: Path) -> None:
    """Say something every two seconds, for as long as the token is good."""
    chance, file, quiet = random.Random(os.getpid()), folder / "sensors.token", False
    with httpx.Client(base_url=home, timeout=_PATIENCE_S, trust_env=False) as client:
        while True:
            # The page may not be up yet, or not any more.
            with suppress(httpx.HTTPError, ValueError, KeyError):
                token = _token(client, file)
                told = {"Authorization": f"Bearer {token}"}
                said = client.post("/api/sensors", json=words(time.time(), chance), headers=told) if token else None
                if said is not None and said.status_code == 401 and not quiet:
                    log.info("another token was given out: the simulated sensors are quiet")
                    quiet = True
            time.sleep(_EVERY_S)
