"""A tray set with its tare, products with numbers, a printer that answers."""

import pytest

from rooms.trays.rules.printer import NotPrinted
from tests.rooms.trays.helpers import flat_iron, tray_set


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
