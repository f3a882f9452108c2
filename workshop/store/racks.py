"""What lies in the store as cards: each thing drawn, with what it can do. Reads only."""

from datetime import date
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from compass.ground.units import Unit
from compass.words.figures import plain_text
from drawing.tooling import draw_face, draw_knob, draw_plate, draw_thimble
from workshop.models import Instrument, Lathe, PlateKind


def plate_card(kind: PlateKind, unit: Unit) -> dict[str, Any]:
    """Return a kind of plate: its ring, and how many are left."""
    taper = _size(kind.correction_mm, unit)
    title = _("A plate that takes %(taper)s, for %(n)s studs; the mark is its thin side") % {
        "taper": taper,
        "n": kind.studs,
    }
    picture = draw_plate(kind.correction_mm, studs=kind.studs, positions=kind.positions, title=title)
    return {"row": kind, "picture": picture, "name": taper, "left": range(min(kind.stock, 12))}


def lathe_card(lathe: Lathe, unit: Unit) -> dict[str, Any]:
    """Return a lathe: its knob, and what one line of it is."""
    line = _size(lathe.mm_per_line, unit) if lathe.mm_per_line else ""
    title = _("The feed knob: one line is %(line)s") % {"line": line} if line else _("A feed knob without lines")
    return {"row": lathe, "picture": draw_knob(lathe.mm_per_line, line=line, title=title)}


def instrument_card(instrument: Instrument, unit: Unit, today: date) -> dict[str, Any]:
    """Return an instrument: its face, and the days to its next check."""
    native = Unit.MM if instrument.native == Instrument.Native.MM else Unit.INCH
    graduation = _size(instrument.graduation_mm, native)
    if instrument.kind == Instrument.Kind.DIAL:
        picture = draw_face(
            balanced=instrument.face == Instrument.Face.BALANCED,
            divisions=instrument.divisions,
            graduation=graduation,
            title=_("A dial of %(step)s a line") % {"step": graduation},
        )
    else:
        title = _("%(kind)s, reads %(step)s") % {"kind": instrument.get_kind_display(), "step": graduation}
        picture = draw_thimble(graduation, caliper=instrument.kind == Instrument.Kind.CALIPER, title=title)
    due = instrument.is_due(today)
    days = None if instrument.checked_on is None else instrument.check_every_days - (today - instrument.checked_on).days
    if days is None:
        words = _("never checked: hold it against a standard before you believe it")
    elif due:
        words = _("check it against a standard before you believe it: due since %(n)s days") % {"n": -days}
    else:
        words = ngettext("next check in %(n)s day", "next check in %(n)s days", days) % {"n": days}
    return {"row": instrument, "picture": picture, "due": due and not instrument.retired, "check": words}


def _size(mm: float, unit: Unit) -> str:
    shown = plain_text(mm, unit=unit)
    return f"{shown.figure} {shown.unit}"
