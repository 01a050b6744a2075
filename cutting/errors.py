"""One tree of errors. Every message names the field, the value and what would be right."""

from __future__ import annotations

from dataclasses import dataclass


class CuttingError(Exception):
    """Root of every error the core raises on purpose."""


class BadValue(CuttingError, ValueError):
    """A value the trade does not allow. `field` is a path a reader can find."""

    def __init__(self, field: str, wrong: str, right: str) -> None:
        self.field, self.wrong, self.right = field, wrong, right
        super().__init__(f"{field}: {wrong}; {right}")


class NothingSaleable(CuttingError):
    """No output goes to the case, so no saleable pound can carry the cost."""


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing wrong in a document: where, what, and what would be right."""

    path: str
    wrong: str
    right: str

    def __str__(self) -> str:
        return f"{self.path}: {self.wrong}; {self.right}"


class BadDocument(CuttingError):
    """A document that cannot be read. Carries every fault found, in reading order."""

    def __init__(self, faults: tuple[Fault, ...]) -> None:
        self.faults = faults
        super().__init__("\n".join(str(fault) for fault in faults))
