"""What the simulated camera sees and how it takes it: light, the picture from where it stands, its files."""

import io
import zlib
from collections.abc import Mapping
from datetime import UTC, datetime
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import piexif
from PIL import Image

from revani.core.light.dials import ev100, shutter_for
from revani.core.light.firmware import Asked, Firmware
from revani.core.light.scene import cloud_at, cloud_stops, scene_ev100
from revani.core.light.white_balance import DRIFT_K, automatic_k
from revani.core.picture.render import render
from revani.core.picture.skylight import Picture
from revani.core.picture.view import Exposure, View
from revani.core.program.compiled import nights_around
from revani.core.reframe.shake import noise
from revani.core.sky.skyline import skyline_points
from revani.core.sky.sun_and_moon import Sky, sky_over
from revani.core.watch.loudness import FLOOR_DBFS
from revani.rig.ports import CameraSettings, Scene
from revani.rig.standins.spoken import SOUND_HZ, spoken

WIDTH = 480


def _sky(scene: Scene, at_s: float) -> Sky:
    return sky_over(scene.place, *nights_around(scene.place, at_s, at_s + 3600))


def _scene_ev(scene: Scene, sky: Sky, at_s: float) -> float:
    """The exposure that the scene asks for behind the filter; the camera sees it, whatever was planned."""
    ev = scene_ev100(
        sky, at_s, scene.place.sky_brightness, cloud_stops(scene.place, scene.cloud, at_s), scene.scene_offset_stops
    )
    return float(ev) - _filtered(scene, at_s)


def _filtered(scene: Scene, at_s: float) -> float:
    return scene.nd_stops if scene.nd_off_s is None or at_s < scene.nd_off_s else 0.0


def by_itself(scene: Scene, asked: CameraSettings, number: int, at_s: float) -> CameraSettings:
    """What the firmware makes of its settings: in an automatic mode it meters, and chooses the frame."""
    body, sky = scene.kit.body, _sky(scene, at_s)
    random = np.random.default_rng([zlib.crc32(scene.label.encode()), number])
    change: dict[str, object] = {}
    if asked.automatic_white_balance:
        drift = random.normal(0.0, DRIFT_K)
        change["white_balance_k"] = round(float(automatic_k(sky.sun(at_s).altitude_deg, drift)))
    if asked.mode != "manual":
        metered = _scene_ev(scene, sky, at_s) + random.normal(0.0, body.metering_scatter_stops)
        given = Asked(asked.mode, asked.aperture, asked.iso, asked.iso_ceiling or asked.iso)
        room = np.inf if asked.interval_s is None else max(asked.interval_s - float(body.overhead_s), 0.0)
        taken = Firmware.of(body, scene.kit.lens, _focal_mm(scene), given, room).take(
            metered - asked.compensation_stops
        )
        change |= {"shutter_s": float(taken.shutter_s), "aperture": float(taken.aperture), "iso": float(taken.iso)}
    return asked.model_copy(update=change)


def _picture(scene: Scene, opened_s: float, settings: CameraSettings, seed: int, pose: Mapping[str, float]) -> Picture:
    """What the sensor gets from `opened_s` on, from where the rig has carried it."""
    shutter_s, aperture, iso = settings.shutter_s, settings.aperture, settings.iso
    middle_s = opened_s + shutter_s / 2
    sky = _sky(scene, middle_s)
    error = _scene_ev(scene, sky, middle_s) - float(ev100(aperture, shutter_s, iso))
    sun, moon = sky.sun(middle_s), sky.moon(middle_s)
    heading, tilt, roll, right, ahead = _looks(scene, opened_s, seed, pose)
    view = View(
        at_s=opened_s, latitude_deg=scene.place.latitude_deg, longitude_deg=scene.place.longitude_deg,
        sun_altitude_deg=float(sun.altitude_deg), sun_azimuth_deg=float(sun.azimuth_deg),
        moon_altitude_deg=float(moon.altitude_deg), moon_azimuth_deg=float(moon.azimuth_deg),
        moon_fraction=float(sky.moon_illuminated_fraction(middle_s)),
        heading_deg=heading, tilt_deg=tilt, roll_deg=roll, focal_length_mm=pose.get("zoom", _focal_mm(scene)),
        sensor_width_mm=scene.kit.body.sensor_width_mm, cloud=cloud_at(scene.place, scene.cloud, middle_s),
        skyline=skyline_points(scene.place),
        ahead_deg=scene.framing.heading_deg, slide_mm=right, ahead_mm=ahead, lift_mm=pose.get("lift", 0.0),
        things=scene.things, projection=scene.projection,
    )  # fmt: skip
    exposure = Exposure(
        error, shutter_s, aperture, iso, settings.white_balance_k, _filtered(scene, middle_s),
        float(scene.kit.body.clips_over_stops),
    )  # fmt: skip
    return render(view, exposure, *_size(scene), seed=seed)


def _looks(
    scene: Scene, opened_s: float, seed: int, pose: Mapping[str, float]
) -> tuple[float, float, float, float, float]:
    """Heading, tilt and roll, and mm to the right and ahead: as the rig has them, or as hands that carry the camera."""
    carried, framing = scene.carried, scene.framing
    if carried is None:
        heading = (framing.heading_deg + pose.get("pan", 0.0)) % 360
        return heading, pose.get("tilt", framing.tilt_deg), 0.0, pose.get("slide", 0.0), 0.0
    after = opened_s - carried.start_s
    table = np.array(carried.table)
    right, ahead, heading, tilt = (float(np.interp(after, table[:, 0], column)) for column in table.T[1:])
    hand = zlib.crc32(scene.label.encode())
    # Every still that is taken standing is aimed anew.
    still = np.random.default_rng([hand, seed]).uniform(-1, 1, 3)
    off = still if carried.stands else noise(after, _STEPS_HZ, hand, 3)
    heading, tilt = heading + carried.hand_deg * float(off[0]), tilt + carried.hand_deg * float(off[1])
    return heading % 360, tilt, carried.roll_deg * float(off[2]), right, ahead


# One steps about twice a second.
_STEPS_HZ = 2.0


def _size(scene: Scene) -> tuple[int, int]:
    """The picture's width and height, in the body's shape; one looks about in a sphere, so it has more."""
    body = scene.kit.body
    longer = 4 * WIDTH // 3 if scene.projection == "sphere" else WIDTH
    part = longer / max(body.pixels_wide, body.pixels_high)
    return tuple(max(round(side * part / 2) * 2, 2) for side in (body.pixels_wide, body.pixels_high))  # type: ignore[return-value]


def _focal_mm(scene: Scene) -> float:
    if scene.projection == "sphere":
        return scene.kit.body.sensor_width_mm / (2 * np.pi)
    return scene.framing.focal_length_mm or scene.kit.lens.focal_length_min_mm


def take(scene: Scene, settings: CameraSettings, number: int, opened_s: float, pose: Mapping[str, float]) -> bytes:
    """The JPEG, with Exif, of what is before the camera from `opened_s` on."""
    picture = _picture(scene, opened_s, settings, number, pose)
    focal_mm = pose.get("zoom", _focal_mm(scene))
    return _jpeg(picture, piexif.dump(_exif(scene, settings, number, opened_s, focal_mm)))


_FILM_FPS, _MOST_PICTURES = 10, 150


def film(
    scene: Scene, settings: CameraSettings, number: int, opened_s: float, seconds: float,
    poses: list[dict[str, float]], target: Path, deaf: bool = False,
) -> None:  # fmt: skip
    """A clip in real time; a long one has fewer pictures a second, so that it is soon made.

    One that is `deaf` has a track of sound with nothing on it.
    """
    rate = Fraction(min(_FILM_FPS, max(_MOST_PICTURES / max(seconds, 0.1), 0.2))).limit_denominator(1000)
    at = np.array([pose["after_s"] for pose in poses]) if poses else np.zeros(1)
    names = [name for name in (poses[0] if poses else {}) if name != "after_s"]
    with av.open(str(target), "w", format="mp4") as film:
        stream = film.add_stream("libx264", rate=rate, options={"preset": "veryfast", "crf": "23"})
        stream.width, stream.height = _size(scene)
        stream.pix_fmt, stream.time_base = "yuv420p", 1 / rate
        track = None if scene.sound_dbfs is None else film.add_stream("aac", rate=SOUND_HZ, layout="mono")
        for i in range(max(1, round(seconds * rate))):
            after = float(i / rate)
            pose = {name: float(np.interp(after, at, [one[name] for one in poses])) for name in names}
            picture = av.VideoFrame.from_ndarray(_picture(scene, opened_s + after, settings, number, pose), "rgb24")
            picture.pts, picture.time_base = i, 1 / rate
            film.mux(stream.encode(picture))
        film.mux(stream.encode())
        if track is not None and scene.sound_dbfs is not None:
            for block in spoken(seconds, FLOOR_DBFS if deaf else scene.sound_dbfs, zlib.crc32(scene.label.encode())):
                film.mux(track.encode(block))
            film.mux(track.encode())


def look(scene: Scene, at_s: float) -> bytes:
    """A JPEG of the scene as a finder shows it: bright enough, whatever the light."""
    aperture = scene.kit.lens.aperture_widest
    shutter = float(shutter_for(_scene_ev(scene, _sky(scene, at_s), at_s), aperture, 100))
    settings = CameraSettings(shutter_s=shutter, aperture=aperture, iso=100, white_balance_k=4_800)
    return _jpeg(_picture(scene, at_s, settings, 0, {}), b"")


def _jpeg(picture: Picture, exif: bytes) -> bytes:
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "JPEG", quality=88, exif=exif)
    return out.getvalue()


def _rational(value: float) -> tuple[int, int]:
    fraction = Fraction(value).limit_denominator(10_000)
    return fraction.numerator, fraction.denominator


def _exif(
    scene: Scene, settings: CameraSettings, number: int, opened_s: float, focal_mm: float
) -> dict[str, dict[int, object]]:
    """What a body writes of a frame. Source: Exif 2.3 (CIPA DC-008)."""
    # Stamped by the camera's own clock, right or wrong.
    opened = datetime.fromtimestamp(opened_s + scene.kit.body.clock_offset_s, UTC)
    stamp = f"{opened:%Y:%m:%d %H:%M:%S}".encode()
    shutter = settings.shutter_s
    return {
        "0th": {
            piexif.ImageIFD.Model: scene.kit.body.name.encode(),
            piexif.ImageIFD.DateTime: stamp,
        },
        "Exif": {
            piexif.ExifIFD.DateTimeOriginal: stamp,
            piexif.ExifIFD.SubSecTimeOriginal: f"{opened.microsecond // 1000:03d}".encode(),
            piexif.ExifIFD.OffsetTimeOriginal: b"+00:00",
            piexif.ExifIFD.ExposureTime: _rational(shutter) if shutter >= 0.3 else (1000, round(1000 / shutter)),
            piexif.ExifIFD.FNumber: _rational(round(settings.aperture, 2)),
            piexif.ExifIFD.ISOSpeedRatings: min(round(settings.iso), 65_535),
            piexif.ExifIFD.FocalLength: _rational(focal_mm),
            piexif.ExifIFD.ExposureMode: 1 if settings.mode == "manual" else 0,
            piexif.ExifIFD.WhiteBalance: 0 if settings.automatic_white_balance else 1,
            piexif.ExifIFD.ImageUniqueID: f"{number:032d}".encode(),
        },
    }
