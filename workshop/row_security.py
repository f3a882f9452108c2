"""What the database itself holds apart: policies on every table with a workshop, and references that stay inside one.

Migrations call this with the models as they stood then; ``tests/test_walls`` holds every table against it.
"""

from typing import Any, Final

from django.db import migrations

from workshop.migrating import AtOnce
from workshop.models.workshops import Workshop

_HERE: Final = "(select nullif(current_setting('ic.workshop', true), '')::bigint)"
_AT_THE_DOOR: Final = "current_setting('ic.door', true) = 'open'"
# Looked up before it is known where somebody belongs: by name, by key, by membership; read, never written.
_SEEN_AT_THE_DOOR: Final = ("workshop_user", "workshop_membership", "workshop_devicekey", "workshop_workshop")
# Who is of another workshop of the chain and may enter this one is somebody here, too.
_MEMBERS: Final = f"""
create policy members on workshop_user
using (id in (select person_id from workshop_membership where workshop_id = {_HERE}))
"""  # noqa: S608  # made of the constants above
# A policy lets no function look at a row before it unless it is known to give nothing away; without this no search
# could use its index. Neither says anything of what it compares but whether it fits.
_SAY_NOTHING: Final = """
do $$ begin
  alter function pg_catalog.textlike(text, text) leakproof;
  alter function pg_catalog.upper(text) leakproof;
exception when insufficient_privilege then
  raise notice 'searches will not use their index: only a superuser can mark functions as leakproof';
end $$
"""


class AddWorkshops(AtOnce):
    """Add the workshop to rows that are there already, which become those of the first."""

    def database_forwards(self, app_label: str, schema_editor: Any, from_state: Any, to_state: Any) -> None:
        """Add the columns."""
        for field in self.operations:
            table = f"{app_label}_{field.model_name_lower}"
            told = _PAST if field.field.null else _COLUMN
            schema_editor.execute(told.format(table=schema_editor.quote_name(table), index=f"{table}_workshop_id"))

    def describe(self) -> str:
        """Say what it does."""
        return "Add the workshop to every row"


_COLUMN: Final = f"""
alter table {{table}} add column workshop_id bigint not null default {Workshop.FIRST}
references workshop_workshop (id) deferrable initially deferred;
alter table {{table}} alter column workshop_id drop default
"""
_PAST: Final = f"""
alter table {{table}} add column workshop_id bigint default {Workshop.FIRST};
alter table {{table}} alter column workshop_id drop default;
create index {{index}} on {{table}} (workshop_id)
"""


def put_up_walls(app: str, *only: str) -> migrations.RunPython:
    """Return the operation that walls the tables of an app; ``only`` those of these models, where they are new."""

    def put_up(apps: Any, editor: Any) -> None:
        models = [
            model
            for model in apps.get_app_config(app).get_models()
            if _is_walled(model) and (not only or model._meta.model_name in only)
        ]
        for model in models:
            _wall(editor, model._meta.db_table, model._meta.pk.column)
        for model in models:
            for field in model._meta.concrete_fields:
                if field.is_relation and field.db_constraint and _stays_inside(field):
                    _refer_inside(editor, model._meta.db_table, field.column, field.related_model._meta.db_table)

    return migrations.RunPython(put_up, migrations.RunPython.noop)


def _is_walled(model: Any) -> bool:
    return any(field.name == "workshop" for field in model._meta.concrete_fields)


def _stays_inside(field: Any) -> bool:
    """Whether what a column refers to is of the same workshop: all but people, who may come from another of a chain."""
    return _is_walled(field.related_model) and field.related_model._meta.db_table != "workshop_user"


def _wall(editor: Any, table: str, key: str) -> None:
    name = editor.quote_name
    editor.execute(f"alter table {name(table)} enable row level security")
    editor.execute(f"create policy walls on {name(table)} using (workshop_id = {_HERE})")
    editor.execute(f"alter table {name(table)} add constraint {name(table + '_inside')} unique (workshop_id, {key})")
    if table in _SEEN_AT_THE_DOOR:
        open_door(editor, table)
    if table == "workshop_user":
        editor.execute(_MEMBERS)


def open_door(editor: Any, table: str) -> None:
    """Let rows be read while somebody is looked up."""
    editor.execute(f"create policy door on {editor.quote_name(table)} for select using ({_AT_THE_DOOR})")


def wall_workshops(_apps: Any, editor: Any) -> None:
    """Wall the list of workshops itself, and let searches use their index."""
    editor.execute("alter table workshop_workshop enable row level security")
    editor.execute(f"create policy walls on workshop_workshop using (id = {_HERE})")
    open_door(editor, "workshop_workshop")
    editor.execute(_SAY_NOTHING)


def _refer_inside(editor: Any, table: str, column: str, parent: str) -> None:
    """Replace a reference by one that carries the workshop: no row can refer to one of another workshop."""
    name = editor.quote_name
    with editor.connection.cursor() as cursor:
        found = editor.connection.introspection.get_constraints(cursor, table)
    for constraint, told in found.items():
        if told["foreign_key"] and told["columns"] == [column]:
            editor.execute(f"alter table {name(table)} drop constraint {name(constraint)}")
    short = f"{table}_{column}"[:54] + "_inside"
    editor.execute(
        f"alter table {name(table)} add constraint {name(short)} foreign key (workshop_id, {name(column)}) "
        f"references {name(parent)} (workshop_id, id) deferrable initially deferred"
    )
