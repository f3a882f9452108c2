"""A gunicorn worker in which a slow sender costs a little memory and nobody's time.

Gunicorn's own threaded worker gives a thread to whoever begins to send: a few phones at the edge of the yard's
reception, or a few who mean harm, hold all of them. Waitress reads and writes in one loop, hands a request to a thread
only when it is there whole, and takes the answer off the thread as soon as it is worked out. Gunicorn keeps what it is
good at: the processes, their restarts, their end.
"""

import os
import resource
import time
from typing import Any, Final

from django.conf import settings
from gunicorn.workers.base import Worker
from waitress import create_server, wasyncore

_LARGEST_BODY: Final = 25 * 2**20  # a road test of 20 MB and what stands around it
_SILENT: Final = 60  # seconds after which a connection that says nothing is closed
_MOST_CONNECTIONS: Final = 4000  # a process
_KEPT_FILES: Final = 100  # descriptors for everything that is no connection
_TURN: Final = 0.5  # seconds the loop waits for something to happen


class BufferedWorker(Worker):  # type: ignore[misc]  # gunicorn has no types
    """Serve gunicorn's sockets with waitress's loop and its threads."""

    def run(self) -> None:
        """Serve until told to stop; then take nothing new and finish what has come."""
        channels: dict[int, Any] = {}
        server = create_server(
            self.wsgi,
            map=channels,
            sockets=[listener.sock for listener in self.sockets],
            threads=self.cfg.threads,
            connection_limit=_connections(),
            channel_timeout=_SILENT,
            cleanup_interval=10,
            max_request_body_size=_LARGEST_BODY,
            asyncore_use_poll=True,
            ident=None,
            **_proxy(),
        )
        while self.alive and os.getppid() == self.ppid:
            self.notify()
            wasyncore.loop(_TURN, use_poll=True, map=channels, count=1)
        listening = [one for one in channels.values() if getattr(one, "accepting", False)]
        for listener in listening:
            listener.accepting = False  # its socket stays open: the other workers share it
        end = time.monotonic() + self.cfg.graceful_timeout
        while time.monotonic() < end and any(_is_busy(channel) for channel in channels.values()):
            self.notify()
            wasyncore.loop(0.05, use_poll=True, map=channels, count=1)
        server.task_dispatcher.shutdown(timeout=max(0.0, end - time.monotonic()))


def _is_busy(channel: Any) -> bool:
    """Tell whether a request of it is being worked at, or its answer is not sent yet."""
    return bool(getattr(channel, "requests", None)) or bool(getattr(channel, "total_outbufs_len", 0))


def _connections() -> int:
    """Return how many connections a process may hold, having asked for as many files as the machine allows."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = _MOST_CONNECTIONS + _KEPT_FILES
    allowed = wanted if hard == resource.RLIM_INFINITY else min(wanted, hard)
    if soft != resource.RLIM_INFINITY and soft < allowed:
        resource.setrlimit(resource.RLIMIT_NOFILE, (allowed, hard))
    return allowed - _KEPT_FILES


def _proxy() -> dict[str, Any]:
    """Believe the proxy on this machine, where there is one, who came and whether by HTTPS; nobody else."""
    if not settings.IC_HTTPS:
        return {}
    return {
        "trusted_proxy": "127.0.0.1",
        "trusted_proxy_count": 1,
        "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"},
        "clear_untrusted_proxy_headers": True,
    }
