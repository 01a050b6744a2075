"""A tray set with its tare, products with numbers, a printer that answers."""

import pytest

from rooms.grinder.actions.batch import clean_down
from rooms.trays.clients.printer import NotPrinted
from tests.conftest import person
from tests.rooms.trays.helpers import KEY, Chain, flat_iron, tray_set


@pytest.fixture
def size(shop):
    return tray_set()


@pytest.fixture
def numbered(shop):
    return flat_iron()


class FakePrinter:
    """What was sent, in order; `trouble` is what it says instead of printing."""

    def __init__(self):
        self.out, self.trouble = [], ""

    def send(self, name, drawn):
        if self.trouble:
            raise NotPrinted(self.trouble)
        if name not in [one for one, _ in self.out]:
            self.out.append((name, drawn))


@pytest.fixture
def printer(monkeypatch):
    fake = FakePrinter()
    monkeypatch.setattr("rooms.trays.actions.printing.send", fake.send)
    return fake


@pytest.fixture
def clean_grinder(shop):
    for what in ("cleaned", "set_up"):
        clean_down(KEY(), what, person("ines").pk)


@pytest.fixture
def chain(client, clean_grinder, solving, fill, weighed, numbered, size, printer):
    """A bag of lot L40 cut, its trim ground with other trim, trays of the batch."""
    return Chain(client, fill, weighed, size)
