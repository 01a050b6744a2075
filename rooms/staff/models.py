"""People of the shop, the tablets they use, and who stood at the block when."""

import uuid
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import models
from simple_history.models import HistoricalRecords

from rooms.common.choices import WordChoices


class Person(AbstractUser):
    """Somebody who works here: a PIN for the block, a password for the office, both optional."""

    class Role(WordChoices):
        CUTTER = "cutter", "cutter"
        MANAGER = "manager", "manager"
        APPRENTICE = "apprentice", "apprentice"
        AUDITOR = "auditor", "auditor"

    role = models.CharField(max_length=20, choices=Role, default=Role.CUTTER)
    is_under_18 = models.BooleanField(default=False)
    pin = models.CharField(max_length=128, blank=True, editable=False)
    """Hashed like a password; empty when there is none."""

    history = HistoricalRecords(
        excluded_fields=["password", "pin", "last_login", "groups", "user_permissions"]
    )

    class Meta:
        ordering = ("first_name", "pk")

    def __str__(self) -> str:
        return self.first_name or self.username

    def save(self, *args: Any, **kwargs: Any) -> None:
        """A log-in changes only its own moment: that is no change of the person."""
        if kwargs.get("update_fields") == ["last_login"]:
            self.skip_history_when_saving = True
        super().save(*args, **kwargs)
        self.__dict__.pop("skip_history_when_saving", None)


class Tablet(models.Model):
    """A browser a manager has enrolled: there, names and PINs are enough."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=40)
    secret = models.CharField(max_length=64, editable=False)
    """SHA-256 of the long random secret in the tablet's cookie."""
    enrolled_at = models.DateTimeField()
    enrolled_by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    withdrawn_at = models.DateTimeField(null=True)

    history = HistoricalRecords(excluded_fields=["secret"])

    class Meta:
        ordering = ("name", "enrolled_at")

    def __str__(self) -> str:
        return self.name


class Turn(models.Model):
    """Somebody's time at the block of one tablet."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    person = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="turns")
    tablet = models.ForeignKey(Tablet, on_delete=models.PROTECT, related_name="turns")
    since = models.DateTimeField()
    until = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-since",)
        indexes = [models.Index(fields=("person", "-since"))]
        constraints = [
            models.UniqueConstraint(
                fields=("tablet",), condition=models.Q(until=None), name="one_open_turn_a_tablet"
            )
        ]

    def __str__(self) -> str:
        return f"{self.person} at {self.tablet}"
