"""A form field for lengths: reads what people type, keeps what they typed, cleans to millimetres."""

from typing import Any, Final

from django import forms
from django.core.exceptions import ValidationError
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _lazy

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import NM_PER_LBFT, Unit, parse_length
from compass.words.figures import plain_figure, plain_text
from workshop.words import unreadable

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


class NumberField(forms.FloatField):
    """A plain number of at least 0: money, minutes, kilometres. Comma and point both mean the decimal sign."""

    def __init__(self, **options: Any) -> None:
        super().__init__(min_value=0, **options)
        self.widget = forms.TextInput({"inputmode": "decimal", "autocomplete": "off"})

    def to_python(self, value: Any) -> Any:
        """Take a comma for the decimal sign too."""
        return super().to_python(value.replace(",", ".") if isinstance(value, str) else value)

    def prepare_value(self, value: Any) -> Any:
        """Show stored figures without idle decimals; leave what was just typed alone."""
        return f"{value:.10g}" if isinstance(value, (int, float)) else value


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


class TorqueField(forms.FloatField):
    """A torque: N·m, or lb·ft where lengths are in thou; cleans to N·m."""

    def __init__(self, **options: Any) -> None:
        super().__init__(min_value=1, max_value=2000, **options)
        self.per_nm = 1.0
        self.widget = forms.TextInput({"inputmode": "decimal", "autocomplete": "off"})

    def speak(self, unit: Unit) -> None:
        """Take the person's system, and name it in the label."""
        self.per_nm = 1.0 if unit is Unit.MM else 1 / NM_PER_LBFT
        self.label = f"{self.label} ({'N·m' if unit is Unit.MM else 'lb·ft'})"

    def to_python(self, value: Any) -> Any:
        """Take a comma for the decimal sign too."""
        return super().to_python(value.replace(",", ".") if isinstance(value, str) else value)

    def clean(self, value: Any) -> float | None:
        """Return N·m."""
        number = super().clean(value)
        return None if number is None else number / self.per_nm

    def prepare_value(self, value: Any) -> Any:
        """Show stored N·m in the person's system; leave what was just typed alone."""
        return f"{value * self.per_nm:.0f}" if isinstance(value, (int, float)) else value
