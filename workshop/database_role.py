"""The role the application signs in to its database with: it owns nothing, makes nothing, and passes no wall."""

from typing import Any, Final

from psycopg import sql

_RIGHTS: Final = "select, insert, update, delete"
# A page that waits longer is given up with a word of its own (503); migrations, which the owner runs, may take longer.
_PATIENCE: Final = {
    "statement_timeout": "10s",
    "lock_timeout": "5s",
    "idle_in_transaction_session_timeout": "60s",
}


def admit(connection: Any, role: str, *, password: str | None = None) -> None:
    """Let ``role`` read and write the rows of this database, as the owner that ``connection`` is signed in as.

    ``password``: it may sign in with it.
    """
    name = sql.Identifier(role)
    login = sql.SQL("login password {}").format(sql.Literal(password)) if password else sql.SQL("nologin")
    plain = sql.SQL("nosuperuser nocreatedb nocreaterole noreplication nobypassrls")
    rights = sql.SQL(_RIGHTS)
    with connection.cursor() as cursor:
        cursor.execute("select 1 from pg_roles where rolname = %s", [role])
        verb = sql.SQL("alter" if cursor.fetchone() else "create")
        cursor.execute(sql.SQL("{} role {} with {} {}").format(verb, name, plain, login))
        for name_of, value in _PATIENCE.items():
            cursor.execute(
                sql.SQL("alter role {} set {} = {}").format(name, sql.Identifier(name_of), sql.Literal(value))
            )
        cursor.execute(sql.SQL("grant usage on schema public to {}").format(name))
        cursor.execute(sql.SQL("grant {} on all tables in schema public to {}").format(rights, name))
        cursor.execute(sql.SQL("revoke insert, update, delete on django_migrations from {}").format(name))
        cursor.execute(sql.SQL("grant usage, select, update on all sequences in schema public to {}").format(name))
