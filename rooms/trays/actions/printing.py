"""The printer's queue: each label once, in order, reprints marked as such."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from time import monotonic
from typing import Any

from django.db.models import QuerySet
from django.utils import timezone

from cutting.errors import BadValue
from cutting.labels.tray_life import SOLD_FROM
from cutting.quantities import Weight
from drawings.label import LabelPicture
from rooms.common.db.writing import Recorded, Sent, write
from rooms.common.errors import BadInput, Refused
from rooms.common.paper.labels import as_pdf, as_png
from rooms.grinder.queries.claims import over_its_label
from rooms.pricebook.models import Product, Version
from rooms.pricebook.queries.book import prices_on
from rooms.pricebook.queries.book import reprint as reprint_list
from rooms.trays.clients.printer import Drawn, NotPrinted, send
from rooms.trays.models import PrintJob, ProductLabel, Tray
from rooms.trays.queries.held import held_trays, refuse_held_tray
from rooms.trays.queries.labelling import (
    BESIDE,
    card_document,
    case_document,
    duties_beside,
    label_rules,
    picture_of_job,
    tag_document,
)

CLAIM = timedelta(seconds=20)
"""Whoever sends a label has so long; then somebody else sends it again, under the same name."""
MOST_AT_ONCE = 20
PATIENCE = 2.0
"""Seconds after which whoever asked goes on: what still waits is sent when the page asks again."""


def queue_tray(
    tray: Tray, by_id: int | None, copy: int = 0, beside: Sequence[str] | None = None
) -> PrintJob:
    """Its label waits for the printer, and behind it the one with what did not fit: `beside`, worked out
    where it is None."""
    document, stock = tray.label_now, label_rules().stock
    if beside is None:
        beside = duties_beside(document, stock)
    title = f"{document['product']['name']}, {tray.net:f} {tray.unit}"
    parts = [(document, title)]
    if beside:
        parts.append((document | {BESIDE: list(beside)}, f"{title}: {', '.join(beside)}"))
    jobs = [
        PrintJob.objects.create(
            kind=PrintJob.Kind.TRAY,
            tray=tray,
            title=words[:120],
            document=each,
            stock=stock,
            copy=copy,
            made_at=timezone.now(),
            by_id=by_id,
        )
        for each, words in parts
    ]
    return jobs[0]


def label_again(tray: Tray, by_id: int | None) -> None:
    """A tray that is for sale again bears the label that says so: one is queued where the last that came
    out tells something else, or none came out."""
    waits = tray.jobs.filter(state=PrintJob.State.WAITING, document=tray.label_now)
    last = tray.jobs.filter(state=PrintJob.State.PRINTED).exclude(document__has_key=BESIDE).last()
    if waits.exists() or (last is not None and last.document == tray.label_now):
        return
    printed = tray.jobs.filter(state=PrintJob.State.PRINTED, document=tray.label_now)
    queue_tray(tray, by_id, printed.count())


def reprint(key: uuid.UUID, tray_id: uuid.UUID, by_id: int | None) -> PrintJob:
    """The label again, marked as a reprint. The same key again changes nothing.

    Raises Refused while the first still waits for the printer, for a tray that is not for sale, for a lot
    that is held and a claim that the tester refuted.
    """
    sent = Sent(key, "reprint", "a label again", {"tray": tray_id})
    with write(key=sent, recorded=lambda: _job(key)) as door:
        if door.first is not None:
            return door.first
        rows = Tray.objects.select_related("mark", "from_batch")
        tray = rows.select_for_update(of=("self",)).filter(pk=tray_id).first()
        if tray is None:
            raise BadInput("Tray: there is no such tray.")
        if tray.state not in SOLD_FROM:
            raise Refused(
                f"{tray} is {tray.get_life_display()}; only what is for sale has a label."
            )
        refuse_held_tray(tray)
        why = over_its_label(tray.from_batch) if tray.from_batch is not None else ""
        if why:
            raise Refused(f"{tray}: {why}.")
        if tray.jobs.filter(state=PrintJob.State.WAITING).exists():
            raise Refused(f"{tray}: its label waits for the printer still.")
        printed = tray.jobs.exclude(state=PrintJob.State.DROPPED)
        copies = printed.filter(document=tray.label_now).count()
        job = queue_tray(tray, by_id, copies)
        PrintJob.objects.filter(pk=job.pk).update(key=key)
        job.key = key
    return job


def _job(key: uuid.UUID) -> Recorded | None:
    row = PrintJob.objects.filter(key=key).first()
    return row and Recorded(row)


def print_tags(key: uuid.UUID, number: int, by_id: int | None) -> int:
    """The shelf tags that a version of the price book makes wrong, into the queue; how many. The same key
    again changes nothing. Raises BadInput for a version that is not there."""
    with write():
        version = Version.objects.filter(number=number).first()
        if version is None:
            raise BadInput(f"Version: there is no version {number} of the price book.")
        tags = reprint_list(version)
        for tag in tags:
            own = uuid.uuid5(key, str(tag.product.pk))
            PrintJob.objects.get_or_create(
                key=own,
                defaults={
                    "kind": PrintJob.Kind.TAG,
                    "product": tag.product,
                    "title": str(tag.product)[:120],
                    "document": tag_document(tag.product, tag.price),
                    "stock": "tag",
                    "made_at": timezone.now(),
                    "by_id": by_id,
                },
            )
    return len(tags)


def print_card(key: uuid.UUID, product_id: int, by_id: int | None) -> PrintJob:
    """The card of a product for the service counter into the queue. The same key again changes nothing.
    Raises BadInput for a product that is not sold, Refused for one without a price today."""
    sent = Sent(key, "print card", "a card", {"product": product_id})
    with write(key=sent, recorded=lambda: _job(key)) as door:
        if door.first is not None:
            return door.first
        rows = Product.objects.select_related("cut__muscle")
        product = rows.filter(pk=product_id, is_sold=True).first()
        if product is None:
            raise BadInput("Product: choose one that is sold.")
        price = prices_on(timezone.localdate(), [product.pk]).get(product.pk)
        if price is None:
            raise Refused(f"{product}: it has no price today; set one that holds.")
        return PrintJob.objects.create(
            key=key,
            kind=PrintJob.Kind.CARD,
            product=product,
            title=f"Card of {product}"[:120],
            document=card_document(product, price),
            stock="card",
            made_at=timezone.now(),
            by_id=by_id,
        )


@dataclass(frozen=True)
class Case:
    """A case of trays, or of trim for others: what is in it, its net weight, its lot."""

    product_id: int
    net: Weight
    lot: str = ""


def print_case(key: uuid.UUID, case: Case, by_id: int | None) -> PrintJob:
    """The label of a case into the queue. The same key again changes nothing. Raises BadInput for a
    weight or a lot that its code cannot hold, Refused for a product without a GTIN."""
    values = {"product": case.product_id, "net": case.net, "lot": " ".join(case.lot.split())}
    sent = Sent(key, "print case", f"a case of {case.net}", values)
    with write(key=sent, recorded=lambda: _job(key)) as door:
        if door.first is not None:
            return door.first
        rows = ProductLabel.objects.select_related("product__cut")
        own = rows.filter(product=case.product_id).exclude(gtin="").first()
        if own is None:
            raise Refused("Case: the product has no GTIN; give it one under Labels.")
        number = f"{PrintJob.objects.filter(kind=PrintJob.Kind.CASE).count() + 1:06d}"
        today, words = timezone.localdate(), " ".join(case.lot.split())
        try:
            document = case_document(own.product, own.gtin, case.net, today, words, number)
        except BadValue as bad:
            raise BadInput(f"Case, {bad.field}: {bad.wrong}; {bad.right}.") from bad
        return PrintJob.objects.create(
            key=key,
            kind=PrintJob.Kind.CASE,
            title=f"Case of {own.product}, {case.net}"[:120],
            document=document,
            stock="case",
            made_at=timezone.now(),
            by_id=by_id,
        )


@dataclass(frozen=True)
class Printed:
    """How many came out, how many wait, what the printer says where it does not print."""

    came_out: int
    waiting: int
    trouble: str


def print_waiting() -> Printed:
    """Sends what waits, in order, until one does not come out. Whoever is killed in the middle loses
    nothing: the next who asks sends that label again under its name, and it comes out once."""
    came_out, trouble, began = 0, "", monotonic()
    while came_out < MOST_AT_ONCE and monotonic() - began < PATIENCE:
        job = _claim()
        if job is None:
            break
        picture = _drawn(job)
        if picture is None:
            continue
        try:
            send(job.key, Drawn(job.title, as_png(picture), as_pdf([picture])))
        except NotPrinted as why:
            trouble = str(why)
            own = PrintJob.objects.filter(pk=job.pk, state=PrintJob.State.WAITING)
            _let_go(own, said=trouble[:200])
            break
        own = PrintJob.objects.filter(pk=job.pk)
        _let_go(own, state=PrintJob.State.PRINTED, printed_at=timezone.now(), said="")
        came_out += 1
    waiting = PrintJob.objects.filter(state=PrintJob.State.WAITING).count()
    return Printed(came_out, waiting, trouble)


@write()
def _let_go(job: QuerySet[PrintJob], **values: Any) -> None:
    """Nobody is printing it any more; what became of it is kept."""
    job.update(claimed_at=None, **values)


def _drawn(job: PrintJob) -> LabelPicture | None:
    """What it is now: a tag and a card tell the price of the day they come out. A label that cannot be
    drawn is put aside, said in the queue, and stops no other."""
    try:
        _tell_price_of_today(job)
        return picture_of_job(job)
    except Exception as why:
        words = f"it cannot be drawn ({why})"[:200]
        _let_go(PrintJob.objects.filter(pk=job.pk), state=PrintJob.State.FAILED, said=words)
        return None


@write()
def _tell_price_of_today(job: PrintJob) -> None:
    if job.product_id is None:
        return
    product = Product.objects.select_related("cut__muscle").get(pk=job.product_id)
    price = prices_on(timezone.localdate(), [product.pk]).get(product.pk)
    if price is None:
        return
    tells = tag_document if job.kind == PrintJob.Kind.TAG else card_document
    job.document = tells(product, price)
    job.save(update_fields=["document"])


def _claim() -> PrintJob | None:
    """The first that waits and is of no held lot; None where there is none, or somebody is sending it."""
    with write():
        waiting = PrintJob.objects.select_for_update(of=("self",)).select_related("tray")
        job = _first_free(waiting.filter(state=PrintJob.State.WAITING).order_by("id"))
        now = timezone.now()
        if job is None or (job.claimed_at is not None and now - job.claimed_at < CLAIM):
            return None
        job.claimed_at = now
        job.save(update_fields=["claimed_at"])
    return job


def _first_free(waiting: QuerySet[PrintJob]) -> PrintJob | None:
    """The first of no held lot, also behind many that are."""
    start = 0
    while rows := list(waiting[start : start + MOST_AT_ONCE]):
        held = held_trays(one.tray for one in rows if one.tray is not None)
        free = next((one for one in rows if one.tray_id not in held), None)
        if free is not None:
            return free
        start += MOST_AT_ONCE
    return None


def drop_job(job_id: int) -> None:
    """A label that nobody wants any more leaves the queue; one that is printed stays printed."""
    with write():
        job = PrintJob.objects.select_for_update().filter(pk=job_id).first()
        if job is None:
            raise BadInput("Label: there is no such label in the queue.")
        if job.state == PrintJob.State.PRINTED:
            raise Refused("This label came out already.")
        job.state = PrintJob.State.DROPPED
        job.save(update_fields=["state"])
