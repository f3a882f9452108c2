"""The limits library as files: CSV and JSON, out and in. An import is read whole before a row of it is written."""

import csv
import io
import json
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from itertools import islice
from typing import Any, Final

from django import forms
from django.db import models
from django.utils.translation import gettext as _

from compass.files.strict_json import is_storable, load_json
from compass.ground.errors import FaultyFileError
from compass.ground.units import MM_PER_INCH
from workshop.models import LIMIT_FIGURES, TORQUES, LibraryLimits
from workshop.models.limits import MOST_STUDS
from workshop.storable import cell, uncell
from workshop.store.limits_forms import hold_together
from workshop.store.usual import unusual

FORMAT: Final = "iron-compass-limits/1"
MAX_BYTES: Final = 2_000_000
MAX_ROWS: Final = 2000
MOST_BAD: Final = 100  # named at once
AXLES: Final = ("F", "R", "A1", "A2", "A3")
FEATURES: Final = ("slotted", "drilled", "drum_in_hat", "floating", "captive", "metal_matrix", "carbon")
COLUMNS: Final = ("model", "axle", *LIMIT_FIGURES)
_LISTS: Final = ("features", "index_positions")


@dataclass(frozen=True)
class Bad:
    """One thing wrong with a file: row (None: the whole file), column, what and what to do."""

    row: int | None
    column: str
    message: str

    def __str__(self) -> str:
        row = _("row %(n)s") % {"n": self.row} if self.row is not None else ""
        where = " ".join(filter(None, (row, self.column)))
        return f"{where}: {self.message}" if where else self.message


@dataclass(frozen=True)
class Read:
    """A file read without writing anything: its rows, all that is wrong with them, and what hardly any disc has."""

    rows: list[dict[str, Any]]
    bad: list[Bad]
    unusual: list[Bad] = field(default_factory=list)


def _bounded(column: Any, **options: Any) -> forms.Field | None:
    """Return the form field of a column; what is measured is bounded by what any disc, bolt or wheel can have."""
    if isinstance(column, models.FloatField):
        options["max_value"] = 10_000.0 if column.name in TORQUES.values() else 1000.0
    elif column.name == "studs":
        options["max_value"] = MOST_STUDS
    field: forms.Field | None = column.formfield(**options)
    return field


class RowForm(forms.Form):
    """One row of the library after another: fields are made once a file. Lists are words separated by spaces."""

    def __init__(self) -> None:
        super().__init__()
        self.fields |= forms.fields_for_model(LibraryLimits, fields=COLUMNS, formfield_callback=_bounded)
        self.fields |= {
            "axle": forms.ChoiceField(choices=[(axle, axle) for axle in AXLES]),
            "features": forms.CharField(required=False, max_length=200),
            "index_positions": forms.CharField(required=False, max_length=200),
        }
        for column in self.fields.values():
            if isinstance(column, forms.ChoiceField):
                known = ", ".join(str(code) for code, _label in column.choices if code)
                column.error_messages["invalid_choice"] = _("One of %(known)s.") % {"known": known}

    def read(self, data: dict[str, str]) -> None:
        """Take the next row."""
        self.data, self.is_bound = data, True
        self.full_clean()

    def clean_features(self) -> list[str]:
        """Take closed words only."""
        words = self.cleaned_data["features"].split()
        unknown = [word for word in words if word not in FEATURES]
        if unknown:
            raise forms.ValidationError(
                _("“%(word)s” is not known; known: %(known)s.") % {"word": unknown[0], "known": ", ".join(FEATURES)}
            )
        return words

    def clean_index_positions(self) -> list[float] | None:
        """Take degrees."""
        try:
            angles = [float(word) for word in self.cleaned_data["index_positions"].split()]
        except ValueError as error:
            raise forms.ValidationError(_("Degrees, separated by spaces.")) from error
        if not all(0 <= angle < 360 for angle in angles):
            raise forms.ValidationError(_("Degrees from 0 to under 360."))
        return angles or None

    def clean(self) -> dict[str, Any]:
        """Hold the figures against each other, and every one against zero."""
        data = super().clean() or {}
        for name, value in list(data.items()):
            if isinstance(value, (int, float)) and value <= 0:
                self.add_error(name, _("Must be more than 0."))
        hold_together(self, data)
        return data


_LONGEST: Final = 300  # characters of a cell that are read; no cell of ours has as many
_MOST_COLUMNS: Final = 200
_NOTED: Final = 100  # rows between two words of how far it is
_LINE: Final = "#"  # where a row of a table stands in its file


def write_csv(rows: Iterable[LibraryLimits]) -> str:
    """Return the library as CSV, lengths in mm."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    writer.writerows({name: cell(text) for name, text in _as_text(row).items()} for row in rows)
    return out.getvalue()


def write_json(rows: Iterable[LibraryLimits]) -> str:
    """Return the library as JSON, lengths in mm."""
    limits = [{name: getattr(row, name) for name in COLUMNS} for row in rows]
    return json.dumps({"format": FORMAT, "limits": limits}, indent=1, ensure_ascii=False)


def read_file(raw: bytes, *, note: Callable[[int, int], None] | None = None) -> Read:
    """Read CSV or JSON, whichever it is, and name every bad row and column. ``note(done, of)`` is told now and then."""
    if len(raw) > MAX_BYTES:
        return Read([], [Bad(None, "", _("The file is over 2 MB. Send it in parts."))])
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        return Read([], [Bad(None, "", _("Not UTF-8 text (byte %(n)s). Save it as UTF-8.") % {"n": error.start + 1})])
    if not is_storable(text):
        return Read([], [Bad(None, "", _("There is a null byte in it: no text. Save it as UTF-8."))])
    is_json = text.lstrip().startswith(("{", "["))
    records, bad = _json_records(text) if is_json else _csv_records(text)
    if bad:
        return Read([], bad)
    rows = []
    form = RowForm()
    seen: dict[tuple[str, str], int] = {}
    asked: list[Bad] = []
    for place, record in enumerate(records, start=1):
        if note is not None and place % _NOTED == 1:
            note(place - 1, len(records))
        number = place if is_json else record.pop(_LINE)  # a table's rows are counted as the file's lines
        if len(bad) >= MOST_BAD:
            bad.append(Bad(None, "", _("And so on: nothing after row %(n)s was read.") % {"n": bad[-1].row}))
            break
        row, wrong = _read_row(form, number, record)
        bad += wrong
        if row is None:
            continue
        key = (row["model"].casefold(), row["axle"])
        if key in seen:
            bad.append(Bad(number, "model", _("Stands in row %(n)s already.") % {"n": seen[key]}))
        seen.setdefault(key, number)
        rows.append(row)
        asked += [Bad(number, name, why) for name, why in unusual(row).items()]
    if not records:
        bad.append(Bad(None, "", _("No rows in this file.")))
    return Read(rows, bad, asked[:MOST_BAD])


def _as_text(row: LibraryLimits) -> dict[str, Any]:
    record = {name: getattr(row, name) for name in COLUMNS}
    return record | {name: " ".join(str(item) for item in record[name] or []) for name in _LISTS}


def _csv_records(text: str) -> tuple[list[dict[str, Any]], list[Bad]]:
    dialect = csv.excel
    first = text.partition("\n")[0]
    if first.count(";") > first.count(","):
        dialect = type("Semicolons", (csv.excel,), {"delimiter": ";"})
    reader = csv.DictReader(io.StringIO(text), dialect=dialect, restkey="…", strict=True)
    try:
        if "model" not in (reader.fieldnames or []):
            words = _("The first line must name the columns: %(names)s and so on.")
            return [], [Bad(1, "", words % {"names": ", ".join(COLUMNS[:4])})]
        if len(reader.fieldnames or []) > _MOST_COLUMNS:
            return [], [Bad(1, "", _("More than %(n)s columns.") % {"n": _MOST_COLUMNS})]
        records = [{**record, _LINE: reader.line_num} for record in islice(reader, MAX_ROWS + 1)]
    except csv.Error:
        words = _("Not a CSV table: it cannot be read after line %(n)s.")
        return [], [Bad(None, "", words % {"n": reader.line_num})]
    if len(records) > MAX_ROWS:
        return [], [_too_many_rows()]
    return records, _unknown_columns(reader.fieldnames or [])


def _json_records(text: str) -> tuple[list[dict[str, Any]], list[Bad]]:
    try:
        data = load_json(text)
    except FaultyFileError as error:
        return [], [Bad(None, "", _("Expected %(why)s.") % {"why": error})]
    records = data.get("limits") if isinstance(data, dict) and data.get("format") == FORMAT else None
    if not isinstance(records, list) or not all(isinstance(record, dict) for record in records):
        return [], [Bad(None, "", _("Expected format “%(f)s” with a list “limits”.") % {"f": FORMAT})]
    if len(records) > MAX_ROWS:
        return [], [_too_many_rows()]
    bad = [bad for n, record in enumerate(records, start=1) for bad in _unknown_columns(list(record), row=n)][:MOST_BAD]
    for record in records:
        for name in _LISTS:
            if isinstance(record.get(name), list):
                record[name] = " ".join(map(str, record[name]))
    return records, bad


def _too_many_rows() -> Bad:
    return Bad(None, "", _("More than %(n)s rows. Send them in parts.") % {"n": MAX_ROWS})


def _unknown_columns(names: Iterable[str], *, row: int | None = None) -> list[Bad]:
    columns = {*COLUMNS, *(name[:-3] + "_in" for name in COLUMNS if name.endswith("_mm"))}
    return [Bad(row, str(name), _("Unknown column.")) for name in names if name not in columns]


def _read_row(form: RowForm, number: int, record: dict[str, Any]) -> tuple[dict[str, Any] | None, list[Bad]]:
    """Read one row; a length may stand in inches under the same name with ``_in``."""
    bad = []
    if "…" in record:
        bad.append(Bad(number, "", _("More cells than columns.")))
    data = {name: uncell(str(value).strip()[:_LONGEST]) for name, value in record.items() if value is not None}
    for name in [name for name in data if name.endswith("_in") and data[name]]:
        try:
            data[name[:-3] + "_mm"] = str(float(data[name].replace(",", ".")) * MM_PER_INCH)
        except ValueError:
            bad.append(Bad(number, name, _("Enter a number.")))
    for name in data:
        if name.endswith(("_mm", "_nm")):
            data[name] = data[name].replace(",", ".")
    data.setdefault("rotor", LibraryLimits.Rotor.VENTED)
    data.setdefault("source", LibraryLimits.Source.WORKSHOP)
    form.read(data)
    for name, errors in form.errors.items():
        bad += [Bad(number, "" if name == "__all__" else name, str(message)) for message in errors]
    if bad:
        return None, bad
    return {name: form.cleaned_data[name] for name in COLUMNS}, []
