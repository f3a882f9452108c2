"""Changes of the schema that belong together, made as one step of a migration."""

from typing import Any

from django.db.migrations.operations.base import Operation


class AtOnce(Operation):
    """Make changes that do not build on each other as one step.

    Made one by one, Django would draw up every model that is related to a changed one anew after each of them: seconds
    of every new database.
    """

    reduces_to_sql = True
    reversible = False

    def __init__(self, *operations: Operation) -> None:
        self.operations = operations

    def state_forwards(self, app_label: str, state: Any) -> None:
        """Add all changes to what Django knows of the models."""
        state.__dict__.pop("apps", None)  # drawn up once, after the last of them
        for operation in self.operations:
            operation.state_forwards(app_label, state)

    def database_forwards(self, app_label: str, schema_editor: Any, from_state: Any, to_state: Any) -> None:
        """Make them, in their order."""
        for operation in self.operations:
            operation.database_forwards(app_label, schema_editor, from_state, to_state)

    def describe(self) -> str:
        """Say what it does."""
        return "; ".join(operation.describe() for operation in self.operations)


def carry_out_deferred(_apps: Any, editor: Any) -> None:
    """Make the references and indexes Django puts off to the end of a migration: what follows builds on them."""
    for statement in editor.deferred_sql:
        editor.execute(statement, params=None)
    editor.deferred_sql.clear()
