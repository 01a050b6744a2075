"""Pieces, the cuts they give, and the plans to get there. Shipped as data files, see data/."""

from django.db import models

from cutting.cutting_test import Role
from rooms.common.fields import PlainDecimalField


class Species(models.TextChoices):
    BEEF = "beef", "beef"
    PORK = "pork", "pork"
    LAMB = "lamb", "lamb"


class Pile(models.TextChoices):
    """Where a scrap goes; each has its own look on the rails."""

    PORTIONS = "portions", "portions, roasts, ribs"
    SECONDARY = "secondary", "secondary cuts"
    LEAN = "lean", "lean trim"
    FAT = "fat", "hard fat"
    SUET = "suet", "soft or kidney fat"
    BONE = "bone", "bone"
    DISCARD = "discard", "discard"
    PURGE = "purge", "purge"


ROLE_OF_PILE = {
    Pile.PORTIONS: Role.MAIN,
    Pile.SECONDARY: Role.SECONDARY,
    Pile.LEAN: Role.CREDIT,
    Pile.FAT: Role.CREDIT,
    Pile.SUET: Role.DISCARD,
    Pile.BONE: Role.CREDIT,
    Pile.DISCARD: Role.DISCARD,
    Pile.PURGE: Role.PURGE,
}
"""The role a pile usually plays; a plan may say otherwise."""

UNITS = [(unit, unit) for unit in ("lb", "oz", "kg", "g")]
ROLES = [(role.value, role.value) for role in Role]


class Cut(models.Model):
    """Something the piece gives. The muscle is the identity, the name is the shop's choice."""

    key = models.SlugField(unique=True)
    name = models.CharField(max_length=100)
    species = models.CharField(max_length=10, choices=Species)
    muscle = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ("species", "name")

    def __str__(self):
        return self.name


class Piece(models.Model):
    """A primal or subprimal as it is bought."""

    key = models.SlugField(unique=True)
    species = models.CharField(max_length=10, choices=Species)
    name = models.CharField(max_length=100)
    other_name = models.CharField(max_length=100, blank=True)
    item_number = models.CharField(max_length=20, blank=True)
    usual_weight = PlainDecimalField(null=True)
    usual_unit = models.CharField(max_length=2, choices=UNITS, default="lb")
    cautions = models.JSONField(default=list)
    position = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ("position", "name")

    def __str__(self):
        return f"{self.name} {self.item_number}".strip()


class Plan(models.Model):
    """One way to cut a piece: its outputs in order, with usual shares and targets."""

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="plans")
    key = models.SlugField()
    name = models.CharField(max_length=100)
    is_sawn = models.BooleanField(default=False)
    position = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ("piece", "position")
        constraints = [models.UniqueConstraint(fields=("piece", "key"), name="one_plan_a_key")]

    def __str__(self):
        return self.name


class PlanOutput(models.Model):
    """One pile of a plan. `share` is the usual share of the weight paid for."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="outputs")
    position = models.PositiveSmallIntegerField()
    cut = models.ForeignKey(Cut, null=True, on_delete=models.PROTECT)
    name = models.CharField(max_length=60)
    pile = models.CharField(max_length=10, choices=Pile)
    role = models.CharField(max_length=10, choices=ROLES)
    share = PlainDecimalField(null=True)
    target_value = PlainDecimalField(null=True)
    target_unit = models.CharField(max_length=2, choices=UNITS, blank=True)
    is_counted = models.BooleanField(default=False)
    in_case = models.BooleanField(default=False)

    class Meta:
        ordering = ("plan", "position")
        constraints = [
            models.UniqueConstraint(fields=("plan", "position"), name="one_output_a_place"),
            models.UniqueConstraint(fields=("plan", "name"), name="one_output_a_name"),
        ]

    def __str__(self):
        return self.name
