"""When the invoice moves: making a review, ticking, accepting what was ticked."""

import uuid
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any

from django.db.models import QuerySet
from django.utils import timezone

from cutting.prices.repricing import Method, MovedCost, by_factor, reprice
from cutting.quantities import UnitPrice, round_half_up, storable_money, tray_sticker
from rooms.common.db.keys import own_key
from rooms.common.db.writing import Sent, kept_by, write
from rooms.common.errors import BadInput, Refused
from rooms.pricebook.actions.prices import NewPrice, Origin, carried, set_prices
from rooms.pricebook.models import Price, Version
from rooms.pricebook.queries.product_terms import tray_of
from rooms.pricing.models import NewCost, Review, ReviewLine
from rooms.pricing.queries.depending import Depending, FullCosts, depending, standing_of
from rooms.shop.queries.dates import said_day
from wording.plan import moved_pencil
from wording.price import comfort_words

SHARE_PLACES = 6


@dataclass(frozen=True)
class Moving:
    """New costs by the piece's id, and where they come from. `key` makes a repeat harmless."""

    key: str
    source: str
    costs: dict[int, UnitPrice]
    method: str = Method.FULL.value


def start_review(
    moving: Moving, by_id: int | None, at: Any = None, known: list[Depending] | None = None
) -> Review:
    """Work out every product that rests on those pieces. Nothing changes yet.

    `known`: what depends on which piece, where the caller has just asked.
    Raises BadInput when no cost is given or no price rests on the pieces.
    """
    key = own_key(moving.key)
    if not moving.costs:
        raise BadInput("New costs: there is none; fill in what a piece costs now.")
    words = ", ".join(f"{price.amount:f} a {price.per.value}" for price in moving.costs.values())
    sent = Sent(key, "review", f"new cost {words}", {"costs": moving.costs})
    with write(key=sent, recorded=kept_by(Review, key, by="pk")) as door:
        if door.first is not None:
            return door.first
        rows = depending() if known is None else known
        rows = [row for row in rows if row.piece_id in moving.costs]
        if not rows:
            raise BadInput("New costs: no price rests on these pieces, so nothing moves.")
        review = Review.objects.create(
            pk=key,
            source=moving.source,
            method=moving.method,
            made_by_id=by_id,
            made_at=at or timezone.now(),
        )
        costs = NewCost.objects.bulk_create(
            NewCost(review=review, piece_id=piece, amount=price.amount, per=price.per.value)
            for piece, price in moving.costs.items()
        )
        by_piece = {cost.piece_id: cost for cost in costs}
        full = FullCosts(rows)
        lines = [_line(review, row, by_piece[row.piece_id], full) for row in rows]
        lines.sort(key=lambda pair: pair[0])
        ReviewLine.objects.bulk_create([line for _, line in lines])
    return review


def _line(
    review: Review, row: Depending, cost: NewCost, full: FullCosts
) -> tuple[Decimal, ReviewLine]:
    """The line, and what its margin gains (below 0: loses) if nothing changes."""
    full_cost = full.cost(row, cost.price)
    line = ReviewLine(
        review=review,
        product=row.product,
        price=row.price,
        cost=cost,
        paid_then=storable_money(row.paid.to(cost.price.per)),
        by_factor=storable_money(by_factor(row.price.cost, row.paid, cost.price)),
        in_full=None if full_cost is None else storable_money(full_cost),
    )
    moved = _work_out(line, review.method)
    return moved.margin_now - moved.margin_before, line


WORKED_OUT = (
    "proposed",
    "margin_before",
    "margin_now",
    "margin_proposed",
    "why",
    "sticker",
    "comfort",
    "pencil",
)


def _work_out(line: ReviewLine, method: str) -> MovedCost:
    """Write what the line shows by a method, with the product's settings of this moment."""
    product, cost, now = line.product, line.new_cost(method), line.cost.price
    line.price.product = product
    standing = standing_of(line.price)
    moved = reprice(standing, cost)
    line.proposed, line.why = moved.price, moved.proposal.why
    line.margin_before = round_half_up(moved.margin_before, SHARE_PLACES)
    line.margin_now = round_half_up(moved.margin_now, SHARE_PLACES)
    line.margin_proposed = round_half_up(moved.proposal.margin, SHARE_PLACES)
    tray = tray_of(product)
    limit = product.family.comfort if product.family_id else None
    line.sticker = tray_sticker(line.proposed, tray) if tray else None
    line.comfort = (
        comfort_words(line.proposed, tray, limit, product.portions) if tray and limit else ""
    )
    working = moved_pencil(standing, cost, (line.price.paid or now, now), moved)
    line.pencil = [[step.words, step.numbers] for step in working.steps]
    return moved


def open_review(pk: uuid.UUID) -> Review:
    review = Review.objects.select_for_update().filter(pk=pk).first()
    if review is None:
        raise BadInput("Review: there is no such review.")
    if not review.is_open:
        raise Refused("Review: it is closed; look at its version, or start a new one.")
    return review


@write()
def choose_method(pk: uuid.UUID, method: str) -> Review:
    """Propose anew by the other method; ticks stay."""
    if method not in list(Method):
        raise BadInput(f"Method: “{method}”; full or factor is right.")
    review = open_review(pk)
    if review.method != method:
        review.method = method
        _raise(review, "method")
        lines = list(
            waiting(review).select_related(
                "price", "cost", "product__family__ending", "product__ending", "product__tray"
            )
        )
        for line in lines:
            _work_out(line, method)
        ReviewLine.objects.bulk_update(lines, WORKED_OUT, batch_size=200)
    return review


@write()
def tick(pk: uuid.UUID, shown: set[int], ticked: set[int]) -> None:
    """Of the lines a page shows, these are ticked and the others are not."""
    _tick(open_review(pk), shown, ticked)


def _tick(review: Review, shown: Collection[int], ticked: Collection[int]) -> None:
    lines, on = waiting(review), set(shown) & set(ticked)
    changed = lines.filter(pk__in=on, is_ticked=False).update(is_ticked=True)
    changed += lines.filter(pk__in=set(shown) - on, is_ticked=True).update(is_ticked=False)
    if changed:
        _raise(review)


@write()
def tick_all(pk: uuid.UUID, *, on: bool) -> None:
    review = open_review(pk)
    if waiting(review).filter(is_ticked=not on).update(is_ticked=on):
        _raise(review)


def _raise(review: Review, *names: str) -> None:
    """What the review shows is another thing now."""
    review.revision += 1
    review.save(update_fields=["revision", *names])


def waiting(review: Review) -> QuerySet[ReviewLine]:
    """Lines that were not accepted yet."""
    return review.lines.filter(version=None)


@dataclass(frozen=True)
class Accepting:
    """What a press of the button says: its key, the lines of its page and those that are ticked there, from
    when the prices hold. `seen`: the revision of the review that the page showed, None where no page did;
    `agreed`: the prices to come that it told, by `ToCome.mark`."""

    key: uuid.UUID
    ticked: frozenset[int] = frozenset()
    effective_on: date | None = None
    shown: frozenset[int] = frozenset()
    seen: int | None = None
    agreed: str = ""


class ToCome(Refused):
    """Other prices of these products are set for days to come. Sent again with its mark, it is meant."""

    def __init__(self, told: list[str], mark: str) -> None:
        super().__init__(
            f"Prices are set for days to come: {'; '.join(told)}. Nothing was saved yet."
        )
        self.told, self.mark = told, mark


def accept(pk: uuid.UUID, by_id: int | None, wanted: Accepting, at: Any = None) -> Version:
    """Put the ticked prices in the book as one version. The others stay open; with none left the review is
    closed. The same key again changes nothing.

    Products that are not sold any more are left out. Raises BadInput where none is ticked. Refused, and
    nothing changes, when somebody changed the review since the page was shown, or when a ticked product got
    another price since the review was made; ToCome where prices are set for days to come.
    """
    values = {"review": pk, "ticked": sorted(wanted.ticked), "from": wanted.effective_on}
    sent = Sent(wanted.key, "accept prices", "prices accepted", values)
    with write(key=sent) as door:
        if door.first is not None:
            return Version.objects.get(review=pk)
        review = open_review(pk)
        _refuse_overtaken(review, wanted)
        _tick(review, wanted.shown, wanted.ticked)
        ticked = waiting(review).filter(is_ticked=True, product__is_sold=True)
        lines = list(ticked.select_related("product", "price", "cost__piece"))
        if not lines:
            raise BadInput(
                "Prices: none is ticked; tick those that go into the book, or close the review."
            )
        _refuse_stale(lines)
        _ask_of_what_comes(lines, wanted, timezone.localdate(at) if at else timezone.localdate())
        names = sorted({line.cost.piece.shown_name for line in lines})
        words = ", ".join(names[:4]) + (" and others" if len(names) > 4 else "")
        origin = Origin(
            by_id,
            kind=Version.Kind.INVOICE,
            effective_on=wanted.effective_on,
            why=f"{words}: {review.source}"[:200],
        )
        version = set_prices([_accepted(line, review.method) for line in lines], origin, at)
        if version is None:
            raise BadInput(
                "Prices: the ticked ones stand in the book as they are; tick others, or close the review."
            )
        waiting(review).filter(pk__in=[line.pk for line in lines]).update(version=version)
        review.version = version
        review.revision += 1
        if not waiting(review).exists():
            review.closed_at = at or timezone.now()
        review.save(update_fields=["version", "closed_at", "revision"])
    return version


def _refuse_overtaken(review: Review, wanted: Accepting) -> None:
    if wanted.seen is None or wanted.seen == review.revision:
        return
    ticked = waiting(review).filter(is_ticked=True).count()
    raise Refused(
        "Somebody changed this review since the page was shown: costs are"
        f" {review.get_method_display()} now, and {ticked} {'is' if ticked == 1 else 'are'} ticked. Nothing"
        " was saved; look at it below, then accept again."
    )


def _ask_of_what_comes(lines: Sequence[ReviewLine], wanted: Accepting, today: date) -> None:
    """Prices of these products that are set for days after today: what this acceptance replaces, and what takes
    over from it."""
    day = wanted.effective_on or today
    rows = Price.objects.coming(today).filter(product__in=[line.product_id for line in lines])
    rows = list(rows.select_related("product", "version"))
    mark = ",".join(str(pk) for pk in sorted(row.pk for row in rows))
    if not rows or wanted.agreed == mark:
        return
    told = []
    for row in rows:
        is_later = row.effective_on > day
        becomes = "takes over again on" if is_later else "is replaced; it was to hold from"
        told.append(
            f"{row.product} {row.amount:f} ({row.version}) {becomes} {said_day(row.effective_on)}"
        )
    raise ToCome(told, mark)


@write()
def close_review(pk: uuid.UUID, at: Any = None) -> Review:
    """What was not accepted never will be. Closed already: no change."""
    closed = Review.objects.exclude(closed_at=None).filter(pk=pk).first()
    if closed is not None:
        return closed
    review = open_review(pk)
    review.closed_at = at or timezone.now()
    review.save(update_fields=["closed_at"])
    return review


def _refuse_stale(lines: list[ReviewLine]) -> None:
    current = Price.objects.current(products=[line.product_id for line in lines])
    now = {price.product_id: price.pk for price in current}
    stale = [str(line.product) for line in lines if now.get(line.product_id) != line.price_id]
    if stale:
        raise Refused(
            f"Prices: {', '.join(stale[:5])}{' and others' if len(stale) > 5 else ''} changed "
            "since this review was made, so nothing was saved. Start a new review."
        )


def _accepted(line: ReviewLine, method: str) -> NewPrice:
    """The proposed price on its new cost and invoice; what it rests on stays."""
    kept = carried(line.price, line.product, line.proposed)
    return replace(kept, cost=line.new_cost(method), paid=line.cost.price)
