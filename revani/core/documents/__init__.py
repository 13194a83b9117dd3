"""The documents that people own: gear, places and shots.

They are the open JSON formats: a shot carries its kit and its place, so that the file alone
compiles anywhere. All are frozen; an edit makes a new one.
"""

from revani.core.documents.base import FIRST_YEAR, LAST_YEAR, STEPS, Document, Gear, Name, Record, Step
from revani.core.documents.gear import Body, Card, Filter, FocusMark, Lens
from revani.core.documents.kinds import GEAR, RECORDS, AnyGear
from revani.core.documents.kit import Kit, Wire
from revani.core.documents.light import Cloud, Light, LightKey, Pace, Reading, School
from revani.core.documents.mode import Fires, Mode, Projection
from revani.core.documents.moment import (
    AfterStart,
    AltitudeStart,
    ClockStart,
    FilmTime,
    FrameNumber,
    InstantStart,
    Moment,
    RidgeEvent,
    Start,
    SunEventName,
    SunStart,
    TimeOfDay,
)
from revani.core.documents.move import MOST_THINGS, AimLock, Ease, Move, MoveKey, Position, Thing
from revani.core.documents.mover import AXES, AXIS_MEASURES, Axis, AxisName, Mover, driven_measure
from revani.core.documents.output import CropKey, FilmOutput, Section, SphereKey
from revani.core.documents.place import HorizonPoint, Place, WeatherHour, Window
from revani.core.documents.rigging import SmallPart, Support
from revani.core.documents.said import said
from revani.core.documents.sequence import Cut, ShotSequence
from revani.core.documents.shot import Framing, Shot
from revani.core.documents.supply import Load, Source
from revani.core.documents.take import Take
from revani.core.documents.trigger import Waiting
from revani.core.documents.walk import PathPoint, Walk

__all__ = [
    "AXES",
    "AXIS_MEASURES",
    "FIRST_YEAR",
    "GEAR",
    "LAST_YEAR",
    "MOST_THINGS",
    "RECORDS",
    "STEPS",
    "AfterStart",
    "AimLock",
    "AltitudeStart",
    "AnyGear",
    "Axis",
    "AxisName",
    "Body",
    "Card",
    "ClockStart",
    "Cloud",
    "CropKey",
    "Cut",
    "Document",
    "Ease",
    "FilmOutput",
    "FilmTime",
    "Filter",
    "Fires",
    "FocusMark",
    "FrameNumber",
    "Framing",
    "Gear",
    "HorizonPoint",
    "InstantStart",
    "Kit",
    "Lens",
    "Light",
    "LightKey",
    "Load",
    "Mode",
    "Moment",
    "Move",
    "MoveKey",
    "Mover",
    "Name",
    "Pace",
    "PathPoint",
    "Place",
    "Position",
    "Projection",
    "Reading",
    "Record",
    "RidgeEvent",
    "School",
    "Section",
    "Shot",
    "ShotSequence",
    "SmallPart",
    "Source",
    "SphereKey",
    "Start",
    "Step",
    "SunEventName",
    "SunStart",
    "Support",
    "Take",
    "Thing",
    "TimeOfDay",
    "Waiting",
    "Walk",
    "WeatherHour",
    "Window",
    "Wire",
    "driven_measure",
    "said",
]  # fmt: skip
