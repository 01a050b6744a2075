"""Who stays signed in for how long, what a PIN alone does not open, and what others cannot lock."""

import uuid

import pytest
from django.test import Client
from django.urls import reverse

from rooms.cooler.actions.holds import hold_lot
from rooms.cooler.models import LotHold
from rooms.pricebook.models import Version
from rooms.shop.models import Shop
from rooms.shop.queries.current import forget
from rooms.staff import hashers, lockout, sessions
from rooms.staff.actions.people import save_person
from rooms.staff.models import Person, SecurityEvent
from rooms.staff.rights import Asks, Right
from tests.conftest import at_tablet, person, words_of
from tests.rooms.staff.test_people import URLS, step_up

pytestmark = [pytest.mark.django_db, pytest.mark.usefixtures("shop")]
RIGHT = {"username": "bram", "password": "gull-quay-demo"}
WRONG = {**RIGHT, "password": "nonsense"}
KEY = uuid.uuid4


def at_block(username, name="Block 1"):
    client = Client()
    client.cookies.load(at_tablet(username, name))
    return client


@pytest.fixture
def later(monkeypatch):
    """`later(31)`: so many minutes have passed for every session."""
    now, passed = sessions._now, [0]
    monkeypatch.setattr(sessions, "_now", lambda: now() + passed[0])

    def pass_(minutes):
        passed[0] += minutes * 60

    return pass_


# --- what nobody can lock from outside ---


def test_no_name_typed_in_the_office_locks_a_pin():
    tablet = at_block("")
    for name in (f"pin {person('tove').pk}", lockout.name_of.__name__, "tove"):
        stranger = Client()
        for _ in range(7):
            stranger.post("/office/", {"username": name, "password": "x"})
    assert step_up(tablet, "tove", "1618").status_code == 302


def test_wrong_pins_at_one_tablet_lock_it_and_no_other():
    one, other = at_block("", "Block 1"), at_block("", "Block 2")
    for _ in range(6):
        answer = step_up(one, "ines", "0000")
    assert answer.status_code == 429
    assert step_up(one, "ines", "3141").status_code == 429
    assert step_up(other, "ines", "3141").status_code == 302
    assert step_up(one, "bram", "2718").status_code == 302


def test_wrong_passwords_elsewhere_do_not_lock_a_browser_that_was_let_in_before():
    known, stranger = Client(), Client(REMOTE_ADDR="192.0.2.9")
    assert known.post("/office/", RIGHT).status_code == 302
    known.post("/away/")
    for _ in range(6):
        answer = stranger.post("/office/", WRONG)
    assert answer.status_code == 429
    assert stranger.post("/office/", RIGHT).status_code == 429
    assert known.post("/office/", RIGHT).status_code == 302
    for _ in range(6):
        known.post("/office/", WRONG)
    assert known.post("/office/", RIGHT).status_code == 429


def test_an_address_that_tries_names_is_not_hashed_for_any_more(monkeypatch):
    monkeypatch.setattr(lockout, "MOST_STRANGERS", 3)
    stranger = Client(REMOTE_ADDR="192.0.2.9")
    for name in ("ada", "eve", "mallory"):
        assert stranger.post("/office/", {"username": name, "password": "x"}).status_code == 422
    monkeypatch.setattr(
        "django.contrib.auth.backends.ModelBackend.authenticate",
        lambda *_, **__: pytest.fail("hashed once more"),
    )
    answer = stranger.post("/office/", RIGHT)
    assert answer.status_code == 429
    assert "browsers that nobody knows" in words_of(answer)
    monkeypatch.undo()
    tablet = at_block("")
    assert tablet.post("/office/", RIGHT).status_code == 302


def test_more_hashes_than_the_machine_bears_wait_and_are_told(settings, monkeypatch):
    settings.PASSWORD_HASHERS = ["rooms.staff.hashers.BoundedArgon2"]
    save_person(person("bram"), person("bram"), password="seven-cold-mornings")
    monkeypatch.setattr(hashers, "PATIENCE", 0.01)
    for _ in range(hashers.AT_ONCE):
        assert hashers._TURNS.acquire()
    try:
        answer = Client().post("/office/", RIGHT)
    finally:
        for _ in range(hashers.AT_ONCE):
            hashers._TURNS.release()
    assert answer.status_code == 503
    assert "Wait a little" in words_of(answer)
    right = {**RIGHT, "password": "seven-cold-mornings"}
    assert Client().post("/office/", right).status_code == 302
    assert person("bram").password.startswith("argon2$argon2id$")


@pytest.mark.long
def test_a_password_of_before_is_taken_and_kept_by_argon2_from_then_on(settings):
    settings.PASSWORD_HASHERS = ["rooms.staff.hashers.BoundedPBKDF2"]
    save_person(person("bram"), person("bram"), password="seven-cold-mornings")
    settings.PASSWORD_HASHERS = [
        "rooms.staff.hashers.BoundedArgon2",
        "rooms.staff.hashers.BoundedPBKDF2",
    ]
    right = {**RIGHT, "password": "seven-cold-mornings"}
    assert Client().post("/office/", right).status_code == 302
    assert person("bram").password.startswith("argon2")


# --- the end of a session ---


def test_signing_out_ends_every_copy_of_the_cookie_and_asks_no_query_more(
    django_assert_num_queries, django_assert_max_num_queries
):
    office, other, ines = Client(), Client(), at_block("ines")
    for browser in (office, other):
        browser.post("/office/", RIGHT)
    with django_assert_max_num_queries(9) as counted:
        office.get("/people/")
    before = len(counted.captured_queries)
    stolen = office.cookies["sessionid"].value
    office.post("/away/")
    for browser, cookie in ((Client(), stolen), (other, other.cookies["sessionid"].value)):
        browser.cookies["sessionid"] = cookie
        assert browser.get("/people/").status_code == 302
    assert ines.get("/bench/").status_code == 200
    office.post("/office/", RIGHT)
    with django_assert_num_queries(before):
        assert office.get("/people/").status_code == 200


def test_a_pin_on_the_same_browser_ends_the_office_log_in_for_good():
    browser = at_block("")
    browser.post("/office/", RIGHT)
    stolen = browser.cookies["sessionid"].value
    step_up(browser, "ines", "3141")
    copy = Client()
    copy.cookies["sessionid"] = stolen
    assert copy.get("/people/").status_code == 302


def test_the_office_ends_after_half_an_hour_without_a_touch_whatever_a_page_asks_for(later):
    office = Client()
    office.post("/office/", RIGHT)
    for _ in range(3):
        later(20)
        assert office.get("/people/").status_code == 200  # a page that somebody went to
    for _ in range(4):
        later(8)  # what pages ask for by themselves
        office.get("/", headers={"Sec-Fetch-Mode": "cors", "HX-Request": "true"})
    answer = office.get("/people/")
    assert answer.status_code == 302
    assert answer.url.startswith("/office/?back=")
    office.post("/office/", RIGHT)
    for _ in range(3):
        later(20)
        assert office.post("/touched/").status_code == 204
    assert office.get("/people/").status_code == 200


def test_the_block_locks_as_the_shop_says(later):
    tablet = at_block("")
    Shop.objects.update(lock_minutes=5)
    forget()
    step_up(tablet, "ines", "3141")
    later(4)
    assert 'data-locks="5.0"' in tablet.get("/bench/").content.decode()
    later(6)
    assert tablet.get("/bench/").url.startswith("/who/")
    assert tablet.post("/touched/").status_code == 401


def test_the_screen_on_the_wall_stays_and_only_shows(later):
    office = Client()
    office.post("/office/", RIGHT)
    page = office.get("/?wall=1").content.decode()
    assert "data-locks" not in page
    later(300)
    assert office.get("/lines/", headers={"HX-Request": "true"}).status_code in (200, 404)
    assert office.get("/?wall=1").status_code == 200
    answer = office.post("/planner/")
    assert answer.status_code == 403
    assert "screen on the wall" in words_of(answer)
    assert office.get("/").status_code == 302  # left after hours: who is there?


# --- the password beside a PIN ---


def settings_of(**more):
    return {"time_zone": "America/New_York", "day_order": "day", "clock": "12", **more}


def test_what_a_pin_alone_does_not_change_is_asked_once_in_ten_minutes(later):
    block = at_block("bram")
    page = reverse("shop:section", args=["place"])
    seen = block.get(page).context["form"]["seen"].value()
    sent = settings_of(lock_minutes="20", seen=seen)
    asked = block.post(page, sent)
    assert asked.status_code == 403
    html = asked.content.decode()
    assert "enter your own password" in html
    for name, value in sent.items():
        assert f'<input type="hidden" name="{name}" value="{value}">' in html
    wrong = block.post(page, sent | {"own_password": "nonsense"})
    assert wrong.status_code == 422
    assert "that is not Bram&#x27;s" in wrong.content.decode()
    assert "nonsense" not in wrong.content.decode()
    assert Shop.objects.get().lock_minutes == 30
    assert block.post(page, sent | {"own_password": RIGHT["password"]}).status_code == 302
    assert Shop.objects.get().lock_minutes == 20
    later(9)
    again = block.get(page).context["form"]["seen"].value()
    assert block.post(page, sent | {"seen": again, "lock_minutes": "25"}).status_code == 302
    later(2)
    assert block.post(page, sent).status_code == 403
    step_up(block, "bram", "2718")
    assert block.post(page, sent).status_code == 403  # another turn


def test_a_password_beside_the_pin_is_counted_and_locks():
    block = at_block("bram")
    page = reverse("shop:section", args=["place"])
    for _ in range(5):
        answer = block.post(page, settings_of(own_password="nonsense"))
    assert answer.status_code == 429
    assert block.post(page, settings_of(own_password=RIGHT["password"])).status_code == 429
    assert step_up(block, "bram", "2718").status_code == 302


def test_a_part_of_a_page_gives_way_to_the_password(shop):
    block = at_block("bram")
    answer = block.post(
        "/book/products/1/price/", {"amount": "9.99"}, headers={"HX-Request": "true"}
    )
    assert answer.status_code == 422
    assert answer.headers["HX-Retarget"] == "#main"
    assert 'name="amount" value="9.99"' in answer.content.decode()


def test_nobody_without_a_password_gets_on_by_one():
    Person.objects.filter(username="bram").update(password="!")
    block = at_block("bram")
    answer = block.post("/shop/place/", settings_of(own_password="anything"))
    assert answer.status_code == 422
    assert "Bram has none" in words_of(answer)


def test_a_hold_is_placed_by_a_pin_and_let_go_by_a_password():
    hold = hold_lot(KEY(), "L40", "metal", person("bram").pk)
    block = at_block("bram")
    sent = {"key": KEY(), "why": "the supplier called back"}
    let_go = reverse("recall:let_go", args=[hold.pk])
    assert block.post(let_go, sent).status_code == 403
    assert LotHold.objects.standing().exists()


PASSWORD = {
    "/trays/recall/1/let-go/",
    "/trays/labels/",
    "/grinder/rules/",
    "/cooler/windows/beef-rib/",
    "/counter/invoices/",
    "/book/import/",
    "/shop/walk/",
    "/shop/beef-rib/",
    "/shop/first-day/beef-rib/",
    "/shop/first-day/over/",
}


def test_the_password_is_asked_for_holds_settings_corrections_and_prices_alone():
    """Never for undo, nor for putting right at the block; every address is named here."""
    asks = {
        url
        for url, view in URLS
        if view.rights != "anybody"
        and isinstance(view.rights[1], Right)
        and view.rights[1].asks is Asks.PASSWORD
    }
    others = asks - PASSWORD
    assert asks >= PASSWORD
    assert all(
        url.startswith(("/book/products/", "/book/shared/", "/counter/invoices/", "/counter/test/"))
        or url.endswith("/correct/")
        for url in others
    ), others
    assert "/book/version/1/undo/" not in asks
    assert not any("undo" in url or "void" in url or "/back/" in url for url in asks)


# --- what a browser keeps, and what it is told ---


def test_pages_of_who_is_signed_in_are_not_kept_and_strangers_learn_no_inside_address(settings):
    settings.SCALE_URL = "http://192.0.2.7:8001"
    office = Client()
    office.post("/office/", RIGHT)
    inside = office.get("/people/")
    assert inside.headers["Cache-Control"] == "no-store"
    assert "192.0.2.7" in inside.headers["Content-Security-Policy"]
    for path in ("/01/00200000012305/10/T-1/21/123", "/office/", "/who/"):
        assert "192.0.2.7" not in Client().get(path).headers["Content-Security-Policy"]


@pytest.mark.parametrize("key", ["schlüssel", "ключ", "", "test-probe\x00"])
def test_a_probe_with_another_key_is_refused_in_words(key):
    sent = {"at": "2026-11-25T08:00:00+00:00", "celsius": "1.62"}
    answer = Client().post(
        "/cooler/readings/", sent, content_type="application/json", HTTP_PROBE_KEY=key
    )
    assert answer.status_code == 403


def test_managers_read_who_signed_in_what_was_refused_and_whose_pin_is_new():
    stranger, tablet = Client(), at_block("")
    stranger.post("/office/", {"username": "mallory", "password": "x"})
    step_up(tablet, "ines", "0000")
    step_up(tablet, "ines", "3141")
    for _ in range(3):
        assert tablet.get("/people/").status_code == 403
    save_person(person("ines"), person("bram"), pin="2580")
    assert tablet.get("/people/events/").status_code == 302  # a new PIN ends the turn
    assert at_block("bram").get("/people/events/").status_code == 403
    office = Client()
    office.post("/office/", RIGHT)
    words = words_of(office.get("/people/events/"))
    for said in ("wrong PIN or password", "mallory", "new PIN", "by Bram", "Block 1", "/people/:"):
        assert said in words
    of_ines = SecurityEvent.objects.filter(kind="refused", person=person("ines"))
    assert of_ines.count() == 1
    assert "mallory" not in words_of(office.get("/people/events/?kind=pin"))
    assert not Version.objects.filter(pk=0).exists()
