"""Databases of earlier releases, with their data, come along. ``dumps`` holds the demo as three of them kept it."""

import os
import subprocess
import sys
from pathlib import Path

import psycopg
from django.conf import settings
from django.db import connection
from django.test import SimpleTestCase
from psycopg import sql

from ironcompass.tests.waiting import PATIENCE_S

DUMPS = Path(__file__).parent / "dumps"
KEPT = ("jobs_job", "jobs_corner", "jobs_sweep", "jobs_thicknessround", "jobs_historicalsweep", "workshop_vehicle")
# What a person of the upgraded workshop opens: every leg of every job, as the server would show it.
BRING_UP_AND_LOOK = """
from django.core.management import call_command
call_command("migrate", verbosity=0)
call_command("migrate", check_unapplied=True, verbosity=0)
call_command("judge_stale", verbosity=0)
from django.conf import settings
from django.test import Client
from django.urls import reverse
from jobs.models import Job
from workshop.models import User
from workshop.walls import enter
settings.ALLOWED_HOSTS = ["*"]
enter(1)
client = Client()
client.force_login(User.objects.get(username="holm"), backend="workshop.people.backends.DoorBackend")
pages = ["/", "/ledger/", "/store/figures/", "/look-again/?state=all"]
for job in Job.objects.all():
    pages += [reverse(f"jobs:{name}", args=[job.pk]) for name in ("complaint", "cause", "changes", "case")]
    pages.append(reverse("jobs:measure", args=[job.pk, job.corners.first().position]))
answers = [(page, client.get(page, follow=True).status_code) for page in pages]
print("pages", len(pages), [answer for answer in answers if answer[1] != 200])
"""
# All that a database is made of but its rows; references and indexes by what they are, for Django names some by itself.
SHAPE = """
select 'column', table_name::text, column_name::text, udt_name::text, is_nullable::text, column_default::text,
  character_maximum_length::text
from information_schema.columns where table_schema = 'public'
union all select 'constraint', conrelid::regclass::text, case when contype <> 'f' then conname::text end,
  pg_get_constraintdef(oid), convalidated::text, null, null
from pg_constraint where connamespace = 'public'::regnamespace
union all select 'index', tablename, regexp_replace(indexdef, ' INDEX [^ ]+', ''), null, null, null, null
from pg_indexes where schemaname = 'public'
union all select 'policy', tablename, policyname, cmd, qual, with_check, null from pg_policies
union all select 'walled', relname, relrowsecurity::text, relforcerowsecurity::text, null, null, null
from pg_class where relnamespace = 'public'::regnamespace and relkind = 'r'
union all select 'trigger', tgrelid::regclass::text, tgname, pg_get_triggerdef(oid), null, null, null
from pg_trigger where not tgisinternal
union all select 'function', proname, prosrc, null, null, null, null
from pg_proc where pronamespace = 'public'::regnamespace and probin is null
union all select 'extension', extname, null, null, null, null, null from pg_extension
"""


class Upgrades(SimpleTestCase):
    """Each in a database of its own, brought up by the very command that bin/start runs."""

    takes_long = True
    databases = {"default"}

    def setUp(self) -> None:
        told = connection.settings_dict
        self.base = f"postgres://{told['USER']}:{told['PASSWORD']}@{told['HOST']}:{told['PORT']}"
        self.name = f"earlier{os.getpid()}"
        self.addCleanup(self.house, "drop database if exists {} with (force)")

    def house(self, statement: str) -> None:
        with psycopg.connect(f"{self.base}/postgres", autocommit=True) as house:
            house.execute(sql.SQL(statement).format(sql.Identifier(self.name)))

    def manage(self, *arguments: str) -> str:
        told = os.environ | {"IC_DATABASE_URL": f"{self.base}/{self.name}?connect_timeout={PATIENCE_S:.0f}"}
        command = [sys.executable, "manage.py", *arguments]
        done = subprocess.run(  # noqa: S603
            command, cwd=settings.BASE_DIR, env=told, capture_output=True, text=True, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        return done.stdout

    def counts(self) -> dict[str, int]:
        with psycopg.connect(f"{self.base}/{self.name}") as there:
            of = sql.SQL("select count(*) from {}")
            return {table: there.execute(of.format(sql.Identifier(table))).fetchone()[0] for table in KEPT}

    def restored(self, dump: Path) -> None:
        self.house("drop database if exists {} with (force)")
        self.house("create database {}")
        newest = sorted(Path("/usr/lib/postgresql").iterdir())[-1] / "bin" / "pg_restore"
        command = [newest, f"--dbname={self.base}/{self.name}", "--no-owner", "--no-privileges", dump]
        subprocess.run(command, check=True, capture_output=True)  # noqa: S603

    def test_each_is_brought_up_whole_and_its_pages_open(self) -> None:
        dumps = {dump.stem: dump for dump in DUMPS.glob("*.dump")}
        self.assertEqual(set(dumps), {"0.6", "0.8", "0.10"})
        # One takes half a minute: the newest always, all of them in continuous integration.
        for dump in dumps.values() if os.environ.get("IC_UPGRADES") == "all" else [dumps["0.10"]]:
            with self.subTest(release=dump.stem):
                self.restored(dump)
                before = self.counts()
                said = self.manage("shell", "-v0", "-c", BRING_UP_AND_LOOK)
                _word, pages, bad = said[said.index("pages") :].strip().split(" ", 2)
                self.assertEqual((bad, int(pages) > 80), ("[]", True))
                self.assertEqual(self.counts(), before)
                with psycopg.connect(f"{self.base}/{self.name}") as there:
                    strange = "select count(*) from jobs_job where workshop_id is distinct from 1"
                    self.assertEqual(there.execute(strange).fetchone(), (0,))
                    brought_up = set(there.execute(SHAPE))
                # A database made anew comes of the one migration that stands for all of these.
                with psycopg.connect(f"{self.base}/{connection.settings_dict['NAME']}") as here:
                    self.assertEqual(brought_up ^ set(here.execute(SHAPE)), set())
