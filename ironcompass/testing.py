"""Django's test runner, with its counts left where bin/test can read them."""

import gc
import json
import logging
import os
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any, ClassVar

from django.apps import apps
from django.conf import settings
from django.db import connection
from django.db.backends.signals import connection_created
from django.db.models.signals import post_migrate
from django.test import TestCase, TransactionTestCase
from django.test.runner import DiscoverRunner, ParallelTestSuite
from django.test.utils import iter_test_cases
from psycopg import sql
from whitenoise.middleware import WhiteNoiseMiddleware

from ironcompass.tests.waiting import PATIENCE_S
from workshop import walls
from workshop.database_role import admit
from workshop.models import Workshop
from workshop.people.passwords import OneAtATime


class CountingResult(unittest.TextTestResult):
    """Remember which tests were begun: a class that fails to set up begins none of them."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.begun: set[str] = set()

    def startTest(self, test: Any) -> None:  # noqa: N802  # the library's name
        """Note a test that is begun."""
        self.begun.add(test.id())
        super().startTest(test)


def counts_of(result: CountingResult) -> dict[str, int]:
    """Count tests, not reports: one test may fail in many subtests, and a class that fails to set up is one failure."""

    def of_test(test: Any) -> str:
        return str(getattr(test, "test_case", test).id())

    reported = [*result.failures, *result.errors]
    failed = {of_test(test) for test, _ in reported} | {of_test(test) for test in result.unexpectedSuccesses}
    skipped = {of_test(test) for test, _ in result.skipped} & result.begun
    never_begun = {name.rpartition(".")[0] for name in failed - result.begun}
    return {
        "passed": len(result.begun - failed - skipped),
        "failed": len(failed & result.begun) + len(never_begun),
        "skipped": len(skipped - failed),
    }


ROLE = "ironcompass_tests"


def become_application(connection: Any, **_told: Any) -> None:
    """Work as the application does: owning nothing, behind the walls."""
    connection.connection.execute(f"set role {ROLE}")


@contextmanager
def as_owner() -> Iterator[None]:
    """Work as the owner of the database for a while: to copy whole tables, to change their shape."""
    with connection.cursor() as cursor:
        cursor.execute("reset role")
        try:
            yield
        finally:
            cursor.execute(f"set role {ROLE}")


@cache
def _emptied_tables() -> tuple[str, ...]:
    """Return the tables that tests write rows to: all of Django's but those that say what models there are."""
    kept = {"django_content_type", "auth_permission", "django_migrations"}
    return tuple(sorted({*connection.introspection.django_table_names(only_existing=True, include_views=False)} - kept))


class Committed(TransactionTestCase):
    """Tests whose transactions are committed. After each its rows are deleted, only where there are any.

    (Django truncates every table and makes the rights anew: half a second for a hundred tables, nearly all empty.)
    """

    def _fixture_teardown(self) -> None:
        if_filled = sql.SQL("select {} where exists (select from {})")
        asked = [if_filled.format(name, sql.Identifier(name)) for name in _emptied_tables()]
        with as_owner(), connection.cursor() as cursor:
            cursor.execute(sql.SQL(" union all ").join(asked))
            filled = [sql.Identifier(row[0]) for row in cursor.fetchall()]
            cursor.execute("set session_replication_role = replica")  # in any order, no trigger asked
            for table in filled:
                cursor.execute(sql.SQL("delete from {}").format(table))
            cursor.execute("set session_replication_role = default")
        _open_the_first()


def _admit(**_told: Any) -> None:
    admit(connection, ROLE)


def _open_the_first() -> None:
    """Let the first workshop be there again when its tables were emptied."""
    Workshop.objects.get_or_create(pk=Workshop.FIRST, defaults={"name": "The workshop"})


class FilesListedOnce(WhiteNoiseMiddleware):
    """Serve static files by one list a process: each client of a test builds the middleware anew."""

    listed: ClassVar[dict[tuple[str, str], dict[str, Any]]] = {}

    def update_files_dictionary(self, root: str, prefix: str) -> None:
        """List a folder where it was not listed before."""
        if (root, prefix) not in self.listed:
            super().update_files_dictionary(root, prefix)
            self.listed[root, prefix] = {url: file for url, file in self.files.items() if url.startswith(prefix)}
        self.files |= self.listed[root, prefix]


FILES_LISTED_ONCE = {"whitenoise.middleware.WhiteNoiseMiddleware": "ironcompass.testing.FilesListedOnce"}


def _in_turn(subsuite: Any) -> tuple[bool, bool, bool]:
    """Return what sorts classes: those that share a transaction first, browsers last, long ones before short ones."""
    kind = type(next(iter_test_cases(subsuite)))
    return not issubclass(kind, TestCase), getattr(kind, "comes_last", False), not getattr(kind, "takes_long", False)


class CountingRunner(DiscoverRunner):
    """Run tests as the application's role.

    Writes ``{"passed": …, "failed": …, "skipped": …}`` to the file named by IC_TEST_COUNTS.
    """

    def build_suite(self, *args: Any, **kwargs: Any) -> Any:
        """Begin those that take longest first among the classes that come last: no process waits for another's."""
        suite = super().build_suite(*args, **kwargs)
        if isinstance(suite, ParallelTestSuite):
            suite.subsuites.sort(key=_in_turn)
        return suite

    def get_resultclass(self) -> Any:
        """Take ours unless a debugger or SQL is asked for."""
        return super().get_resultclass() or CountingResult

    def setup_test_environment(self, **kwargs: Any) -> None:
        """Keep expected refusals (4xx) out of the output, and make passwords cheap: here nobody guesses them."""
        super().setup_test_environment(**kwargs)
        logging.getLogger("django.request").setLevel(logging.ERROR)
        logging.getLogger("django.security").setLevel(logging.CRITICAL)
        logging.getLogger("axes").setLevel(logging.CRITICAL)
        OneAtATime.time_cost, OneAtATime.memory_cost = 1, 8 * OneAtATime.parallelism
        gc.set_threshold(100_000, 20, 50)  # to look for cycles seldom saves a twentieth of the time
        settings.MIDDLEWARE = [FILES_LISTED_ONCE.get(name, name) for name in settings.MIDDLEWARE]

    def setup_databases(self, **kwargs: Any) -> Any:
        """Make the database as its owner, then go on as the role that owns nothing."""
        connection.settings_dict["OPTIONS"]["connect_timeout"] = int(PATIENCE_S)
        # Before the database is copied for each process: the copies take the rights along.
        post_migrate.connect(_admit, sender=apps.get_app_config("workshop"))
        made = super().setup_databases(**kwargs)
        post_migrate.disconnect(_admit, sender=apps.get_app_config("workshop"))
        if connection.settings_dict["NAME"] in {old.settings_dict["NAME"] for old, _name, _destroy in made}:
            walls.enter(Workshop.FIRST)
            connection_created.connect(become_application)
            connection.close()
        return made

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        """Take it down as its owner again."""
        connection_created.disconnect(become_application)
        connection.close()
        super().teardown_databases(old_config, **kwargs)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> Any:
        """Count before the result is reduced to a number of failures."""
        target = os.environ.get("IC_TEST_COUNTS")
        if target and isinstance(result, CountingResult):
            Path(target).write_text(json.dumps(counts_of(result)), encoding="utf-8")
        return super().suite_result(suite, result, **kwargs)
