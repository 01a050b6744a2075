"""The day with those who are there: against every choice, against a second solver, and equal to the
plain day where nothing is asked of the hands."""

from dataclasses import replace
from decimal import Decimal
from itertools import pairwise, permutations

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from ortools.sat.python import cp_model
from scipy import optimize

from cutting.errors import BadValue
from cutting.planning.day import Day, DayBag, DayProduct, DayWay, day_figures, why_not
from cutting.planning.day_solver import NoDay, best_day, best_so_far, hour_more, next_best
from cutting.planning.hands import GRINDER, Block, Cutter, Grind, Hands, Share, Task, turns_at_saw
from cutting.planning.hands_solver import balanced, share_out
from cutting.planning.lanes import BOARD, SAW_WASH, Job, Losses, in_order
from cutting.planning.lanes import SAW as SET_UP
from cutting.planning.mixing import mixed
from cutting.quantities import Unit, UnitPrice, Weight
from tests.cutting.planning.days import days, days_with_hands, every, large, with_hands
from wording.plan import not_cut_words

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
    for number, cutter in enumerate(day.block.cutters):
        own = [share for share in hands.shares if share.cutter == number]
        assert sum((share.minutes for share in own), D(0)) <= cutter.minutes
        for share in own:
            assert cutter.may(tasks[share.way])
            done[share.way] += share.minutes
    assert done == {way: task.minutes for way, task in tasks.items()}
    rows = drawn(day.block, tasks, hands)
    assert_day_can_be_worked(day.block, rows)
    lost = sum((D(minutes_lost(day.block, one.before)) for row in rows for one in row), D(0))
    assert lost == hands.extra


def drawn(block, tasks, hands):
    """The lanes of work that is shared out, as a page draws them."""
    rows = [[] for _ in block.cutters]
    for share in hands.shares:
        task = tasks[share.way]
        rows[share.cutter].append(
            Job(
                task.way,
                task.species,
                share.minutes,
                is_sawn=task.is_sawn,
                waits=task.waits,
                is_last=task.way == GRINDER,
            )
        )
    turns = turns_at_saw([one.minutes for one in block.cutters])
    return in_order(rows, Losses(block.wash, block.saw, block.wait), turns)


def minutes_lost(block, before):
    washes = sum(one in (BOARD, SAW_WASH) for one in before)
    return washes * block.wash + (block.saw if SET_UP in before else 0)


A_HAIR = D("0.0001")
"""Minutes that the solver's floating point may be out by."""


def assert_day_can_be_worked(block, rows):
    """Inside everybody's hours; one at a time at the saw and at the grinder; meat is firm."""
    saw, grinder = [], []
    for cutter, row in zip(block.cutters, rows, strict=True):
        now = D(0)
        for one in row:
            assert one.start >= now + minutes_lost(block, one.before)
            assert not one.job.waits or one.start >= block.wait
            now = one.end
        assert now <= cutter.minutes + A_HAIR
        sawn = [one for one in row if one.job.is_sawn]
        if sawn:
            first = sawn[0]
            saw.append((first.start - minutes_lost_at_saw(block, first.before), sawn[-1].end))
        grinder += [(one.start, one.end) for one in row if one.job.is_last]
    for (_, end), (start, _) in pairwise(sorted(saw)):
        assert start >= end
    assert len(grinder) <= 1
    cut = max((one.end for row in rows for one in row if not one.job.is_last), default=D(0))
    assert all(start >= cut for start, _ in grinder)


def minutes_lost_at_saw(block, before):
    return (block.wash if SAW_WASH in before else 0) + (block.saw if SET_UP in before else 0)


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


crews = st.lists(
    st.tuples(
        st.integers(20, 120),
        st.sampled_from([frozenset(), frozenset(["saw"]), frozenset(["saw", "grinder"])]),
        st.sampled_from([None, None, ("w0", "w1"), ("w2",)]),
    ),
    min_size=1,
    max_size=3,
)
work = st.lists(
    st.tuples(
        st.sampled_from(["beef", "pork", "lamb"]),
        st.booleans(),
        st.booleans(),
        st.integers(5, 60),
    ),
    min_size=1,
    max_size=4,
)


def a_block(cutters, wait, grind=None):
    own = tuple(
        Cutter(f"c{i}", D(minutes), machines, None if ways is None else frozenset(ways))
        for i, (minutes, machines, ways) in enumerate(cutters)
    )
    return Block(own, wait=D(wait), grind=grind)


def tasks_of(rows, ground=0):
    found = [
        Task(f"w{i}", species, SAW if sawn else frozenset(), waits, D(minutes))
        for i, (species, sawn, waits, minutes) in enumerate(rows)
    ]
    if ground:
        found.append(Task(GRINDER, "", frozenset(["grinder"]), waits=False, minutes=D(ground)))
    return found


@settings(max_examples=50, phases=SHORT, deadline=None)
@given(crews, work, st.integers(0, 50), st.sampled_from([0, 0, 15, 40]))
def test_what_is_shared_out_can_be_worked_as_it_is_drawn(cutters, rows, wait, ground):
    """One saw, one grinder, hours, washes, firmed meat: whatever is found stands on the lanes."""
    block = a_block(cutters, wait)
    tasks = tasks_of(rows, ground)
    found = share_out(block, tasks)
    if found is None:
        return
    for hands in (found, balanced(block, tasks, found)):
        assert_day_can_be_worked(block, drawn(block, {one.way: one for one in tasks}, hands))


@settings(max_examples=60, phases=SHORT, deadline=None)
@given(work, st.integers(30, 150), st.integers(0, 50), st.sampled_from([0, 15]))
def test_one_cutter_is_refused_only_what_no_order_of_the_work_can_do(rows, minutes, wait, ground):
    """Brute force over every order of the tasks that washes no board more often than it must."""
    block = a_block([(minutes, frozenset(["saw", "grinder"]), None)], wait)
    tasks = tasks_of(rows)

    def ends(order):
        now, before = block.saw if any(one.is_sawn for one in order) else D(0), ""
        for one in order:
            now += block.wash if before and one.species != before else 0
            now = max(now, block.wait) if one.waits else now
            now, before = now + one.minutes, one.species
        return now

    def washes(order):
        return sum(one.species != other.species for one, other in pairwise(order))

    orders = list(permutations(tasks))
    fewest = min(washes(order) for order in orders)
    earliest = min(ends(order) for order in orders if washes(order) == fewest) + ground
    assert (share_out(block, tasks_of(rows, ground)) is not None) == (earliest <= minutes)


BOTH = frozenset(["saw", "grinder"])


@pytest.mark.parametrize(
    ("second", "minutes", "fits"),
    [("beef", 178, True), ("beef", 177, False), ("pork", 184, True), ("pork", 183, False)],
)
def test_two_who_each_know_one_sawn_piece_take_turns(second, minutes, fits):
    """By hand: 8 min to set up, 90 sawn, then 80; the saw is washed in between for another animal."""
    cutters = (
        Cutter("Ines", D(minutes), BOTH, frozenset(["a"])),
        Cutter("Bram", D(minutes), BOTH, frozenset(["b"])),
    )
    tasks = [Task("a", "beef", SAW, False, D(90)), Task("b", second, SAW, False, D(80))]
    block = Block(cutters)
    found = share_out(block, tasks)
    assert (found is not None) == fits
    if found is not None:
        (ines,), (bram,) = drawn(block, {one.way: one for one in tasks}, found)
        assert (ines.start, ines.end) == (8, 98)
        assert (bram.start, bram.end) == (minutes - 80, minutes)


@pytest.mark.parametrize(("hours", "who"), [(320, 0), (319, None)])
def test_who_grinds_is_there_until_it_is_ground(hours, who):
    """Ines cuts until 280; Bram, who has two hours, is gone by then, though he may run the grinder."""
    cutters = (
        Cutter("Ines", D(hours), BOTH, frozenset(["a"])),
        Cutter("Bram", D(120), BOTH, frozenset(["b"])),
    )
    block = Block(cutters, grind=Grind(frozenset(["g"])))
    tasks = [
        Task("a", "beef", frozenset(), False, D(280)),
        Task("b", "beef", frozenset(), False, D(60)),
        Task(GRINDER, "", frozenset(["grinder"]), False, D(40)),
    ]
    found = share_out(block, tasks)
    grinds = [] if found is None else [one.cutter for one in found.shares if one.way == GRINDER]
    assert grinds == ([] if who is None else [who])


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
        more = hour_more(day, found, cutter=number)
        assert more.profit == longer.gross_profit - found.gross_profit
        assert more.less_short == found.shortfall - longer.shortfall


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
