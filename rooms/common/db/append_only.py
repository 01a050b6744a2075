"""Rows that are written once."""

from typing import Any

from django.db import models

from rooms.common.db.lengths import must_fit


class AppendOnly(models.Model):
    """A row that is written once. Changing or deleting it is an error in the program."""

    class Meta:
        abstract = True

    def save(self, *args: Any, **kwargs: Any) -> None:
        if not self._state.adding:
            raise TypeError(f"{type(self).__name__} rows are only ever added")
        must_fit(self)
        super().save(*args, **kwargs)

    def delete(self, *args: Any, **kwargs: Any) -> None:
        raise TypeError(f"{type(self).__name__} rows are never deleted")
