"""The scripts' pure parts, on a blank page without the application."""

import json

import pytest

from tests.journeys.conftest import ROOT

SCRIPTS = {
    path.name: path
    for place in ("mindful_tally/static/js/*.js", "rooms/*/static/*/js/*.js")
    for path in ROOT.glob(place)
}
SCALE = {"unit": "lb", "division": "0.01", "scale": "block", "state": "steady", "tare": "0.00"}


@pytest.fixture(scope="module")
def blank(browser):
    """A page that serves nothing but the scripts."""
    page = browser.new_page()
    page.route(
        "http://scripts.test/**",
        lambda route: (
            route.fulfill(path=SCRIPTS[route.request.url.rpartition("/")[2]])
            if route.request.url.endswith(".js")
            else route.fulfill(body="<!doctype html>", content_type="text/html")
        ),
    )
    page.goto("http://scripts.test/")
    yield page
    page.close()


@pytest.fixture
def call(blank):
    """call("amounts", "gross", …): what that function of that module answers."""

    def answer(module, name, *arguments):
        return blank.evaluate(
            "async ([module, name, given]) => (await import(`/${module}.js`))[name](...given)",
            [module, name, list(arguments)],
        )

    return answer


def weighed(weight, **more):
    return {**SCALE, "weight": weight, **more}


@pytest.mark.parametrize(
    ("reading", "pile", "base", "expected"),
    [
        (weighed("0.44"), {}, None, {"value": "0.44"}),
        (
            weighed("0.44"),
            {},
            weighed("0.30", tare="0.10"),
            {"value": "0.04", "words": "since 0.40"},
        ),
        (weighed("0.30"), {}, weighed("0.44"), {"value": "-0.14", "words": "since 0.44"}),
        (
            weighed("0.3", unit="kg"),
            {},
            weighed("0.44"),
            {"why": "the unit changed: press D twice"},
        ),
        (
            weighed("2.50", tare="1.00"),
            {"tub": "Lean 80", "tubUnit": "lb", "tubGross": "3.00"},
            None,
            {"value": "0.50", "tub_before": "3.00", "words": "into Lean 80, 3.00 before"},
        ),
        (
            weighed("4.00"),
            {"tub": "Lean 80", "tubUnit": "lb", "tubGross": "3.66139"},  # a converted weight
            None,
            {"value": "0.33861", "tub_before": "3.66139", "words": "into Lean 80, 3.66139 before"},
        ),
        (
            weighed("4.00", unit="kg"),
            {"tub": "Lean 80", "tubUnit": "lb", "tubGross": "3.00"},
            None,
            {"why": "the tub is weighed in lb"},
        ),
    ],
)
def test_what_a_pile_gets_from_a_reading(call, reading, pile, base, expected):
    found = call("amounts", "amountOf", reading, pile, base)
    before = found.pop("before", None)
    assert found == expected
    assert before is None or json.loads(before) == base


def test_hundredths_are_exact_whatever_binary_makes_of_them(blank):
    """Every difference of two multiples of a division up to 60 lb comes out as written."""
    wrong = blank.evaluate(
        """async () => {
          const { amountOf } = await import("/amounts.js");
          const at = (n) => ({ unit: "lb", division: "0.01", scale: "b", tare: "0", weight: (n / 100).toFixed(2) });
          const wrong = [];
          for (let i = 0; i < 6000; i += 7)
            for (let j = 0; j < 6000; j += 37) {
              const { value } = amountOf(at(i), {}, at(j));
              if (Math.round(Number(value) * 100) !== i - j || !/^-?\\d+\\.\\d\\d$/.test(value)) wrong.push([i, j, value]);
            }
          return wrong;
        }"""
    )
    assert wrong == []


def asked(**more):
    there = {"isWiping": False, "other": "", "reading": weighed("0.44"), "taken": None}
    return {**there, "found": {"value": "0.44"}, "isDifference": False, **more}


@pytest.mark.parametrize(
    ("more", "why"),
    [
        ({}, ""),
        ({"isWiping": True, "other": "the scale is at test 3"}, "wiping"),
        ({"other": "the scale is at test 3"}, "the scale is at test 3"),
        ({"reading": weighed("0.44", state="moving")}, "moving"),
        ({"reading": {"weight": None, "state": "no scale"}, "found": {}}, "no scale"),
        ({"taken": weighed("0.44")}, "taken, change the load"),
        ({"found": {"why": "the tub is weighed in lb"}}, "the tub is weighed in lb"),
        ({"found": {"value": "0.00"}}, "nothing on the scale"),
        ({"found": {"value": "-0.02"}}, "nothing on the scale"),
        ({"found": {"value": "0.01"}}, ""),
        ({"found": {"value": "0.01"}, "isDifference": True}, "nothing added"),
        ({"found": {"value": "0.02"}, "isDifference": True}, ""),
    ],
)
def test_why_a_press_takes_nothing(call, more, why):
    assert call("press", "whyNot", asked(**more)) == why


@pytest.mark.parametrize(
    ("reading", "moved"),
    [
        (weighed("0.44"), False),
        (weighed("0.45"), False),  # one division is noise
        (weighed("0.46"), True),
        (weighed("0.44", unit="kg"), True),
        ({"weight": None, "state": "no scale"}, True),
    ],
)
def test_the_glass_is_armed_again_when_the_load_has_changed(call, reading, moved):
    assert call("press", "hasMoved", reading, weighed("0.44")) is moved


def test_auto_takes_once_a_load_and_never_what_only_became_lighter(call):
    settling, taken = {"steady": 0, "isClear": False}, []
    loads = [False] * 5 + [None] + [True] * 5  # something lies there; cleared; a new load
    for at, load in enumerate(loads):
        seen = {"isEmpty": load is None, "mayTake": load is not None, "isDifference": False}
        found = call("press", "auto", settling, seen)
        taken += [at] if found.pop("takes") else []
        settling = found if not taken or taken[-1] != at else {**found, "isClear": False}
    assert taken == [9]
    by_difference = {"isEmpty": False, "mayTake": True, "isDifference": True}
    assert call("press", "auto", {"steady": 3, "isClear": False}, by_difference)["takes"]


@pytest.mark.parametrize(
    ("status", "html", "means"),
    [
        (200, '<input id="seen">', "taken"),
        (200, "<h1>Free wifi, log in</h1>", "away"),
        (0, "", "away"),
        (401, "", "nobody"),
        (409, "", "refused"),
        (422, "", "refused"),
        (500, "", "failed"),
        (503, "", "away"),
        (507, "", "away"),
    ],
)
def test_what_an_answer_means_for_what_waits(call, status, html, means):
    assert call("order", "judge", status, html) == means


def test_the_oldest_goes_first_and_what_was_refused_waits_for_a_hand(call):
    queue = [{"n": 1, "refused": "no"}, {"n": 2}, {"n": 3}]
    assert call("order", "next", queue)["n"] == 2
    assert call("order", "next", queue[:1]) is None
    assert [call("order", "pause", tries) for tries in (0, 1, 2, 9)] == [500, 500, 1000, 4000]


def test_an_entry_the_server_fails_on_is_put_aside_after_four_tries(call):
    item = {"n": 1}
    for _ in range(3):
        item = call("order", "failed", item)
        assert "refused" not in item
    item = call("order", "failed", item)
    assert item["refused"].startswith("The server failed on it 4 times")
    assert item["faults"] == 0  # sent again by a hand, it has four tries again


QUEUE = """
async ([fault, answers]) => {
  const { makeQueue } = await import("/sending.js");
  const disk = new Map(), posted = [], told = [], waits = [];
  let n = 0, drops = 0, shown = 0;
  const store = {
    all: async () => [...disk.values()].sort((a, b) => a.n - b.n),
    keep: async (item) => { item.n ??= ++n; disk.set(item.n, { ...item }); return item.n; },
    drop: async (number) => {
      drops += 1;
      if (fault === "drop" && drops === 1) throw new Error("the disk is closing");
      disk.delete(number);
    },
  };
  const post = async (url, fields) => {
    if (fault === "post" && posted.length === 1 && !waits.length) throw new Error("no cookie, no token");
    posted.push(fields.value);
    return { status: answers[posted.length - 1] ?? 200, html: '<input id="seen">' };
  };
  const glass = {
    show: () => { shown += 1; if (fault === "show" && shown === 2) throw new Error("no list"); },
    tell: (words) => told.push(words),
  };
  const fates = (own) => ({
    taken: async (item) => { own.took(); await own.drop(item); return 0; },
    refused: async (item) => { await own.keep(Object.assign(item, { refused: "no" })); return 0; },
    away: () => own.wait(), nobody: () => own.wait(), failed: () => own.wait(),
  });
  let again = Promise.resolve();
  const later = (work, wait) => { waits.push(wait); again = again.then(work); };
  const queue = makeQueue({ store, post, glass, answers: fates, later });
  for (const value of ["A", "B", "C"]) await queue.send({ url: "/", fields: { value }, words: value });
  for (let i = 0; i < 40; i += 1) await again.then(() => new Promise((done) => queueMicrotask(done)));
  await queue.drain();
  for (let i = 0; i < 40; i += 1) await again;
  return { posted, left: [...disk.keys()], told };
}
"""


@pytest.mark.parametrize("fault", ["", "drop", "post", "show"])
def test_one_fault_of_the_disk_the_line_or_the_page_stops_nothing_behind_it(blank, fault):
    """Each of three is sent once and in order, whatever fails once on the way."""
    found = blank.evaluate(QUEUE, [fault, []])
    assert found["posted"] == ["A", "B", "C"]
    assert found["left"] == ([1] if fault == "drop" else [])
    assert any("does not let go" in words for words in found["told"]) == (fault == "drop")


@pytest.mark.parametrize("status", [408, 425, 429, 503])
def test_what_a_proxy_says_is_no_refusal_of_the_shop(blank, status):
    found = blank.evaluate(QUEUE, ["", [status]])
    assert found["posted"] == ["A", "A", "B", "C"]
    assert found["left"] == []
