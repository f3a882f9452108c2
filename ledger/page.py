"""What the ledger's pages show: tables, pictures, words. Aggregates in, words out."""

from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from django.utils.formats import date_format
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.ground.units import Unit
from compass.learn.came_true import Held, held, share_of
from compass.words.codes import CAUSES, REMEDIES
from compass.words.figures import odds_text, plain_text
from drawing.holding import HoldingLine, draw_holding
from drawing.shares import ShareRow, draw_shares
from jobs.words import AXLE_NAMES, about, money_text
from ledger.facts import BIN_KM, comeback_tenths, followed, grouped, hub_shares, jobs_closed, tenths, whole
from ledger.forms import GROUPS, LedgerForm
from workshop.adapters import shop_of_workshop
from workshop.models import Lathe, PlateKind, User
from workshop.words import distance_text

PAGES: Final = (
    ("overview", gettext_lazy("Found and done")),
    ("comebacks", gettext_lazy("Comebacks")),
    ("odds", gettext_lazy("Odds that came")),
    ("hubs", gettext_lazy("Hub or rotor")),
    ("lathes", gettext_lazy("Lathes")),
    ("learning", gettext_lazy("Learning")),
)
_NAME: Final = 30  # characters
_OVER_KM: Final = 20_000.0
_MARKS_KM: Final = (5_000.0, 10_000.0, 15_000.0, 20_000.0)
_CURVES: Final = 4
_FEWEST: Final = 5  # followed, to draw a curve of a remedy


@dataclass(frozen=True)
class Ranged:
    """A figure with the range that holds it, small below it on the page and in brackets in a file."""

    figure: str
    low: str
    high: str

    def __str__(self) -> str:
        """Write it in one line."""
        return f"{self.figure} ({self.low} – {self.high})"


Cell = str | Ranged


@dataclass(frozen=True)
class Table:
    """A table as it is shown and handed out: heads, and rows of cells; the first of a row names it."""

    heads: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]


def overview(user: User, form: LedgerForm) -> dict[str, Any]:
    """Return what was found, done, foretold and came true, by the group that is asked for."""
    counts, unit = form.counts(), user.unit
    rows = grouped(counts, form.group)
    total = whole(counts)
    shop = shop_of_workshop(user)
    names = _names(user, form.group)

    def say(mm: float | None) -> str:
        return "–" if mm is None else about(mm, unit, expanded_mm=0.002).figure

    heads = (
        dict(GROUPS)[form.group],
        _("jobs"),
        _("corners"),
        _("runout before, %(unit)s") % {"unit": unit.value},
        _("after, %(unit)s") % {"unit": unit.value},
        _("within"),
        _("as foretold"),
        _("came back"),
        _("minutes said / taken"),
        _("spent"),
    )
    table = Table(
        tuple(str(head) for head in heads),
        tuple(
            (
                _key(form.group, row["key"], names, unit),
                str(row["jobs"]),
                str(row["corners"]),
                say(row["before_mm"]),
                say(row["after_mm"]),
                of_all(row["within_n"], row["measured"]),
                of_all(row["inside"] + row["better"], row["inside"] + row["better"] + row["worse"]),
                of_all(row["back"], row["jobs"]),
                f"{row['minutes_said_avg']:.0f} / " + _whole(row["minutes_taken_avg"]),
                money_text(row["spent"] or 0, shop.currency),
            )
            for row in rows
        ),
    )
    drawn = [
        _share_row(_key(form.group, row["key"], names, unit), row["within_n"], row["measured"]) for row in rows[:12]
    ]
    return {
        "table": table,
        "picture": draw_shares(drawn, title=_("Corners within their limit after the work")),
        "caption": _("Corners within their limit after the work. Bar: where the true share lies, 9 times in 10."),
        "figures": _head_figures(user, total, shop.price_of("rotor"), shop.currency),
    }


def _head_figures(user: User, total: dict[str, Any], rotor: float, currency: str) -> list[dict[str, str]]:
    closed = jobs_closed(user)
    back = share_of(total["back"], total["jobs"])
    return [
        {
            "name": _("jobs closed"),
            "amount": str(closed["closed"]),
            "beside": _("%(n)s proven") % {"n": closed["proven_n"]},
        },
        {
            "name": _("corners worked on"),
            "amount": str(total["corners"]),
            "beside": _("%(n)s within after") % {"n": total["within_n"]},
        },
        {
            "name": _("came back"),
            "amount": str(back.hits),
            "beside": _("of %(of)s; true share %(low)s to %(high)s")
            % {"of": back.of, "low": odds_text(back.low), "high": odds_text(back.high)}
            if back.of
            else _("of none yet"),
        },
        {
            "name": _("new rotors spared"),
            "amount": str(total["spared_n"]),
            "beside": _("proven without; habit fits new ones: %(money)s")
            % {"money": money_text(total["spared_n"] * rotor, currency)},
        },
        {
            "name": _("needless"),
            "amount": str(total["needless_n"]),
            "beside": _("metal or parts, and it was no fault of a disc"),
        },
    ]


def comebacks(user: User, form: LedgerForm) -> dict[str, Any]:
    """Return how long works hold, over all and by remedy."""
    unit = user.unit
    bins = followed(form.counts(), form.works())
    all_of = _held(bins)
    by_remedy: dict[str, list[dict[str, Any]]] = {}
    for row in bins:
        by_remedy.setdefault(row["remedy"], []).append(row)
    largest = sorted(by_remedy.items(), key=lambda item: -sum(row["n"] for row in item[1]))
    curves = [(str(_(REMEDIES[code])), _held(rows), rows) for code, rows in largest if code in REMEDIES]
    lines = []
    if all_of is not None:
        lines.append(HoldingLine(_("all"), all_of.km, all_of.share, all_of.low, all_of.high, 0))
    drawn = [(name, told) for name, told, _rows in curves if told is not None and told.followed >= _FEWEST]
    lines += [
        HoldingLine(_short(name, most=18), h.km, h.share, None, None, k)
        for k, (name, h) in enumerate(drawn[: _CURVES - 1], 1)
    ]
    marks = [(km, distance_text(km, unit)) for km in _MARKS_KM]
    lowest = min((float(line.share.min()) for line in lines), default=1.0)
    table_rows = [_holding_row(name, told, raw) for name, told, raw in [(str(_("all")), all_of, bins), *curves]]
    return {
        "table": Table(
            (
                _("work"),
                _("jobs followed"),
                _("came back"),
                *(_("not back at %(km)s") % {"km": words} for _km, words in marks),
            ),
            tuple(table_rows),
        ),
        "picture": draw_holding(
            lines,
            over_km=_OVER_KM,
            marks=marks,
            least=0.0 if lowest < 0.5 else 0.5,
            title=_("The share of works not back, over the distance"),
        )
        if lines
        else "",
        "caption": _(
            "Share of jobs not back over the distance since (Kaplan–Meier: the ones not yet back count as far as they "
            "have gone). The band holds the true share 9 times in 10."
        ),
        "empty": _("No comeback is on record: nothing to draw yet. Each visit that is said to be one appears here."),
    }


def _held(rows: list[dict[str, Any]]) -> Held | None:
    """Return how long works hold from binned counts: each at the middle of its bin."""
    back, gone = [], []
    for row in rows:
        (back if row["is_back"] else gone).extend([(row["gone"] + 0.5) * BIN_KM] * row["n"])
    return held(back, gone)


def _holding_row(name: str, told: Held | None, rows: list[dict[str, Any]]) -> tuple[Cell, ...]:
    gone = [(row["gone"] * BIN_KM, row["n"]) for row in rows]
    followed_to = [sum(n for km, n in gone if km >= mark) for mark in _MARKS_KM]
    at = tuple(_held_at(told, mark, n) for mark, n in zip(_MARKS_KM, followed_to, strict=True))
    return (name, str(sum(n for _km, n in gone)), str(told.back if told is not None else 0), *at)


def _held_at(told: Held | None, km: float, followed: int) -> Cell:
    """Say how many are not back at a distance; a dash where nobody was followed so far: a curve says nothing there."""
    if not followed:
        return "–"
    k = int(np.searchsorted(told.km, km, side="right")) - 1 if told is not None else -1
    if told is None or k < 0 or told.share[k] == 1.0:
        return _("all %(n)s") % {"n": followed}
    low, high = odds_text(float(told.low[k])), odds_text(float(told.high[k]))
    return Ranged(odds_text(float(told.share[k])), low, high)


def odds(user: User, form: LedgerForm) -> dict[str, Any]:
    """Return our odds held against what came, by tenths: of running within, and of coming back."""
    works = form.works()
    within = tenths(form.counts())
    warranty_km = shop_of_workshop(user).warranty_km
    back = comeback_tenths(works, warranty_km=warranty_km)
    drawn = [_share_row(_tenth(row), row["came_n"], row["n"], said=row["said"]) for row in within]
    table = [(_("within its limit"), row) for row in within] + [(_("comes back"), row) for row in back]
    return {
        "table": Table(
            (_("said of"), _("odds said"), _("said on average"), _("cases"), _("came"), _("true share, 9 times in 10")),
            tuple(_tenth_row(what, row) for what, row in table),
        ),
        "picture": draw_shares(drawn, title=_("Odds of running within, said and come")),
        "caption": _(
            "Each row: corners for which these odds of running within were said. Bar and line: how often it came; "
            "brass: what was said. Comebacks are of vehicles that have gone %(km)s since."
        )
        % {"km": distance_text(warranty_km, user.unit)},
        "empty": _("Nothing was foretold and measured yet."),
    }


def _tenth(row: dict[str, Any]) -> str:
    return _("%(low)s – %(high)s in 20") % {"low": (row["tenth"] - 1) * 2, "high": row["tenth"] * 2}


def _tenth_row(what: str, row: dict[str, Any]) -> tuple[str, ...]:
    came = share_of(row["came_n"], row["n"])
    return (
        what,
        _tenth(row),
        odds_text(row["said"]),
        str(row["n"]),
        str(row["came_n"]),
        f"{odds_text(came.low)} – {odds_text(came.high)}",
    )


def hubs(user: User, form: LedgerForm) -> dict[str, Any]:
    """Return the hub's share of the runout by model."""
    rows, unit = hub_shares(form.counts()), user.unit

    def say(mm: float | None) -> str:
        return "–" if mm is None else f"{about(mm, unit, expanded_mm=0.002).figure} {about(mm, unit).unit}"

    drawn = [
        ShareRow(_short(row["key"] or _("not named")), row["share"], row["share"], row["share"], f"{row['n']}")
        for row in rows[:12]
    ]
    return {
        "table": Table(
            (
                _("model"),
                _("corners told apart"),
                _("hub"),
                _("rotor"),
                _("hub’s share"),
                _("mostly hub"),
                _("mostly rotor"),
            ),
            tuple(
                (
                    row["key"] or _("not named"),
                    str(row["n"]),
                    say(row["hub"]),
                    say(row["rotor"]),
                    odds_text(row["share"]) if 0.05 < row["share"] < 0.95 else f"{row['share']:.0%}",
                    of_all(row["mostly_hub"], row["n"]),
                    of_all(row["mostly_rotor"], row["n"]),
                )
                for row in rows
            ),
        ),
        "picture": draw_shares(drawn, title=_("The hub’s share of the runout, by model")),
        "caption": _("The hub’s share of the runout where hub and rotor were told apart, on average; right: corners."),
        "empty": _("No corner with trouble was told apart yet: turn the rotor and sweep again, or sweep the bare hub."),
    }


def _names(user: User, group: str) -> dict[int, Any]:
    """Return what rows are called whose number is the key."""
    match group:
        case "person":
            return {one.pk: str(one) for one in User.of(user)}
        case "lathe":
            return dict(Lathe.of(user).values_list("pk", "name"))
        case "plate":
            return dict(PlateKind.of(user).values_list("pk", "correction_mm"))
        case _:
            return {}


def _key(group: str, key: Any, names: dict[int, Any], unit: Unit) -> str:
    match group:
        case "cause":
            return str(_(CAUSES[key])) if key in CAUSES else _("not known")
        case "remedy":
            return str(_(REMEDIES[key])) if key in REMEDIES else str(key)
        case "axle":
            return str(AXLE_NAMES.get(key, key))
        case "person" | "lathe":
            return names.get(key, "–")
        case "plate":
            shown = plain_text(names[key], unit=unit)
            return f"{shown.figure} {shown.unit}"
        case "month":
            return date_format(key, "MONTH") if key is not None else "–"
        case _:
            return str(key or _("not named"))


def of_all(hits: int, of: int) -> str:
    """Say how many of how many."""
    return _("%(n)s of %(of)s") % {"n": hits, "of": of} if of else "–"


def _whole(number: float | None) -> str:
    return "–" if number is None else f"{number:.0f}"


def _short(name: str, *, most: int = _NAME) -> str:
    """Return a name that fits before its bar or beside its curve: to its comma, else to a whole word."""
    name = name.partition(",")[0]
    return name if len(name) <= most else name[: most - 1].rsplit(" ", 1)[0] + " …"


def _share_row(name: str, hits: int, of: int, *, said: float | None = None) -> ShareRow:
    share = share_of(hits, of)
    return ShareRow(_short(name), share.share, share.low, share.high, f"{hits}/{of}", said)
