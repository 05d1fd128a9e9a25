"""Courses compared: what it costs on the mean until the unit works, or is given up."""

import itertools
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frostcore.diagnosis.evidence import evidence_of
from frostcore.diagnosis.hypotheses import hypotheses_of
from frostcore.diagnosis.judge import judge
from frostcore.diagnosis.readings import readings_of
from frostcore.remedy.courses import Comparing, compare
from frostcore.remedy.exact import Exam, Problem, Solved, optimum, tried
from frostcore.remedy.expected import FIGURES, Table, best, many
from frostcore.remedy.plans.cases import around
from frostcore.remedy.rates import Rates, RatesError, read_rates
from frostcore.remedy.rehearse import WAYS, rehearse_calls
from frostcore.remedy.words import risks_of, title_of
from frostcore.remedy.work import Work, Works
from frostcore.tests.demo_sheets import demo_sheet

RATES = Rates(wrong_part=0.0, proof_minutes=0.0)


class Bench:
    """Works of one's own: places open in ten minutes and close in five."""

    def __init__(self, *works, rates=RATES):
        self.known, self.rates = {work.unit: work for work in works}, rates

    def of(self, unit):
        return self.known.get(unit)

    def opening(self, places, opened):
        return 15.0 * sum(place not in opened for place in places)


def part(unit, price, minutes=0.0, places=(), **more):
    return Work(unit, price, minutes, places, part=True, **more)


def cost(beliefs, *works, opened=(), rates=RATES, first=()):
    return best(Bench(*works, rates=rates), beliefs, opened, first).cost


class Tried(unittest.TestCase):
    def test_two_parts_one_after_the_other_by_hand(self):
        # A: 0.6 for 50; B: 0.3 for 20, nothing else, way out 700. B first: 0.3/20 > 0.6/50.
        # 20 + 0.7 (50 + (0.1/0.7) 700) = 20 + 35 + 70 = 125.
        beliefs, works = {"a": 0.6, "b": 0.3, "x": 0.1}, (part("a", 50), part("b", 20))
        self.assertAlmostEqual(cost(beliefs, *works), 125.0)
        # A forced first: 50 + 0.4 (20 + (0.1/0.4) 700) = 50 + 8 + 70 = 128.
        self.assertAlmostEqual(cost(beliefs, *works, first=("a",)), 128.0)

    def test_they_swap_where_chance_by_cost_is_equal(self):
        for chance, first in ((0.39, "b"), (0.41, "a")):
            table = Table(Bench(part("a", 40), part("b", 20)), ("a", "b", "elsewhere"))
            found = many(table, np.array([[chance, 0.2, 0.1]]), np.zeros((1, 0), bool))
            self.assertEqual([table.units[unit] for unit in found.first[0]], [first])

    def test_an_impossible_part_for_a_million_changes_nothing(self):
        two = ({"a": 0.6, "b": 0.4}, part("a", 50), part("b", 20))
        self.assertEqual(cost(*two), cost({**two[0], "c": 0.0}, *two[1:], part("c", 1e6)))

    def test_a_dear_unlikely_part_is_given_up_and_not_tried(self):
        # 30 + 0.1 · 700: the last tenth is not worth 5000.
        self.assertAlmostEqual(cost({"a": 0.9, "b": 0.1}, part("a", 30), part("b", 5000)), 100.0)

    def test_a_place_on_the_way_of_both_is_opened_once(self):
        works = part("a", 0, 10, ("coil",)), part("b", 0, 10, ("coil",))
        # Minutes cost one each: 10 + 15, then 0.5 · 10.
        self.assertAlmostEqual(cost({"a": 0.5, "b": 0.5}, *works), 30.0)
        self.assertAlmostEqual(cost({"a": 0.5, "b": 0.5}, *works, opened=("coil",)), 15.0)

    def test_what_is_ordered_together_comes_on_one_visit(self):
        works = [part(name, 10, order=True, lead_days=2) for name in "ab"]
        # Together: travel 45, two days 16, set up 10, then 10 + 0.5 · 10; the second back at 0.3 · 10 · 0.5.
        self.assertAlmostEqual(cost({"a": 0.5, "b": 0.5}, *works), 45 + 16 + 10 + 15 + 1.5)
        # One by one it would be a visit more in half of the cases.
        table = Table(Bench(*works), ("a", "b"))
        single = many(table, np.array([[0.5, 0.5]]), np.zeros((1, 0), bool), together=(1,))
        self.assertAlmostEqual(single.one(0).cost, (45 + 16 + 10 + 10) * 1.5)

    @given(
        st.lists(
            st.tuples(
                st.floats(0.01, 1),
                st.floats(0, 300),
                st.floats(0, 60),
                st.sampled_from(["", "coil", "bay"]),
                st.booleans(),
            ),
            min_size=2,
            max_size=4,
        ),
        st.floats(50, 900),
    )
    @settings(max_examples=60, deadline=None)
    def test_no_order_is_cheaper_than_the_optimum_and_ours_is_near_it(self, drawn, stop):
        rates = Rates(stop=stop)
        works = [
            part(f"u{at}", price, minutes, (place,) if place else (), order=order, lead_days=2.0 * order)
            for at, (_, price, minutes, place, order) in enumerate(drawn)
        ]
        whole = 1.05 * sum(weight for weight, *_ in drawn)
        beliefs = {f"u{at}": weight / whole for at, (weight, *_) in enumerate(drawn)}
        beliefs["x"] = 1 - sum(beliefs.values())
        bench = Bench(*works, rates=rates)
        least = optimum(bench, beliefs)
        ours = best(bench, beliefs).cost
        self.assertGreaterEqual(ours, least - 1e-6)
        self.assertLessEqual(ours, 1.25 * least + 1e-6)

    def test_many_at_once_are_each_as_by_itself_and_as_its_stages_one_by_one(self):
        chance = np.random.default_rng(5)
        works = [
            part(f"u{at}", chance.uniform(5, 200), 10.0, places, order=bool(at % 3), lead_days=2.0 + at)
            for at, places in enumerate([(), ("coil",), ("bay",), ("coil", "fan"), ("bay",), ()])
        ]
        bench, names = Bench(*works, rates=Rates()), [*(work.unit for work in works), "elsewhere"]
        beliefs = chance.dirichlet(np.full(len(names), 0.5), 40)
        table = Table(bench, names)
        opened = chance.random((40, len(table.places))) < 0.5
        first = [(1, 4) if at % 4 == 0 else (2,) if at % 4 == 1 else () for at in range(40)]
        found = many(table, beliefs, opened, first)
        for at in range(40):
            open_now = frozenset(
                place for place, is_open in zip(table.places, opened[at], strict=True) if is_open
            )
            mine = dict(zip(names, beliefs[at], strict=True))
            forced = [names[unit] for unit in first[at]]
            alone = best(bench, mine, open_now, forced)
            for number, figure in enumerate(FIGURES):
                self.assertAlmostEqual(found.figures[at, number], getattr(alone, figure), places=9)
            self.assertEqual(found.first[at], first[at] or found.first[at])
            ways = [self.one_by_one(bench, mine, open_now, forced, most) for most in (1, 2, 3)]
            self.assertAlmostEqual(found.figures[at, 0], min(ways), places=6)

    def one_by_one(self, bench, beliefs, opened, forced, most):
        """What the order comes to, a stage at a time, going on only where that pays."""
        left = {unit: share for unit, share in beliefs.items() if bench.of(unit) and share > 2e-3}
        rest = sum(beliefs.values())
        if rest <= 2e-3 or not (left or forced):
            return bench.rates.stop

        def alone(unit):
            return tried(bench, [bench.of(unit)], {unit: 1.0}, 1.0, opened).cost

        order = sorted(left, key=lambda unit: -left[unit] / alone(unit))
        units = forced or order[:1]
        if not forced and bench.of(units[0]).order:
            units = [unit for unit in order if bench.of(unit).order][:most]
        stage = tried(bench, [bench.of(unit) for unit in units], beliefs, rest, opened)
        others = {unit: share for unit, share in beliefs.items() if unit not in units}
        others["elsewhere"] = others.get("elsewhere", 0.0)
        onward = self.one_by_one(bench, others, stage.opened, [], most)
        go = stage.cost + (1 - stage.solves) * onward
        return go if forced else min(go, bench.rates.stop)

    def test_too_many_to_try_every_order_is_said(self):
        works = [part(f"u{at}", 10) for at in range(7)]
        with self.assertRaises(ValueError):
            optimum(Bench(*works), {work.unit: 1 / 7 for work in works})

    def test_a_wrong_part_costs_beside_its_price_and_a_mended_wire_does_not(self):
        rates = replace(RATES, wrong_part=25.0, stop=100.0)
        self.assertAlmostEqual(cost({"a": 0.6, "x": 0.4}, part("a", 10), rates=rates), 10 + 0.4 * 125)
        wire = Work("w", 10, 0.0, ())
        self.assertAlmostEqual(cost({"w": 0.6, "x": 0.4}, wire, rates=rates), 10 + 0.4 * 100)

    def test_what_can_t_be_had_is_not_tried(self):
        self.assertEqual(cost({"a": 1.0}, part("a", 10, had=False)), RATES.stop)

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.tuples(st.floats(0.02, 1.0), st.floats(1.0, 400.0)), min_size=1, max_size=5),
        st.floats(0.0, 0.5),
    )
    def test_without_places_and_orders_no_order_is_cheaper(self, parts, elsewhere):
        """Every order of every part of them tried, with the way out after each: the reckoned one is best."""
        whole = sum(chance for chance, _ in parts) / (1 - elsewhere)
        beliefs = {str(number): chance / whole for number, (chance, _) in enumerate(parts)}
        beliefs = {unit: chance for unit, chance in beliefs.items() if chance > 0.002}
        prices = {str(number): price for number, (_, price) in enumerate(parts)}
        works = [part(unit, prices[unit]) for unit in beliefs]
        found = cost({**beliefs, "elsewhere": 1 - sum(beliefs.values())}, *works)
        best = RATES.stop
        for size in range(1, len(beliefs) + 1):
            for order in itertools.permutations(beliefs, size):
                left, paid = 1.0, 0.0
                for unit in order:
                    paid += left * prices[unit]
                    left -= beliefs[unit]
                best = min(best, paid + max(0.0, left) * RATES.stop)
        self.assertLessEqual(abs(found - best), 1e-6 * best + 1e-6)

    @settings(max_examples=40, deadline=None)
    @given(st.floats(5.0, 300.0), st.floats(0.1, 0.8))
    def test_cost_is_concave_in_a_price_and_goes_with_how_many_are_bought(self, price, chance):
        def toll(of):
            works = part("a", of), part("b", 80, 20, ("coil",))
            return best(Bench(*works), {"a": chance, "b": 0.9 - chance, "x": 0.1})

        low, middle, high = (toll(price * share) for share in (0.8, 1.0, 1.2))
        self.assertGreaterEqual(middle.cost + 1e-9, (low.cost + high.cost) / 2)
        near = toll(price * (1 + 1e-7))
        slope = (near.cost - middle.cost) / (price * 1e-7)
        self.assertAlmostEqual(slope, middle.bought.get("a", 0.0), delta=1e-3)


class WithTests(unittest.TestCase):
    """Small problems with tests, every way of them tried."""

    def problem(self, *exams, stop=700.0, wrong=0.0, **beliefs):
        rates = replace(RATES, stop=stop, wrong_part=wrong)
        bench = Bench(part("a", 50), part("b", 20), part("board", 200, order=True, lead_days=2), rates=rates)
        return Solved(Problem(bench, beliefs, exams))

    def test_a_test_that_parts_two_by_hand(self):
        # Right away: a then b, 50 + 0.5 · 20 = 60, b then a, 20 + 0.5 · 50 = 45. Told apart for 2:
        # 2 + 0.5 · 50 + 0.5 · 20 = 37.
        certain = Exam(2.0, 2.0, np.array([[1.0, 0.0], [0.0, 1.0]]))
        solved = self.problem(certain, a=0.5, b=0.5)
        self.assertAlmostEqual(solved.least(), 37.0)
        self.assertAlmostEqual(solved.ours(), 37.0)
        dear = replace(certain, cost=30.0)
        self.assertAlmostEqual(self.problem(dear, a=0.5, b=0.5).least(), 45.0)

    def test_a_test_of_one_outcome_is_never_worth_its_minutes(self):
        same = Exam(0.01, 1.0, np.array([[0.5, 0.5], [0.5, 0.5]]))
        self.assertAlmostEqual(self.problem(same, a=0.5, b=0.5).least(), self.problem(a=0.5, b=0.5).least())

    @given(st.integers(0, 10_000))
    @settings(max_examples=25, deadline=None)
    def test_no_way_is_cheaper_than_the_least_and_ours_is_near_it(self, seed):
        chance = np.random.default_rng(seed)
        exams = []
        for _ in range(2):
            likely = chance.random((2, 4)) ** 3 + 1e-3
            minutes = float(chance.uniform(1, 10))
            exams.append(Exam(minutes, minutes, likely / likely.sum(axis=0)))
        shares = chance.dirichlet([1.0, 1.0, 1.0, 0.2])
        beliefs = dict(zip(("a", "b", "board", "elsewhere"), shares.tolist(), strict=True))
        solved = self.problem(*exams, wrong=25.0, **beliefs)
        least = solved.least()
        self.assertGreaterEqual(solved.ours(), least - 1e-6)
        self.assertLessEqual(solved.ours(), 1.25 * least)
        self.assertLessEqual(least, self.problem(wrong=25.0, **beliefs).least() + 1e-6)
        self.assertLessEqual(least, 700.0)


class Rehearsed(unittest.TestCase):
    """Whole calls: a unit with a known fault until it works or is given up."""

    @classmethod
    def setUpClass(cls):
        cls.sheet = demo_sheet("Tarnbeck TB-34")
        cls.known = hypotheses_of(cls.sheet)

    def spent(self, way, fault, **rates):
        place = next(at for at, item in enumerate(self.known.all) if item.id == fault)
        return rehearse_calls(self.sheet, [place], 3, way, Rates(mend_lasts=0.0, **rates))[0]

    def test_every_way_ends_and_adds_up(self):
        for way in WAYS:
            with self.subTest(way):
                spent = self.spent(way, "evaporator_fan:seized")
                fits = [act for act in spent.acts if act.startswith("fit")]
                self.assertTrue(spent.works)
                self.assertEqual(fits[-1].rpartition("+")[2].removeprefix("fit "), "evaporator_fan")
                self.assertEqual(spent.tests, spent.acts.count("test"))
                fan = Works(self.sheet, Rates()).of("evaporator_fan")
                self.assertGreaterEqual(spent.cost, fan.price + Rates().labour(fan.minutes))

    def test_the_courses_buy_less_than_whoever_changes_parts_on_suspicion(self):
        faults = ("evaporator_fan:seized", "condenser_fan:seized", "defrost_heater:open")
        costs = {way: sum(self.spent(way, fault).cost for fault in faults) for way in WAYS}
        self.assertLess(costs["courses"], 0.6 * costs["cheapest first"])
        self.assertLess(costs["courses"], 0.5 * costs["board first"])

    def test_what_nobody_may_open_here_is_given_up(self):
        sealed = next(item.id for item in self.known.all if item.component == "sealed_system" and item.fault)
        spent = self.spent("to 0.99", sealed)
        self.assertFalse(spent.works)
        self.assertEqual(spent.acts[-1], "stop")
        self.assertGreaterEqual(spent.cost, Rates().stop)


class Compared(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.sheet = demo_sheet("Tarnbeck TB-34")
        readings_of(cls.sheet).prepare()

    def judged(self, *entries):
        return judge(self.sheet, evidence_of(self.sheet, list(entries)))

    GOOD_LOOP = (
        {
            "act": "read",
            "red": "CN2.5",
            "black": "CN2.6",
            "range": "ohm",
            "mode": "off_cold",
            "value": "41 Ω",
        },
        {"act": "read", "red": "CN2.5", "black": "CN2.6", "range": "vac", "mode": "defrost", "value": "0 V"},
    )

    def test_with_nothing_known_testing_beats_every_part(self):
        found = compare(self.judged(), Rates())
        self.assertEqual(found.best.do, "test")
        fits = [course for course in found.courses if course.do == "fit"]
        self.assertGreater(min(course.expected for course in fits), 3 * found.best.expected)

    def test_every_toll_adds_up_and_none_is_dearer_than_giving_up_after_it(self):
        comparing = Comparing(self.judged(*self.GOOD_LOOP), Rates())
        for course in comparing.compared().courses:
            toll = course.toll
            for each in (toll.cost, toll.parts, toll.minutes, toll.visits, toll.wait_days, toll.stops):
                self.assertGreaterEqual(each, 0.0)
            self.assertLessEqual(toll.stops, 1.0 + 1e-9)
            if course.do == "test":
                self.assertLess(toll.cost, Rates().stop + Rates().labour(60))

    def test_what_follows_each_outcome_adds_up_to_what_the_test_costs(self):
        comparing = Comparing(self.judged(), Rates())
        course = next(each for each in comparing.compared().courses if each.do == "test")
        then = comparing.then(course)
        self.assertAlmostEqual(sum(each.chance for each in then), 1.0, delta=0.01)
        minutes = comparing.judgement.planner.minutes(course.test, comparing.state)
        whole = Rates().labour(minutes) + sum(each.chance * each.expected for each in then)
        self.assertAlmostEqual(whole / course.expected, 1.0, delta=0.01)
        self.assertEqual([each.chance for each in then], sorted((each.chance for each in then), reverse=True))
        self.assertTrue(all(each.units for each in then if each.do == "fit"))
        fit = next(each for each in comparing.compared().courses if each.do == "fit")
        self.assertEqual(comparing.then(fit), ())

    def test_what_a_working_unit_is_worth_decides_when_to_stop(self):
        judgement = self.judged(*self.GOOD_LOOP)
        self.assertEqual(compare(judgement, Rates(stop=30.0)).best.do, "stop")
        self.assertNotEqual(compare(judgement, Rates(stop=2000.0)).best.do, "stop")

    def test_where_it_turns_the_two_cost_the_same(self):
        judgement = self.judged(*self.GOOD_LOOP)
        turned = 0
        for stop in (260.0, 300.0, 340.0):
            found = compare(judgement, Rates(stop=stop))
            best = found.best
            other = next(each for each in found.courses if (each.do, each.units) != (best.do, best.units))
            for turn in found.turns:
                if turn.of != "stop":
                    continue
                turned += 1
                there = Comparing(judgement, Rates(stop=turn.at))
                self.assertAlmostEqual(there.again(best) / there.again(other), 1.0, delta=0.01)
        self.assertGreater(turned, 0)

    def test_work_follows_the_sheet(self):
        works = Works(self.sheet, Rates())
        board = works.of("board")
        part_of = self.sheet.component("board")
        self.assertEqual(board.price, part_of.price)
        self.assertEqual(board.order, part_of.supply == "to_order")
        wire = works.of("harness:bimetal.2-thermal_fuse.1")
        self.assertEqual((wire.price, wire.minutes, wire.part), (3.0, 15.0, False))
        self.assertIn("evaporator", wire.places)
        self.assertIsNone(works.of("elsewhere"))


class Reading(unittest.TestCase):
    def test_rates_that_are_none_are_named(self):
        self.assertEqual(read_rates({"hour": 90}), Rates(hour=90.0))
        for data, told in (
            ({"our": 60}, "no rate “our”"),
            ({"hour": "x"}, "hour: “x”"),
            ({"hour": -1}, "hour: -1"),
            ({"restocking": 1.5}, "restocking"),
            ({"hour": float("nan")}, "hour"),
            ({"hour": True}, "hour"),
            ([], "object"),
        ):
            with self.assertRaisesRegex(RatesError, told):
                read_rates(data)


class Otherwise(unittest.TestCase):
    """A board mended, exchanged, used, or worked round instead of new."""

    SHEET = demo_sheet("Tarnbeck TB-34")
    DEAD = (
        {"act": "fit", "component": "condenser_fan", "helped": "no", "before": True},
        {"act": "bridge", "component": "condenser_fan", "runs": True},
    )

    @classmethod
    def setUpClass(cls):
        readings_of(cls.SHEET).prepare()
        cls.judgement = judge(cls.SHEET, evidence_of(cls.SHEET, list(cls.DEAD)))

    def courses(self, plans=(), **rates):
        return Comparing(self.judgement, Rates(**rates), plans=plans).compared().courses

    def one(self, do, plans=(), **rates):
        return next((each for each in self.courses(plans, **rates) if each.do == do), None)

    def test_a_mended_board_by_hand(self):
        """Labour of fitting, mending, proof and the way in; where it does not last, or was not it, more."""
        comparing = Comparing(self.judgement, Rates(mend_lasts=0.8))
        course = next(each for each in comparing.compared().courses if each.do == "mend")
        board, chance = comparing.works.of("board"), comparing.beliefs["board"]
        minutes = board.minutes + 45 + 6 + comparing.works.opening(board.places, ())
        left = dict(comparing.beliefs) | {"board": chance * 0.2}
        whole = sum(left.values())
        rest = best(comparing.works, {name: share / whole for name, share in left.items()}, set(board.places))
        self.assertAlmostEqual(course.expected, minutes + (1 - 0.8 * chance) * rest.cost, places=6)
        self.assertAlmostEqual(course.chance_wrong, 1 - 0.8 * chance)

    def test_what_the_workshop_does_not_offer_is_no_course(self):
        self.assertIsNone(self.one("mend", mend_lasts=0))
        self.assertIsNone(self.one("exchange"))
        self.assertIsNone(self.one("used"))
        self.assertIsNotNone(self.one("exchange", exchange_share=0.5))
        self.assertIsNotNone(self.one("used", used_share=0.3))

    def test_one_that_lasts_more_often_is_never_dearer(self):
        costs = [self.one("mend", mend_lasts=share).expected for share in (0.2, 0.5, 0.8, 1.0)]
        self.assertEqual(costs, sorted(costs, reverse=True))

    def test_a_plan_is_a_course_with_what_it_loses(self):
        plans = around(self.judgement)
        self.assertTrue(plans)
        comparing = Comparing(self.judgement, Rates(), plans=plans)
        course = next(each for each in comparing.compared().courses if each.do == "plan")
        self.assertIn("Work round the control board", title_of(comparing, course))
        self.assertTrue(risks_of(comparing, course))
        dearer = [replace(each, price=each.price + 500) for each in plans]
        self.assertGreater(self.one("plan", dearer).expected, course.expected)

    def test_the_sealed_system_is_no_course_of_ours(self):
        self.assertFalse(Comparing(self.judgement, Rates()).works.of("sealed_system").had)

    def test_as_good_as_equal_stand_by_danger_then_by_what_is_opened(self):
        for stop in (60.0, 120.0, 300.0, 700.0):
            comparing = Comparing(self.judgement, Rates(stop=stop))
            found = comparing.compared()
            head = [found.courses[0], *found.equal]
            if head[0].do == "stop":
                continue
            keys = [comparing._danger(course) for course in head]
            self.assertEqual(keys, sorted(keys))
            least = min(course.expected for course in found.courses)
            self.assertTrue(all(course.expected <= 1.03 * least + 1e-9 for course in head))
            rest = [course.expected for course in found.courses[len(head) :]]
            self.assertEqual(rest, sorted(rest))
