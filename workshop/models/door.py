"""The one door to every model's rows: it takes the person, and today it opens to all of them.

Whoever reads or writes rows begins with ``Model.of(person)``, or with a row that came through such a door. What a
person may not see is left out here and nowhere else.
"""

from typing import Any


class Behind:
    """A model whose rows stand behind its door."""

    @classmethod
    def of(cls, person: Any) -> Any:
        """Return the rows ``person`` may reach, with the model's own named reads."""
        return cls._default_manager.all()  # type: ignore[attr-defined]
