"""Numbers of documents, given out one after the other; the keys that requests came with."""

from django.db import models


class Series(models.Model):
    """The last number given out of one kind of document: tests, deliveries, versions."""

    name = models.CharField(max_length=60, unique=True)
    last = models.PositiveIntegerField()

    class Meta:
        verbose_name_plural = "series"

    def __str__(self) -> str:
        return f"{self.name} {self.last}"


class SentKey(models.Model):
    """The key of a request that was recorded, with what it said. Written by `rooms.common.db.writing` alone."""

    action = models.CharField(max_length=40)
    key = models.UUIDField()
    digest = models.CharField(max_length=64)
    version = models.PositiveSmallIntegerField()
    """Of what the digest is made of; digests of two versions are not compared."""
    words = models.CharField(max_length=300)
    """What was sent, as a page tells it."""
    at = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=("action", "key"), name="one_content_per_key")
        ]

    def __str__(self) -> str:
        return f"{self.action} {self.key}"
