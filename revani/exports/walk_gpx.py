"""The path of a walk as GPX 1.1, out and in, through gpxpy. Source: the schema at topografix.com/GPX/1/1.

A track with the instants at which one is there, and for a walk by stations a waypoint a station. Places are on the
WGS 84 ellipsoid, around the shot's own place, where the path begins.
"""

from datetime import UTC, datetime
from itertools import pairwise
from math import cos, radians, sin, sqrt
from typing import NamedTuple

import gpxpy
import gpxpy.gpx
from pydantic import ValidationError

from revani.core.documents import PathPoint, Shot
from revani.core.documents.walk import LEAST_LEG_MM, MOST_POINTS
from revani.core.edit.walking import begun, with_pace, with_points
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.walk.path import track_of

# WGS 84: the equatorial radius, and the first eccentricity squared.
_RADIUS_M, _ECCENTRICITY2 = 6_378_137.0, 0.00669437999014
_FIRST_TOLERANCE_M = 0.3
_PACES_M_S = (0.1, 20.0)


class _Metres(NamedTuple):
    """Metres of a degree to the north and to the east at a latitude, on the ellipsoid."""

    north: float
    east: float


def _degree_m(latitude_deg: float) -> _Metres:
    lat = radians(latitude_deg)
    bent = 1 - _ECCENTRICITY2 * sin(lat) ** 2
    north = radians(1) * _RADIUS_M * (1 - _ECCENTRICITY2) / bent**1.5
    return _Metres(north, radians(1) * _RADIUS_M * cos(lat) / sqrt(bent))


def walk_gpx(program: Program) -> str:
    """The walk as GPX. Raises Refusal where the shot is none."""
    carried, shot = program.carried, program.shot
    if carried is None:
        raise Refusal("walk", "This shot is no walk.")
    gpx = gpxpy.gpx.GPX()
    gpx.creator, gpx.name = "Revani", shot.name
    segment = gpxpy.gpx.GPXTrackSegment()
    track = gpxpy.gpx.GPXTrack(name=shot.name)
    track.segments.append(segment)
    gpx.tracks.append(track)
    whole = carried.track.length_m
    for (x, y), along in zip(carried.track.points_mm.tolist(), carried.track.along_mm.tolist(), strict=True):
        lat, lon = _placed(shot, x, y)
        at_s = program.start_s + carried.event_s * along / 1000 / whole
        segment.points.append(gpxpy.gpx.GPXTrackPoint(lat, lon, time=_instant(at_s)))
    if not carried.walk.filmed:
        for i, at_s in enumerate(program.at_s.tolist()):
            x, y = carried.track.place_mm(carried.along_m(program.t_s[i])).tolist()
            lat, lon = _placed(shot, x, y)
            gpx.waypoints.append(gpxpy.gpx.GPXWaypoint(lat, lon, name=f"{i + 1}", time=_instant(at_s)))
    text: str = gpx.to_xml(version="1.1")
    return text


def _instant(at_s: float) -> datetime:
    return datetime.fromtimestamp(round(at_s, 3), UTC)


def _placed(shot: Shot, x_mm: float, y_mm: float) -> tuple[float, float]:
    """Latitude and longitude of a place on the table, whose ahead is the shot's heading."""
    turned, place = radians(shot.framing.heading_deg), shot.place
    east = (x_mm * cos(turned) + y_mm * sin(turned)) / 1000
    north = (y_mm * cos(turned) - x_mm * sin(turned)) / 1000
    metres = _degree_m(place.latitude_deg)
    lon = place.longitude_deg + east / metres.east if abs(place.latitude_deg) < 89.9 else place.longitude_deg
    return round(place.latitude_deg + north / metres.north, 8), round(lon, 8)


def walked_along(shot: Shot, text: str) -> Shot:
    """The shot walked along the first track of a GPX file, or its first route; a shot that is no walk becomes one.

    The path begins where the camera stands on the table, whatever place it was noted at. Times, where they are there,
    say the pace. Raises Refusal("gpx").
    """
    points, times = _read(text)
    now = shot if shot.walk is not None else begun(shot)
    placed = _on_table(shot, points)
    try:
        now = with_points(now, placed)
    except ValidationError as error:
        raise Refusal("gpx", f"A path that can be walked: {error.errors()[0]['msg']}.") from None
    spent = (times[-1] - times[0]).total_seconds() if len(times) > 1 else 0.0
    pace = track_of(placed).length_m / spent if spent > 0 else 0.0
    return with_pace(now, round(pace, 3)) if _PACES_M_S[0] <= pace <= _PACES_M_S[1] else now


def _read(text: str) -> tuple[list[tuple[float, float]], list[datetime]]:
    """Latitudes and longitudes of the path, thinned to what can be kept, and the instants of all its points."""
    try:
        gpx = gpxpy.parse(text)
    except Exception as error:
        # The library raises what its parsers meet: broken XML, a version it does not know, a number that is none.
        raise Refusal("gpx", f"No GPX that can be read: {str(error).splitlines()[0][:200]}") from None
    found = list(gpx.tracks[0].walk(only_points=True)) if gpx.tracks else []
    found = found or (list(gpx.routes[0].points) if gpx.routes else [])
    if not found:
        raise Refusal("gpx", "A track or a route with points is needed.")
    times = [one.time for one in found if one.time is not None]
    for i, (a, b) in enumerate(pairwise(times), 2):
        if (a.tzinfo is None) != (b.tzinfo is None) or b < a:
            raise Refusal("gpx", f"Points in the order of their times; point {i} is earlier than the one before it.")
    # What lies nearer to a straight line than this is left out, until the path can be kept.
    tolerance, segment = _FIRST_TOLERANCE_M, gpxpy.gpx.GPXTrackSegment()
    segment.points = [gpxpy.gpx.GPXTrackPoint(one.latitude, one.longitude) for one in found]
    segment.simplify(tolerance)
    while len(segment.points) > MOST_POINTS:
        tolerance *= 2
        segment.simplify(tolerance)
    if len(segment.points) < 2:
        raise Refusal("gpx", "A path of two points at least.")
    return [(one.latitude, one.longitude) for one in segment.points], times


def _on_table(shot: Shot, points: list[tuple[float, float]]) -> tuple[PathPoint, ...]:
    """Points on the table whose ahead is the shot's heading, the first at its foot; those that are one are one."""
    turned = radians(shot.framing.heading_deg)
    lat0, lon0 = points[0]
    placed: list[PathPoint] = []
    metres = _degree_m(lat0)
    for lat, lon in points:
        north, east = (lat - lat0) * metres.north * 1000, ((lon - lon0 + 180) % 360 - 180) * metres.east * 1000
        x, y = east * cos(turned) - north * sin(turned), north * cos(turned) + east * sin(turned)
        if placed and max(abs(x - placed[-1].x_mm), abs(y - placed[-1].y_mm)) < LEAST_LEG_MM:
            continue
        try:
            placed.append(PathPoint(x_mm=round(x, 1), y_mm=round(y, 1)))
        except ValidationError:
            raise Refusal("gpx", "A path of at most 10 km to any side.") from None
    if len(placed) < 2:
        raise Refusal("gpx", "A path of two different points at least.")
    return tuple(placed)
