"""The day with those who are there: against every choice, against a second solver, and equal to the
plain day where nothing is asked of the hands."""

from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from ortools.sat.python import cp_model
from scipy import optimize

from cutting.errors import BadValue
from cutting.plans.day import Day, DayBag, DayProduct, DayWay, day_figures, why_not
from cutting.plans.day_solver import (
    NoDay,
    best_day,
    best_so_far,
    next_best,
    worth_of_hour,
)
from cutting.plans.hands import Block, Cutter, Hands, Share, Task, balanced, share_out
from cutting.plans.mixing import mixed
from cutting.quantities import Unit, UnitPrice, Weight
from cutting.words.plan import not_cut_words
from tests.cutting.plans.days import days, days_with_hands, every, large, with_hands

D = Decimal
SHORT = (Phase.explicit, Phase.reuse, Phase.generate, Phase.target)


@pytest.mark.long
@settings(max_examples=500, phases=SHORT, deadline=None)
@given(days_with_hands())
def test_no_choice_that_the_hands_can_do_is_better(day):
    """Brute force over every choice, each with the fewest minutes of washing and setting up."""
    choices = every(day)
    if not choices:
        with pytest.raises(NoDay):
            best_day(day)
        return
    assert best_day(day) == min(choices, key=lambda one: one.order())


@settings(max_examples=60, phases=SHORT, deadline=None)
@given(days())
def test_with_nothing_asked_of_the_hands_it_is_the_plain_day(day):
    """The contract's smaller problem: one pool of minutes, no washes, no machines."""
    if not day.minutes:
        return
    all_hands = Block((Cutter("all", day.minutes),), wash=D(0), saw=D(0), wait=D(0))
    choices = every(day)
    if not choices:
        return
    plain, manned = best_day(day), best_day(replace(day, block=all_hands))
    assert replace(manned, hands=None, firmed=plain.firmed) == plain


@settings(max_examples=60, phases=SHORT, deadline=None)
@given(days_with_hands())
def test_hours_rights_and_the_wait_are_kept(day):
    choices = every(day)
    if not choices:
        return
    found = best_day(day)
    ground = day.ground({line.product.name: line.made for line in found.products})
    tasks = {task.way: task for task in day.tasks(found.choice, ground)}
    for hands in (found.hands, balanced(day.block, tasks.values(), found.hands)):
        keeps_hours(day, tasks, hands)


def keeps_hours(day, tasks, hands):
    done = dict.fromkeys(tasks, D(0))
    lost = D(0)
    for number, cutter in enumerate(day.block.cutters):
        own = [share for share in hands.shares if share.cutter == number]
        species = {tasks[share.way].species for share in own} - {""}
        extra = day.block.wash * max(len(species) - 1, 0)
        extra += day.block.saw if any(tasks[share.way].is_sawn for share in own) else D(0)
        lost += extra
        assert sum((share.minutes for share in own), D(0)) + extra <= cutter.minutes
        firm = sum((share.minutes for share in own if tasks[share.way].waits), D(0))
        assert firm <= max(cutter.minutes - day.block.wait, D(0))
        for share in own:
            assert cutter.may(tasks[share.way])
            done[share.way] += share.minutes
    assert done == {way: task.minutes for way, task in tasks.items()}
    assert lost <= hands.extra


SAW = frozenset(["saw"])


def three_bags(block, **looks):
    """Bags of ten pounds at a minute a pound, each by its own way; `looks`: what the ways ask for."""
    ways = tuple(
        DayWay(
            f"w{i}",
            f"way {i}",
            D(0),
            D(1),
            (("steak", D("0.9")),),
            **{k: v[i] for k, v in looks.items()},
        )
        for i in range(3)
    )
    bags = tuple(DayBag(f"b{i}", Weight(D(10), Unit.LB), D(20), (f"w{i}",)) for i in range(3))
    steak = DayProduct("steak", UnitPrice.of("9", "lb"))
    return Day(block.minutes, ways, bags, (steak,), block=block)


@pytest.mark.parametrize(
    ("cutters", "wash", "looks", "cut", "lost"),
    [
        ([32], 6, {"species": ["beef", "beef", "lamb"]}, 2, 0),
        ([36], 6, {"species": ["beef", "beef", "lamb"]}, 3, 6),
        ([20, 10], 6, {"species": ["beef", "beef", "lamb"]}, 3, 0),
        ([20, 20], 0, {"machines": [SAW] * 3}, 2, 0),
        ([30, 10], 0, {"machines": [SAW] * 3}, 3, 0),
        ([15, 15], 0, {}, 3, 0),
    ],
)
def test_a_board_is_washed_between_animals_and_there_is_one_saw(cutters, wash, looks, cut, lost):
    """Worked by hand: one hand of 32 minutes has no time for a washed board; two hands need none."""
    own = tuple(Cutter(f"c{i}", D(minutes), SAW) for i, minutes in enumerate(cutters))
    found = best_day(three_bags(Block(own, wash=D(wash), saw=D(0)), **looks))
    assert sum(way is not None for way in found.choice) == cut
    assert found.hands.extra == lost
    assert found.minutes == cut * 10 + lost


tasks = st.lists(
    st.tuples(st.sampled_from(["beef", "lamb"]), st.booleans(), st.integers(1, 30)),
    min_size=1,
    max_size=5,
)


@settings(max_examples=80, deadline=None)
@given(tasks, st.integers(5, 60), st.integers(5, 60), st.integers(0, 30))
def test_who_does_what_is_found_where_a_linear_programme_finds_it(rows, one, other, wait):
    """Reference library: scipy.optimize.linprog; without washes and saw."""
    work = [
        Task(f"w{i}", species, frozenset(), waits, D(minutes))
        for i, (species, waits, minutes) in enumerate(rows)
    ]
    cutters = (Cutter("a", D(one), ways=frozenset(["w0", "w1"])), Cutter("b", D(other)))
    found = share_out(Block(cutters, wash=D(0), saw=D(0), wait=D(wait)), work)
    able = [[c for c in range(2) if cutters[c].may(task)] for task in work]
    columns = [(t, c) for t in range(len(work)) for c in able[t]]
    equal = [[float(t == own) for t, _ in columns] for own in range(len(work))]
    upper = [[float(c == own) for _, c in columns] for own in range(2)]
    upper += [[float(c == own and work[t].waits) for t, c in columns] for own in range(2)]
    room = [one, other, max(one - wait, 0), max(other - wait, 0)]
    answer = optimize.linprog(
        [0.0] * len(columns), upper, room, equal, [float(task.minutes) for task in work]
    )
    assert (found is not None) == (answer.status == 0)


def test_work_is_balanced_and_no_task_is_shared_without_need():
    cutters = (Cutter("a", D(100)), Cutter("b", D(100)))
    work = [Task(f"w{i}", "beef", frozenset(), waits=False, minutes=D(20)) for i in range(4)]
    block = Block(cutters)
    long = Hands(tuple(Share(task.way, 0, D(20)) for task in work), D(0))
    long = Hands((*long.shares[:3], Share("w3", 0, D(19)), Share("w3", 1, D(1))), D(0))
    found = balanced(block, work, long)
    loads = [sum(one.minutes for one in found.shares if one.cutter == c) for c in range(2)]
    assert max(loads) <= 45
    assert len(found.shares) <= 5


def second_opinion(day):
    """The same day for a solver of whole numbers, money in hundredths of a cent: shortfall first,
    then profit."""
    model, scale = cp_model.CpModel(), 10**4
    cut = {
        (b, day.by_id[one]): model.new_bool_var(f"{b}-{one}")
        for b, bag in enumerate(day.bags)
        for one in bag.ways
    }
    for b, bag in enumerate(day.bags):
        own = [column for (other, _), column in cut.items() if other == b]
        (model.add_exactly_one if bag.must else model.add_at_most_one)(own)
    minutes = {key: day.minutes_of(day.bags[key[0]], day.ways[key[1]]) for key in cut}
    model.add(
        sum(int(minutes[key] * 10**6) * x for key, x in cut.items()) <= int(day.minutes * 10**6)
    )
    profit, short = [], []
    for key, x in cut.items():
        profit.append(-int(day.bags[key[0]].cost * scale) * x)
    there = []
    for one in day.products:
        made = [
            (int(day.made_of(day.bags[b], day.ways[w]).get(one.name, D(0)) * scale), x)
            for (b, w), x in cut.items()
        ]
        total = sum(grams * x for grams, x in made if grams) + int(one.have * scale)
        reach = 10**8
        sold, missing = model.new_int_var(0, reach, ""), model.new_int_var(0, reach, "")
        over = model.new_int_var(0, reach, "")
        model.add(sold + over == total)
        model.add(sold <= int(one.most * scale))
        model.add(missing >= int(one.least * scale) - total)
        profit += [int(one.price.amount * 100) * sold, int(one.over * 100) * over]
        short.append(int(one.price.amount * 100) * missing)
        here = model.new_bool_var("")
        model.add(total >= here)
        there.append(here)
    model.add(sum(there) >= day.least_products)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    model.minimize(sum(short))
    assert solver.solve(model) == cp_model.OPTIMAL
    least = round(solver.objective_value)
    model.add(sum(short) <= least)
    # profit is in hundredths of a cent for cost, in 1/1,000,000 for sales: costs are brought there
    costs, sales = profit[: len(cut)], profit[len(cut) :]
    model.maximize(sum(sales) + 100 * sum(costs))
    assert solver.solve(model) == cp_model.OPTIMAL
    return D(least) / 10**6, D(round(solver.objective_value)) / 10**6


@pytest.mark.long
@pytest.mark.parametrize(("bags", "seed"), [(18, 3), (24, 11)])
def test_a_solver_of_another_kind_finds_the_same_day(bags, seed):
    """Reference library: OR-Tools CP-SAT."""
    day = large(bags=bags, ways=6, products=8, seed=seed)
    found = best_day(day, in_order=False)
    short, profit = second_opinion(day)
    at_hand = sum((one.sales(one.have) for one in day.products), D(0))
    assert abs(found.shortfall - short) < D("0.01")
    assert abs(found.gross_profit - (profit - at_hand)) < D("0.05")


@settings(max_examples=40, phases=SHORT, deadline=None)
@given(days())
def test_the_next_best_plan_is_the_best_that_cuts_another_number(day):
    """Brute force over the choices with as small a shortfall."""
    choices = every(day)
    if not choices:
        return
    found = best_day(day)

    def counts(one):
        return sorted(way for way in one.choice if way is not None)

    others = [
        one for one in choices if one.shortfall == found.shortfall and counts(one) != counts(found)
    ]
    second = next_best(day, found)
    if not others:
        assert second is None
    else:
        assert second.gross_profit == max(one.gross_profit for one in others)


def test_an_hour_of_each_cutter_is_the_difference_of_two_days():
    day = with_hands(large(bags=10, ways=5, products=6), minutes=45)
    found = best_day(day, in_order=False)
    for number in range(2):
        own = list(day.block.cutters)
        own[number] = replace(own[number], minutes=own[number].minutes + 60)
        block = replace(day.block, cutters=tuple(own))
        longer = best_day(replace(day, block=block, minutes=block.minutes), in_order=False)
        value = worth_of_hour(day, found, cutter=number)
        assert value == longer.gross_profit - found.gross_profit


@pytest.mark.long
def test_a_short_look_says_how_far_it_is_proven():
    day = large(bags=40, ways=12, products=30)
    whole = best_so_far(day, 20.0)
    assert whole.is_proven
    assert whole.gap == whole.short_gap == 0
    assert whole.figures.order()[:3] == best_day(day, in_order=False).order()[:3]
    short = best_so_far(large(bags=200, ways=12, products=30), 0.6)
    assert not short.is_proven
    assert short.gap is None or short.gap > 0


def test_two_ways_of_one_bag_and_a_part_put_back_bring_no_less():
    """Quarters: what is over the most of one product is cut the other way, or goes back."""
    day = large(bags=8, ways=4, products=6)
    finer = mixed(day, 4)
    whole, parts = best_day(day, in_order=False), best_day(finer, in_order=False)
    assert parts.order()[:2] <= whole.order()[:2]
    for bag in finer.bags:
        for key in bag.ways:
            way = finer.ways[finer.by_id[key]]
            assert sum((part for _, part in way.parts), D(0)) in (D(0), way.part)
            assert way.part == 1 or not bag.must
    one = next(way for way in finer.ways if len(way.parts) == 2)
    (first, part), (second, rest) = one.parts
    a, b = (dict(day.ways[day.by_id[key]].outputs) for key in (first, second))
    for name, share in one.outputs:
        assert share == a.get(name, D(0)) * part + b.get(name, D(0)) * rest
    with pytest.raises(BadValue, match="2 to 10"):
        mixed(day, 1)


def test_why_a_bag_stays_is_said_by_those_who_are_there():
    day = with_hands(large(bags=12, ways=6, products=6), minutes=60)
    nobody = replace(day.block, cutters=(Cutter("Tove", D(600), ways=frozenset(["w0"])),))
    alone = replace(day, block=nobody, minutes=D(600))
    alone = replace(
        alone, bags=tuple(replace(bag, must=False) for bag in alone.bags), least_products=0
    )
    words = {not_cut_words(one) for one in why_not(alone, best_day(alone))}
    assert "nobody who may cut it has the minutes left" in words
    cold = replace(
        day,
        ways=tuple(replace(way, waits=True, machines=frozenset()) for way in day.ways),
        bags=tuple(replace(bag, must=False) for bag in day.bags),
        block=replace(day.block, freezer=Weight(D("0.5"), Unit.LB), wait=D(0)),
        least_products=0,
    )
    words = {not_cut_words(one) for one in why_not(cold, best_day(cold))}
    assert "the freezer has no room left to firm it" in words
    idle = day_figures(cold, (None,) * len(cold.bags))
    assert idle.hands.extra == 0


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda: Cutter("Ines", D(0)), "more than 0"),
        (lambda: Block(()), "1 to 4"),
        (lambda: Block((Cutter("Ines", D(9)), Cutter("Ines", D(9)))), "twice"),
    ],
)
def test_hands_that_cannot_be_say_why(make, says):
    with pytest.raises(BadValue, match=says):
        make()
