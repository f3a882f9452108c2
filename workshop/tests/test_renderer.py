"""Our widgets' markup is Django's own, attribute for attribute."""

import re
from typing import Any

from django import forms
from django.forms.renderers import DjangoTemplates
from django.test import SimpleTestCase

from workshop.renderer import Renderer

CHOICES = [("x", "X & <y>"), ("", "none"), ("Group", [("1", "one"), ("2", "two")])]


class Everything(forms.Form):
    """One field a widget."""

    text = forms.CharField(max_length=5, help_text="said")
    words = forms.CharField(widget=forms.Textarea({"rows": 4}), required=False)
    number = forms.IntegerField(min_value=0, max_value=9, required=False)
    day = forms.DateField(widget=forms.DateInput(attrs={"type": "date", "disabled": True}), required=False)
    time = forms.TimeField(widget=forms.TimeInput(attrs={"type": "time"}), required=False)
    hidden = forms.CharField(widget=forms.HiddenInput, required=False)
    tick = forms.BooleanField(required=False)
    one = forms.ChoiceField(choices=CHOICES)
    some = forms.MultipleChoiceField(choices=CHOICES[:2], widget=forms.CheckboxSelectMultiple, required=False)
    which = forms.ChoiceField(choices=CHOICES[:2], widget=forms.RadioSelect, required=False)
    several = forms.MultipleChoiceField(choices=CHOICES, required=False)


def plain(markup: str) -> str:
    """Bring attributes into one order and leave out space that means nothing."""
    spaced = re.sub(r"\s+", " ", markup)
    tag, attribute = re.compile(r"<(\w+) ([^>]*)>"), re.compile(r'[a-z-]+(?:="[^"]*")?')
    sorted_tags = tag.sub(lambda m: f"<{m[1]} {' '.join(sorted(attribute.findall(m[2])))}>", spaced)
    return sorted_tags.replace("> ", ">").replace(" <", "<").strip()


class Markup(SimpleTestCase):
    """Empty, filled and refused."""

    def test_every_widget_and_every_choice_of_it(self) -> None:
        filled: dict[str, Any] = {
            "text": '<"&>', "words": "a\nb", "number": "7", "day": "2026-11-25", "time": "08:15", "hidden": "h",
            "tick": "on", "one": "1", "some": ["x"], "which": "x", "several": ["1", "x"],
        }  # fmt: skip
        for data in (None, filled, {"text": "far too long", "number": "x", "one": "nothing like it"}):
            ours, theirs = (Everything(data, renderer=renderer) for renderer in (Renderer(), DjangoTemplates()))
            for name in ours.fields:
                with self.subTest(name=name, filled=bool(data)):
                    self.assertEqual(plain(str(ours[name])), plain(str(theirs[name])))
                    for mine, other in zip(ours[name], theirs[name], strict=True):
                        self.assertEqual(plain(str(mine)), plain(str(other)))
