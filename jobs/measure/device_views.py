"""Where instruments send their readings, and where a tape's page hears of them."""

import json
from pathlib import Path
from typing import Any, Final

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_POST
from fastjsonschema import JsonSchemaValueException
from fastjsonschema import compile as compile_schema

from compass.files.strict_json import load_json
from jobs.measure import device
from jobs.measure.sending import answer_of, named_tape, page_of_tape
from jobs.models import DeviceReading, Listening, Tape
from jobs.writing import JobClosedError
from workshop.models import DeviceKey
from workshop.permissions import Deed, require
from workshop.posting import posted_from

_API: Final[dict[str, Any]] = json.loads((Path(__file__).parent / "device_api.json").read_text(encoding="utf-8"))
_check = compile_schema(_API["components"]["schemas"]["Reading"])
_MOST_BYTES: Final = 4096
_SHOWN: Final = 3  # of the newest news
_BURST: Final = 200  # as many as a tape has places
WHY: Final = {
    "jump": gettext_lazy("far from its fellows: another unit, or the tip has slipped"),
    "out_of_range": gettext_lazy("beyond what this tape can hold"),
    "battery": gettext_lazy("its battery is nearly flat: such readings lie"),
    "station_taken": gettext_lazy("somebody has typed there: that stands"),
}


@csrf_exempt
@login_not_required
@require_POST
def sent(request: HttpRequest) -> HttpResponse:
    """Take one reading of a device that shows its key."""
    scheme, _space, token = request.headers.get("Authorization", "").partition(" ")
    key = device.key_of(token.strip()) if scheme.lower() == "bearer" else None
    if key is None:
        return _refused(401, "key", "a key that is known and not revoked")
    if len(request.body) > _MOST_BYTES:
        return _refused(413, "", "at most 4 kB")
    try:
        told = _check(load_json(request.body))
    except JsonSchemaValueException as error:
        return _refused(422, error.name.removeprefix("data").lstrip("."), error.message)
    except (ValueError, RecursionError):
        return _refused(422, "", "one JSON object")
    at = told.pop("at", None)
    reading = device.Sent(told.pop("id"), float(told.pop("value")), told.pop("unit"), **told)
    try:
        row, again = device.take(key, reading)
    except device.FloodError:
        response = _refused(429, "", f"at most {device.MOST_A_SECOND} readings a second")
        response["Retry-After"] = "1"
        return response
    except device.NobodyListensError as error:
        return _refused(409, "", error.code)
    station = row.slot + 1 if row.slot is not None else None
    return JsonResponse(
        {
            "id": row.given_id,
            "outcome": row.outcome,
            "why": row.why,
            "station": station,
            "again": again,
            "clock_off_seconds": _clock_off(at),
        }
    )


def _clock_off(at: str | None) -> float | None:
    """Return how far a device's clock is off; its time is believed for nothing."""
    try:
        told = parse_datetime(at) if at else None
    except ValueError:
        return None
    if told is None:
        return None
    if timezone.is_naive(told):
        told = timezone.make_aware(told)
    return round((told - timezone.now()).total_seconds(), 1)


def _refused(status: int, path: str, expected: str) -> JsonResponse:
    return JsonResponse({"path": path, "expected": expected}, status=status)


@login_not_required
@require_GET
def openapi(request: HttpRequest) -> HttpResponse:
    """Describe the interface, as OpenAPI."""
    return JsonResponse(_API)


@posted_from(page_of_tape)
def listened(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Let a tape listen to a device, or to nobody."""
    tape = get_object_or_404(type(named_tape(kind, pk)).of(request.user), pk=pk)
    here = redirect(page_of_tape(request, pk, kind))
    chosen = request.POST.get("key", "")
    try:
        if not chosen.isdecimal():
            device.stop(request.user, tape)
            return here
        key = get_object_or_404(DeviceKey.of(request.user), pk=int(chosen[:18]), revoked_at=None)
        device.listen(request.user, tape, key)
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
    return here


@require_GET
def heard(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Say what a tape has heard since ``since``; where something was taken, what it holds and all that is redrawn."""
    require(request.user, Deed.READ_JOBS)
    tape = named_tape(kind, pk)
    rows = Listening.of(request.user).filter(ended_at=None, **{"sweep_id" if kind == "sweep" else "round_id": pk})
    listening = rows.select_related("key").first()
    if listening is None:
        get_object_or_404(type(tape).of(request.user), pk=pk)
        return JsonResponse({"listening": False})
    since = request.GET.get("since", "")
    heard_to = int(since[:18]) if since.isdecimal() else 0
    # All of a burst: one that was taken is drawn, however many were doubted after it.
    news = list(listening.readings.filter(pk__gt=heard_to).order_by("-pk")[:_BURST])
    answer: dict[str, Any] = {
        "listening": True,
        "since": news[0].pk if news else heard_to,
        "news": [one.outcome for one in reversed(news[:_SHOWN])],
    }
    if news:
        answer["strip"] = render_to_string("jobs/measure/_heard.html", heard_context(listening), request)
        if any(one.outcome == DeviceReading.Outcome.TAKEN for one in news):
            try:
                answer |= answer_of(request, request.GET, tape)
            except type(tape).DoesNotExist as error:
                raise Http404 from error
    return JsonResponse(answer)


def heard_context(listening: Listening) -> dict[str, Any]:
    """Return what stands in the strip of a tape that listens: the device, how it is, what it sent last."""
    last = list(listening.readings.order_by("-pk")[:_SHOWN])
    return {
        "device": listening.key,
        "battery": None if listening.key.battery is None else round(listening.key.battery * 100),
        "low": listening.key.battery is not None and listening.key.battery < device.LOW_BATTERY,
        "last": [
            {
                "text": one.text,
                "place": (one.slot or 0) + 1,
                "taken": one.outcome == DeviceReading.Outcome.TAKEN,
                "why": str(WHY.get(one.why, "")),
            }
            for one in last
        ],
    }


def listening_context(user: Any, tape: Tape) -> dict[str, Any]:
    """Return what a tape's page needs to listen: the devices there are, and what it listens to now."""
    keys = device.keys_of(user)
    listening = device.listening_of(user, tape) if keys else None  # most workshops have none
    context: dict[str, Any] = {
        "listening": listening,
        "keys": [k for k in keys if device.can_hear(tape, k)],
        "since": 0,
    }
    if listening is not None:
        newest = listening.readings.order_by("-pk").values_list("pk", flat=True).first()
        context |= heard_context(listening) | {"since": newest or 0}
    return context
