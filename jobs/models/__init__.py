"""Rows of this app, one room a subject; import them from here."""

from jobs.models.booking import Booking, TsTzRange
from jobs.models.closed_month import ClosedMonth
from jobs.models.closing import Closing, CornerWorked
from jobs.models.cut import Cut, CutPass
from jobs.models.decision import Decision
from jobs.models.fitted import FittedPlate, RotorFitting
from jobs.models.job import CORNERS, Corner, Job
from jobs.models.listening import DeviceReading, Listening
from jobs.models.readings import EVIDENCE, Look, QuickReading, Sweep, Tape, ThicknessRound
from jobs.models.refitted import Refitted
from jobs.models.run import Run, RunStep

__all__ = [
    "CORNERS",
    "EVIDENCE",
    "Booking",
    "ClosedMonth",
    "Closing",
    "Corner",
    "CornerWorked",
    "Cut",
    "CutPass",
    "Decision",
    "DeviceReading",
    "FittedPlate",
    "Job",
    "Listening",
    "Look",
    "QuickReading",
    "Refitted",
    "RotorFitting",
    "Run",
    "RunStep",
    "Sweep",
    "Tape",
    "ThicknessRound",
    "TsTzRange",
]
