"""The real web server against clients that do not send what they began."""

import os
import socket
import sys
import urllib.request

import pytest

from mindful_tally.bodies import WholeBody
from tests.journeys.conftest import free_port, new_shop, running

STALLED = b"POST /office/ HTTP/1.1\r\nHost: localhost\r\nContent-Length: 100000\r\n\r\nuse"
HALF_A_HEAD = b"POST /office/ HTTP/1.1\r\nHost: local"
THREADS = 2


@pytest.mark.long
@pytest.mark.parametrize("sent", [STALLED, HALF_A_HEAD], ids=["a body", "a head"])
def test_who_does_not_send_on_is_ended_and_others_are_served(tmp_path, sent):
    """Six such connections at two threads; nothing waits for them in the end."""
    port = free_port()
    url = f"http://127.0.0.1:{port}"
    environment = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.test",
        "TALLY_DB": str(tmp_path / "shop.sqlite3"),
    }
    new_shop(environment)
    worker = ["--worker-class", "tests.journeys.impatient.Impatient", "--workers", "1"]
    bind = ["-b", f"127.0.0.1:{port}", "--threads", f"{THREADS}", "--log-level", "critical"]
    command = [sys.executable, "-m", "gunicorn", "mindful_tally.wsgi", *worker, *bind]
    with running(command, url, env=environment):
        stalled = [socket.create_connection(("127.0.0.1", port)) for _ in range(3 * THREADS)]
        for one in stalled:
            one.sendall(sent)
        with urllib.request.urlopen(f"{url}/office/first/", timeout=60) as answer:
            assert answer.status == 200
        for one in stalled:
            one.settimeout(60)
            while one.recv(4096):
                pass  # an answer, if any, and then the end
            one.close()


class Cut:
    """A stream whose connection ends after these bytes."""

    def __init__(self, *parts):
        self.parts = list(parts)

    def read(self, size):
        part = self.parts.pop(0) if self.parts else b""
        self.parts[:0] = [part[size:]] if part[size:] else []
        return part[:size]

    readline = read


@pytest.mark.parametrize("way", ["read", "readline"])
def test_half_a_body_is_none(way):
    """“3.1” of “3.14” is a weight too; it must not be taken for one."""
    whole = WholeBody(Cut(b"value=3.14"), 10)
    assert whole.read() == b"value=3.14"
    assert whole.read() == b""
    with pytest.raises(ConnectionResetError):
        getattr(WholeBody(Cut(b"value=3.1"), 10), way)()
    parts = WholeBody(Cut(b"value=", b"3.14"), 10)
    assert (parts.read(6), parts.read(4)) == (b"value=", b"3.14")
