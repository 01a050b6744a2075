"""Numbers of documents, given out one after the other."""

from django.db import models


class Series(models.Model):
    """The last number given out of one kind of document: tests, deliveries, versions."""

    name = models.CharField(max_length=60, unique=True)
    last = models.PositiveIntegerField()

    class Meta:
        verbose_name_plural = "series"

    def __str__(self) -> str:
        return f"{self.name} {self.last}"
