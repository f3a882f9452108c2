"""A backup holds everything and comes back whole, or nothing is changed."""

import os
import subprocess
import tempfile
from pathlib import Path
from typing import ClassVar

import psycopg
from django.conf import settings
from django.db import connection, transaction
from psycopg import sql

from demo.tests.made import put_demo
from ironcompass.testing import Committed


class Backups(Committed):
    """By the very commands, with the cluster of the tests in the place of bin/start's."""

    keys: ClassVar = {"key": "gneis-under-sjø", "wrong": "salt"}

    def setUp(self) -> None:
        with transaction.atomic():  # a table may be copied in before what it refers to
            put_demo()
        self.place = Path(tempfile.mkdtemp())
        for name, word in self.keys.items():
            (self.place / name).write_text(word)
        told = connection.settings_dict
        self.base = f"postgres://{told['USER']}:{told['PASSWORD']}@{told['HOST']}:{told['PORT']}"
        self.name = f"kept{os.getpid()}"
        self.database(f"create database {self.name}")
        # What bin/backup keeps is what its address names: it gets a copy of all there is here.
        whole = self.pg("pg_dump", "--format=custom", f"--dbname={self.base}/{told['NAME']}")
        self.pg("pg_restore", f"--dbname={self.base}/{self.name}", "--no-owner", "--no-privileges", stdin=whole)

    def tearDown(self) -> None:
        with psycopg.connect(f"{self.base}/postgres", autocommit=True) as house:
            left = house.execute("select datname from pg_database where datname like %s", [f"{self.name}%"])
            for (name,) in left.fetchall():
                house.execute(sql.SQL("drop database {} with (force)").format(sql.Identifier(name)))

    def pg(self, program: str, *arguments: str, stdin: bytes = b"") -> bytes:
        newest = sorted(Path("/usr/lib/postgresql").iterdir())[-1]
        done = subprocess.run([newest / "bin" / program, *arguments], input=stdin, capture_output=True, check=True)  # noqa: S603
        return done.stdout

    def database(self, *statements: str) -> None:
        with psycopg.connect(f"{self.base}/postgres", autocommit=True) as house:
            for statement in statements:
                house.execute(statement)

    def run_bin(self, name: str, *arguments: str, key: str = "", **more: str) -> subprocess.CompletedProcess[str]:
        told = os.environ | {"IC_CLUSTER_URL": f"{self.base}/{self.name}", **more}
        if key:
            told["IC_BACKUP_KEY"] = str(self.place / key)
        command = [str(Path(settings.BASE_DIR) / "bin" / name), *arguments]
        return subprocess.run(command, env=told, capture_output=True, text=True, check=False)  # noqa: S603

    def contents(self) -> dict[str, list[tuple[str, ...]]]:
        """Return every row of every table, and every policy and trigger, as text."""
        with psycopg.connect(f"{self.base}/{self.name}") as there:
            names = [row[0] for row in there.execute("select tablename from pg_tables where schemaname = 'public'")]
            rows = {
                table: sorted(
                    there.execute(sql.SQL("select t::text from {} t").format(sql.Identifier(table))).fetchall()
                )
                for table in names
            }
            rows["policies"] = sorted(there.execute("select tablename, policyname, qual from pg_policies").fetchall())
            rows["triggers"] = sorted(there.execute("select tgname from pg_trigger where not tgisinternal").fetchall())
        return rows

    def test_what_comes_back_is_what_was_there_encrypted_or_not(self) -> None:
        before = self.contents()
        self.assertGreater(sum(map(len, before.values())), 500)
        self.assertTrue(before["policies"] and before["triggers"])
        for key, name in (("", "plain.dump"), ("key", "locked.dump.gpg")):
            file = self.place / name
            done = self.run_bin("backup", str(file), key=key)
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertEqual(file.read_bytes()[:5] == b"PGDMP", not key)
            with psycopg.connect(f"{self.base}/{self.name}") as there:
                there.execute("delete from jobs_quickreading")
                there.execute("update jobs_job set complaint = 'lost'")
            done = self.run_bin("restore", str(file), key=key)
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertEqual(self.contents(), before)

    def test_a_backup_that_is_not_whole_or_not_ours_changes_nothing(self) -> None:
        before, file = self.contents(), self.place / "a.dump"
        self.assertEqual(self.run_bin("backup", str(file)).returncode, 0)
        self.assertNotEqual(self.run_bin("backup", str(file)).returncode, 0)  # never over another
        torn, other, locked = self.place / "torn.dump", self.place / "other.dump", self.place / "b.dump.gpg"
        torn.write_bytes(file.read_bytes()[:-2000])
        other.write_bytes(self.pg("pg_dump", "--format=custom", f"--dbname={self.base}/postgres"))
        self.assertEqual(self.run_bin("backup", str(locked), key="key").returncode, 0)
        for bad, key in ((torn, ""), (other, ""), (locked, ""), (locked, "wrong"), (self.place / "none.dump", "")):
            done = self.run_bin("restore", str(bad), key=key)
            self.assertNotEqual(done.returncode, 0, bad)
            self.assertIn("iron-compass:", done.stderr)
            self.assertEqual(self.contents(), before)
        with psycopg.connect(f"{self.base}/postgres") as house:
            left = house.execute(
                "select count(*) from pg_database where datname like %s", [f"{self.name}_%"]
            ).fetchone()
        self.assertEqual(left, (0,))
