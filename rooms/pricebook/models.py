"""What the shop sells and at which price. A price is never changed: a new one follows it."""

from decimal import Decimal
from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import OuterRef, Q, Subquery
from django.utils import timezone
from simple_history.models import HistoricalRecords

from cutting.meat import CUBED, SEASONED, TENDERIZED, Preparation
from cutting.prices.ladder import Adder as CoreAdder
from cutting.prices.margins import TraySet
from cutting.quantities import Unit, UnitPrice
from rooms.catalog.models import UNITS, Counter, Cut, Piece
from rooms.common.db.append_only import AppendOnly
from rooms.common.db.choices import WordChoices
from rooms.common.db.fields import PlainDecimalField
from wording.pencil import SCHOOL_NAMES
from wording.shopper import Told

PERSON = settings.AUTH_USER_MODEL
DIRECTIONS = [("up", "up"), ("down", "down"), ("nearest", "nearest")]


class Ending(models.Model):
    """A rule of price endings. `bands`: [{"under": "20", "endings": ["0.49"]}, {"endings": …}]."""

    name = models.CharField(max_length=60, unique=True)
    bands = models.JSONField()
    direction = models.CharField(max_length=10, choices=DIRECTIONS, default="nearest")

    history = HistoricalRecords()

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name


class TraySize(models.Model):
    """A foam tray with what goes around it; costs are for one."""

    code = models.CharField(max_length=20, unique=True)
    inside = models.CharField(max_length=40, blank=True)
    fits = models.PositiveSmallIntegerField(default=1)
    """How many portions lie in it."""
    tray_cost = PlainDecimalField(default=Decimal(0))
    pad_cost = PlainDecimalField(default=Decimal(0))
    film_cost = PlainDecimalField(default=Decimal(0))
    label_cost = PlainDecimalField(default=Decimal(0))
    is_dropped = models.BooleanField(default=False)

    history = HistoricalRecords()

    class Meta:
        ordering = ("code",)

    def __str__(self) -> str:
        return f"no {self.code}"

    @property
    def cost(self) -> Decimal:
        return TraySet(self.tray_cost, self.pad_cost, self.film_cost, self.label_cost).cost


class Family(models.Model):
    """Products that are priced alike: their endings, and the sticker a shopper is at ease with."""

    name = models.CharField(max_length=60, unique=True)
    comfort = PlainDecimalField(null=True)
    ending = models.ForeignKey(Ending, null=True, on_delete=models.PROTECT, related_name="+")

    history = HistoricalRecords()

    class Meta:
        ordering = ("name",)
        verbose_name_plural = "families"

    def __str__(self) -> str:
        return self.name


class Makes(WordChoices):
    """What a value-adding step makes of meat."""

    TENDERIZED = TENDERIZED, "mechanically tenderized"
    CUBED = CUBED, "cubed"
    SEASONED = SEASONED, "seasoned or stuffed"


class Adder(models.Model):
    """A step that adds value, per unit of sale: its price, minutes, material and pick-up."""

    name = models.CharField(max_length=60, unique=True)
    price = PlainDecimalField(default=Decimal(0))
    minutes = PlainDecimalField(default=Decimal(0))
    material = PlainDecimalField(default=Decimal(0))
    pick_up = PlainDecimalField(default=Decimal(0))
    """Share of its weight that the step adds."""
    makes = models.CharField(max_length=12, choices=Makes, blank=True)
    """What the meat is after it, as label, card and trace tell it."""
    ingredients = models.CharField(max_length=400, blank=True)
    """What it adds, the most first, with commas between."""
    allergens = models.JSONField(default=list, blank=True)
    caution = models.CharField(max_length=200, blank=True)
    position = models.PositiveSmallIntegerField(default=0)
    is_dropped = models.BooleanField(default=False)

    history = HistoricalRecords()

    class Meta:
        ordering = ("position", "name")

    def __str__(self) -> str:
        return self.name

    @property
    def preparation(self) -> Preparation:
        """What the meat remembers of it."""
        names = [one.strip() for one in self.ingredients.rstrip(". ").split(",")]
        return Preparation(
            self.name, self.makes, tuple(one for one in names if one), tuple(self.allergens)
        )

    @property
    def core(self) -> CoreAdder:
        return CoreAdder(self.name, self.price, self.minutes, self.material, self.pick_up)


class Product(models.Model):
    """A cut as the shop sells it, or values it as a by-product."""

    cut = models.OneToOneField(Cut, on_delete=models.PROTECT, related_name="product")
    name = models.CharField(max_length=100)
    per = models.CharField(max_length=2, choices=UNITS, default="lb")
    shows_both = models.BooleanField(default=False)
    """The shelf tag shows the price of a lb and of a kg."""
    transfer = PlainDecimalField(null=True)
    """What the shop would pay itself for it: its value as a by-product."""
    ready_cut = PlainDecimalField(null=True)
    """What the supplier asks for it ready-cut."""
    target_margin = PlainDecimalField(null=True)
    floor_margin = PlainDecimalField(null=True)
    family = models.ForeignKey(Family, null=True, on_delete=models.PROTECT, related_name="products")
    ending = models.ForeignKey(Ending, null=True, on_delete=models.PROTECT, related_name="+")
    """Its own rule; else its family's, else the shop's."""
    tray = models.ForeignKey(TraySize, null=True, on_delete=models.PROTECT, related_name="+")
    tray_weight = PlainDecimalField(null=True)
    tray_unit = models.CharField(max_length=2, choices=UNITS, default="lb")
    portions = models.PositiveSmallIntegerField(null=True)
    """Portions in a usual tray."""
    shrink = PlainDecimalField(default=Decimal(0))
    """Share of packed value lost to markdowns and throw-outs."""
    tax = PlainDecimalField(default=Decimal(0))
    """Rate of the sales tax that is inside the price."""
    minutes = PlainDecimalField(null=True)
    """Cutting and packing, per unit of sale."""
    carries_labour = models.BooleanField(default=False)
    carries_packaging = models.BooleanField(default=False)
    adders = models.ManyToManyField(Adder, blank=True, related_name="products")
    counter = models.CharField(max_length=10, choices=Counter, default=Counter.SELF)
    story = models.CharField(max_length=200, blank=True)
    is_sold = models.BooleanField(default=True)

    history = HistoricalRecords()

    class Meta:
        ordering = ("cut__species", "name")

    def __str__(self) -> str:
        return self.name

    @property
    def preparations(self) -> list[Preparation]:
        """What its usual value-adding steps make of its meat: one query, none where they are loaded."""
        return [adder.preparation for adder in self.adders.all()]

    @property
    def is_tenderized(self) -> bool:
        """Whether its meat is mechanically tenderized: by the cut, or by a step it always gets."""
        return self.cut.is_tenderized or self._is_made(Makes.TENDERIZED)

    @property
    def is_cubed(self) -> bool:
        return self.cut.is_cubed or self._is_made(Makes.CUBED)

    @property
    def told(self) -> Told:
        """What a shopper is told of it: the cut's, after the product's own steps."""
        return self.cut.told_after(is_cubed=self.is_cubed, is_tenderized=self.is_tenderized)

    def _is_made(self, what: Makes) -> bool:
        return any(adder.makes == what for adder in self.adders.all())


class NeighbourPrice(AppendOnly):
    """What another shop asks, as somebody of ours saw it."""

    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="neighbours")
    place = models.CharField(max_length=60)
    amount = PlainDecimalField()
    per = models.CharField(max_length=2, choices=UNITS, default="lb")
    seen_on = models.DateField()
    by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("-seen_on", "-id")

    def __str__(self) -> str:
        return f"{self.amount} a {self.per} at {self.place}"


class Basis(AppendOnly):
    """What prices rest on, frozen: an expected test made of many, as a document."""

    piece = models.ForeignKey(Piece, on_delete=models.PROTECT, related_name="+")
    plan_name = models.CharField(max_length=220, blank=True)
    """As long as a test's, which names both plans of a piece that is cut by two."""
    document = models.JSONField()
    tests = models.JSONField()
    """[id, number] of every test in it."""
    made_at = models.DateTimeField()

    class Meta:
        ordering = ("-id",)
        verbose_name_plural = "bases"

    def __str__(self) -> str:
        return f"{len(self.tests)} tests of {self.piece}"


class Version(AppendOnly):
    """One change of the price book: who, when, why, and from which day on."""

    class Kind(WordChoices):
        TEST = "test", "from a cutting test"
        INVOICE = "invoice", "the invoice moved"
        HAND = "hand", "entered"
        FILE = "file", "from a file"
        UNDO = "undo", "taken back"

    number = models.PositiveIntegerField(unique=True)
    kind = models.CharField(max_length=10, choices=Kind, default=Kind.HAND)
    why = models.CharField(max_length=200, blank=True)
    school = models.CharField(max_length=20, blank=True)
    made_at = models.DateTimeField()
    made_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    effective_on = models.DateField()
    undoes = models.OneToOneField(
        "self", null=True, on_delete=models.PROTECT, related_name="undone_by"
    )
    digest = models.CharField(max_length=64, blank=True)
    """Of the file it was read from."""

    class Meta:
        ordering = ("-number",)

    def __str__(self) -> str:
        return f"version {self.number}"

    @property
    def school_words(self) -> str:
        return SCHOOL_NAMES.get(self.school, "").lower()


def _newest(day: Any, besides: Any = None, before: Any = None, without: Any = None) -> Any:
    """Prices of the outer product that hold on a day, the newest first."""
    rows = Price.objects.filter(product=OuterRef("pk"), effective_on__lte=day, off=None)
    if besides is not None:
        rows = rows.exclude(from_test=besides, version__kind=Version.Kind.TEST)
    if before is not None:
        rows = rows.filter(version__number__lt=before)
    if without is not None:
        rows = rows.exclude(version=without)
    return rows.order_by("-effective_on", "-id").values("pk")


class PriceQuerySet(models.QuerySet):
    def current(
        self,
        on: Any = None,
        *,
        products: Any = None,
        besides: Any = None,
        before: Any = None,
        without: Any = None,
    ) -> Any:
        """The price of each product that holds on a day (today), by an index seek each.

        `besides`: as if none had been built from this test (decided by hand or in a review they
        stand, whatever they rest on); `before`: as if versions from that number on
        were not there; `without`: as if this version were not.
        """
        rows = (
            Product.objects.order_by()
            if products is None
            else Product.objects.filter(pk__in=products).order_by()
        )
        newest = _newest(on or timezone.localdate(), besides, before, without)
        return self.filter(pk__in=rows.values_list(Subquery(newest[:1])))

    def latest_two(self, on: Any = None, *, products: Any = None) -> Any:
        """The current price of each product (of these) and the one before it."""
        newest = _newest(on or timezone.localdate())
        rows = Product.objects.order_by()
        if products is not None:
            rows = rows.filter(pk__in=products)
        return self.filter(
            Q(pk__in=rows.values_list(Subquery(newest[:1])))
            | Q(pk__in=rows.values_list(Subquery(newest[1:2])))
        )

    def coming(self, on: Any = None) -> Any:
        """Prices that do not hold yet, the next one first."""
        later = self.filter(effective_on__gt=on or timezone.localdate(), off=None)
        return later.order_by("effective_on", "-id")


class Price(AppendOnly):
    """One dated price of a product, with what it came from."""

    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="prices")
    version = models.ForeignKey(Version, on_delete=models.PROTECT, related_name="prices")
    amount = PlainDecimalField()
    effective_on = models.DateField()
    made_at = models.DateTimeField()
    made_by = models.ForeignKey(PERSON, null=True, on_delete=models.PROTECT, related_name="+")
    from_test = models.UUIDField(null=True, db_index=True)
    from_test_number = models.PositiveIntegerField(null=True)
    school = models.CharField(max_length=20, blank=True)
    cost = PlainDecimalField(null=True)
    """Of one unit of sale, by the school, before labour and packaging."""
    paid_amount = PlainDecimalField(null=True)
    """The invoice price its cost rests on."""
    paid_per = models.CharField(max_length=2, choices=UNITS, blank=True)
    basis = models.ForeignKey(Basis, null=True, on_delete=models.PROTECT, related_name="prices")

    objects = PriceQuerySet.as_manager()

    class Meta:
        ordering = ("-id",)
        indexes = [
            models.Index(fields=("product", "-effective_on", "-id"), name="newest_price"),
        ]

    def __str__(self) -> str:
        return f"{self.product} {self.amount}"

    @property
    def unit_price(self) -> UnitPrice:
        """Its product must be loaded with it."""
        return UnitPrice(self.amount, Unit(self.product.per))

    @property
    def paid(self) -> UnitPrice | None:
        return (
            None if self.paid_amount is None else UnitPrice(self.paid_amount, Unit(self.paid_per))
        )


class PriceOff(AppendOnly):
    """A first price was taken back before its day came: the product has none again."""

    price = models.OneToOneField(Price, on_delete=models.PROTECT, related_name="off")
    version = models.ForeignKey(Version, on_delete=models.PROTECT, related_name="off")
    """The undo that took it back."""

    class Meta:
        ordering = ("id",)
        verbose_name_plural = "prices off"

    def __str__(self) -> str:
        return f"{self.price} off"
