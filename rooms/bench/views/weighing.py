"""The bench's pages. Each reads the request, calls one reading or one action, and renders."""

import json
from typing import Any
from urllib.parse import urlencode
from uuid import UUID, uuid5

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from cutting.quantities import Unit
from rooms.bench.actions.finishing import NotWeighedOut, finish
from rooms.bench.actions.layout import Laying
from rooms.bench.actions.open_test import start_test
from rooms.bench.actions.pieces import put_back
from rooms.bench.actions.piles import add_pile
from rooms.bench.actions.record import add_note, check_step
from rooms.bench.actions.weighings import Capture, take_back, take_weight
from rooms.bench.forms import BackForm, StartForm, choice_rows, laying_of
from rooms.bench.models import CuttingTest, Tare, TestBag, Tub
from rooms.bench.queries.adding import usual_piles
from rooms.bench.queries.block import Glass, block
from rooms.bench.queries.choices import offers, opened_as
from rooms.bench.queries.clock import clock
from rooms.bench.queries.finishing import Agreed, unfinished
from rooms.bench.queries.front import front, to_open
from rooms.bench.queries.gave import gave
from rooms.bench.queries.next_cut import lay_address, next_cut
from rooms.bench.queries.open_tests import holder, open_tests
from rooms.bench.queries.opening import guard, of_bags
from rooms.bench.queries.reading import Proof
from rooms.bench.queries.rows import TestRows, load
from rooms.bench.queries.scales import scale_of, scales
from rooms.bench.queries.steps import step_at_block
from rooms.bench.queries.unplaced import waiting_of
from rooms.catalog.models import Piece, Pile
from rooms.catalog.queries.guide import Chosen, guide
from rooms.common.errors import BadInput, Refused
from rooms.common.web.forms import is_number
from rooms.common.web.refusals import refusal, told_by, told_in, told_in_fragment
from rooms.cooler.models import Bag
from rooms.shop.queries.current import house
from rooms.staff.block import by_id, taken_by, who
from rooms.staff.rights import Right, may

GRAMS = json.dumps({unit.value: f"{unit.grams:f}" for unit in Unit})
"""What one of each unit weighs, for the marker over the portions."""


@may(Right.LOOK)
@require_GET
def start_page(request: HttpRequest) -> HttpResponse:
    """Open tests, last sheets, and the pieces to start a test on."""
    before = request.GET.get("before", "")
    number = int(before) if before.isascii() and before.isdecimal() and len(before) < 9 else None
    pieces = to_open()
    context = {"front": front(number), "pieces": pieces, "before": number}
    return render(request, "bench/front.html", context)


def _not_opened(request: HttpRequest, refused: Refused, key: str) -> HttpResponse:
    """A repeated request leads to the test it has started already."""
    started = _started(request.POST.get("key", ""))
    return redirect("bench:test", started) if started else refusal(request, refused)


@may(Right.WEIGH)
@told_by(_not_opened)
def open_piece(request: HttpRequest, key: str) -> HttpResponse:
    """The form that opens a piece, and opening it."""
    piece = get_object_or_404(Piece, key=key)
    ids = request.GET.getlist("bag")
    bags = of_bags(ids) if ids else None
    plan = request.GET.get("plan", "")
    asked = request.GET.get("layout", "")
    rest = request.GET.get("rest", ""), request.GET.get("split", "")
    form = StartForm(piece, request.POST or None, plan=plan, bags=bags, layout=asked, rest=rest)
    view = guide(piece, Chosen(plan=form.plan_key() or plan))
    rows = choice_rows(view.plan, request.POST or None)
    if request.method == "POST" and form.is_valid() and all(row.is_valid() for row in rows):
        at = who(request)
        with told_in(form):
            test = start_test(
                form.opening(rows), at.id if at else None, laying=_laying(piece, form)
            )
            return redirect("bench:test", test.pk)
    status = 422 if form.is_bound else 200
    context = {
        "piece": piece,
        "form": form,
        "guide": view,
        "bags": bags,
        "guard": guard(piece, view.plan, form.packed_day()),
        "choice_rows": rows,
        "asked": urlencode([("bag", one) for one in ids]),
    }
    return render(request, "bench/open_piece.html", context, status=status)


def _laying(piece: Piece, form: StartForm) -> Laying | None:
    """The layout that a test is opened with, as its page was asked for."""
    asked = form.cleaned_data["layout"]
    return laying_of(piece, asked, uuid5(form.cleaned_data["key"], "layout")) if asked else None


def _started(key: str) -> UUID | None:
    """The test this opening has started already, when the request is a repeat."""
    try:
        test = CuttingTest.objects.filter(pk=UUID(key)).first()
    except ValueError:
        return None
    return test.pk if test else None


@may(Right.LOOK)
@require_GET
def open_bags(request: HttpRequest) -> HttpResponse:
    """The form for one or several bags of the cooler, all of one piece."""
    ids = request.GET.getlist("bag")
    piece = of_bags(ids).piece
    response = redirect("bench:open", piece.key)
    response["Location"] += "?" + urlencode([("bag", one) for one in ids])
    return response


@may(Right.LOOK)
@require_GET
def of_bag(request: HttpRequest, bag_id: UUID) -> HttpResponse:
    """The test a bag was opened for."""
    return redirect("bench:test", get_object_or_404(TestBag, bag=bag_id).test_id)


@may(Right.LOOK)
@require_GET
def bench(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """The block."""
    rows = rows_or_404(test_id)
    if rows.test.voided_at is not None:
        bags = Bag.objects.filter(pk__in=rows.test.void_bags).select_related("piece")
        return render(request, "bench/voided.html", {"test": rows.test, "bags": bags})
    if not rows.test.is_open:
        return redirect("bench:sheet", test_id)
    return bench_page(request, rows, request.GET.get("pile", ""))


@may(Right.WEIGH)
@require_POST
@told_in_fragment("bench/_refused.html")
def capture(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Take a weight by script: answers with the changing part of the bench."""
    by = taken_by(request, request.POST.get("turn", ""))
    rows = take_weight(test_id, _capture(request), by)
    return _block(request, rows, request.POST.get("output", ""))


@may(Right.WEIGH)
@require_POST
@told_by(
    lambda request, refused, test_id: bench_page(
        request, rows_or_404(test_id), request.POST.get("output", ""), refused, typed=request.POST
    )
)
def take(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Take a weight by plain form: answers with the whole page."""
    pile = request.POST.get("output", "")
    take_weight(test_id, _capture(request), by_id(request))
    return to_bench(test_id, pile)


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: bench_page(request, rows_or_404(test_id), "", refused))
def give_back(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Take the last weighing back."""
    rows = take_back(test_id, request.POST.get("weighing", ""), by_id(request))
    return to_bench(rows.test.pk, request.POST.get("output", ""))


@may(Right.WEIGH)
@require_POST
@told_in_fragment("bench/_refused.html")
def recall(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Take the last weighing back by script."""
    rows = take_back(test_id, request.POST.get("weighing", ""), by_id(request))
    return _block(request, rows, request.POST.get("output", ""))


@may(Right.LOOK)
@require_GET
def piece_gave(request: HttpRequest, piece: Any) -> HttpResponse:
    """What a plan gave in the shop's own tests, for the guide of its piece."""
    context = {"gave": gave(piece, request.GET.get("plan", ""))}
    return render(request, "bench/_gave.html", context)


@may(Right.LOOK)
@require_GET
def step(request: HttpRequest, test_id: UUID, number: int) -> HttpResponse:
    """One step of the guide, beside the scale."""
    return _step(request, _test(test_id), str(number))


@may(Right.WEIGH)
@require_POST
def check(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Tick a step's check or take the tick back; answers with the step."""
    number = request.POST.get("step", "")
    check_step(
        test_id,
        request.POST.get("key", ""),
        by_id(request),
        is_done=request.POST.get("done") == "1",
    )
    if request.headers.get("HX-Request"):
        test = _test(test_id)
        return _step(request, test, number, in_step=in_step(request, test))
    address = reverse("bench:test", args=[test_id])
    return HttpResponseRedirect(f"{address}?step={number}" if number.isdecimal() else address)


@may(Right.WEIGH)
@require_POST
@told_by(
    lambda request, refused, test_id: bench_page(
        request, rows_or_404(test_id), "", refused, note_typed=request.POST.get("text", "")
    )
)
def note(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Add a note; answers with the test's notes."""
    test = get_object_or_404(CuttingTest, pk=test_id)
    add_note(test, request.POST.get("key", ""), request.POST.get("text", ""), by_id(request))
    return to_bench(test_id, "") if test.is_open else redirect("bench:sheet", test_id)


@may(Right.WEIGH)
@require_POST
@told_by(
    lambda request, refused, test_id: bench_page(
        request,
        rows_or_404(test_id),
        "",
        refused,
        new_name=request.POST.get("name", ""),
        new_pile=request.POST.get("pile"),
    )
)
def another_pile(request: HttpRequest, test_id: UUID) -> HttpResponse:
    posted = request.POST.get
    rows = add_pile(test_id, posted("name", ""), posted("pile", ""), posted("cut", ""))
    return to_bench(test_id, str(rows.outputs[-1].pk))


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: bench_page(request, rows_or_404(test_id), "", refused))
def part_back(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Part of the piece goes back into the cooler."""
    form = BackForm(request.POST)
    words = "; ".join(error for errors in form.errors.values() for error in errors)
    if not form.is_valid():
        raise BadInput(f"Weight: {words}")
    data = form.cleaned_data
    put_back(test_id, data["key"], form.weight(), by_id(request), data["bag"])
    return redirect("bench:test", test_id)


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: bench_page(request, rows_or_404(test_id), "", refused))
def finish_test(request: HttpRequest, test_id: UUID) -> HttpResponse:
    posted = request.POST
    none_of = frozenset(int(one) for one in posted.getlist("none") if is_number(one))
    agreed = Agreed(posted.get("unweighed", ""), none_of)
    try:
        finish(test_id, posted.get("seen", ""), agreed=agreed)
    except NotWeighedOut as open_still:
        rows = rows_or_404(test_id)
        more = {"unfinished": unfinished(rows), "none_of": none_of}
        return bench_page(request, rows, "", open_still, **more)
    return redirect("bench:sheet", test_id)


# --- the small change -------------------------------------------------------------------


def rows_or_404(test_id: UUID, *, people: bool = False) -> TestRows:
    rows = load(test_id, people=people)
    if rows is None:
        raise Http404
    return rows


def _test(test_id: UUID) -> CuttingTest:
    return get_object_or_404(CuttingTest.objects.select_related("piece", "plan"), pk=test_id)


def in_step(request: HttpRequest, test: CuttingTest) -> bool:
    """The page had seen all but what it just did itself, so it may take the new revision."""
    return request.POST.get("seen") == str(test.revision - 1)


def _step(request: HttpRequest, test: CuttingTest, number: str, **more: Any) -> HttpResponse:
    context = {"at": step_at_block(test, number), **more}
    return render(request, "bench/_step.html", context)


def _capture(request: HttpRequest) -> Capture:
    posted = request.POST.get
    proof = None
    if posted("signature"):
        names = ("scale", "run", "sequence", "at", "unit", "division", "state", "tare", "signature")
        shown = posted("shown", posted("value", ""))
        proof = Proof(weight=shown, **{name: posted(name, "") for name in names})
    return Capture(
        key=posted("key", ""),
        output=posted("output", ""),
        value=posted("value", ""),
        unit=posted("unit", ""),
        division=posted("division", ""),
        portions=posted("portions", ""),
        is_typed=posted("typed") == "1",
        proof=proof,
        before=posted("before", ""),
        tub_before=posted("tub_before", ""),
        tub=posted("tub"),
    )


def _block(request: HttpRequest, rows: TestRows, pile: str) -> HttpResponse:
    """The fragments alone: nothing in them needs the request, so no context processor runs."""
    width, seen = request.headers.get("Tally-Glass", ""), request.POST.get("seen", "")
    has_taken = bool(rows.weighings) and getattr(rows.weighings[-1], "is_new", False)
    stands = block(rows, Glass(width, pile, seen, has_taken))
    context: dict[str, Any] = {
        "bench": stands,
        "next_cut": next_cut(rows) if rows.test.is_open else None,
    }
    if rows.test.unplaced_waits:
        waits = waiting_of(rows.test.pk)
        newest = waits[-1] if waits and str(waits[-1].key) == request.POST.get("key", "") else None
        words = f"{newest} recorded, not placed: {newest.why}." if newest is not None else ""
        context |= {"unplaced": waits, "unplaced_now": words}
    return HttpResponse(render_to_string("bench/_block.html", context))


def bench_page(
    request: HttpRequest, rows: TestRows, pile: str, refused: Refused | None = None, **typed: Any
) -> HttpResponse:
    scale = scale_of(request)
    tests, at = open_tests(scale.name), step_at_block(rows.test, request.GET.get("step", ""))
    context = {
        "bench": block(rows, Glass(chosen=pile)),
        "test": rows.test,
        "notes": rows.test.notes.select_related("by"),
        "kinds": Pile.choices,
        "refused": refused,
        "scale": scale,
        "scales": scales(),
        "holder": holder(tests),
        "open_tests": tests,
        "tares": Tare.objects.filter(is_dropped=False),
        "tubs": Tub.objects.filter(closed_at=None),
        "usual": usual_piles(rows) if not rows.outputs else [],
        "clock": clock(rows, at.step.key if at.step else ""),
        "units": list(Unit),
        "grams": GRAMS,
        "choices": offers(rows.test),
        "opened_as": opened_as(rows.test),
        "at": at,
        "next_cut": next_cut(rows),
        "lay_address": lay_address(rows),
        "unplaced": waiting_of(rows.test.pk) if rows.test.unplaced_waits else [],
        "may_void": not rows.weighings,
        "typed_unit": typed.get("typed", {}).get("unit", house().unit),
        **typed,
    }
    return render(request, "bench/bench.html", context, status=refused.status if refused else 200)


def to_bench(test_id: UUID, pile: str) -> Any:
    address = reverse("bench:test", args=[test_id])
    return HttpResponseRedirect(f"{address}?pile={pile}" if pile.isdecimal() else address)
