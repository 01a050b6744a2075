#!/usr/bin/env python3
"""`make bench`: speed as ratios within this run, queries and bytes as counts.

At demo size (20 sheets) and at ten years of data (20,000). Nothing here asserts a time.
"""

import copy
import io
import itertools
import os
import random
import statistics
import subprocess
import sys
import time
import types
import urllib.request
import uuid
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from importlib import import_module
from pathlib import Path
from urllib.parse import urlencode

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
VAR = ROOT / "var"
DATABASE = VAR / "bench.sqlite3"
os.environ["TALLY_DB"] = str(DATABASE)
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
SEQUENCE = itertools.count(1)
TABLETS, CAPTURES_EACH, PACE = 10, 60, 0.15
SIMULATED = 25
STREAMS_SECONDS = 20
TEN_YEARS = int(os.environ.get("BENCH_TESTS", "20000"))


def say(what, figure, wanted=""):
    print(f"  {what:<58}{figure:>20}   {wanted}", flush=True)


def fresh_database():
    for leftover in VAR.glob("bench.sqlite3*"):
        leftover.unlink()


def ten_outputs(count=10):
    from cutting.quantities import UnitPrice, Weight
    from cutting.sheet.cutting_test import CuttingTest, Output, Piece, Role, Weighing

    roles = (Role.MAIN, Role.MAIN, Role.SECONDARY, Role.CREDIT, Role.DISCARD)
    lb = lambda text: Weight.of(text, "lb")  # noqa: E731
    outputs = tuple(
        Output(
            f"output {i}",
            roles[i % 5],
            tuple(Weighing(lb(f"0.{40 + j}")) for j in range(4 if i % 5 == 0 else 2)),
            count=4 if i % 5 == 0 else None,
            target=Weight.of("7", "oz") if i % 5 == 0 else None,
            retail=UnitPrice.of("12.99", "lb"),
            credit=UnitPrice.of("3.10", "lb"),
            replacement=UnitPrice.of("9.40", "lb"),
            in_case=i % 2 == 0,
            minutes=Decimal(3),
        )
        for i in range(count)
    )
    return CuttingTest(
        Piece(lb(f"{count}.40"), UnitPrice.of("4.10", "lb")),
        lb("0.01"),
        outputs,
        labour_rate=Decimal(24),
    )


def core():
    from cutting.costing.sheet import compute

    print("core: dataclasses in and out, one core")

    sizes = (10, 20, 40, 80)
    tests = {count: ten_outputs(count) for count in sizes}
    times = {count: [] for count in sizes}
    for _ in range(60):  # taken in turn, so that a slow moment of the machine hits all alike
        for count in sizes:
            started = time.perf_counter()
            for _ in range(400 // count):
                compute(tests[count])
            times[count].append((time.perf_counter() - started) / (400 // count))
    each = {count: statistics.median(times[count]) for count in sizes}
    started = time.perf_counter()
    total = 0
    for i in range(5_000_000):
        total += i
    loop = time.perf_counter() - started
    say("ten-output tests a second", f"{1 / each[10]:,.0f}", "at least 3,000")
    say("this machine now: 5 million additions in a loop", f"{loop:.2f} s", "for comparison")
    for count in sizes[1:]:
        times_ten = each[count] / count / (each[10] / 10)
        say(
            f"cost of an output at {count}, in outputs of the ten",
            f"{times_ten:.2f}",
            "1 is linear",
        )


def disk():
    file = os.open(VAR / "bench.sync", os.O_CREAT | os.O_WRONLY)
    times = []
    for _ in range(200):
        os.write(file, b"x" * 4096)
        started = time.perf_counter()
        os.fdatasync(file)
        times.append(time.perf_counter() - started)
    os.close(file)
    (VAR / "bench.sync").unlink()
    return statistics.median(times)


def opened_clod(i):
    from cutting.quantities import UnitPrice, Weight
    from rooms.bench.actions.open_test import Opening, start_test
    from rooms.catalog.models import Plan

    plan = Plan.objects.get(piece__key="beef-shoulder-clod", key="merchandised")
    opening = Opening(uuid.uuid4(), plan, Weight.of("19.00", "lb"), UnitPrice.of("4.10", "lb"))
    return start_test(opening, None)


def cookies(username="bram"):
    """The cookies of an enrolled tablet with somebody at its block."""
    sys.path.insert(0, str(ROOT))
    from tests.conftest import at_tablet

    return at_tablet(username, f"bench {uuid.uuid4()}"[:40], is_confirmed=True)


def visitor(**more):
    from django.test import Client

    client = Client(**more)
    client.cookies.load(cookies())
    return client


def signed(weight="7.1", unit="oz", division="0.1"):
    """A reading as the page sends it on."""
    from django.conf import settings

    from devices.signing import sign

    message = {
        "scale": "block",
        "run": "bench",
        "sequence": str(next(SEQUENCE)),
        "unit": unit,
        "at": f"{time.time():.3f}",
        "weight": weight,
        "division": division,
        "state": "steady",
        "tare": "0",
    }
    return message | {"shown": weight, "signature": sign(settings.SCALE_KEY, message)}


def weighing():
    from django.conf import settings
    from django.db import connection
    from django.http import HttpResponse
    from django.test import Client
    from django.test.utils import CaptureQueriesContext
    from django.urls import path, reverse

    from mindful_tally.urls import urlpatterns
    from rooms.common.web.doors import open_to_all

    module = types.ModuleType("bench_urls")
    module.urlpatterns = [
        *urlpatterns,
        path("empty/", open_to_all(lambda request: HttpResponse("ok"))),
    ]
    sys.modules["bench_urls"] = module
    settings.ROOT_URLCONF = "bench_urls"
    print("a weighing: from request to answer, through all middleware")
    client, stranger = visitor(), Client()
    tests = [opened_clod(i) for i in range(8)]
    outputs = {test.pk: list(test.outputs.all()) for test in tests}
    seen = {test.pk: test.revision for test in tests}

    def take(i):
        test = tests[i % len(tests)]
        output = outputs[test.pk][i // 8 % 4]
        data = {
            "key": uuid.uuid4(),
            "output": output.pk,
            "value": "7.1",
            "portions": "1",
            "seen": seen[test.pk],
            **signed(),
        }
        seen[test.pk] += 1
        return client.post(
            reverse("bench:capture", args=[test.pk]),
            urlencode(data),
            content_type="application/x-www-form-urlencoded",
            headers={"Tally-Glass": "wide"},
        )

    for i in range(80):  # ten weighings in each test, as in the middle of the work
        assert take(i).status_code == 200
    with CaptureQueriesContext(
        connection,
    ) as found:
        take(80)
    sql = [query["sql"] for query in found.captured_queries]
    say("queries", len(sql), "at most 8")
    say("write transactions", sum(s.startswith("BEGIN") for s in sql), "1")
    empties, weighings = [], []
    for i in range(200):
        for times, call in (
            (empties, lambda: stranger.get("/empty/")),
            (weighings, lambda i=i: take(i)),
        ):
            started = time.perf_counter()
            call()
            times.append(time.perf_counter() - started)
    empty, median = statistics.median(empties), statistics.median(weighings)
    say("median time over an empty view's", f"{median / empty:.1f} times", "at most 15")
    laid = statistics.median(by_layout(client))
    say("the same with a layout solved again", f"{laid / empty:.1f} times", "at most 15")
    say("median time of a weighing", f"{median * 1e3:.2f} ms")
    say("the disk's own sync (fdatasync of 4 KB)", f"{disk() * 1e3:.2f} ms")


def by_layout(client):
    """Times of weighings of rib-eyes that are cut by a layout: each is answered with the next cut."""
    from django.urls import reverse

    from cutting.quantities import UnitPrice, Weight
    from rooms.bench.actions.open_test import Opening, start_test
    from rooms.bench.forms import laying_of
    from rooms.bench.queries.laid import pile_of, standing
    from rooms.bench.queries.rows import load_known
    from rooms.catalog.models import Plan

    plan = Plan.objects.get(piece__key="beef-ribeye", key="steaks-one-inch")
    times = []
    for number in range(4):
        opening = Opening(uuid.uuid4(), plan, Weight.of("14.50", "lb"), UnitPrice.of("9.99", "lb"))
        query = f"plan=steaks-one-inch&unit=lb&weight={12 + number / 10:.2f}"
        laying = laying_of(plan.piece, query, uuid.uuid4())
        test = start_test(opening, None, laying=laying)
        output = pile_of(load_known(test.pk), "Rib-eye steak")
        for cut in range(10):
            asked = standing(load_known(test.pk)).following.next[0]
            ounces = float(asked.expected) * 16 * (1.05 if cut % 2 else 1.0)
            data = {
                "key": uuid.uuid4(),
                "output": output.pk,
                "value": f"{ounces:.1f}",
                "portions": "1",
                "seen": test.revision + cut,
                **signed(f"{ounces:.1f}"),
            }
            started = time.perf_counter()
            answer = client.post(
                reverse("bench:capture", args=[test.pk]),
                urlencode(data),
                content_type="application/x-www-form-urlencoded",
                headers={"Tally-Glass": "wide"},
            )
            times.append(time.perf_counter() - started)
            assert answer.status_code == 200, answer.content
    return times


def visit(name, address, most):
    """A page asked for a second time: its queries, bytes and time."""
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    client = visitor(headers={"accept-encoding": "gzip"})
    client.get(address)
    with CaptureQueriesContext(connection) as found:
        started = time.perf_counter()
        answer = client.get(address)
        spent = time.perf_counter() - started
    assert answer.status_code == 200, (name, answer.status_code)
    figure = f"{len(found)}, {len(answer.content):,} B, {spent * 1e3:.0f} ms"
    say(f"{name}: queries, compressed bytes, time", figure, f"at most {most}")


BOXED = ("short-loin", "top-sirloin", "tri-tip", "flap", "flank", "knuckle")
BOXED += ("top-round", "bottom-round", "eye-round")


def pages(label):
    from django.urls import reverse

    from rooms.bench.models import CuttingTest

    running = CuttingTest.objects.open().first().pk
    done = CuttingTest.objects.exclude(approved_by=None).first().pk
    gave_here = reverse("bench:gave", args=["beef-shoulder-clod"]) + "?plan=merchandised"
    addresses = {
        "today": "/",
        "bench, front": "/bench/",
        "older sheets": f"/bench/?before={CuttingTest.objects.count() // 2}",
        "open a piece": reverse("bench:open", args=["beef-shoulder-clod"]),
        "bench": reverse("bench:test", args=[running]),
        "sheet": reverse("bench:sheet", args=[done]),
        "set prices": reverse("pricing:set_from_test", args=[done]),
        "a price dragged: its stops": reverse("pricing:drag", args=[done])
        + f"?row={CuttingTest.objects.get(pk=done).outputs.order_by('position').first().pk}",
        "prices": reverse("pricing:prices"),
        "products": "/book/products/",
        "price book": "/book/",
        "shelf list": "/book/shelf/",
        "two days": "/book/compare/",
        "new costs": "/counter/invoices/",
        "ad planner": "/counter/ad/",
        "what to buy": "/planner/buy/",
        "scale": "/scale/",
        "shared tubs": "/tubs/",
        "weighings": reverse("bench:weighings", args=[running]),
        "is there more (two tablets)": reverse("bench:stands", args=[running]),
        "guide: what it gave here": gave_here,
    }
    print(f"pages, {label}")
    for name, address in addresses.items():
        visit(name, address, 15)
    visit("ways side by side", "/planner/ways/beef-knuckle/", "15, under 60 ms")
    quarter = "/planner/ways/beef-hindquarter/?weight=160&unit=lb&price=3.10&plans=by-seams"
    boxes = "&".join(f"box-beef-{one}=5.00" for one in BOXED)
    visit("a hindquarter, carried on", quarter, "25, under 150 ms")
    visit("a hindquarter against boxes", f"{quarter}&boxes=1&{boxes}", 45)
    for name in ("week", "order", "demand", "sales"):
        visit(f"planner: {name}", f"/planner/{name}/", 15)
    visit("grinder", "/grinder/", 15)
    visit("grinder: records of a month", "/grinder/log/print/", 8)
    visit("grinder: house rules", "/grinder/rules/", 10)
    visit("grinder: a lot in the log", "/grinder/log/?text=L9427", "8, under 100 ms")


def catalog():
    """Loading, searching and reading the catalog; how large its drawings are."""
    from django.urls import reverse

    from rooms.catalog.actions.load_shipped import load_catalog
    from rooms.catalog.models import Piece

    print("catalog: every piece with its plans, steps and drawing")
    for words, wanted in (("loading it all", "under 10 s"), ("a second time", "under 2 s")):
        started = time.perf_counter()
        found = load_catalog()
        spent = time.perf_counter() - started
        say(f"{words}: {found.added} added, {found.changed} changed", f"{spent:.2f} s", wanted)
    addresses = {
        "animal map": (reverse("catalog:animals"), 8),
        "leg and shoulder across": (reverse("catalog:same_map"), 8),
        "guide, a step lit": (reverse("catalog:guide", args=["beef-chuck-roll"]) + "?step=3", 8),
        "a step turned": (reverse("catalog:steps", args=["beef-chuck-roll"]) + "?step=4", 8),
        "handout": (reverse("catalog:handout", args=["pork-leg"]), 8),
        "all cuts": (reverse("catalog:cuts"), 8),
        "change a piece": (reverse("catalog:edit", args=["beef-rib"]), 8),
        "search as one types": (reverse("catalog:found") + "?q=round", 5),
        "give and take": (reverse("pricing:giving", args=["cap-roast"]), 8),
        "who changed what": (reverse("catalog:all_changes"), 8),
    }
    for name, (address, most) in addresses.items():
        visit(name, address, most)
    sizes, client = {}, visitor()
    for piece in Piece.objects.all():
        body = client.get(reverse("catalog:steps", args=[piece.key])).content.decode()
        drawn = body[body.index('<svg class="seam-shapes"') : body.index('<div class="steps">')]
        sizes[piece.key] = len(drawn.encode())
    largest = max(sizes, key=sizes.get)
    say(f"largest drawing, both widths, plain: {largest}", f"{sizes[largest]:,} B", "under 60 KB")


NAMES = ("rib", "picanha", "picahna", "tri tip", "hidden seam", "ground beef chuck", "zzzzq")


def search(times=10):
    """The search over `times` as many names as ship."""
    from rooms.catalog.queries import shipped
    from rooms.catalog.queries.search import Index

    document, index, number = shipped.document(), Index(), 0
    for round_ in range(times):
        more = f" {round_}" if round_ else ""
        for kind in ("pieces", "cuts", "muscles"):
            for row in document[kind].values():
                number += 1
                names = [row["name"] + more, row.get("other_name", "")]
                index.add((kind, number), names, row.get("synonyms", []))
                for step in row.get("steps", []):
                    text = " ".join(step[what] for what in ("title", "find", "do", "right"))
                    index.add_guide((kind, number), text)
    found = []
    for typed in NAMES:
        index.find(typed)
        start = time.perf_counter()
        index.find(typed)
        found.append((time.perf_counter() - start, typed))
    slowest, typed = max(found)
    print(f"search: {len(index.phrases):,} names, {times} times what ships")
    say(f"the slowest of {len(NAMES)}, “{typed}”, ms", f"{slowest * 1000:.1f}", "under 20")


def layouts():
    """A piece of 60 cm on a grid of 1 mm: four products up to 60 mm thick, two zones."""
    from cutting.layout.profile import Profile, Section, Station
    from cutting.layout.solver import lay_out
    from cutting.layout.task import NO_CUT, NO_PRODUCT, Slice, Task, Zone
    from cutting.quantities import UnitPrice, Weight

    def task(long, most):
        shape = ((0, 130, 70), (120, 150, 85), (300, 145, 80), (400, 140, 70), (long, 110, 60))
        products = tuple(
            Slice(
                f"product {i}",
                thinnest=Decimal(12 + i),
                thickest=Decimal(60),
                price=UnitPrice.of(str(9 + i), "lb"),
                most=most if i < 2 else None,
            )
            for i in range(4)
        )
        zones = (
            Zone("tendon", Decimal(100), Decimal(110), NO_CUT),
            Zone("gland", Decimal(300), Decimal(310), NO_PRODUCT),
        )
        stations = tuple(Station(Decimal(a), Decimal(w), Decimal(h)) for a, w, h in shape)
        profile = Profile(Section.ELLIPSE, stations)
        return Task(Weight.of("20", "lb"), profile, products, zones=zones)

    print("layout: 60 cm at 1 mm, four products, two zones")
    for long, most, words, asked in (
        (600, None, "without counts, ms", "50"),
        (600, 6, "up to 6 of two of them, ms", "250"),
        (1200, None, "twice as long, without counts, ms", "linear"),
    ):
        best = 1e9
        for _ in range(5):
            start = time.perf_counter()
            lay_out(task(long, most))
            best = min(best, time.perf_counter() - start)
        say(words, f"{best * 1000:.0f}", asked)
    sys.path.insert(0, str(ROOT / "tools"))
    import layout_simulation

    print(
        f"layout: {SIMULATED} random pieces, seven ways (all {layout_simulation.PIECES}: docs/layout.md)"
    )
    print(layout_simulation.table(SIMULATED))


def days():
    """Forty bags by twelve ways into thirty products: proven, with ties, and what things are worth;
    the same with two cutters, three animals, a saw and a grinder; two hundred bags in three seconds."""
    sys.path.insert(0, str(ROOT))
    from cutting.planning.day_solver import best_day, best_so_far, next_best, worth
    from tests.cutting.planning.days import large, with_hands

    day = large(bags=40, ways=12, products=30)
    manned = with_hands(day)
    found = best_day(day, in_order=False)
    print("the day: 40 bags, 12 ways, 30 products, one core")
    for words, work, asked in (
        ("proven", lambda: best_day(day, in_order=False), "under 1 s"),
        ("with its ties", lambda: best_day(day), "under 2 s"),
        ("an hour, products, musts", lambda: worth(day, found), "under 30 s"),
        ("the next best plan", lambda: next_best(day, found), "with them"),
        ("two cutters by name, to 3 s", lambda: best_so_far(manned, 3.0), "as far as proven"),
    ):
        started = time.perf_counter()
        answer = work()
        proven = getattr(answer, "is_proven", None)
        told = "" if proven is None else ", proven" if proven else f", within {answer.gap}"
        say(words, f"{time.perf_counter() - started:.2f} s{told}", asked)
    started = time.perf_counter()
    many = best_so_far(large(bags=200, ways=12, products=30), 3.0)
    took, gap = time.perf_counter() - started, "proven" if many.is_proven else f"within {many.gap}"
    say("200 bags", f"{took:.2f} s, {gap} of {many.figures.gross_profit:.2f}", "best so far in 3 s")


def blends():
    """Forty tubs into five batches, without and with chances."""
    sys.path.insert(0, str(ROOT))
    from cutting.grinding.blend_solver import cheapest
    from tests.cutting.grinding.test_blend import forty_tubs

    print("a blend: 40 tubs, 5 batches, two of them of either animal")
    for words, with_chance, asked in (
        ("without chances", False, "under 100 ms"),
        ("with a chance of each", True, "under 300 ms"),
    ):
        blend = forty_tubs(with_chance=with_chance)
        cheapest(blend)
        started = time.perf_counter()
        cheapest(blend)
        say(words, f"{(time.perf_counter() - started) * 1e3:.0f} ms", asked)


def labels():
    """From the weight to the label in the outbox of the simulated printer, and thirty in a row."""
    import tempfile

    from django.conf import settings
    from django.urls import reverse

    from rooms.pricebook.models import Product, TraySize
    from rooms.trays.models import PrintJob

    port = 8791
    outbox = Path(tempfile.mkdtemp())
    command = [sys.executable, "-m", "devices.label_printer", "--port", str(port)]
    printer = subprocess.Popen([*command, "--outbox", str(outbox)], cwd=ROOT)
    settings.PRINTER_URL = f"http://127.0.0.1:{port}"
    print("labels: a tray with its bar code, QR and the safe handling text, on the large stock")
    try:
        wait_for(f"{settings.PRINTER_URL}/panel")
        product = Product.objects.get(cut__key="beef-flat-iron")
        size = TraySize.objects.filter(is_dropped=False).first()
        client, spent = visitor(), []
        for number in range(31):
            body = {"key": uuid.uuid4(), "product": product.pk, "size": size.pk, "unit": "lb"}
            body["weight"] = f"{1 + number / 100:.2f}"
            body |= {"source": "none", "reason": "thirty labels in a row"}
            started = time.perf_counter()
            answer = client.post(reverse("trays:front"), body)
            spent.append(time.perf_counter() - started)
            assert answer.status_code == 302, answer.status_code
        assert not PrintJob.objects.filter(state="waiting").exists()
        pictures = sorted(outbox.glob("*.png"))
        assert len(pictures) == len(spent)
        own = sorted(spent[1:])
        figure = f"{own[15] * 1e3:.0f} ms, the slowest {own[-1] * 1e3:.0f} ms"
        say("a weight to the label in the outbox", figure, "under 300 ms")
        say("thirty labels", f"{sum(own):.1f} s", "under 60 s, none waiting")
        largest = max(path.stat().st_size for path in pictures)
        say("the largest PNG", f"{largest:,} B", "under 40 KB")
    finally:
        printer.terminate()
        printer.wait()
    visit("packing", f"/trays/?product={product.pk}", 15)


def the_way_back(trays=5000):
    """A lot of 5,000 trays in ten years of bags, tests, batches and trays."""
    from django.utils import timezone

    from rooms.bench.models import CuttingTest, TestBag
    from rooms.cooler.models import Bag
    from rooms.grinder.models import Batch, TubIn, TubLot
    from rooms.pricebook.models import Product, TraySize
    from rooms.trays.models import Tray

    now = timezone.now()
    like = Bag.objects.filter(piece__isnull=False, state="in").first()
    tests = list(CuttingTest.objects.finished().filter(bags=None)[:2000])
    bags = []
    for number in range(len(tests)):
        bag = Bag.objects.get(pk=like.pk) if not bags else copy.copy(bags[0])
        bag.pk, bag.serial, bag.state, bag.left_at = uuid.uuid4(), "", "opened", now
        bag.lot = "BIG-1" if number < 20 else f"W{number // 20}"
        bags.append(bag)
    Bag.objects.bulk_create(bags, batch_size=500)
    TestBag.objects.bulk_create(
        [TestBag(test=test, bag=bag) for test, bag in zip(tests, bags, strict=True)], batch_size=500
    )
    batches = list(Batch.objects.order_by("-number")[:1000])
    # The lot went into five tubs by the trim of its tests
    tubs = TubIn.objects.filter(tub__outs__batch__in=batches[:5]).values_list("tub", flat=True)
    entries = TubIn.objects.bulk_create(
        TubIn(
            key=uuid.uuid4(),
            tub_id=tub,
            source="test",
            weight=Decimal(6),
            from_test=test,
            lots=[{"lot": "BIG-1"}],
            day=now.date(),
            at=now - timedelta(days=4000),
        )
        for tub, test in zip(sorted(set(tubs)), tests[:20], strict=False)
    )
    TubLot.objects.bulk_create(TubLot(entry=one, lot="BIG-1") for one in entries)
    product, size = Product.objects.get(cut__key="beef-ground"), TraySize.objects.first()
    lives = ["in_case", "sold", "sold", "thrown"]

    def tray(number, **more):
        return Tray(
            id=uuid.uuid4(),
            number=100_000 + number,
            serial=f"9{number:011d}",
            product=product,
            size=size,
            gross=Decimal("1.24"),
            tare=Decimal("0.04"),
            net=Decimal("1.20"),
            unit="lb",
            division=Decimal("0.01"),
            amount=Decimal("7.99"),
            per="lb",
            total=Decimal("9.59"),
            packed_at=now,
            packed_on=now.date(),
            sell_by=now.date(),
            document={},
            life=lives[number % 4],
            **more,
        )

    Tray.objects.bulk_create(
        (
            tray(
                number,
                **(
                    {"from_batch": batches[number % 5]}
                    if number < trays // 2
                    else {"from_test": tests[number % 20]}
                    if number < trays
                    else {"from_batch": batches[5 + number % 900]}
                ),
            )
            for number in range(trays * 10)
        ),
        batch_size=500,
    )
    many = f"{Tray.objects.count():,} trays, {Batch.objects.count():,} batches, {len(bags):,} bags"
    print(f"the way back: a lot of {trays:,} trays, in {many}")
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    from rooms.recall.queries.trace_page import way_view
    from rooms.trays.queries.lot_graph import Start

    spent = []
    for _ in range(5):
        started = time.perf_counter()
        with CaptureQueriesContext(connection) as found:
            view = way_view(Start(lot="big1"))
        spent.append(time.perf_counter() - started)
    assert view.trays.paginator.count == trays, view.trays.paginator.count
    figure = f"{len(found.captured_queries)}, {sorted(spent)[2] * 1e3:.0f} ms"
    say("the trace of the lot: queries, time", figure, "10, under 200 ms")
    visit("its page", "/trays/way/lot/?lot=big-1", "10, under 200 ms")
    last = Tray.objects.filter(from_batch=batches[0]).first()
    visit("one of its trays, back", f"/trays/way/tray/{last.pk}/", 25)
    visit("what is due to be marked down", "/trays/marking/", 15)


def wait_for(url):
    """Until a process answers."""
    import urllib.request

    for _ in range(200):
        try:
            urllib.request.urlopen(url, timeout=1).close()
            return
        except OSError:
            time.sleep(0.05)
    raise RuntimeError(f"{url} does not answer")


def cooler():
    """Receiving a thousand bags; due list, Today and the chart at 5,000 bags and a year."""
    from django.urls import reverse
    from django.utils import timezone

    from devices.probe import SimulatedProbe
    from rooms.catalog.models import Piece
    from rooms.cooler.actions.days import keep_days
    from rooms.cooler.actions.deliveries import Header, start_delivery
    from rooms.cooler.models import Bag, Reading
    from rooms.staff.models import Person

    print("cooler: 5,000 bags and a year of readings, one a minute")
    now, rng = timezone.now(), random.Random(5)
    delivery = start_delivery(Header(uuid.uuid4(), "bench"), Person.objects.first().pk)
    rows = "\n".join(f"{rng.randrange(400, 2600) / 100:.2f},L{i % 40},B{i}" for i in range(1000))
    piece = Piece.objects.get(key="beef-top-round")
    data = {
        "lines": rows,
        "unit": "lb",
        "piece": piece.pk,
        "price": "4.20",
        "key": uuid.uuid4(),
        "packed_on": (now - timedelta(days=9)).date(),
    }
    pieces = list(Piece.objects.all())

    def fill(until):
        """Bags of every age, until the cooler holds so many."""
        Bag.objects.bulk_create(
            [
                Bag(
                    pk=uuid.UUID(int=rng.getrandbits(128)),
                    delivery=delivery,
                    piece=pieces[i % len(pieces)],
                    weight_value=Decimal("9.00"),
                    weight_unit="lb",
                    price_amount=Decimal("5.00"),
                    freight=Decimal(0),
                    discount=Decimal(0),
                    packed_on=timezone.localdate() - timedelta(days=i % 60),
                    came_at=now - timedelta(days=i % 30),
                )
                for i in range(until - Bag.objects.in_cooler().count())
            ],
            batch_size=1000,
        )
        keep_days(Bag.objects.in_cooler())

    fill(500)
    for name, address in (("today", "/"), ("cooler", reverse("cooler:cooler"))):
        visit(f"{name} at 500 bags", address, "15, under 150 ms")
    started = time.perf_counter()
    answer = visitor().post(reverse("cooler:add", args=[delivery.pk]), data)
    assert answer.status_code == 302, answer.content[:400]
    say(
        "1,000 catch weights, from the page to the disk",
        f"{time.perf_counter() - started:.2f} s",
        "under 3 s",
    )
    fill(5000)
    first = Reading.objects.order_by("at").first()
    last = (first.stamp if first else int(now.timestamp())) // 60 * 60
    probe = SimulatedProbe()
    for start in range(last - 366 * 86400, last, 20000 * 60):
        Reading.objects.bulk_create(
            Reading(at=datetime.fromtimestamp(stamp, UTC), stamp=stamp, value=probe.read(stamp))
            for stamp in range(start, min(start + 20000 * 60, last), 60)
        )
    say(
        "bags in the cooler, readings",
        f"{Bag.objects.in_cooler().count():,}, {Reading.objects.count():,}",
    )
    for name, address in (
        ("today", "/"),
        ("cooler", reverse("cooler:cooler")),
        ("two weeks", reverse("cooler:calendar")),
        ("temperature, day", reverse("cooler:temperature")),
        ("temperature, year", reverse("cooler:temperature") + "?for=year"),
    ):
        visit(name, address, "15, under 300 ms")
    size = len(visitor().get(reverse("cooler:temperature") + "?for=year").content)
    say("the year's chart with its page, plain", f"{size:,} B", "under 100 KB")


def counter(products=1000, changes=120):
    """A thousand products with ten years of prices, repriced after the invoice moved."""
    import copy

    from django.db import connection
    from django.test.utils import CaptureQueriesContext
    from django.urls import reverse
    from django.utils import timezone

    from rooms.catalog.models import Cut, Piece
    from rooms.pricebook.models import Basis, Price, Product, Version
    from rooms.pricing.queries.depending import depending, pieces_behind

    print(f"pricing: {products:,} products, {products * changes:,} dated prices")
    now, like = timezone.now(), Basis.objects.first()
    pieces = list(Piece.objects.all()[:20])
    cuts = Cut.objects.bulk_create(
        Cut(key=f"bench-{i}", species="beef", name=f"Bench cut {i}") for i in range(products)
    )
    made = Product.objects.bulk_create(Product(cut=cut, name=cut.name) for cut in cuts)
    bases = []
    for at, piece in enumerate(pieces):
        document = copy.deepcopy(like.document)
        document["outputs"] += [
            document["outputs"][0] | {"name": f"Pile {i}", "cut": f"bench-{i}"}
            for i in range(at, products, len(pieces))
        ]
        bases.append(Basis(piece=piece, document=document, tests=like.tests, made_at=now))
    bases = Basis.objects.bulk_create(bases)
    for month in range(changes, 0, -1):
        day = now - timedelta(days=30 * month)
        version = Version.objects.create(
            number=10_000 - month, made_at=day, effective_on=day.date(), kind="invoice"
        )
        Price.objects.bulk_create(
            Price(
                product=product,
                version=version,
                amount=Decimal(1200 + month) / 100,
                effective_on=day.date(),
                made_at=day,
                cost=Decimal("7.10"),
                school="flat",
                paid_amount=Decimal("7.49"),
                paid_per="lb",
                basis=bases[i % len(bases)],
            )
            for i, product in enumerate(made)
        )
    client = visitor()
    data = {"key": uuid.uuid4()} | {
        f"cost-{one.piece.pk}": "8.99" for one in pieces_behind(depending())
    }
    with CaptureQueriesContext(connection) as found:
        started = time.perf_counter()
        answer = client.post(reverse("pricing:invoices"), data)
        page = client.get(answer.url)
        spent = time.perf_counter() - started
    assert page.status_code == 200, page.content[:300]
    say("repriced and shown: queries", len(found), "at most 20")
    say("repriced and shown: server time", f"{spent:.2f} s", "under 2 s")
    decide = reverse("pricing:decide", args=[data["key"]])
    client.post(decide, {"do": "all"})
    with CaptureQueriesContext(connection) as found:
        started = time.perf_counter()
        answer = client.post(decide, {"do": "accept", "key": uuid.uuid4()})
        spent = time.perf_counter() - started
    say("all accepted as a version: queries, time", f"{len(found)}, {spent:.2f} s")
    for name, address in (
        ("prices", reverse("pricing:prices")),
        ("its version", answer.url),
        ("two days", "/book/compare/"),
        ("Today", "/"),
        ("price book", "/book/"),
        ("products", "/book/products/"),
    ):
        visit(name, address, 15)
    started = time.perf_counter()
    size = len(client.get(reverse("pricebook:export", args=["xlsx"])).getvalue())
    spent = time.perf_counter() - started
    say("the book with a year's history as XLSX", f"{size:,} B, {spent:.1f} s", "under 3 s")


def ten_years():
    """Fill up to TEN_YEARS finished tests, by copying the demo's cutter in bulk."""
    from django.db import transaction
    from django.utils import timezone

    from rooms.bench.models import CuttingTest, Output, Weighing
    from rooms.catalog.models import Plan
    from rooms.common.db.numbers import next_numbers
    from rooms.demo.cutting_room import cut
    from rooms.demo.shop import INVOICE
    from rooms.staff.models import Person

    rng = random.Random(7)
    now = timezone.now()
    cutter = Person.objects.get(username="ines")
    plans = list(
        Plan.objects.filter(piece__key__in=INVOICE)
        .select_related("piece")
        .prefetch_related("outputs")
    )
    wanted = max(TEN_YEARS - CuttingTest.objects.count(), 0)
    number = next_numbers(CuttingTest, wanted)[0] - 1 if wanted else 0
    print(f"filling the book: {wanted:,} more tests", flush=True)
    kinds = {plan.pk: cut(list(plan.outputs.all()), Decimal("9.00"), rng) for plan in plans}
    while wanted > 0:
        tests, outputs, weighings = [], [], []
        for i in range(min(500, wanted)):
            plan = plans[(number + i) % len(plans)]
            at = now - timedelta(hours=4 * (wanted - i) + 24)
            test = CuttingTest(
                number=number + i + 1,
                piece=plan.piece,
                plan=plan,
                piece_name=plan.piece.name,
                species=plan.piece.species,
                plan_name=plan.name,
                weight_value=Decimal("9.00"),
                weight_unit="lb",
                price_amount=Decimal(INVOICE[plan.piece.key]),
                price_per="lb",
                freight=Decimal(0),
                discount=Decimal(0),
                division_value=Decimal("0.01"),
                division_unit="lb",
                started_at=at,
                finished_at=at,
                approved_at=at,
                cutter=cutter,
                approved_by=cutter,
            )
            piles = [
                Output(
                    test=test,
                    position=o.position,
                    name=o.name,
                    pile=o.pile,
                    role=o.role,
                    cut_id=o.cut_id,
                    is_counted=o.is_counted,
                    target_value=o.target_value,
                    target_unit=o.target_unit,
                    in_case=o.in_case,
                    retail=Decimal("9.99"),
                    credit=Decimal("2.00"),
                )
                for o in plan.outputs.all()
            ]
            tests.append(test)
            outputs += piles
            weighings += [
                Weighing(
                    key=uuid.UUID(int=rng.getrandbits(128)),
                    test=test,
                    output=piles[s.output],
                    value=s.value,
                    unit=s.unit,
                    division=s.division,
                    portions=1,
                    taken_at=at,
                )
                for s in kinds[plan.pk]
            ]
        with transaction.atomic():
            CuttingTest.objects.bulk_create(tests)
            Output.objects.bulk_create(outputs)
            Weighing.objects.bulk_create(weighings, batch_size=2000)
        number += len(tests)
        wanted -= len(tests)


def demo_cookies():
    """Cookies signed with the demo's key, which the server of this run uses."""
    from django.test import override_settings

    from mindful_tally.settings import demo

    with override_settings(SECRET_KEY=demo.SECRET_KEY):
        return cookies()


def ten_tablets(url):
    """p95 of a capture for ten tablets at once, over that of one alone, in the same run."""
    import http.client
    import threading
    from urllib.parse import urlsplit

    from django.conf import settings
    from django.test import override_settings

    print("ten tablets: HTTP clients, each with its own test")
    rng = random.Random(10)
    host = urlsplit(url).netloc
    faults = []

    def tablet(jar, test, output, times, seen, pace):
        link = http.client.HTTPConnection(host, timeout=30)
        kept = {**jar, "csrftoken": "x" * 32}
        head = {
            "Cookie": "; ".join(f"{n}={v}" for n, v in kept.items()),
            "X-CSRFToken": "x" * 32,
            "Content-Type": "application/x-www-form-urlencoded",
            "Tally-Glass": "wide",
        }
        due = time.perf_counter() + pace * rng.random()
        for i in range(CAPTURES_EACH):
            time.sleep(max(due - time.perf_counter(), 0))
            due += pace
            data = {
                "key": uuid.uuid4(),
                "output": output,
                "value": "0.10",
                "seen": seen + i,
                **signed("0.10", "lb", "0.01"),
            }
            started = time.perf_counter()
            link.request("POST", f"/bench/{test}/capture/", urlencode(data), head)
            answer = link.getresponse()
            body = answer.read()
            times.append(time.perf_counter() - started)
            if answer.status != 200:
                faults.append((answer.status, body[-300:]))

    def run(count, pace):
        with override_settings(SCALE_KEY="demo-scale"):
            tests = [opened_clod(i) for i in range(count)]
            times, hands = [], []
            for test in tests:
                jar, outputs = demo_cookies(), list(test.outputs.all())
                hands.append(
                    threading.Thread(
                        target=tablet,
                        args=(jar, test.pk, outputs[0].pk, times, test.revision, pace),
                    )
                )
            for hand in hands:
                hand.start()
            for hand in hands:
                hand.join()
        return statistics.quantiles(times, n=20)[-1], statistics.median(times)

    assert settings.SCALE_KEY
    run(1, PACE)  # warm
    for pace, words, wanted in (
        (PACE, f"one each {PACE * 1e3:.0f} ms", "at most 5"),
        (0, "as fast as they can", "more than 2 cores give"),
    ):
        (alone, alone_median), (ten, ten_median) = run(1, pace), run(TABLETS, pace)
        say(f"{words}: p95 and median of one", f"{alone * 1e3:.1f} ms, {alone_median * 1e3:.1f} ms")
        say(
            f"{words}: p95 and median of {TABLETS}",
            f"{ten * 1e3:.1f} ms, {ten_median * 1e3:.1f} ms",
        )
        say(f"{words}: ten over one, p95", f"{ten / alone:.1f} times", wanted)
    say("refused or failed", len(faults), "0")
    if faults:
        print(faults[0])


def long_tasks(page, port):
    """Tasks of the page over 50 ms, seen by the browser itself, after the load has settled."""
    page.evaluate(
        """() => {
          window.long = [];
          const keep = (list) => window.long.push(...list.getEntries().map((e) => e.duration));
          new PerformanceObserver(keep).observe({ type: "longtask" });
        }"""
    )
    for i in range(STREAMS_SECONDS):
        body = b'{"put": 200}' if i % 2 else b'{"take_off": true}'
        urllib.request.urlopen(
            urllib.request.Request(f"http://127.0.0.1:{port + 1}/hand", body), timeout=5
        ).close()
        page.wait_for_timeout(1000)
    return page.evaluate("window.long")


def dragged(page, base, test):
    """One price moved to and fro: how long its figures take to come, and each move to show."""
    with page.expect_response(lambda answer: "/drag/" in answer.url) as asked:
        page.goto(f"{base}/counter/test/{test}/", wait_until="networkidle")
        page.locator("[data-drags]").first.focus()
    asked.value.finished()
    page.wait_for_timeout(300)
    found = page.evaluate(
        """() => {
          const slider = document.querySelector("[data-drags]");
          const spent = [];
          for (let i = 0; i < 300; i += 1) {
            const from = performance.now();
            slider.value = i % Number(slider.max);
            slider.dispatchEvent(new Event("input", { bubbles: true }));
            document.body.getBoundingClientRect();
            spent.push(performance.now() - from);
          }
          return spent.sort((a, b) => a - b);
        }"""
    )
    timing = asked.value.request.timing
    return {"asked": timing["responseEnd"], "median": found[150], "worst": found[-1]}


def dragged_cut(page, base):
    """One cut of a layout moved to and fro by a finger, on a processor slowed four times."""
    page.goto(f"{base}/layout/beef-ribeye/", wait_until="networkidle")
    session = page.context.new_cdp_session(page)
    session.send("Emulation.setCPUThrottlingRate", {"rate": 4})
    found = page.evaluate(
        """() => {
          const cut = document.querySelectorAll(".cut")[4];
          const box = cut.querySelector("line").getBoundingClientRect();
          const at = (x) => ({ bubbles: true, pointerId: 1, clientX: x, clientY: box.y + 40 });
          cut.setPointerCapture = () => {};
          cut.dispatchEvent(new PointerEvent("pointerdown", at(box.x)));
          const spent = [];
          for (let i = 0; i < 300; i += 1) {
            const from = performance.now();
            cut.dispatchEvent(new PointerEvent("pointermove", at(box.x + 12 * Math.sin(i / 5))));
            spent.push(performance.now() - from);
            document.body.getBoundingClientRect();
          }
          return spent.sort((a, b) => a - b);
        }"""
    )
    session.send("Emulation.setCPUThrottlingRate", {"rate": 1})
    return {"median": found[150], "worst": found[-1]}


def grind_log():
    """Ten years of batches, each of a tub with two lots: found by lot, by name, by number."""
    from django.utils import timezone

    from rooms.grinder.models import Batch, CleanDown, TrimTub, TubIn, TubLot, TubOut

    many, now = 3650, timezone.now()
    clean = CleanDown.objects.create(key=uuid.uuid4(), what="cleaned", at=now)
    tubs = TrimTub.objects.bulk_create(
        TrimTub(name=f"T{i}", species="beef", kind="lean", unit="lb", started_at=now, closed_at=now)
        for i in range(many)
    )
    answer = {"cost": "80", "cost_per_unit": "4", "take": []}
    batches = Batch.objects.bulk_create(
        Batch(
            id=uuid.uuid4(),
            number=1000 + i,
            name="ground beef",
            rule="ground_beef",
            species="beef",
            weight=Decimal(20),
            unit="lb",
            fat=Decimal("0.15"),
            fat_sd=Decimal("0.01"),
            document={},
            answer=answer,
            cleaned=clean,
            set_up=clean,
            begun_at=now - timedelta(days=many - i),
            celsius_in=2000,
            celsius_out=3900,
            got=Decimal("19.5"),
            machine=Decimal("0.3"),
            finished_at=now - timedelta(days=many - i),
            cost=Decimal(80),
        )
        for i in range(many)
    )
    ins = TubIn.objects.bulk_create(
        TubIn(
            key=uuid.uuid4(),
            tub=tub,
            source="case",
            weight=Decimal(10),
            lots=[{"lot": f"L{i % 900}-{side}"}],
            day=(now - timedelta(days=many - i)).date(),
            at=now - timedelta(days=many - i, hours=1),
        )
        for i, tub in enumerate(tubs)
        for side in range(2)
    )
    TubLot.objects.bulk_create(TubLot(entry=one, lot=one.lots[0]["lot"]) for one in ins)
    TubOut.objects.bulk_create(
        TubOut(key=uuid.uuid4(), tub=tub, batch=batch, weight=Decimal(20), at=batch.begun_at)
        for tub, batch in zip(tubs, batches, strict=True)
    )
    print(f"the grind log: {many:,} batches")
    for words, asked in (("by lot", "L77-1"), ("by name", "ground beef"), ("by number", "G-1200")):
        visit(words, f"/grinder/log/?text={asked}", "8, under 100 ms")
    visit("one batch", f"/grinder/batch/{batches[-1].pk}/", 15)


def first_load_and_memory():
    """A real server and a real browser: bytes over the wire at the bench, memory of a worker."""
    from playwright.sync_api import sync_playwright

    from rooms.bench.models import CuttingTest

    port = 8790
    running = CuttingTest.objects.open().first().pk
    done = CuttingTest.objects.exclude(approved_by=None).first().pk
    environment = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "mindful_tally.settings.demo",
        "PORT": str(port),
    }
    manage = [sys.executable, "manage.py", "collectstatic", "--no-input", "--verbosity", "0"]
    subprocess.run(manage, cwd=ROOT, env=environment, check=True)
    server = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "gunicorn",
            "mindful_tally.wsgi",
            "-b",
            f"127.0.0.1:{port}",
            "--workers",
            "2",
            "--threads",
            "4",
            "--log-level",
            "critical",
        ],
        cwd=ROOT,
        env=environment,
    )
    bridge = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "devices.bridge",
            "--port",
            str(port + 1),
            "--page",
            f"http://127.0.0.1:{port}",
        ],
        cwd=ROOT,
        env={**environment, "SCALE_KEY": "demo-scale"},
    )
    try:
        for _ in range(100):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/office/", timeout=1).close()
                break
            except OSError:
                time.sleep(0.1)
        jar = demo_cookies()
        ten_tablets(f"http://127.0.0.1:{port}")
        arguments = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(
                executable_path="/usr/bin/chromium", args=arguments
            )
            page = browser.new_page()
            page.context.add_cookies(
                [{"name": n, "value": v, "url": f"http://127.0.0.1:{port}"} for n, v in jar.items()]
            )
            session = page.context.new_cdp_session(page)
            session.send("Network.enable")
            sizes = []
            session.on(
                "Network.loadingFinished", lambda event: sizes.append(event["encodedDataLength"])
            )
            page.goto(f"http://127.0.0.1:{port}/bench/{running}/", wait_until="load")
            page.evaluate("document.fonts.ready.then(() => 1)")
            page.wait_for_timeout(500)
            load_size = list(sizes)
            long = long_tasks(page, port)
            drag = dragged(page, f"http://127.0.0.1:{port}", done)
            cut = dragged_cut(page, f"http://127.0.0.1:{port}")
            browser.close()
        for _ in range(60):
            for path in ("/", f"/bench/{running}/", "/counter/"):
                asked = urllib.request.Request(f"http://127.0.0.1:{port}{path}")
                asked.add_header("Cookie", "; ".join(f"{n}={v}" for n, v in jar.items()))
                urllib.request.urlopen(asked, timeout=10).read()
        children = Path(f"/proc/{server.pid}/task/{server.pid}/children").read_text().split()
        memory = [
            int(line.split()[1]) / 1024
            for child in children
            for line in Path(f"/proc/{child}/status").read_text().splitlines()
            if line.startswith("VmRSS")
        ]
        print("over the wire and in memory")
        say(
            "bench, first load, fonts and all, compressed",
            f"{sum(load_size) / 1024:.0f} KB",
            "at most 250 KB",
        )
        say("requests of that load", len(load_size))
        say("memory of a web worker", f"{max(memory):.0f} MB", "at most 150 MB")
        say("a dragged price: its stops from the server", f"{drag['asked']:.0f} ms", "once a drag")
        say(
            "a move: script and layout, median, worst of 300",
            f"{drag['median']:.1f}, {drag['worst']:.1f} ms",
            "one frame is 16.7 ms",
        )
        say(
            "a dragged cut at a quarter of the speed, script, median, worst of 300",
            f"{cut['median']:.1f}, {cut['worst']:.1f} ms",
            "at most 16 ms",
        )
        words = f"long tasks over 50 ms while the scale streams for {STREAMS_SECONDS} s"
        say(words, f"{len(long)}", "0")
    finally:
        bridge.terminate()
        server.terminate()
        server.wait()


def pages_of_the_demo():
    pages("20 sheets")


def pages_of_ten_years():
    pages(f"{TEN_YEARS:,} sheets")


def measured(asked, *parts):
    """Run those parts whose names were asked for; all without any."""
    for part in parts:
        if not asked or part.__name__ in asked:
            part()


def main():
    fresh_database()
    core()
    import django

    django.setup()
    from django.conf import settings
    from django.core.management import call_command

    settings.DATABASES["default"]["CONN_MAX_AGE"] = None
    call_command("migrate", verbosity=0)
    import_module("mindful_tally.wsgi")  # as the server does
    asked = sys.argv[1:]
    measured(asked, catalog, search, layouts, days, blends)
    print("making the demo shop", flush=True)
    call_command("demo_data", stdout=io.StringIO())
    measured(asked, weighing, labels, pages_of_the_demo, cooler, ten_years, pages_of_ten_years)
    measured(asked, counter, grind_log, the_way_back, first_load_and_memory)
    from django.db import connection

    connection.close()
    fresh_database()


if __name__ == "__main__":
    main()
