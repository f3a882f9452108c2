"""Taking a bay or the lathe for a job, and giving it free."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.translation import gettext as _
from django.views.decorators.http import require_POST

from jobs import bookings
from jobs.actions import JobClosedError
from jobs.forms import BookingForm
from jobs.models import Booking, Job
from jobs.views import complaint_page
from workshop.policy import Deed, require


@require_POST
def book(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a place; where another job stands there then, say so and keep what was typed."""
    require(request.user, Deed.EDIT_JOB)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    form = BookingForm(request.POST)
    if form.is_valid():
        data = form.cleaned_data
        try:
            bookings.book(request.user, job, place=data["place"], starts_at=form.starts_at(), minutes=data["minutes"])
            return redirect("jobs:complaint", pk)
        except bookings.PlaceTakenError:
            form.add_error("place", _("Another job stands there then. Choose another time or place."))
        except JobClosedError:
            form.add_error(None, _("This job is closed; it needs no place any more."))
    return complaint_page(request, job, booking_form=form, status=422)


@require_POST
def give_up(request: HttpRequest, pk: int) -> HttpResponse:
    """Give a place free again."""
    booking = get_object_or_404(Booking.objects.select_related("job"), pk=pk)
    try:
        bookings.give_up(request.user, booking)
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
    return redirect("jobs:complaint", booking.job_id)
