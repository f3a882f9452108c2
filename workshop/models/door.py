"""The one door to every model's rows: it takes the person, and opens to the rows of their workshop.

Whoever reads or writes rows begins with ``Model.of(person)``, or with a row that came through such a door. What a
person may not see is left out here, and behind it by the database (``workshop.walls``).
"""

from typing import Any

from django.db import models

from workshop.walls import here


class Behind:
    """A model whose rows stand behind its door."""

    @classmethod
    def of(cls, person: Any) -> Any:
        """Return the rows ``person`` may reach, with the model's own named reads; None is a command of the house."""
        rows = cls._default_manager.all()  # type: ignore[attr-defined]
        return rows if person is None else rows.filter(workshop_id=person.here_id)


class InWorkshop(Behind, models.Model):
    """A model whose rows belong to a workshop: the one that is worked in when they are made."""

    workshop = models.ForeignKey(
        "workshop.Workshop", on_delete=models.PROTECT, default=here, editable=False, db_index=False, related_name="+"
    )

    class Meta:
        abstract = True

    def validate_constraints(self, exclude: Any = None) -> None:
        """Hold what is unique in a workshop against its rows: no form shows the workshop, and none leaves it out."""
        super().validate_constraints(exclude=set(exclude or ()) - {"workshop"})
