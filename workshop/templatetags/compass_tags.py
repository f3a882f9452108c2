"""Figures in templates: one way to show a length with ± and unit, in the units of the person who reads."""

import math
from collections.abc import Hashable
from functools import lru_cache
from typing import Any
from uuid import uuid4

from django import template
from django.conf import settings
from django.template.loader import get_template
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import get_language
from django.utils.translation import gettext as _

from compass.ground.translation import tongue
from compass.ground.units import Unit
from compass.words.figures import LengthText, length_text, plain_text
from workshop.numbers_in_addresses import named
from workshop.permissions import Deed, may_write
from workshop.permissions import may as is_allowed
from workshop.words import about_km, distance_text, feed_text, torque_text

register = template.Library()


def _unit(context: dict[str, Any]) -> Unit:
    return getattr(context["request"].user, "unit", Unit.MM)  # nobody is signed in yet: mm


@register.simple_tag
def languages() -> list[tuple[str, str]]:
    """Return the languages there are: code, and what its own speakers call it."""
    return list(settings.LANGUAGES)


@register.simple_tag
def decimal_sign() -> str:
    """Return the sign before decimals, as the reader writes it."""
    return tongue().decimal_sign


@register.filter
def in_address(row: Any) -> str:
    """Return a row as it stands in the query of an address: its number, and a tag that nobody can guess."""
    return named(row._meta.model_name, row.pk)


@register.simple_tag
def drawn_once(template_name: str, **it: Any) -> SafeString:
    """Include a partial that takes one value that cannot change, and nothing else of the page.

    What it makes of a value in a language is remembered in this process: a list shows the same lines again and again.
    """
    ((name, value),) = it.items()
    return _drawn(template_name, get_language(), name, value)


@lru_cache(maxsize=1024)
def _drawn(template_name: str, _language: str | None, name: str, value: Hashable) -> SafeString:
    return get_template(template_name).render({name: value})


@register.simple_tag
def once() -> SafeString:
    """Return the key by which a form that is sent twice counts once (``workshop.posting.counts_once``)."""
    return format_html('<input type="hidden" name="once" value="{}">', uuid4().hex)


@register.simple_tag(takes_context=True)
def length(context: dict[str, Any], length_mm: float, expanded_mm: float | None = None) -> LengthText:
    """Return figure, plus_minus and unit of a measured length."""
    return length_text(length_mm, unit=_unit(context), expanded_mm=expanded_mm)


@register.simple_tag(takes_context=True)
def limit(context: dict[str, Any], length_mm: float | None) -> str:
    """Say a limit, a radius or a graduation with its unit."""
    if length_mm is None:
        return "–"
    shown = plain_text(length_mm, unit=_unit(context))
    return f"{shown.figure} {shown.unit}"


@register.simple_tag
def both_units(length_mm: float | None) -> str:
    """Say a length in both systems, whoever reads."""
    if length_mm is None:
        return "–"
    metric, inch = plain_text(length_mm, unit=Unit.MM), plain_text(length_mm, unit=Unit.THOU)
    return format_html("{} {} <small>{} {}</small>", metric.figure, metric.unit, inch.figure, inch.unit)


@register.simple_tag(takes_context=True)
def distance(context: dict[str, Any], km: float | None) -> str:
    """Say a distance in km, or in miles where lengths are in thou."""
    if km is None:
        return ""
    return _("beyond what can be seen") if math.isinf(km) else distance_text(km, _unit(context))


@register.simple_tag(takes_context=True)
def distance_about(context: dict[str, Any], km: float | None) -> str:
    """Say an estimated distance: no more than two figures of it mean anything."""
    return distance(context, None if km is None else about_km(km, _unit(context)))


@register.simple_tag(takes_context=True)
def torque(context: dict[str, Any], torque_nm: float | None) -> str:
    """Say a torque in N·m, or in lb·ft where lengths are in thou."""
    return "" if torque_nm is None else torque_text(torque_nm, _unit(context))


@register.simple_tag(takes_context=True)
def writes_on(context: dict[str, Any], job: Any) -> bool:
    """Whether the reader may write on a job as far as the job goes."""
    return may_write(context["request"].user, job)


@register.simple_tag(takes_context=True)
def may(context: dict[str, Any], deed: str) -> bool:
    """Whether the reader may do ``deed`` (workshop.permissions)."""
    return is_allowed(context["request"].user, Deed(deed))


@register.simple_tag(takes_context=True)
def feed(context: dict[str, Any], text: str) -> str:
    """Say a lathe's feed a turn."""
    return feed_text(text, _unit(context))


@register.filter
def drawing(svg: str) -> SafeString:
    """Mark a picture of the drawing package as markup: it is made by an XML library, which escapes."""
    return mark_safe(svg)  # noqa: S308
