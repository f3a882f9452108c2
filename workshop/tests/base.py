"""People and figures that tests share."""

from django.conf import settings
from django.db.models import Model
from django.test import Client

from workshop.addresses import address
from workshop.long_work.carrying import carry_out_work
from workshop.models import LongWork, User
from workshop.numbers_in_addresses import named
from workshop.people.session import session_of

FIGURES = {
    "studs": 5,
    "rotor": "vented",
    "features": [],
    "discard_thickness_mm": 25.4,
    "max_runout_mm": 0.05,
    "max_thickness_variation_mm": 0.015,
    "measuring_radius_mm": 138.0,
    "nominal_thickness_mm": 28.0,
    "machine_to_thickness_mm": 25.8,
    "source": "maker",
}


def person(role: str = "technician", username: str | None = None) -> User:
    """Make a person of a role, with a password that is cheap to store."""
    return User.objects.create(
        username=username or role, first_name="A", last_name=role.title(), role=role, password="!"
    )


def client_of(user: User) -> Client:
    """Return a client signed in as ``user``."""
    client = Client()
    client.cookies[settings.SESSION_COOKIE_NAME] = session_of(user)
    return client


def work_done(work: LongWork | None = None) -> LongWork:
    """Do a worker's part on a work, the newest unless said, and return it as it is then."""
    work = work or LongWork.objects.latest("pk")
    carry_out_work(work.pk, work.workshop_id)
    work.refresh_from_db()
    return work


def changing(page: str, row: Model) -> str:
    """Return the address at which a row of the store is changed."""
    return f"{address(page)}?change={named(row._meta.model_name, row.pk)}"


def seen_on(client: Client, address: str) -> dict[str, str]:
    """Return what a form carries of the row it was drawn from (``workshop.versions.SeenForm``)."""
    drawn = client.get(address).context["form"]
    return {"seen": drawn["seen"].initial}
