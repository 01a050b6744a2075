"""The processes that the shop asks, killed in an answer, garbled, slow, away: told in words, never an error."""

import socket
import threading
import uuid
from contextlib import suppress

import pytest

from rooms.common.clients import solver
from rooms.common.clients.processes import NoAnswer, Unreadable, ask_json
from rooms.common.errors import Refused
from rooms.grinder.clients import tester
from rooms.trays.clients import printer

WHOLE = b"HTTP/1.1 200 OK\r\nContent-Length: 500\r\n\r\n"
ENDLESS = b"HTTP/1.1 200 OK\r\n\r\n"
ANSWERS = {
    "killed in its answer": WHOLE + b'{"cut": [',
    "killed before it": b"",
    "garbled": b"\x00\xff\x17 not http at all\r\n\r\n",
    "another status line": b"HTTP/9.9 what\r\n\r\n",
    "no JSON": b"HTTP/1.1 200 OK\r\nContent-Length: 4\r\n\r\n<p/>",
    "a list": b"HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\n[]",
    "a word": b'HTTP/1.1 200 OK\r\nContent-Length: 6\r\n\r\n"yes"\n',
    "failed without a word": b"HTTP/1.1 500 Oh\r\nContent-Length: 900\r\n\r\n",
    "not UTF-8": b"HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\n\xff\xfe",
}


@pytest.fixture
def process():
    """A process that answers each request with these bytes and hangs up; ENDLESS: with more and more of them;
    None: with nothing, and stays."""
    listening, kept = [], []

    def run(answer):
        server = socket.create_server(("127.0.0.1", 0))
        listening.append(server)

        def serve():
            while True:
                try:
                    connection, _ = server.accept()
                except OSError:
                    return
                if answer is None:
                    kept.append(connection)
                    continue
                with connection, suppress(OSError):
                    connection.recv(65536)
                    connection.sendall(answer)
                    while answer is ENDLESS:
                        connection.sendall(b" " * 4096)

        threading.Thread(target=serve, daemon=True).start()
        return f"http://127.0.0.1:{server.getsockname()[1]}"

    yield run
    for server in listening:
        server.shutdown(socket.SHUT_RDWR)
    for one in (*listening, *kept):
        one.close()


def ask_all(settings, url):
    """What each of the three raises."""
    settings.SOLVER_URL = settings.TESTER_URL = settings.PRINTER_URL = url
    for path in ("/choose", "/worth", "/order", "/blend"):
        with pytest.raises(solver.Away):
            solver.ask(path, {}, seconds=0.3)
    with pytest.raises(Refused, match="Tester: "):
        tester.read_tester()
    with pytest.raises(printer.NotPrinted):
        printer.send(uuid.uuid4(), printer.Drawn("a label", b"png", b"pdf"))


@pytest.mark.parametrize("name", ANSWERS)
def test_an_answer_that_is_none_is_told(process, settings, name):
    ask_all(settings, process(ANSWERS[name]))


def test_who_does_not_answer_in_time_or_is_away_is_told(process, settings, monkeypatch):
    for module in (tester, printer):
        monkeypatch.setattr(module, "SECONDS", 0.2)
    ask_all(settings, process(None))
    with socket.create_server(("127.0.0.1", 0)) as gone:
        port = gone.getsockname()[1]
    ask_all(settings, f"http://127.0.0.1:{port}")


def test_an_answer_without_an_end_is_ended_by_its_size_and_by_the_time(process):
    url = process(ENDLESS)
    with pytest.raises(Unreadable):
        ask_json(url, seconds=5, largest=4096)
    with pytest.raises(NoAnswer):
        ask_json(url, seconds=0.2, largest=10**12)
