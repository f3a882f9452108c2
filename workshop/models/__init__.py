"""Rows of this app, one room a subject; import them from here."""

from workshop.models.checks import InstrumentCheck, RepeatabilityStudy, TipTurned, TorqueWrench
from workshop.models.devices import DeviceKey
from workshop.models.instruments import Instrument
from workshop.models.learned import Learned
from workshop.models.limits import LIMIT_FIGURES, TORQUES, AxleLimits, LibraryLimits, LimitFigures, limit_label
from workshop.models.long_work import LongWork
from workshop.models.people import User
from workshop.models.sent import Sent
from workshop.models.tooling import MINUTE_FIELDS, PRICE_FIELDS, Lathe, PlateKind, ShopFigures
from workshop.models.vehicles import POSITION_NAMES, SHAPES, Vehicle
from workshop.models.workshops import Membership, Workshop

__all__ = [
    "LIMIT_FIGURES",
    "MINUTE_FIELDS",
    "POSITION_NAMES",
    "PRICE_FIELDS",
    "SHAPES",
    "TORQUES",
    "AxleLimits",
    "DeviceKey",
    "Instrument",
    "InstrumentCheck",
    "Lathe",
    "Learned",
    "LibraryLimits",
    "LimitFigures",
    "LongWork",
    "Membership",
    "PlateKind",
    "RepeatabilityStudy",
    "Sent",
    "ShopFigures",
    "TipTurned",
    "TorqueWrench",
    "User",
    "Vehicle",
    "Workshop",
    "limit_label",
]
