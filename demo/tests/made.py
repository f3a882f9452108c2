"""The made workshop for tests: built once a process, then copied in, since building it takes seconds."""

from django.db import connection

from demo.build import build_demo
from ironcompass.testing import as_owner

_KEPT = ("django_migrations", "django_content_type", "auth_permission", "workshop_workshop")
_tables: dict[str, bytes] = {}
_counters: list[tuple[str, int]] = []


def put_demo() -> None:
    """Put the demo's rows into a database that holds nothing else."""
    if _tables:
        with as_owner():
            _copy_in()
    else:
        build_demo()
        with as_owner():
            _copy_out()


def _copy_out() -> None:
    names = [name for name in connection.introspection.table_names() if name not in _KEPT]
    with connection.cursor() as cursor:
        for name in names:
            with cursor.copy(f'copy "{name}" to stdout') as rows:
                content = b"".join(bytes(part) for part in rows)
            if content:
                _tables[name] = content
        cursor.execute("select sequencename, last_value from pg_sequences where last_value is not null")
        _counters.extend(cursor.fetchall())


def _copy_in() -> None:
    with connection.cursor() as cursor:
        cursor.execute("set session_replication_role = replica")  # what triggers made then is among the rows
        for name, content in _tables.items():
            with cursor.copy(f'copy "{name}" from stdin') as rows:
                rows.write(content)
        for name, value in _counters:
            cursor.execute("select setval(%s, %s)", [name, value])
        cursor.execute("set session_replication_role = origin")
        cursor.execute("update workshop_workshop set shop_version = nextval('workshop_shop_versions')")
