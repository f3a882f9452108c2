"""The proxy of deploy/nginx.conf, by nginx itself: only places and the certificate are those of the test."""

import os
import shutil
import socket
import ssl
import subprocess
import tempfile
import time
import unittest
from contextlib import ExitStack, suppress
from http.client import HTTPResponse, HTTPSConnection
from pathlib import Path
from typing import Any

from django.conf import settings

from ironcompass.tests.tiny_app import OfOurWorker
from ironcompass.tests.waiting import PATIENCE_S

NGINX = os.environ.get("IC_NGINX") or shutil.which("nginx") or "/usr/sbin/nginx"
SLOW = 16


@unittest.skipUnless(Path(NGINX).exists(), "there is no nginx on this machine")
class BehindTheProxy(OfOurWorker):
    """TLS, rates, slow senders, a server that is away."""

    def setUp(self) -> None:
        self.place = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.place)
        self.server_process = self.enterContext(self.server(IC_SERVE_AS_ROOT="yes", IC_HTTPS="1"))
        self.ports = self._free(2)
        self._certificate()
        (self.place / "nginx.conf").write_text(self._settings())
        arguments = ["-p", str(self.place), "-c", "nginx.conf", "-e", "error.log", "-g", "daemon off;"]
        proxy = subprocess.Popen([NGINX, *arguments])  # noqa: S603
        self.addCleanup(proxy.wait, PATIENCE_S)
        self.addCleanup(proxy.terminate)
        for _ in range(int(20 * PATIENCE_S)):
            with suppress(OSError), socket.create_connection(("127.0.0.1", self.ports[1]), 1):
                return
            if proxy.poll() is not None:
                break
            time.sleep(0.05)
        self.fail((self.place / "error.log").read_text())

    def _free(self, count: int) -> list[int]:
        with ExitStack() as held:
            lines = [held.enter_context(socket.socket()) for _ in range(count)]
            for line in lines:
                line.bind(("127.0.0.1", 0))
            return [line.getsockname()[1] for line in lines]

    def _certificate(self) -> None:
        made = [
            "openssl",
            "req",
            "-x509",
            "-newkey",
            "rsa:2048",
            "-nodes",
            "-days",
            "1",
            "-subj",
            "/CN=workshop.example",
        ]
        out = ["-keyout", str(self.place / "key.pem"), "-out", str(self.place / "certificate.pem")]
        subprocess.run([*made, *out], check=True, capture_output=True)  # noqa: S603

    def _settings(self) -> str:
        ours = (Path(settings.BASE_DIR) / "deploy" / "nginx.conf").read_text()
        for said, here in (
            ("listen 80;", f"listen 127.0.0.1:{self.ports[0]};"),
            ("listen 443 ssl http2;", f"listen 127.0.0.1:{self.ports[1]} ssl http2;"),
            ("    listen [::]:80;\n", ""),
            ("    listen [::]:443 ssl http2;\n", ""),
            ("127.0.0.1:8600", f"127.0.0.1:{self.port}"),
            ("/etc/iron-compass", str(self.place)),
            ("/var/cache/nginx-iron-compass", str(self.place / "cache")),
        ):
            self.assertIn(said, ours)
            ours = ours.replace(said, here)
        user = "user root;" if os.geteuid() == 0 else ""
        paths = "".join(f"{kind}_temp_path {kind};" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi"))
        return f"{user} pid nginx.pid; events {{}} http {{ access_log off; {paths} {ours} }}"

    def ask(self, way: str, path: str, *, within: float = PATIENCE_S, **headers: str) -> tuple[HTTPResponse, str]:
        line = HTTPSConnection("127.0.0.1", self.ports[1], timeout=within, context=ssl._create_unverified_context())  # noqa: S323
        line.request(way, path, headers=headers)
        answer = line.getresponse()
        said = answer.read().decode()
        line.close()
        return answer, said

    def slow(self, held: ExitStack) -> None:
        line: Any = held.enter_context(socket.create_connection(("127.0.0.1", self.ports[1])))
        line = ssl._create_unverified_context().wrap_socket(line)  # noqa: S323
        held.enter_context(line)
        line.sendall(b"POST /jobs/import/ HTTP/1.1\r\nHost: x\r\nContent-Length: 9999\r\n\r\nx")

    def test_it_leads_to_tls_tells_the_server_the_truth_and_lets_nobody_lie(self) -> None:
        with socket.create_connection(("127.0.0.1", self.ports[0])) as line:
            line.sendall(b"GET /sign-in/ HTTP/1.1\r\nHost: workshop.example\r\n\r\n")
            self.assertIn(b"Location: https://workshop.example/sign-in/", line.recv(1000))
        answer, said = self.ask("GET", "/", **{"X-Forwarded-For": "203.0.113.9", "X-Forwarded-Proto": "http"})
        self.assertEqual((answer.status, said), (200, "127.0.0.1 https"))

    def test_slow_senders_wait_in_it_and_nobody_behind_them(self) -> None:
        with ExitStack() as held:
            for _ in range(SLOW):
                self.slow(held)
            self.assertEqual(self.ask("GET", "/", within=12.0)[0].status, 200)  # they are sent away after 15 s

    def test_sign_ins_have_a_rate_and_files_a_size(self) -> None:
        said = [self.ask("GET", "/sign-in/")[0].status for _ in range(24)]
        self.assertEqual((said[:20].count(200), said[-1]), (20, 429))
        self.assertEqual(self.ask("POST", "/jobs/import/", **{"Content-Length": "27000000"})[0].status, 413)

    def test_while_the_server_is_away_it_says_so_and_keeps_what_never_changes(self) -> None:
        self.assertEqual(self.ask("GET", "/static/a.css")[0].status, 200)
        self.server_process.kill()
        self.server_process.wait(5)
        time.sleep(1)  # its worker sees that it is alone
        answer, said = self.ask("GET", "/")
        self.assertEqual((answer.status, answer.getheader("Retry-After")), (503, "5"))
        self.assertIn("being started", said)
        self.assertEqual(self.ask("GET", "/static/a.css")[0].status, 200)
