"""Animals, primals, pieces, muscles, cuts and guides.

Most rows are shipped as data files (see data/) and edited by the shop. Each keeps what was
shipped last, so that an update changes only what the shop has left alone.
"""

from typing import Any

from django.db import models
from django.db.models import Q
from simple_history.models import HistoricalRecords

from cutting.sheet.cutting_test import Role
from cutting.sheet.machines import Machine
from rooms.common.db.choices import WordChoices
from rooms.common.db.fields import PlainDecimalField
from rooms.common.words import fold
from rooms.shop.queries.current import house
from wording import shopper


class Species(WordChoices):
    BEEF = "beef", "beef"
    PORK = "pork", "pork"
    LAMB = "lamb", "lamb"


class Pile(WordChoices):
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

ON_THE_BLOCK = "block"
"""The pile of a step that takes nothing off: the meat stays on the block."""

PILE_WORDS = {
    "portions": "portions",
    "secondary": "secondary cuts",
    "lean": "lean trim",
    "fat": "hard fat",
    "suet": "suet",
    "bone": "bone",
    "discard": "discard",
    "purge": "purge",
    ON_THE_BLOCK: "stays on the block",
}


class PlanKind(WordChoices):
    """How a plan came about."""

    PLAIN = "plain", "plain"
    MERCHANDISED = "merchandised", "merchandised"
    ALTERNATIVE = "alternative", "alternative"


class Counter(WordChoices):
    SELF = "self", "self-service"
    SERVICE = "service", "service counter"
    EITHER = "either", "either"


UNITS = [(unit, unit) for unit in ("lb", "oz", "kg", "g")]
MACHINES = [(machine.value, machine.value) for machine in Machine]
ROLES = [(role.value, role.value) for role in Role]


class InUse(models.Manager):
    """Rows that are in use. The others are kept for what refers to them."""

    def get_queryset(self) -> Any:
        return super().get_queryset().filter(is_dropped=False)


class Shipped(models.Model):
    """A row that may have come with the data files.

    `shipped`: the values that came with the last update, None for a row the shop made.
    """

    shipped = models.JSONField(null=True, editable=False)
    is_dropped = models.BooleanField(default=False)

    objects = InUse()
    everything = models.Manager()  # noqa: DJ012 (the linter does not know the first manager)

    class Meta:
        abstract = True


class Named(Shipped):
    """Something with names: the trade's two, the shop's own, and all it is found by."""

    LISTED: tuple[str, ...] = ()
    """What a list shows of it; the rest is its own page."""

    name = models.CharField(max_length=100)
    other_name = models.CharField(max_length=100, blank=True)
    house_name = models.CharField(max_length=100, blank=True)
    synonyms = models.JSONField(default=list, blank=True)
    search = models.TextField(editable=False, default="")

    class Meta:
        abstract = True

    def save(self, *args: Any, **kwargs: Any) -> None:
        self.search = search_text(self)
        super().save(*args, **kwargs)

    @classmethod
    def guide_by(cls, path: str) -> list[str]:
        """The columns of its own page over a relation, for a list to `defer`."""
        kept = {"id", *cls.LISTED}
        fields = cls._meta.concrete_fields
        return [f"{path}__{field.name}" for field in fields if field.name not in kept]

    @property
    def _commonwealth_first(self) -> bool:
        return house().names_first == "commonwealth" and bool(self.other_name)

    @property
    def shown_name(self) -> str:
        """The shop's own name, else the one its setting puts first."""
        if self.house_name:
            return self.house_name
        return self.other_name.split(";")[0] if self._commonwealth_first else self.name

    @property
    def second_name(self) -> str:
        """The other names in use, for the line below the first."""
        names = [self.other_name, self.name] if not self._commonwealth_first else [self.name]
        return "; ".join(n for n in names if n and n != self.shown_name)

    def found_by(self) -> list[str]:
        return [self.name, self.other_name, self.house_name, *self.synonyms]


def search_text(row: Named) -> str:
    return fold(" | ".join(text for text in row.found_by() if text))


class Muscle(Shipped):
    """The identity of a cut, whatever it is sold as."""

    class Kind(WordChoices):
        MUSCLE = "muscle", "muscle"
        GROUP = "group", "several muscles"
        MATERIAL = "material", "no single muscle"
        PART = "part", "part of a piece, no cut"

    key = models.SlugField(unique=True)
    latin = models.CharField(max_length=100, blank=True)
    name = models.CharField(max_length=100)
    kind = models.CharField(max_length=10, choices=Kind, default=Kind.MUSCLE)
    synonyms = models.JSONField(default=list, blank=True)
    note = models.CharField(max_length=200, blank=True)
    """What a part is, for who looks the word up."""
    doubt = models.CharField(max_length=200, blank=True)

    history = HistoricalRecords(excluded_fields=["shipped"])

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.latin or self.name


class Primal(Shipped):
    """A large part of an animal, as the map shows it."""

    key = models.SlugField(unique=True)
    species = models.CharField(max_length=10, choices=Species)
    name = models.CharField(max_length=100)
    other_name = models.CharField(max_length=100, blank=True)
    position = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ("position",)

    def __str__(self) -> str:
        return self.name


class Cut(Named):
    """Something the piece gives. The muscle is the identity, the name is the shop's choice."""

    LISTED = ("key", "name", "other_name", "house_name", "species", "least_age_days", "is_ground")

    key = models.SlugField(unique=True)
    species = models.CharField(max_length=10, choices=Species)
    muscle = models.ForeignKey(Muscle, null=True, on_delete=models.PROTECT, related_name="cuts")
    item_number = models.CharField(max_length=20, blank=True)
    cooking = models.CharField(max_length=120, blank=True)
    """How, in a few words."""
    done = models.CharField(max_length=100, blank=True)
    """How one sees that it is done, where no thermometer says so: "a fork turns in it"."""
    why = models.CharField(max_length=200, blank=True)
    """The reason of how it is cooked or cut, in one sentence."""
    grades = models.JSONField(default=dict, blank=True)
    """How it suits each way of cooking, the shop's own notes: {"grill": "best", "pan": "good"}."""
    serves = PlainDecimalField(null=True)
    """How many a pound of it serves, raw."""
    mistaken_for = models.CharField(max_length=200, blank=True)
    """What it is taken for, and how it differs from its neighbours."""
    story = models.CharField(max_length=200, blank=True)
    """Two lines a seller can say."""
    counter = models.CharField(max_length=10, choices=Counter, default=Counter.SELF)
    tray = models.CharField(max_length=20, blank=True)
    least_age_days = models.PositiveSmallIntegerField(null=True, blank=True)
    is_cut_across = models.BooleanField(default=False)
    is_cubed = models.BooleanField(default=False)
    is_tenderized = models.BooleanField(default=False)
    is_ground = models.BooleanField(default=False)
    doubt = models.CharField(max_length=200, blank=True)

    history = HistoricalRecords(excluded_fields=["shipped", "search"])

    class Meta:
        ordering = ("species", "name")

    def __str__(self) -> str:
        return self.shown_name

    @property
    def told(self) -> shopper.Told:
        """What a shopper is told of it."""
        return self.told_after(is_cubed=self.is_cubed, is_tenderized=self.is_tenderized)

    def told_after(self, *, is_cubed: bool, is_tenderized: bool) -> shopper.Told:
        """What a shopper is told of it after steps that cube or tenderize it."""
        return shopper.Told.of(
            self.grades,
            self.serves,
            house().unit,
            done=self.done,
            species=self.species,
            is_ground=self.is_ground,
            is_cubed=is_cubed,
            is_tenderized=is_tenderized,
        )

    def found_by(self) -> Any:
        muscle = [self.muscle.latin, self.muscle.name] if self.muscle_id else []
        return [*super().found_by(), self.item_number, *muscle]


class Piece(Named):
    """A primal or subprimal as it is bought, and its guide."""

    LISTED = ("key", "name", "other_name", "house_name", "item_number", "species", "least_age_days")
    """What a list shows of a piece; the rest is its guide."""

    key = models.SlugField(unique=True)
    species = models.CharField(max_length=10, choices=Species)
    primal = models.ForeignKey(Primal, null=True, on_delete=models.PROTECT, related_name="pieces")
    item_number = models.CharField(max_length=20, blank=True)
    item_number_source = models.CharField(max_length=200, blank=True)
    usual_weight = PlainDecimalField(null=True)
    usual_unit = models.CharField(max_length=2, choices=UNITS, default="lb")
    place = models.CharField(max_length=300, blank=True)
    landmarks = models.JSONField(default=list, blank=True)
    tools = models.JSONField(default=list, blank=True)
    looks = models.CharField(max_length=300, blank=True)
    drawing = models.JSONField(null=True, blank=True)
    """The name of a hand-made drawing, or a family with its parts; see data/README.md."""
    cautions = models.JSONField(default=list, blank=True)
    doubts = models.JSONField(default=list, blank=True)
    least_age_days = models.PositiveSmallIntegerField(null=True, blank=True)
    is_bought = models.BooleanField(default=False)
    """The shop buys it: its own choice, in no file."""
    position = models.PositiveSmallIntegerField(default=0)

    history = HistoricalRecords(excluded_fields=["shipped", "search"])

    class Meta:
        ordering = ("position", "name")

    def __str__(self) -> str:
        return f"{self.shown_name} {self.item_number}".strip()

    def found_by(self) -> Any:
        return [*super().found_by(), self.item_number]


class Step(Shipped):
    """One step of a piece's guide. `plans`: keys of the plans it belongs to, empty for all."""

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="steps")
    key = models.SlugField()
    position = models.PositiveSmallIntegerField(default=0)
    title = models.CharField(max_length=80)
    find = models.CharField(max_length=300)
    do = models.CharField(max_length=300)
    right = models.CharField(max_length=300)
    mistake = models.CharField(max_length=300)
    why = models.CharField(max_length=200, blank=True)
    """The reason of the rule, in one sentence."""
    piles = models.JSONField(default=list)
    touches = models.JSONField(default=list, blank=True)
    plans = models.JSONField(default=list, blank=True)
    caution = models.CharField(max_length=300, blank=True)
    tick = models.CharField(max_length=80, blank=True)
    """What is ticked and recorded with the test, such as "Gland out"."""
    school = models.CharField(max_length=40, blank=True)
    """One of two ways the trade disagrees on, "rule/choice"; the shop's rules choose."""
    machine = models.CharField(max_length=20, choices=MACHINES, blank=True)
    """The power machine it needs; nobody under 18 may run, set up or clean one."""

    history = HistoricalRecords(excluded_fields=["shipped"])

    class Meta:
        ordering = ("piece", "position", "id")
        constraints = [models.UniqueConstraint(fields=("piece", "key"), name="one_step_a_key")]

    def __str__(self) -> str:
        return self.title

    @property
    def pile_words(self) -> str:
        return ", ".join(PILE_WORDS[pile] for pile in self.piles)

    @property
    def machine_source(self) -> str:
        """Who keeps those under 18 from its machine: the law, or the house."""
        return Machine(self.machine).source if self.machine else ""

    def is_in(self, plan: "Plan | None") -> bool:
        """Whether it is one of the plan's steps, in this shop."""
        return self.is_of(plan) and self.is_house_way

    def is_of(self, plan: "Plan | None") -> bool:
        return not self.plans or (plan is not None and plan.key in self.plans)

    @property
    def is_house_way(self) -> bool:
        """What the shop does where the trade disagrees; both ways until it has chosen."""
        rule, _, choice = self.school.partition("/")
        return house().house_rules.get(rule, choice) == choice


HOUSE_PLANS = {"tunnel": "boning/tunnel"}
"""Plans that are one of two ways the trade disagrees on: they stand first where it is the house's."""


class Plan(Shipped):
    """One way to cut a piece: its outputs in order, with usual shares and targets."""

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="plans")
    key = models.SlugField()
    name = models.CharField(max_length=100)
    school = models.CharField(max_length=20, choices=PlanKind, default=PlanKind.PLAIN)
    note = models.CharField(max_length=400, blank=True)
    is_sawn = models.BooleanField(default=False)
    minutes_per_lb = PlainDecimalField(null=True)
    """What it takes at the block, assumed until the shop's own tests have measured it."""
    position = models.PositiveSmallIntegerField(default=0)

    history = HistoricalRecords(excluded_fields=["shipped"])

    class Meta:
        ordering = ("piece", "position", "id")
        constraints = [models.UniqueConstraint(fields=("piece", "key"), name="one_plan_a_key")]

    def __str__(self) -> str:
        return self.name

    @property
    def address(self) -> str:
        """What an output that goes on names: "beef-short-loin/sawn"."""
        return f"{self.piece.key}/{self.key}"

    @staticmethod
    def in_house_order(plans: Any) -> Any:
        """A queryset of one piece's plans, the house's way first where the trade has two."""
        ways = house().house_rules
        first = [
            key for key, way in HOUSE_PLANS.items() if ways[way.split("/")[0]] == way.split("/")[1]
        ]
        ours = models.Case(models.When(key__in=first, then=0), default=1)
        return plans.order_by(ours, "position", "id")


class PlanOutput(Shipped):
    """One pile of a plan. `share` is the usual share of the weight paid for."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="outputs")
    key = models.SlugField(max_length=60)
    position = models.PositiveSmallIntegerField()
    cut = models.ForeignKey(Cut, null=True, on_delete=models.PROTECT)
    name = models.CharField(max_length=60)
    pile = models.CharField(max_length=10, choices=Pile)
    role = models.CharField(max_length=10, choices=ROLES)
    share = PlainDecimalField(null=True)
    target_value = PlainDecimalField(null=True)
    target_unit = models.CharField(max_length=2, choices=UNITS, blank=True)
    thickness = models.CharField(max_length=20, blank=True)
    part = models.SlugField(max_length=20, blank=True)
    """The part of the piece's shape it is laid out on (data/shapes.toml); empty: it is not laid out."""
    zone = models.SlugField(max_length=20, blank=True)
    """The stretch of that part; empty: its share of the part, in the order of the outputs."""
    bones = models.CharField(max_length=10, blank=True)
    """Bones of one of them: "1", "2 to 4"."""
    usual_count = models.CharField(max_length=10, blank=True)
    """How many a piece of the usual weight gives: "6", "2 to 3"."""
    goes_on = models.CharField(max_length=121, blank=True)
    """The plan that cuts it on, where it is a whole piece: "beef-short-loin/sawn"."""
    made_by = models.JSONField(default=list, blank=True)
    """Keys of the steps that make it; empty where nobody said."""
    is_counted = models.BooleanField(default=False)
    in_case = models.BooleanField(default=False)

    history = HistoricalRecords(excluded_fields=["shipped"])

    class Meta:
        ordering = ("plan", "position", "id")
        constraints = [
            models.UniqueConstraint(fields=("plan", "key"), name="one_output_a_key"),
            models.UniqueConstraint(
                fields=("plan", "name"), condition=Q(is_dropped=False), name="one_output_a_name"
            ),
        ]

    def __str__(self) -> str:
        return self.name
