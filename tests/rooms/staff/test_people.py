"""Who may do what, names and PINs, tablets, log-in, lock-out, the first manager."""

import re
import uuid
from datetime import timedelta

import pytest
from axes.models import AccessAttempt, AccessFailureLog
from django.core.exceptions import ImproperlyConfigured
from django.test import Client
from django.urls import URLPattern, get_resolver, reverse
from django.utils import timezone

from rooms.bench.models import Weighing
from rooms.common.db.seen import state_of
from rooms.common.plain_text import is_plain
from rooms.common.web.doors import ANYBODY
from rooms.staff import lockout
from rooms.staff.actions.people import has_manager
from rooms.staff.actions.tablets import enrol, withdraw
from rooms.staff.forms import pin_fault
from rooms.staff.models import Person, Tablet, Turn
from rooms.staff.rights import Right
from tests.conftest import at_tablet, person

pytestmark = pytest.mark.django_db
ROLES = {"ines": "cutter", "bram": "manager", "tove": "apprentice", "odile": "auditor"}
NOBODY = uuid.UUID(int=1)
SAMPLE = {"plan_kind": "ad", "slug": "beef-rib", "uuid": str(NOBODY), "int": "1", "str": "x"}
OWN = {
    "pk": "1",
    "table": "cuts",
    "step": "gland",
    "plan": "plain",
    "key": "beef-rib",
    "piece": "beef-rib",
}


def every_url(patterns=None, before="/"):
    """Each address of the shop with made-up parts, and its view."""
    found = []
    for pattern in patterns or get_resolver().url_patterns:
        route = before + str(pattern.pattern)
        if isinstance(pattern, URLPattern):
            filled = re.sub(
                r"<(\w+):(\w+)>",
                lambda m: SAMPLE[m[1]] if m[1] != "slug" else OWN.get(m[2], "x"),
                route,
            )
            found.append((filled, pattern.callback))
        else:
            found += every_url(pattern.url_patterns, route)
    return found


URLS = every_url()
OPEN = {
    "/who/",
    "/who/1/",
    "/01/x/10/x/21/x",
    "/01/x/21/x",
    "/away/",
    "/office/",
    "/office/first/",
    "/theme/",
    "/worker.js",
    "/cooler/readings/",
}
WRITES_NEED = {
    # what only a manager does, by address; everything else that writes is work at the block
    **dict.fromkeys(
        [
            "/people/",
            "/people/events/",
            "/people/new/",
            "/people/1/",
            f"/people/tablet/{NOBODY}/withdraw/",
        ],
        "manager",
    ),
    **dict.fromkeys(
        [
            f"/sheet/{NOBODY}/approve/",
            f"/sheet/{NOBODY}/correct/",
            "/planner/wanted/",
            "/planner/sales/",
            "/planner/",
            "/planner/1/give/",
            "/planner/order/",
            "/planner/order/terms/",
            "/planner/order/1/send/",
            "/planner/order/1/back/",
            "/planner/demand/",
            "/planner/demand/factor/1/off/",
            "/planner/demand/standing/1/off/",
            f"/counter/test/{NOBODY}/",
            "/cooler/windows/beef-rib/",
        ],
        "manager",
    ),
    **dict.fromkeys(
        [
            f"/book/{rest}"
            for rest in (
                "version/1/undo/",
                "import/",
                "products/new/",
                "products/from-catalog/",
                "products/from-list/",
                "products/1/",
                "products/1/price/",
                "products/1/neighbour/",
                "shared/x/1/",
            )
        ],
        "manager",
    ),
    **dict.fromkeys(
        [
            "/tests/",
            "/counter/ad/keep/",
            "/counter/ad/kept/1/off/",
            "/counter/invoices/",
            f"/counter/invoices/{NOBODY}/decide/",
            "/shop/walk/",
            "/grinder/rules/",
            "/trays/labels/",
            "/trays/recall/1/let-go/",
            "/shop/beef-rib/",
            "/shop/first-day/beef-rib/",
            "/shop/first-day/over/",
        ],
        "manager",
    ),
}


def test_every_view_names_a_right_and_the_open_ones_are_known():
    assert {url for url, view in URLS if view.rights == ANYBODY} == OPEN
    assert len(URLS) > 90
    managers = {
        url for url, view in URLS if view.rights != ANYBODY and view.rights[1].roles == {"manager"}
    }
    changing = {url for url in managers if not url.startswith("/pieces/")}
    assert changing == set(WRITES_NEED)
    assert all(
        "/edit" in url
        or "/new/" in url
        or "/out/" in url
        or "/preview/" in url
        or "/move/" in url
        or "/files/" in url
        or "/bought/" in url
        for url in managers - changing
    )


OFTEN_AND_LONG = [
    username if username == "bram" else pytest.param(username, marks=pytest.mark.long)
    for username in ROLES
]


@pytest.mark.parametrize("username", OFTEN_AND_LONG)
@pytest.mark.parametrize("method", ["get", "post"])
def test_every_url_by_every_role(as_role, catalog, username, method):
    """Allowed: anything but 401 and 403. Not allowed: 403 that says whose it is. No 500 at all."""
    client, role = as_role(username), ROLES[username]
    for url, view in URLS:
        if view.rights == ANYBODY:
            continue
        right = view.rights[0 if method == "get" else 1]
        answer = getattr(client, method)(url)
        assert answer.status_code < 500, url
        assert (answer.status_code == 403) == (role not in right.roles), (url, role)
        if answer.status_code == 403:
            assert f"is {role} here" in answer.content.decode(), url
    if username != "bram":
        assert not Person.objects.filter(username="").exists()


@pytest.mark.parametrize("method", ["get", "post"])
def test_nobody_named_is_asked_who_or_told_that_nothing_was_recorded(catalog, method):
    stranger = Client()
    for url, view in URLS:
        if view.rights == ANYBODY:
            continue
        answer = getattr(stranger, method)(url)
        assert answer.status_code == (302 if method == "get" else 401), url
        if method == "get":
            assert answer.url.startswith("/office/?back="), url
    answer = stranger.get("/bench/", headers={"HX-Request": "true"})
    assert answer.status_code == 401
    assert "Nobody is named here" in answer.content.decode()


def test_a_view_without_a_right_is_closed(rf):
    from rooms.staff.middleware import AskWho

    with pytest.raises(ImproperlyConfigured, match="asks for no right"):
        AskWho(None).process_view(rf.get("/"), lambda request: None, (), {})


def test_a_refusal_says_what_for_whom_and_who_one_is():
    words = Right.RECEIVE.refusal("Tove", "apprentice", in_office=True)
    assert (
        words == "To receive and move bags is for a cutter or a manager; Tove is apprentice here."
    )
    assert Right.PEOPLE.refusal("Bram", "manager", in_office=False).endswith("with a password.")
    assert Right.LOOK.refusal("Odile", "auditor", in_office=False) == ""


# --- at the block ---


@pytest.fixture
def tablet(shop):
    """An enrolled browser with nobody at its block."""
    client = Client()
    client.cookies.load(at_tablet(""))
    return client


def step_up(client, name, pin, **more):
    return client.post(reverse("staff:pin", args=[person(name).pk]), {"pin": pin, **more})


def test_the_keys_of_the_pin_are_drawn_once_they_type(tablet):
    page = tablet.get(reverse("staff:pin", args=[person("ines").pk])).content.decode()
    script = re.search(r'<script src="[^"]*js/pin[^"]*" nonce="[^"]+">', page)
    assert page.index('id="pin"') < script.start() < page.index("data-digit")


def test_a_name_and_a_pin_are_enough_on_an_enrolled_tablet(tablet):
    assert "Ines" in tablet.get("/who/").content.decode()
    assert step_up(tablet, "ines", "3141", back="/bench/").url == "/bench/"
    page = tablet.get("/bench/").content.decode()
    assert "<b>Ines</b>, cutter" in page
    answer = tablet.get("/people/")  # a PIN never opens the office
    assert answer.status_code == 403
    step_up(tablet, "bram", "2718")
    answer = tablet.get("/people/")
    assert "asks for the office log-in" in answer.content.decode()
    assert [turn.until is None for turn in Turn.objects.order_by("since")] == [False, True]
    assert step_up(tablet, "ines", "3141", back="//evil.example").url == "/"
    tablet.post("/away/")
    assert tablet.get("/bench/").url.startswith("/who/")


def test_a_browser_that_is_not_enrolled_or_was_withdrawn_or_forged_gets_nowhere(shop, tablet):
    stranger = Client()
    answer = step_up(stranger, "ines", "3141")
    assert answer.status_code == 409
    assert "not enrolled" in answer.content.decode()
    step_up(tablet, "ines", "3141")
    cookie = tablet.cookies["tablet"].value
    for forged in (cookie[:-1] + "x", f"{NOBODY}:secret", cookie.replace(":", ";"), ""):
        stranger.cookies["tablet"] = forged
        stranger.cookies["sessionid"] = tablet.cookies["sessionid"].value
        assert stranger.get("/bench/").status_code == 302, forged
        assert step_up(stranger, "ines", "3141").status_code == 409
    withdraw(Tablet.objects.get().pk, shop["bram"])
    assert tablet.get("/bench/").status_code == 302
    assert step_up(tablet, "ines", "3141").status_code == 409
    assert Tablet.objects.get().history.count() == 2


def test_a_session_of_another_tablet_or_of_yesterday_is_nobodys(tablet):
    step_up(tablet, "ines", "3141")
    other = Client()
    other.cookies.load(at_tablet(""))
    other.cookies["sessionid"] = tablet.cookies["sessionid"].value
    assert other.get("/bench/").status_code == 302
    Turn.objects.update(since=timezone.now() - timedelta(hours=15))
    assert tablet.get("/bench/").status_code == 302


def test_somebody_who_works_here_no_more_is_out_at_once(tablet):
    step_up(tablet, "ines", "3141")
    Person.objects.filter(username="ines").update(is_active=False)
    assert tablet.get("/bench/").status_code == 302
    assert step_up(tablet, "ines", "3141").status_code == 404


def test_five_wrong_pins_lock_the_name_and_each_further_one_doubles_the_wait(tablet, monkeypatch):
    for _ in range(4):
        answer = step_up(tablet, "ines", "0000")
        assert answer.status_code == 422
        assert "that is not Ines" in answer.content.decode()
    assert "Wait 30 seconds" in step_up(tablet, "ines", "0000").content.decode()
    answer = step_up(tablet, "ines", "3141")  # even the right one waits now
    assert answer.status_code == 429
    assert step_up(tablet, "bram", "2718").status_code == 302  # others do not
    tablet.post("/away/")
    _later(31)
    assert "Wait 60 seconds" in step_up(tablet, "ines", "0000").content.decode()
    _later(61)
    assert step_up(tablet, "ines", "3141").status_code == 302
    assert lockout.failures(f"pin {person('ines').pk}") == 0
    logged = " ".join(f"{a.get_data}{a.post_data}" for a in AccessAttempt.objects.all())
    assert "0000" not in logged


def _later(seconds):
    """So much time has passed since the wrong tries."""
    for rows in (AccessAttempt, AccessFailureLog):
        for row in rows.objects.all():
            row.attempt_time -= timedelta(seconds=seconds)
            row.save()


@pytest.mark.parametrize(
    ("pin", "good"),
    [
        ("3141", True),
        ("31415926", True),
        ("314", False),
        ("314159265", False),
        ("1111", False),
        ("1234", False),
        ("8765", False),
        ("31a1", False),
        ("٣١٤١", False),
        ("", False),
    ],
)
def test_a_pin_is_four_to_eight_digits_not_too_easy(pin, good):
    assert (pin_fault(pin) == "") == good


def test_a_weighing_that_waited_counts_for_whoever_took_it(tablet, opened):
    rows = opened()
    step_up(tablet, "ines", "3141")
    turn = str(Turn.objects.latest("since").pk)
    step_up(tablet, "tove", "1618")
    for given, name in ((turn, "Ines"), (str(NOBODY), "Tove"), ("x", "Tove"), ("", "Tove")):
        tablet.post(
            reverse("bench:capture", args=[rows.test.pk]),
            {
                "key": uuid.uuid4(),
                "output": rows.outputs[0].pk,
                "value": "0.4",
                "unit": "lb",
                "typed": "1",
                "turn": given,
            },
        )
        assert Weighing.objects.last().taken_by.first_name == name, given


# --- the office ---


def test_the_first_manager_is_entered_once_and_there_is_no_password_before(catalog):
    browser = Client()
    assert browser.get("/").url.startswith("/office/")
    assert browser.get("/office/").url == "/office/first/"
    good = {
        "name": "Ada",
        "username": "ada",
        "password": "seven-cold-mornings",
        "again": "seven-cold-mornings",
    }
    for wrong, says in (
        ({"again": "another"}, "The two passwords differ"),
        ({"password": "short"}, "too short"),
        ({"password": "password123", "again": "password123"}, "too common"),
        ({"username": "a b"}, "Letters, digits"),
        ({"name": ""}, "required"),
    ):
        answer = browser.post("/office/first/", good | wrong)
        assert answer.status_code == 422
        assert says in answer.content.decode()
    assert not has_manager()
    assert browser.post("/office/first/", good).url == "/"
    assert browser.get("/people/").status_code == 200
    other = Client()
    assert other.get("/office/first/").url == "/office/"
    assert other.post("/office/first/", good | {"username": "eve"}).url == "/office/"
    assert not Person.objects.filter(username="eve").exists()


def test_log_in_by_password_locks_too_and_log_out_ends_it(shop):
    browser = Client()
    wrong = {"username": "bram", "password": "nonsense"}
    answer = browser.post("/office/", wrong)
    assert answer.status_code == 422
    assert "do not belong together" in answer.content.decode()
    assert browser.post("/office/", {"username": "ines", "password": ""}).status_code == 422
    right = {"username": "bram", "password": "gull-quay-demo", "back": "/cooler/"}
    before = person("bram").history.count()
    assert browser.post("/office/", right).url == "/cooler/"
    assert person("bram").history.count() == before  # a log-in is no change of the person
    assert browser.get("/people/").status_code == 200
    browser.post("/away/")
    assert browser.get("/people/").status_code == 302
    for _ in range(5):
        answer = browser.post("/office/", wrong)
    assert answer.status_code == 429
    assert browser.post("/office/", right).status_code == 429


def test_people_are_entered_changed_and_never_deleted(client, shop):
    new = {
        "first_name": "<b>Ada</b>",
        "username": "ada",
        "role": "apprentice",
        "is_active": "on",
        "is_under_18": "on",
        "new_pin": "2580",
    }
    assert client.post("/people/new/", new).url == "/people/"
    ada = Person.objects.get(username="ada")
    assert (ada.is_under_18, ada.pin[:4] != "2580", ada.has_usable_password()) == (
        True,
        True,
        False,
    )
    page = client.get("/people/").content.decode()
    assert "&lt;b&gt;Ada&lt;/b&gt;" in page
    for wrong, says in (
        ({"new_pin": "1234"}, "too easy"),
        ({"first_name": ""}, "required"),
        ({"new_password": "short"}, "too short"),
        ({"role": "king"}, "valid choice"),
        ({"username": "bram"}, "already exists"),
    ):
        answer = client.post(f"/people/{ada.pk}/", new | wrong)
        assert answer.status_code == 422
        assert says in answer.content.decode()
    client.post(
        f"/people/{ada.pk}/",
        new | {"first_name": "Ada", "is_active": "", "seen": state_of(ada)},
    )
    ada.refresh_from_db()
    assert (ada.first_name, ada.is_active) == ("Ada", False)
    assert [str(old.history_user) for old in ada.history.all()] == ["Bram", "Bram"]


def test_the_last_manager_with_a_password_stays_one(client, shop):
    data = {"first_name": "Bram", "username": "bram", "role": "cutter", "is_active": "on"}
    data["seen"] = state_of(shop["bram"])
    answer = client.post(f"/people/{shop['bram'].pk}/", data)
    assert answer.status_code == 422
    assert "only manager with a password" in answer.content.decode()
    assert Person.objects.get(username="bram").role == "manager"


def test_a_browser_is_enrolled_under_a_name_and_withdrawn_for_good(client):
    assert client.post("/people/", {"name": " "}).status_code == 422
    answer = client.post("/people/", {"name": "<i>Block</i>"})
    cookie = answer.cookies["tablet"]
    assert (cookie["httponly"], cookie["samesite"]) == (True, "Lax")
    page = client.get("/people/").content.decode()
    assert "&lt;i&gt;Block&lt;/i&gt;" in page
    assert "this browser" in page
    tablet = Tablet.objects.get()
    assert tablet.secret not in cookie.value
    client.post(reverse("staff:withdraw", args=[tablet.pk]))
    assert "withdrawn" in client.get("/people/").content.decode()
    assert client.post(reverse("staff:withdraw", args=[NOBODY])).status_code == 422


def test_every_form_of_the_staff_needs_its_token(shop):
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(shop["bram"], "django.contrib.auth.backends.ModelBackend")
    for url in ("/people/", "/people/new/", "/office/", "/away/", f"/who/{shop['ines'].pk}/"):
        assert strict.post(url, {"name": "x"}).status_code == 403, url
    assert not Tablet.objects.exists()


def test_a_password_is_changed_by_its_owner_and_the_old_sessions_end(client, as_role, shop):
    other = as_role("bram")
    data = {
        "old_password": "gull-quay-demo",
        "new_password1": "seven-cold-mornings",
        "new_password2": "seven-cold-mornings",
    }
    assert client.post("/office/password/", data | {"old_password": "x"}).status_code == 422
    assert client.post("/office/password/", data).status_code == 302
    assert client.get("/people/").status_code == 200
    assert other.get("/people/").status_code == 302


def test_an_enrolled_secret_is_long_and_kept_hashed(shop):
    tablet, secret = enrol("Block 2", shop["bram"].pk)
    assert len(secret) >= 43
    assert tablet.secret != secret


def test_a_new_pin_ends_what_was_opened_by_the_old_one(client, shop):
    tove = shop["tove"]
    browser = Client()
    browser.cookies.load(at_tablet("tove"))
    assert browser.get(reverse("bench:front")).status_code == 200
    sent = {"first_name": "Tove", "username": tove.username, "role": tove.role, "is_active": "on"}
    sent |= {"is_under_18": "on"} if tove.is_under_18 else {}
    sent |= {"new_pin": "8642", "seen": state_of(tove)}
    assert client.post(reverse("staff:person", args=[tove.pk]), sent).status_code == 302
    assert browser.get(reverse("bench:front")).status_code != 200


@pytest.mark.parametrize(
    ("text", "is_right"),
    [
        ("Tove", True),
        ("می\u200cخواهم", True),  # Persian, with a non-joiner
        ("ක්\u200dෂ", True),  # Sinhala, with a joiner
        ("\u200c", False),
        ("a\u202eb", False),
        ("a\nb", False),
    ],
)
def test_a_name_of_any_script_is_plain_and_what_is_not_seen_is_not(text, is_right):
    assert is_plain(text) is is_right
