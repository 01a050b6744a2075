"""The chain of a lot, as the tests of trays build it."""

from tests.rooms.trays.conftest import chain, clean_grinder, numbered, printer, size

__all__ = ["chain", "clean_grinder", "numbered", "printer", "size"]
