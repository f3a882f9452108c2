"""The engine that ``DATABASES`` names: Django's own, which does not ask the server anew before every request."""

import select
import time
from typing import Final

from django.db.backends.postgresql import base

_BUSY_S: Final = 30.0  # looked at within that time, a connection is not likely to have been dropped on its way unseen


class DatabaseWrapper(base.DatabaseWrapper):
    """A server that has gone says goodbye: its end of the line is closed, which is seen without asking it.

    Django asks ``select 1`` before the first query of every request. That is a way to the server and back for each
    page, to learn what a look at the socket tells. Who has been silent for longer is asked all the same: between
    machines a line may be cut without a word.
    """

    _looked_at = 0.0

    def is_usable(self) -> bool:
        """Return whether the connection can be used for the next request."""
        now = time.monotonic()
        recent, self._looked_at = now - self._looked_at < _BUSY_S, now
        if recent and self.connection is not None and not self.connection.closed:
            line = select.poll()
            line.register(self.connection.pgconn.socket, select.POLLIN | select.POLLRDHUP)
            if not line.poll(0):  # nobody has anything to say on an idle line, but a server that leaves
                return True
        return bool(super().is_usable())
