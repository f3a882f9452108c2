"""How PostgreSQL plans a read: anew for its values, where they decide which way is short.

A statement that is asked often is prepared, and in time planned once for whatever values come. Behind the walls that is
right for rows that are found by their number; of words nobody knows beforehand whether one job or all of them hold
them, and the plan for an unknown word walked 100,000 jobs for the newest dozen.
"""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction


@contextmanager
def planned_anew() -> Iterator[None]:
    """Have every statement in here planned for the values it is asked with."""
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("set local plan_cache_mode = force_custom_plan")
        yield
