"""A page of paper as PDF, from the very template of its print view, laid out by a worker; and its QR code."""

import logging
import re
from functools import cache, lru_cache
from pathlib import Path
from typing import Any, Final

import segno
from django.contrib.staticfiles import finders
from django.http import HttpRequest
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils.translation import gettext_lazy

from workshop.long_work.asking import ask_for
from workshop.long_work.kinds import Made, Report, can_do
from workshop.models import LongWork

# It names every rule that is for the screen or for drawings; those are no faults.
logging.getLogger("weasyprint").setLevel(logging.ERROR)
_STYLE: Final = "css/paper.css"
_SIZES: Final = (12, 11, 10, 9, 8)  # points


def qr_code(request: HttpRequest, job_pk: int) -> str:
    """Return the job's address as a QR code, SVG; it needs a sign-in like any other way to it."""
    return _drawn(request.build_absolute_uri(reverse("jobs:complaint", args=[job_pk])))


@lru_cache(maxsize=256)  # an eighth of a page's time: eight masks are tried for every code
def _drawn(address: str) -> str:
    return str(segno.make(address, error="m").svg_inline(border=0, omitsize=True, svgclass=None, lineclass=None))


def can_be_done() -> None:
    """Tell workers of it."""
    can_do("paper", gettext_lazy("A sheet as PDF"), lay_out)


def ask_for_pdf(template: str, context: dict[str, Any], *, request: HttpRequest, name: str) -> LongWork:
    """Have a sheet laid out by a worker, as its reader sees it now: a second or two of a processor."""
    page = _styled(render_to_string(template, context | {"on_paper": True}, request=request))
    return ask_for(request.user, "paper", page.encode(), name=f"{name}.pdf")


def lay_out(work: LongWork, report: Report) -> Made:
    """Lay a page out on one sheet of paper."""
    # A third of a second to load, and few requests print.
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration

    page = bytes(work.given).decode()
    style, fonts = _style_path(), FontConfiguration()
    look = CSS(filename=str(style), font_config=fonts)
    for n, size in enumerate(_SIZES):  # a long story is set smaller rather than on two pages
        report.note(n, len(_SIZES))
        smaller = CSS(string=f"html {{ font-size: {size}pt }}", font_config=fonts)
        document = HTML(string=page, base_url=str(style.parent)).render(stylesheets=[look, smaller], font_config=fonts)
        if len(document.pages) == 1:
            break
    return Made(document.write_pdf() or b"", work.given_name, "application/pdf")


@cache
def _style_path() -> Path:
    found = finders.find(_STYLE)
    if found is None:
        raise FileNotFoundError(_STYLE)
    return Path(str(found))


@cache
def _drawing_style() -> str:
    """Return the rules of drawings: a picture on paper carries its own, since a page's do not reach into it."""
    lines = _style_path().read_text(encoding="utf-8").splitlines()
    return "<style>" + "".join(line for line in lines if re.match(r"\.paper-(?!rose)", line)) + "</style>"


def _styled(page: str) -> str:
    return re.sub(r"(<svg\b[^>]*class=\"paper-rose\"[^>]*>)", lambda tag: tag.group(1) + _drawing_style(), page)
