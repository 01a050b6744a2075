"""The simulated fat tester: scatter and bias as they are told, each sample with a name of its own."""

import statistics

import pytest
from aiohttp.test_utils import TestClient, TestServer

from devices.fat_tester import BIAS, DIRTY, SCATTER, FatTester, make_app
from tests.run_async import run_async


def samples(tester, many=4000, fat=18.0):
    return [float(tester.test(fat)["fat"]) for _ in range(many)]


def test_it_scatters_and_lies_off_as_it_says():
    shown = samples(FatTester(seed=3))
    assert statistics.mean(shown) == pytest.approx(18.0 + BIAS, abs=0.05)
    assert statistics.stdev(shown) == pytest.approx(SCATTER, abs=0.05)
    dirty = samples(FatTester(seed=3, is_dirty=True))
    assert statistics.mean(dirty) - statistics.mean(shown) == pytest.approx(DIRTY, abs=0.05)


@pytest.mark.parametrize(("fat", "least", "most"), [(0.0, 0, 5), (100.0, 95, 100)])
def test_it_never_shows_what_no_meat_has(fat, least, most):
    assert all(least <= one <= most for one in samples(FatTester(seed=4), 500, fat))


def test_each_sample_has_a_name_of_its_own_also_after_a_restart():
    names = {FatTester().test(15)["reading"] for _ in range(20)}
    tester = FatTester()
    names |= {tester.test(15)["reading"] for _ in range(20)}
    assert len(names) == 40


@pytest.mark.parametrize("fat", [-1.0, 101.0, float("nan")])
def test_meat_that_there_is_not_is_refused(fat):
    with pytest.raises(ValueError, match="0 to 100"):
        FatTester().test(fat)


def asked(scenario):
    async def run():
        async with TestClient(TestServer(make_app(FatTester(seed=1)))) as client:
            return await scenario(client)

    return run_async(run())


def test_over_the_line_a_sample_is_read_until_the_next():
    async def scenario(client):
        empty = await client.get("/reading")
        assert (empty.status, await empty.text()) == (
            409,
            "nothing was tested yet; put a sample in",
        )
        assert (await client.post("/hand", data={"what": "test", "fat": "15"})).status == 200
        first, again = [await (await client.get("/reading")).json() for _ in range(2)]
        assert first == again
        assert 10 < float(first["fat"]) < 20
        await client.post("/hand", data={"what": "open"})
        shut = await client.get("/reading")
        assert shut.status == 409
        assert "lid is open" in await shut.text()
        assert (await client.post("/hand", data={"what": "test", "fat": "15"})).status == 400
        await client.post("/hand", data={"what": "shut"})
        await client.post("/hand", data={"what": "dirty"})
        assert "dirty" in await (await client.get("/panel")).text()
        for wrong in ({"what": "test", "fat": "x"}, {"what": "kick"}, {}):
            assert (await client.post("/hand", data=wrong)).status == 400
        other = await client.post(
            "/hand", data={"what": "open"}, headers={"Origin": "http://elsewhere.example"}
        )
        assert other.status == 403

    asked(scenario)
