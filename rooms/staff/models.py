"""People of the shop."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Person(AbstractUser):
    """Somebody who works here. Log-in comes later; for now the block asks only who is there."""

    class Role(models.TextChoices):
        CUTTER = "cutter", "cutter"
        MANAGER = "manager", "manager"
        APPRENTICE = "apprentice", "apprentice"
        AUDITOR = "auditor", "auditor"

    role = models.CharField(max_length=20, choices=Role, default=Role.CUTTER)

    class Meta:
        ordering = ("first_name", "pk")

    def __str__(self):
        return self.first_name or self.username
