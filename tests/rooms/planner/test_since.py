"""A plan and what happened since: bags that are gone, what lies in the case, pins that cannot be, a solver
that answers with something else."""

import http.server
import itertools
import json
import threading
import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.urls import reverse
from django.utils import timezone

from cutting.labels.tray_life import Life
from rooms.bench.models import CuttingTest
from rooms.catalog.models import Piece, Plan
from rooms.common.clients import solver
from rooms.cooler.actions.bags import leave
from rooms.cooler.actions.holds import hold_lot
from rooms.cooler.models import Bag
from rooms.planner.models import DayPlan
from rooms.planner.queries.asking import asking
from rooms.planner.queries.at_hand import pounds_at_hand
from rooms.planner.queries.day import _hour_lines, jobs_to_do, newest
from rooms.planner.queries.jobs import bags_of, lanes_of, plan_jobs, plans_of
from rooms.pricebook.models import Product
from rooms.trays.actions.life import becomes
from rooms.trays.models import Tray
from tests.conftest import person, words_of
from tests.rooms.planner.test_day import asked, hours_of, plan_it, stocked  # noqa: F401
from tests.rooms.trays.helpers import of_bag, pack, tray_set

pytestmark = [pytest.mark.django_db, pytest.mark.usefixtures("shop", "solving")]
D = Decimal
KEY = uuid.uuid4


def given(client):
    assert plan_it(client).status_code == 302
    plan = newest(timezone.localdate())
    client.post(reverse("planner:give", args=[plan.pk]))
    return plan


@pytest.mark.parametrize(("what", "says"), [("out", "no longer"), ("held", "on hold")])
def test_a_bag_that_is_gone_is_no_job_and_is_told(client, stocked, what, says):  # noqa: F811
    """Thrown away, or its lot held: the block is sent to the next bag of the job, if there is one."""
    plan = given(client)
    gone = plan.answer["cut"][0]["bag"]
    bag = Bag.objects.get(pk=gone)
    if what == "out":
        leave(bag.pk, Bag.State.OUT, "leaking, smells", None)
    else:
        hold_lot(KEY(), bag.lot, "metal", None)
    found = jobs_to_do(timezone.localdate())
    jobs = [job for _, row in found.rows for job in row]
    assert gone not in " ".join(job.address for job in jobs)
    assert all(gone not in job.ids for job in jobs)
    assert any(says in words for words in found.gone)
    page = words_of(client.get(reverse("planner:day")))
    assert "Gone since the plan" in page
    assert says in page
    assert "Gone since the plan" in words_of(client.get(reverse("planner:jobs")))


def test_a_plan_all_of_whose_bags_are_gone_is_drawn_still(client, stocked):  # noqa: F811
    plan = given(client)
    for one in plan.answer["cut"]:
        leave(one["bag"], Bag.State.OUT, "the cooler failed", None)
    assert client.get(reverse("planner:day")).status_code == 200


def test_a_bag_that_was_opened_is_not_gone(client, stocked, opened):  # noqa: F811
    plan = given(client)
    bag = next(one for one in stocked if str(one.pk) == plan.answer["cut"][0]["bag"])
    price = f"{bag.price_amount:f}"
    opened(bag.piece.key, f"{bag.weight_value:f}", price, **of_bag(bag))
    assert jobs_to_do(timezone.localdate()).gone == []


def test_a_pin_that_cannot_be_is_told(stocked):  # noqa: F811
    """Set to a plan that asks for more days than the bag has, and to one that is gone."""
    bag, other = stocked[:2]
    plan = Plan.objects.filter(
        piece=bag.piece, is_dropped=False, outputs__cut__isnull=False
    ).first()
    cut = plan.outputs.exclude(cut=None).first().cut
    cut.least_age_days = 400
    cut.save()
    found = asking(
        timezone.localdate(), asked(pins={str(bag.pk): str(plan.pk), str(other.pk): "0"})
    )
    planned = {row["id"]: row["ways"] for row in found.document["bags"]}
    assert str(plan.pk) not in planned[str(bag.pk)]
    words = " ".join(found.left_out)
    assert f"too few for {plan.name}" in words
    assert "the plan it was set to is gone" in words


@pytest.mark.parametrize(
    ("change", "says"),
    [({"seal": "leaking"}, "it leaks"), ({"ends_on": timezone.localdate()}, "its last day")],
)
def test_a_bag_that_must_be_cut_and_is_set_to_not_today_is_told(stocked, change, says):  # noqa: F811
    bag = stocked[0]
    Bag.objects.filter(pk=bag.pk).update(**change)
    found = asking(timezone.localdate(), asked(pins={str(bag.pk): ""}))
    assert str(bag.pk) not in {one["id"] for one in found.document["bags"]}
    assert says in " ".join(found.left_out)


@pytest.fixture
def filets(weighed, fill):
    """Center filets of a bag of lot L1, weighed today, and their product."""
    (bag,) = fill(("beef-tenderloin", 40, "6.17"))
    main = weighed(**of_bag(bag)).outputs[0]
    return main, Product.objects.get(cut=main.cut_id), bag


def at_hand(product):
    return pounds_at_hand(timezone.localdate(), [product]).get(product.cut_id, D(0))


def test_what_is_at_hand_is_on_the_pile_or_in_a_tray_and_is_gone_when_it_is_sold(filets):
    """3.45 lb weighed; a tray of 3 lb of it; sold, and what is left still lies there."""
    main, product, _ = filets
    start = at_hand(product)
    tray = pack(product, tray_set(), "3.04", f"test:{main.pk}")
    assert at_hand(product) == start
    becomes(KEY(), tray.pk, Life.SOLD, None)
    assert at_hand(product) == start - 3


def test_trays_of_yesterday_are_at_hand_until_their_last_day(filets):
    main, product, _ = filets
    tray = pack(product, tray_set(), "3.04", f"test:{main.pk}")
    today = timezone.localdate()
    CuttingTest.objects.filter(pk=main.test_id).update(
        finished_at=timezone.now() - timedelta(days=2)
    )
    Tray.objects.filter(pk=tray.pk).update(packed_on=today - timedelta(days=1))
    assert at_hand(product) == 3
    Tray.objects.filter(pk=tray.pk).update(sell_by=today - timedelta(days=1))
    assert at_hand(product) == 0


def test_nothing_of_a_held_lot_is_at_hand(filets):
    main, product, bag = filets
    pack(product, tray_set(), "3.04", f"test:{main.pk}")
    hold_lot(KEY(), bag.lot, "metal", None)
    assert at_hand(product) == 0


def lanes_now():
    plan = newest(timezone.localdate())
    bags = bags_of(plan)
    names, rows = lanes_of(plan, plan_jobs(plan, bags, plans_of(plan)), bags)
    return plan, list(zip(names, rows, strict=True))


def test_two_cutters_are_not_sent_to_the_one_saw_at_once(client, fill, opened):
    """Ines has cut pork loins, Bram short loins, neither the other's; both are sawn."""
    for name, key in (("ines", "pork-loin-bone-in"), ("bram", "beef-short-loin")):
        test = opened("beef-tenderloin", "6.00").test
        test.cutter, test.piece = person(name), Piece.objects.get(key=key)
        test.save()
    loins = [("pork-loin-bone-in", 3, "20.00")] * 3
    fill(*[("beef-short-loin", 20, "22.00")] * 4, *loins, price="1.00")
    assert plan_it(client, hours="4").status_code == 302
    plan, rows = lanes_now()
    spans = [(o.start, o.end, name) for name, row in rows for o in row if o.job.is_sawn]
    assert spans
    for (_, end, one), (start, _, other) in itertools.combinations(sorted(spans), 2):
        assert one == other or end <= start
    hours = {row["name"]: D(row["minutes"]) for row in plan.document["block"]["cutters"]}
    assert all(row[-1].end <= hours[name] for name, row in rows if row)


def test_nobody_is_sent_to_the_grinder_after_the_own_hours(client, fill):
    """Ines is there five hours, Bram one."""
    fill(*[("beef-shoulder-clod", 20, "19.00")] * 9, price="3.00")
    assert plan_it(client, **{hours_of("ines"): "5", hours_of("bram"): "1"}).status_code == 302
    plan, rows = lanes_now()
    hours = {row["name"]: D(row["minutes"]) for row in plan.document["block"]["cutters"]}
    assert all(row[-1].end <= hours[name] for name, row in rows if row)


@pytest.mark.parametrize(
    ("found", "lines"),
    [
        (None, []),
        (
            {"Ines": None, "Bram": None},
            ["What one more hour of Ines or Bram brings was not found in time."],
        ),
        ({"Ines": {"profit": "0", "less_short": "0"}}, ["More hands bring nothing today."]),
        (
            {"Ines": {"profit": "-20", "less_short": "40"}},
            ["One more hour of Ines leaves 40.00 less short, and costs 20.00."],
        ),
        (
            {"Ines": {"profit": "9.5", "less_short": "4"}, "Bram": None},
            [
                "One more hour of Ines brings 9.50, and leaves 4.00 less short.",
                "What one more hour of Bram brings was not found in time.",
            ],
        ),
        ({"Ines": "12.5", "Bram": "0"}, ["One more hour of Ines brings 12.50."]),
        ("-20", ["One more hour of hands meets more of the list, and costs 20.00."]),
    ],
)
def test_what_an_hour_brings_what_is_not_known_and_nothing_are_three_things(found, lines):
    """The last two are of plans that were kept before the shortfall was."""
    assert _hour_lines(found) == lines


class Wrong(http.server.BaseHTTPRequestHandler):
    """Answers as the test says: killed in the middle, garbage, another version."""

    body = b""
    status = 200
    is_cut = False

    def do_POST(self):
        self.rfile.read(int(self.headers["Content-Length"]))
        self.send_response(self.status)
        self.send_header("Content-Length", str(len(self.body) + (5000 if self.is_cut else 0)))
        self.end_headers()
        self.wfile.write(self.body)

    def log_message(self, *_):
        pass


@pytest.fixture
def answered(settings):
    """A process that answers with this body, for the solver."""
    servers = []

    def run(body, status=200, *, is_cut=False):
        kind = type("Own", (Wrong,), {"body": body, "status": status, "is_cut": is_cut})
        server = http.server.HTTPServer(("127.0.0.1", 0), kind)
        servers.append(server)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        settings.SOLVER_URL = f"http://127.0.0.1:{server.server_port}"

    yield run
    for server in servers:
        server.shutdown()
        server.server_close()


def another_version(plan):
    """An answer by its schema, of bags that nobody asked about."""
    cut = [{"bag": "another", "way": plan.answer["cut"][0]["way"]}]
    return json.dumps({**plan.answer, "cut": cut}).encode()


@pytest.mark.parametrize(
    ("body", "status", "is_cut"),
    [
        (b'{"cut": [', 200, True),
        (b"<html>busy</html>", 200, False),
        pytest.param(b"{}", 200, False, marks=pytest.mark.long),
        pytest.param(b"[1]", 200, False, marks=pytest.mark.long),
        (b"no", 422, False),
        pytest.param(b'{"faults": "no"}', 422, False, marks=pytest.mark.long),
        (b"", 500, False),
        (another_version, 200, False),
    ],
)
def test_a_solver_that_answers_with_something_else_is_told_and_the_last_plan_stands(
    client,
    stocked,  # noqa: F811
    answered,
    monkeypatch,
    body,
    status,
    is_cut,
):
    assert plan_it(client).status_code == 302
    plan = DayPlan.objects.get()
    monkeypatch.undo()
    answered(body(plan) if callable(body) else body, status, is_cut=is_cut)
    answer = plan_it(client)
    assert answer.status_code == 409
    assert "the last plan stands" in words_of(answer)
    for path in ("planner:day", "planner:jobs"):
        assert client.get(reverse(path)).status_code == 200
    assert DayPlan.objects.get() == plan
    with pytest.raises(solver.Away):
        solver.ask("/blend", {"tubs": [], "batches": []})
