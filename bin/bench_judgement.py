"""The judgement's figures on every demo unit: accuracy of rehearsals, what they take, calibration, processor
time. Goals that are not reached are printed as not reached. The method: docs/judgement.md.
"""

import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from frostcore.diagnosis.behaviour import behave  # noqa: E402
from frostcore.diagnosis.causes import unlike  # noqa: E402
from frostcore.diagnosis.evidence import evidence_of  # noqa: E402
from frostcore.diagnosis.hypotheses import hypotheses_of  # noqa: E402
from frostcore.diagnosis.judge import judge  # noqa: E402
from frostcore.diagnosis.optimum import (  # noqa: E402
    by_rate,
    drawn,
    expected_minutes,
    least_minutes,
    two_ahead,
)
from frostcore.diagnosis.posterior import beside  # noqa: E402
from frostcore.diagnosis.readings import readings_of  # noqa: E402
from frostcore.diagnosis.rehearse import Ended, Rehearsal, rehearse  # noqa: E402
from frostcore.diagnosis.rehearse_pairs import PairRehearsal, rehearse_pairs  # noqa: E402
from frostcore.diagnosis.weigh import weigher_of  # noqa: E402
from frostcore.sheet.load import load  # noqa: E402
from frostcore.sheet.model import Sheet  # noqa: E402

SEEDS = (1, 2, 3)

PROBLEMS = 150
"""So many small problems are solved exactly."""

NOTICED = 0.3
"""A fault is one that somebody calls for where it is noticed this likely."""


def judgement(runs: int, outward: int) -> int:
    """Print the table: ``runs`` units a sheet drawn by weight and as many evenly; ``outward`` of them worked
    in the sheet's order too."""
    sheets = [
        load(path.read_text(encoding="utf-8")).sheet for path in sorted(ROOT.glob("demo/sheets/*.json"))
    ]
    every: list[Ended] = []
    evenly: list[Ended] = []
    meter: list[Ended] = []
    pairs: list[PairRehearsal] = []
    shares = []
    print(
        f"{'unit':16} {'right, %':>9} {'evenly':>7} {'w/o int.':>8} {'meter':>6} {'sure+wrong':>10}"
        f" {'boards':>7} {'tests':>6} {'read':>5} {'minutes':>8} {'÷ outward':>9} {'pairs':>6}"
        f" {'draws, s':>9} {'does, s':>8} {'judge, ms':>9} {'next, ms':>8} {'two, ms':>8} {'pair, ms':>8}"
    )
    for sheet in sheets:
        seconds = timed(lambda sheet=sheet: readings_of(sheet).prepare())
        does = timed(lambda sheet=sheet: behave(sheet))
        weighed, flat = sampled(sheet, runs, weighted=True), sampled(sheet, runs, weighted=False)
        share = against_outward(sheet, outward) if outward else float("nan")
        shares.append(share)
        bare = sampled(sheet, runs, weighted=True, looks=False)
        pairs.append(rehearse_pairs(sheet, max(1, runs // 2)))
        every += weighed.ended
        evenly += flat.ended
        meter += bare.ended
        judged, planned, twice, paired = warm(sheet)
        print(
            f"{sheet.title:16} {100 * weighed.share(right):9.1f} {100 * flat.share(right):7.1f}"
            f" {100 * flat.share(right, steady):8.1f} {100 * bare.share(right):6.1f}"
            f" {100 * weighed.share(wrong):10.1f} {100 * weighed.share(lambda each: each.wrong_board):7.1f}"
            f" {weighed.mean(lambda each: each.tests):6.1f} {weighed.mean(lambda each: each.readings):5.1f}"
            f" {weighed.mean(lambda each: each.minutes):8.1f}"
            f" {share:9.2f} {100 * pairs[-1].in_turn:6.0f} {seconds:9.2f} {does:8.2f} {judged:9.1f}"
            f" {planned:8.1f} {twice:8.1f} {paired:8.1f}",
            flush=True,
        )
    told(every, evenly, meter, shares)
    of_two(pairs)
    optimum()
    causes(sheets)
    return 0


def right(each: Ended) -> bool:
    """Whether the unit at fault was named or in the group."""
    return each.right


def wrong(each: Ended) -> bool:
    """Whether another was named outright."""
    return each.sure_and_wrong


def steady(each: Ended) -> bool:
    """Whether the fault is always there."""
    return not each.intermittent


def timed(work: Callable[[], object]) -> float:
    """Seconds of processor."""
    start = time.process_time()
    work()
    return time.process_time() - start


def sampled(sheet: Sheet, runs: int, *, weighted: bool, looks: bool = True) -> Rehearsal:
    """Rehearsals of some faults, drawn by what brings a repairer or evenly, with several seeds; or with a
    meter and nothing else."""
    known = hypotheses_of(sheet)
    places = np.array([place for place, item in enumerate(known.all) if item.fault])
    prior = weigher_of(sheet).prior[places]
    found = Rehearsal()
    for seed in SEEDS:
        chance = np.random.default_rng([seed, weighted])
        odds = prior / prior.sum() if weighted else None
        chosen = chance.choice(places, max(1, runs // len(SEEDS)), replace=weighted, p=odds)
        found.ended += rehearse(sheet, chosen.tolist(), seed=seed, looks=looks).ended
    return found


def against_outward(sheet: Sheet, runs: int) -> float:
    """Minutes as a share of those that the sheet's own order takes, on the same units."""
    known = hypotheses_of(sheet)
    places = np.array([place for place, item in enumerate(known.all) if item.fault])
    prior = weigher_of(sheet).prior[places]
    chosen = np.random.default_rng(9).choice(places, runs, replace=False, p=prior / prior.sum()).tolist()
    ours = rehearse(sheet, chosen, seed=9)
    theirs = rehearse(sheet, chosen, seed=9, policy="outward", most=400)
    return ours.mean(lambda each: each.minutes) / theirs.mean(lambda each: each.minutes)


def warm(sheet: Sheet) -> tuple[float, float, float, float]:
    """Milliseconds of processor for suspects after an entry, for the next test, for it by two steps, and for
    a second fault beside the likeliest."""
    looks = (("display", "normal"), ("vent_air", "none"), ("evaporator_fan", "still"))
    told = [{"act": "look", "look": look, "answer": answer} for look, answer in looks]
    evidence = evidence_of(sheet, told)
    judge(sheet, evidence).next  # noqa: B018 - what is kept is made before timing
    judged = [timed(lambda: judge(sheet, evidence).suspects) for _ in range(9)]
    planned = [timed(lambda: judge(sheet, evidence).proposals) for _ in range(9)]
    found = judge(sheet, evidence)
    ahead = (found.posterior, found.state, found.evidence)
    twice = [timed(lambda: found.planner.two_steps(*ahead)) for _ in range(5)]
    first = int(np.argmax(found.posterior.chances))
    paired = [timed(lambda: beside(found.posterior.logs, first)) for _ in range(9)]
    return tuple(1e3 * float(np.median(each)) for each in (judged, planned, twice, paired))


def of_two(pairs: list[PairRehearsal]) -> None:
    """Two faults at once, of all units."""
    both = [each for found in pairs for each in found.both]
    in_turn = sum(each.in_turn for each in both) / len(both)
    single = sum(found.single for found in pairs)
    needless = sum(found.needless for found in pairs) / max(single, 1)
    print(
        f"two faults, both named in turn: {in_turn:.3f} of {len(both)} (goal: at least 0.8:"
        f" {'held' if in_turn >= 0.8 else 'NOT held'}; where each shows something of its own at least 0.9:"
        f" {'held' if in_turn >= 0.9 else 'NOT held'})"
    )
    held = "held" if needless <= 0.05 else "NOT held"
    print(f"a second course begun needlessly: {needless:.3f} of {single} (goal: at most 0.05: {held})")


def optimum() -> None:
    """The planner's rule against the least expected minutes of small problems solved exactly."""
    chance = np.random.default_rng(1)
    problems = [drawn(chance) for _ in range(PROBLEMS)]
    least = [least_minutes(problem) for problem in problems]
    for name, rule in (("one step", by_rate), ("two steps", two_ahead)):
        ratios = [
            expected_minutes(problem, rule) / best if best else 1.0
            for problem, best in zip(problems, least, strict=True)
        ]
        mean, worst = float(np.mean(ratios)), max(ratios)
        print(
            f"against the optimum of {PROBLEMS} problems of 8 × 8, {name}: {mean:.3f} (goal: at most 1.08:"
            f" {'held' if mean <= 1.08 else 'NOT held'}), the worst {worst:.2f} (goal: at most 1.25:"
            f" {'held' if worst <= 1.25 else 'NOT held'})"
        )


def told(every: list[Ended], evenly: list[Ended], meter: list[Ended], shares: list[float]) -> None:
    """The figures of all units together, each against its goal; and some that have none."""
    whole, flat = Rehearsal(every), Rehearsal(evenly)

    def called_for(each: Ended) -> bool:
        return each.noticed > NOTICED

    rows = (
        ("right, or in a group of three, by weight", whole.share(right), 0.97, True),
        ("the same, every fault alike", flat.share(right), 0.95, True),
        (
            "the same, without what comes and goes",
            flat.share(right, lambda each: not each.intermittent),
            0.98,
            True,
        ),
        ("sure and wrong", whole.share(wrong), 0.02, False),
        ("boards condemned that are sound", whole.share(lambda each: each.wrong_board), 0.005, False),
        ("tests, mean", whole.mean(lambda each: each.tests), 8.0, False),
        ("minutes against the sheet's order, mean", float(np.nanmean(shares)), 0.35, False),
        ("minutes against the sheet's order, worst", float(np.nanmax(shares)), 0.5, False),
        ("calibration, worst decile's distance", calibration(every), 0.05, False),
    )
    print()
    for name, figure, goal, least in rows:
        held = figure >= goal if least else figure <= goal
        limit = f"{'at least' if least else 'at most'} {goal}"
        print(f"{name}: {figure:.3f} (goal: {limit}: {'held' if held else 'NOT held'})")
    for count, stated, share in deciles(every):
        chance = (share * (1 - share) / count) ** 0.5
        print(f"  of {count} units stated {stated:.2f}, right {share:.2f} (give or take {chance:.2f})")
    print(f"with a meter and nothing else, by weight: {Rehearsal(meter).share(right):.3f}")
    print(f"every fault alike that somebody notices: {flat.share(right, called_for):.3f}")
    print(f"readings among the tests, mean: {whole.mean(lambda each: each.readings):.1f}")
    print(
        f"Of {len(every)} units drawn by weight and {len(evenly)} drawn evenly; truth and judgement share the"
    )
    print("causal table of looks and no draw, seed or meter.")


def deciles(every: list[Ended]) -> list[tuple[int, float, float]]:
    """By decile of stated probability: how many units, what was stated, and how often the first suspect was
    it; deciles of fewer than ten units left out."""
    found = []
    for decile in range(10):
        mine = [each for each in every if decile / 10 <= each.stated < (decile + 1) / 10 + (decile == 9)]
        if len(mine) >= 10:
            share = sum(each.first == each.unit for each in mine) / len(mine)
            found.append((len(mine), sum(each.stated for each in mine) / len(mine), share))
    return found


def calibration(every: list[Ended]) -> float:
    """The most that the share of first suspects that are right lies from the probability stated."""
    return max((abs(stated - share) for _, stated, share in deciles(every)), default=0.0)


def causes(sheets: list[Sheet]) -> None:
    """How many of the causes that sheets state are computed."""
    stated = sum(len(code.implicates) for sheet in sheets for code in sheet.codes)
    apart = [(sheet.title, item) for sheet in sheets for item in unlike(sheet)]
    share = 1 - len(apart) / stated
    held = "held" if share >= 0.95 else "NOT held"
    print(f"causes of codes that are computed: {share:.3f} of {stated} (goal: at least 0.95: {held})")
    for title, item in apart:
        print(f"  not: {title} {item.code}, {item.component}: {item.why}")
