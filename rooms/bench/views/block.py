"""What is done at the block beside taking weights: the scale's holder, moves, tubs, choices, time."""

from pathlib import Path
from typing import Any
from uuid import UUID

from django.contrib.staticfiles import finders
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from rooms.bench.actions.layout import lay, take_layout_off
from rooms.bench.actions.piles import Chosen, choose, merge_piles, move_weighing, unmerge
from rooms.bench.actions.record import mark_time
from rooms.bench.actions.scales import take_scale
from rooms.bench.actions.tubs import choose_tub, close_tub, start_tub
from rooms.bench.forms import laying_of
from rooms.bench.models import CuttingTest
from rooms.bench.queries.adding import found_cuts, usual_piles
from rooms.bench.queries.block import Glass, block
from rooms.bench.queries.clock import clock
from rooms.bench.queries.next_cut import next_cut
from rooms.bench.queries.open_tests import holder_of, revision_of
from rooms.bench.queries.rows import TestRows, load
from rooms.bench.queries.scales import scale_named, scale_of
from rooms.bench.queries.tubs import tub_views
from rooms.bench.queries.unplaced import history_of, waiting_of
from rooms.bench.queries.weighings import weighings_view
from rooms.bench.views.weighing import bench_page, in_step, rows_or_404, to_bench
from rooms.catalog.models import Pile
from rooms.common.db.keys import own_key
from rooms.common.errors import BadInput, Refused
from rooms.common.web.doors import open_to_all
from rooms.common.web.refusals import Told, refusal, told_by
from rooms.shop.queries.current import house
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may

TUB_KINDS = [
    (Pile.LEAN, "lean trim"),
    (Pile.FAT, "hard fat"),
    (Pile.SUET, "soft or kidney fat"),
    (Pile.BONE, "bone"),
]
"""What a shared tub may take."""


@open_to_all
@require_GET
def worker(request: HttpRequest) -> HttpResponse:
    """The service worker, at the root, so that it may keep the bench's pages."""
    script = Path(finders.find("bench/js/worker.js")).read_bytes()
    response = HttpResponse(script, content_type="text/javascript")
    response["Cache-Control"] = "no-cache"
    return response


@may(Right.LOOK)
@require_GET
def stands(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """204 while a tablet has seen all there is; else what changed, and whose the scale is."""
    scale = scale_of(request)
    revision, holder = revision_of(test_id), holder_of(scale.name)
    if revision is None:
        return render(
            request, "bench/_refused.html", {"message": "This test was finished."}, status=410
        )
    held = str(holder.test_id) if holder else ""
    if request.GET.get("seen") == str(revision) and request.GET.get("holder", "") == held:
        return HttpResponse(status=204)
    rows = rows_or_404(test_id)
    glass = Glass(request.headers.get("Tally-Glass", ""), request.GET.get("output", ""))
    context = {
        "bench": block(rows, glass),
        "holder": holder,
        "scale": scale,
        "test": rows.test,
        "next_cut": next_cut(rows),
        "is_all": True,
        "unplaced": waiting_of(test_id) if rows.test.unplaced_waits else [],
    }
    return HttpResponse(render_to_string("bench/_block.html", context))


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: _told(request, test_id, "", refused))
def hold(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Take the scale over for this test."""
    take_scale(test_id, scale_of(request).name, by_id(request))
    return redirect("bench:test", test_id)


@may(Right.WEIGH)
@require_POST
def choose_scale(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """This tablet listens to another scale from now on."""
    wanted = scale_named(request.POST.get("scale", ""))
    if wanted is None:
        return refusal(request, BadInput("Scale: choose one of the shop's scales."))
    response = redirect("bench:test", test_id)
    response.set_cookie("scale", wanted.name, max_age=10 * 365 * 86400, samesite="Lax")
    return response


@may(Right.LOOK)
@require_GET
def weighings(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Every weighing of a test, to take back, move or merge."""
    return weighings_page(request, rows_or_404(test_id))


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: weighings_page(request, rows_or_404(test_id), refused))
def move(request: HttpRequest, test_id: UUID) -> HttpResponse:
    posted = request.POST.get
    to = posted("to", "")
    move_weighing(test_id, posted("weighing", ""), to, posted("saw", ""), by_id(request))
    return (
        to_bench(test_id, to) if posted("back") == "bench" else redirect("bench:weighings", test_id)
    )


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: weighings_page(request, rows_or_404(test_id), refused))
def merge(request: HttpRequest, test_id: UUID) -> HttpResponse:
    posted = request.POST.get
    if posted("undo"):
        unmerge(test_id, posted("undo"), by_id(request))
    else:
        merge_piles(test_id, posted("pile", ""), posted("into", ""), _saw(request), by_id(request))
    return redirect("bench:weighings", test_id)


def _saw(request: HttpRequest) -> str:
    """What the page showed of the pile that goes away."""
    return request.POST.get(f"saw-{request.POST.get('pile', '')}", "")


@may(Right.WEIGH)
@require_POST
@told_by(
    lambda request, refused, test_id: _told(request, test_id, request.POST.get("pile", ""), refused)
)
def choose_one(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """One choice for this test, from a button or typed."""
    posted = request.POST.get
    now = posted("now", posted("other", ""))
    chosen = Chosen(posted("key", ""), posted("name", ""), posted("pile", ""), now)
    choose(test_id, chosen, by_id(request))
    return to_bench(test_id, chosen.pile)


@may(Right.WEIGH)
@require_POST
def mark(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Start, pause, interrupt, or back in the cooler; answers with the clock."""
    posted = request.POST.get
    step = posted("step", "")
    mark_time(test_id, posted("key", ""), posted("mark", ""), step, by_id(request))
    if request.headers.get("HX-Request"):
        return _clock(request, test_id, step)
    return redirect("bench:test", test_id)


@may(Right.LOOK)
@require_GET
def time(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """The clock as it stands, for a page that shows it every half minute."""
    return _clock(request, test_id, request.GET.get("step", ""))


@may(Right.LOOK)
@require_GET
def find_pile(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Cuts of the animal by the letters typed, each one touch to add."""
    test = get_object_or_404(CuttingTest, pk=test_id)
    cuts = found_cuts(test, request.GET.get("q", ""))
    return render(request, "bench/_find_pile.html", {"test": test, "cuts": cuts})


@may(Right.LOOK)
@require_GET
def usual(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Piles this piece usually gives that are not there yet."""
    rows = rows_or_404(test_id)
    context = {"test": rows.test, "usual": usual_piles(rows)}
    return render(request, "bench/_usual.html", context)


# --- tubs -------------------------------------------------------------------------------


@may(Right.WEIGH)
@require_http_methods(["GET", "POST"])
def tubs(request: HttpRequest) -> HttpResponse:
    """The shared tubs with their shares; posting starts one."""
    refused = None
    if request.method == "POST":
        posted = request.POST.get
        with Told() as told:
            shows = (posted("shows", ""), posted("unit", ""))
            start_tub(
                own_key(posted("key", "")),
                posted("name", ""),
                shows,
                posted("pile", ""),
                by_id(request),
            )
            return redirect("bench:tubs")
        refused = told.refused
    context = {
        "tubs": tub_views(),
        "refused": refused,
        "typed": request.POST,
        "scale": scale_of(request),
        "kinds": TUB_KINDS,
        "tub_units": ("kg", "lb") if house().unit == "kg" else ("lb", "kg"),
    }
    return render(request, "bench/tubs.html", context, status=refused.status if refused else 200)


@may(Right.WEIGH)
@require_POST
def tub_closed(request: HttpRequest, tub_id: Any) -> HttpResponse:
    close_tub(tub_id)
    return redirect("bench:tubs")


@may(Right.WEIGH)
@require_POST
@told_by(
    lambda request, refused, test_id: _told(request, test_id, request.POST.get("pile", ""), refused)
)
def into_tub(request: HttpRequest, test_id: UUID) -> HttpResponse:
    pile = request.POST.get("pile", "")
    choose_tub(test_id, pile, request.POST.get("tub", ""), by_id(request))
    return to_bench(test_id, pile)


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: _told(request, test_id, "", refused))
def lay_out(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Cut the test by a layout, as its page was asked for."""
    test = get_object_or_404(CuttingTest.objects.select_related("piece"), pk=test_id)
    posted = request.POST.get
    if posted("piece", test.piece.key) != test.piece.key:
        raise BadInput("Layout: it is of another piece; open it from this test.")
    laying = laying_of(test.piece, posted("asked", ""), own_key(posted("key", "")))
    lay(test_id, laying, by_id(request))
    return redirect("bench:test", test_id)


@may(Right.WEIGH)
@require_POST
@told_by(lambda request, refused, test_id: _told(request, test_id, "", refused))
def lay_off(request: HttpRequest, test_id: UUID) -> HttpResponse:
    """Cut it without a layout again."""
    take_layout_off(test_id, by_id(request))
    return redirect("bench:test", test_id)


# --- the small change -------------------------------------------------------------------


def _told(request: HttpRequest, test_id: UUID, pile: str, refused: Refused) -> HttpResponse:
    """The bench with what was refused; a finished test has no bench any more."""
    rows = load(test_id)
    if rows is None or not rows.test.is_open:
        return refusal(request, refused)
    return bench_page(request, rows, pile, refused)


def _clock(request: HttpRequest, test_id: UUID, step: str) -> HttpResponse:
    rows = rows_or_404(test_id)
    context = {"clock": clock(rows, step), "test": rows.test}
    context["in_step"] = in_step(request, rows.test)
    return render(request, "bench/_clock.html", context)


def weighings_page(
    request: HttpRequest, rows: TestRows, refused: Refused | None = None
) -> HttpResponse:
    context = {
        "view": weighings_view(rows),
        "test": rows.test,
        "unplaced": history_of(rows.test.pk),
        "refused": refused,
    }
    status = refused.status if refused else 200
    return render(request, "bench/weighings.html", context, status=status)
