"""Form fields for what people type as numbers: they read it as typed, keep it as typed, clean to the core's units."""

from typing import Any, Final

from django import forms
from django.core.exceptions import ValidationError
from django.db import models
from django.utils.text import capfirst
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _lazy

from compass.ground.errors import UnreadableNumberError
from compass.ground.translation import tongue, written
from compass.ground.units import KM_PER_MILE, NM_PER_LBFT, Unit, parse_length, parse_number
from compass.words.figures import plain_figure, plain_text
from workshop.words import plain_number, unreadable

MAX_BYTES: Final = 20_000_000  # of a file somebody sends


class LengthField(forms.CharField):
    """A length in the person's own unit, with the magnitude it may have in mm.

    ``large`` fields (thicknesses, radii) are in inches where small ones are in thou.
    """

    def __init__(self, *, least_mm: float = 0.0, most_mm: float = 1000.0, large: bool = False, **options: Any) -> None:
        super().__init__(max_length=40, **options)
        self.least_mm = least_mm
        self.most_mm = most_mm
        self.large = large
        self.unit = Unit.MM
        self.widget.attrs |= {"inputmode": "decimal", "autocomplete": "off"}

    def speak(self, unit: Unit) -> None:
        """Take the person's unit, and name it in the label."""
        self.unit = Unit.INCH if self.large and unit is not Unit.MM else unit
        self.widget.attrs["data-unit"] = self.unit.value  # a draft typed in another unit keeps its own
        self.label = f"{self.label} ({self.unit.value})"

    def clean(self, value: str | None) -> float | None:  # type: ignore[override]
        """Return millimetres, or None where the field is optional and empty."""
        text = super().clean(value)
        if not text:
            return None
        try:
            typed = parse_length(text, unit=self.unit, most_mm=self.most_mm, signed=False)
        except UnreadableNumberError as error:
            raise ValidationError(unreadable(error), code=error.code) from error
        if typed.mm <= self.least_mm:
            raise ValidationError(
                _("Must be more than %(least)s mm.") % {"least": plain_text(self.least_mm).figure}, code="too_small"
            )
        return typed.mm

    def prepare_value(self, value: Any) -> Any:
        """Show stored millimetres in the person's unit; leave what was just typed alone."""
        return plain_figure(value, self.unit) if isinstance(value, (int, float)) else value


class SmallFileField(forms.FileField):
    """A file that is refused by its size before it is read into memory."""

    def __init__(self, *, most_bytes: int, **options: Any) -> None:
        super().__init__(**options)
        self.most_bytes = most_bytes

    def clean(self, data: Any, initial: Any = None) -> Any:
        """Refuse what is too large."""
        upload = super().clean(data, initial)
        if upload is not None and upload.size > self.most_bytes:
            most = self.most_bytes // 1_000_000
            raise ValidationError(_("Over %(most)s MB. Send a smaller file.") % {"most": most}, code="too_large")
        return upload


class NumberField(forms.CharField):
    """A number that is no length, in a unit: one parser for all of them, comma and point alike.

    ``imperial`` is (its name, how many of ``unit`` it is) where the person reads in thou; cleans to ``unit`` always.
    ``least`` and ``most`` are in ``unit``; a ``whole`` number cleans to an int.
    """

    def __init__(
        self,
        *,
        least: float = 0.0,
        most: float = 1e9,
        whole: bool = False,
        unit: str = "",
        imperial: tuple[str, float] | None = None,
        **options: Any,
    ) -> None:
        super().__init__(max_length=40, **options)
        self.least, self.most, self.whole = least, most, whole
        self.unit = self.base = unit
        self.imperial = imperial
        self.per_unit = 1.0
        self.widget.attrs |= {"inputmode": "numeric" if whole and least >= 0 else "decimal", "autocomplete": "off"}

    def speak(self, unit: Unit) -> None:
        """Take the person's system, and name the unit in the label."""
        if self.imperial is not None and unit is not Unit.MM:
            self.unit, self.per_unit = self.imperial
        if self.unit:
            self.widget.attrs["data-unit"] = self.unit
            self.label = f"{self.label} ({self.unit})"

    def clean(self, value: str | None) -> float | None:  # type: ignore[override]
        """Return the number, or None where the field is optional and empty; a refusal says what was understood."""
        text = super().clean(value)
        if not text:
            return None
        try:
            number = parse_number(
                text,
                scale=self.per_unit,
                scales=self._scales(),
                whole=self.whole,
                decimal_sign=tongue().decimal_sign,
            )
        except UnreadableNumberError as error:
            raise ValidationError(unreadable(error), code=error.code) from error
        # What is shown rounded in another system is still in range.
        slack = 0.51 * self.per_unit if self.per_unit != 1.0 else 0.0
        if not self.least - slack <= number <= self.most + slack:
            named = {"text": text, "least": self._shown(self.least), "most": self._shown(self.most)}
            named["read"] = f"{self._shown(number)} {self.unit}".strip()
            words = _("“%(text)s” was read as %(read)s; from %(least)s to %(most)s is possible.")
            raise ValidationError(words % named, code="out_of_range")
        if not self.whole:
            return number
        if self.per_unit == 1.0 and number != round(number):
            words = _("“%(text)s” was read as %(read)s; this is counted in whole ones.")
            raise ValidationError(words % {"text": text, "read": plain_number(number)}, code="not_whole")
        return round(number)

    def _scales(self) -> dict[str, float]:
        """Return every unit that may stand behind the number, and how many of the core's it is."""
        scales = {self.unit: self.per_unit, self.base: 1.0}
        scales |= dict([self.imperial]) if self.imperial is not None else {}
        plain = {name.replace("·", ""): scale for name, scale in scales.items()}
        return {name.lower(): scale for name, scale in (scales | plain).items() if name}

    def _shown(self, number: float) -> str:
        return plain_number(round(number / self.per_unit, 0 if self.whole else 4))

    def prepare_value(self, value: Any) -> Any:
        """Show a stored number in the person's unit; leave what was just typed alone."""
        return self._shown(value) if isinstance(value, (int, float)) and not isinstance(value, bool) else value


def distance_field(**options: Any) -> NumberField:
    """Return a field for a distance: km, or miles where lengths are in thou; cleans to whole km."""
    return NumberField(**{"unit": "km", "imperial": ("mi", KM_PER_MILE), "whole": True, "most": 9_999_999} | options)


def speed_field(**options: Any) -> NumberField:
    """Return a field for a speed: km/h, or mph where lengths are in thou; cleans to km/h."""
    return NumberField(**{"unit": "km/h", "imperial": ("mph", KM_PER_MILE), "most": 300} | options)


def torque_field(**options: Any) -> NumberField:
    """Return a field for a torque: N·m, or lb·ft where lengths are in thou; cleans to N·m."""
    return NumberField(**{"unit": "N·m", "imperial": ("lb·ft", NM_PER_LBFT), "least": 1, "most": 2000} | options)


def number_formfield(column: Any, **options: Any) -> Any:
    """Return the form field of a model's column: numbers get ours (``Meta.formfield_callback``)."""
    if not isinstance(column, (models.IntegerField, models.FloatField)) or column.choices:
        return column.formfield(**options)
    signed = not isinstance(column, (models.PositiveIntegerField, models.PositiveSmallIntegerField, models.FloatField))
    return NumberField(
        label=capfirst(column.verbose_name),
        help_text=column.help_text,
        required=not column.blank,
        initial=column.default if column.has_default() else None,
        whole=isinstance(column, models.IntegerField),
        least=-1e9 if signed else 0,
    )


class ChanceField(NumberField):
    """A chance typed in percent, kept as a share."""

    def __init__(self, **options: Any) -> None:
        super().__init__(least=0.5, most=50, **options)

    def clean(self, value: str | None) -> float | None:  # type: ignore[override]
        """Return the share, or None where the field is empty."""
        percent = super().clean(value)
        return None if percent is None else percent / 100

    def prepare_value(self, value: Any) -> Any:
        """Show a stored share in percent; leave what was just typed alone."""
        return written(f"{value * 100:g}") if isinstance(value, float) else value


def speak_all(form: forms.BaseForm, unit: Unit) -> None:
    """Let every field of a form take the person's unit."""
    for field in form.fields.values():
        if isinstance(field, (LengthField, NumberField)):
            field.speak(unit)


class InOwnUnit:
    """A form whose figures are typed and shown in its reader's unit."""

    def __init__(self, *args: Any, unit: Unit, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        speak_all(self, unit)  # type: ignore[arg-type]


def keep_untouched(form: forms.BaseForm, data: dict[str, Any]) -> None:
    """Leave a stored figure that is shown rounded, and was left alone, as it is stored."""
    for name, field in form.fields.items():
        stored = form.initial.get(name)
        if isinstance(field, (LengthField, NumberField)) and stored is not None and name in data:
            untouched = form.data.get(form.add_prefix(name)) == field.prepare_value(stored)
            data[name] = stored if untouched else data[name]


class SeatsField(forms.TypedChoiceField):
    """How a rotor goes on its hub: on every stud (None), or only at the indices that a screw or pin allows."""

    CHOICES = (
        ("", _lazy("on every stud")),
        ("0", _lazy("one way only: screw or pin")),
        ("0,180", _lazy("two ways, half a turn apart")),
    )

    def __init__(self, **options: Any) -> None:
        super().__init__(choices=self.CHOICES, coerce=self._angles, empty_value=None, required=False, **options)

    @staticmethod
    def _angles(text: str) -> list[float]:
        return [float(part) for part in text.split(",")]

    def prepare_value(self, value: Any) -> Any:
        """Show stored indices as the choice they are; those of a file get a choice of their own."""
        if not isinstance(value, (list, tuple)):
            return value
        text = ",".join(f"{angle:g}" for angle in value)
        if text not in dict(self.CHOICES):
            self.choices = [*self.CHOICES, (text, text + "°")]
        return text

    def valid_value(self, value: str) -> bool:
        """Take any list of angles, so that a file's own indices survive the form."""
        try:
            return all(0 <= angle < 360 for angle in self._angles(value))
        except ValueError:
            return False
