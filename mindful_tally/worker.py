"""The web server's worker: gunicorn's threads, with an end for whoever does not send what they began.

A few connections that announce a body and send none of it would otherwise hold every thread.
"""

import socket
import threading
import time
from contextlib import suppress
from typing import Any

from gunicorn.workers.gthread import ThreadWorker

LOOKS_EVERY = 0.5


class Watch:
    """Ends the reading of connections that are not done in time."""

    def __init__(self) -> None:
        self.ends: dict[Any, float] = {}
        self.lock = threading.Lock()
        threading.Thread(target=self._look, daemon=True, name="watch").start()

    def until(self, connection: Any, seconds: float) -> None:
        with self.lock:
            self.ends[connection] = time.monotonic() + seconds

    def done(self, connection: Any) -> None:
        with self.lock:
            self.ends.pop(connection, None)

    def _look(self) -> None:
        while True:
            time.sleep(LOOKS_EVERY)
            now = time.monotonic()
            with self.lock:
                late = [one for one, end in self.ends.items() if end < now]
                for one in late:
                    del self.ends[one]
            for one in late:
                with suppress(OSError):  # it has gone by itself
                    one.sock.shutdown(socket.SHUT_RD)


class TimedWorker(ThreadWorker):  # type: ignore[misc]
    """A request's head comes in `head` seconds, its whole body in `body`; between two bytes of it, and while
    an answer is taken, nobody is silent for `silence`."""

    head, body, silence = 10.0, 60.0, 10.0

    def init_process(self) -> None:
        self.watch = Watch()
        super().init_process()

    def handle(self, conn: Any) -> Any:
        self.watch.until(conn, self.head)
        try:
            return super().handle(conn)
        finally:
            self.watch.done(conn)

    def handle_request(self, req: Any, conn: Any) -> Any:
        self.watch.until(conn, self.body)
        conn.sock.settimeout(self.silence)
        return super().handle_request(req, conn)
