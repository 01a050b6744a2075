"""People of the shop, the tablets they use, and who stood at the block when."""

import uuid
from collections import Counter
from collections.abc import Iterable
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils.crypto import salted_hmac
from simple_history.models import HistoricalRecords

from rooms.common.db.append_only import AppendOnly
from rooms.common.db.choices import WordChoices
from rooms.common.db.writing import write


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
    sign_outs = models.PositiveIntegerField(default=0, editable=False)
    """Part of what an office log-in is signed with: signing out ends every copy of its cookie."""

    history = HistoricalRecords(
        excluded_fields=[
            "password",
            "pin",
            "sign_outs",
            "last_login",
            "groups",
            "user_permissions",
        ]
    )

    class Meta:
        ordering = ("first_name", "pk")

    def __str__(self) -> str:
        return self.first_name or self.username

    def _get_session_auth_hash(self, secret: Any = None) -> Any:
        """Django's own, which ends with the password, made to end with a sign-out too."""
        own = super()._get_session_auth_hash(secret)
        if not self.sign_outs:
            return own
        return salted_hmac(f"signed out {self.sign_outs}", own, secret=secret).hexdigest()

    def save(self, *args: Any, **kwargs: Any) -> None:
        """A log-in changes only its own moment, and how the password is hashed where that is out of date:
        that is no change of the person."""
        if kwargs.get("update_fields") in (["last_login"], ["password"]):
            self.skip_history_when_saving = True
        with write():
            super().save(*args, **kwargs)
        self.__dict__.pop("skip_history_when_saving", None)


def names(found: Iterable[Person]) -> dict[int, str]:
    """What they are called, by the id; of two with one name the log-in stands beside it."""
    some = list(found)
    many = Counter(str(one) for one in some)
    return {one.pk: f"{one} ({one.username})" if many[str(one)] > 1 else str(one) for one in some}


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


class SecurityEvent(AppendOnly):
    """Something that a manager may want to look into later."""

    class Kind(WordChoices):
        IN = "in", "signed in"
        OUT = "out", "signed out"
        WRONG = "wrong", "wrong PIN or password"
        LOCKED = "locked", "locked after wrong tries"
        REFUSED = "refused", "refused"
        CONFIRMED = "confirmed", "password given beside the PIN"
        PIN = "pin", "new PIN"
        PASSWORD = "password", "new password"
        TABLET = "tablet", "tablet enrolled"
        WITHDRAWN = "withdrawn", "tablet withdrawn"

    kind = models.CharField(max_length=9, choices=Kind)
    at = models.DateTimeField(db_index=True)
    person = models.ForeignKey(Person, null=True, on_delete=models.PROTECT, related_name="+")
    """Whom it is about; None for a name that nobody has."""
    by = models.ForeignKey(Person, null=True, on_delete=models.PROTECT, related_name="+")
    """Who did it, where that is somebody else."""
    tablet = models.ForeignKey(Tablet, null=True, on_delete=models.PROTECT, related_name="+")
    address = models.CharField(max_length=45, blank=True)
    words = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.kind}: {self.person or self.words}"
