"""Choices of a field. The framework's have no types, so a checker is told what they are."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from enum import StrEnum

    class WordChoices(StrEnum):
        """A word that is stored, with the words that are shown."""

        label: str
        choices: list[tuple[str, str]]
        labels: list[str]
        values: list[str]

else:
    from django.db.models import TextChoices as WordChoices

__all__ = ["WordChoices"]
