"""What to do with what is known, measured: the order of parts against the optimum, a step's time, plans."""

import json
import random
import statistics
import sys
import time
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

import numpy as np  # noqa: E402 - the project is not installed

from frostcore.diagnosis.belief import Belief, information  # noqa: E402
from frostcore.diagnosis.evidence import evidence_of  # noqa: E402 - the project is not installed
from frostcore.diagnosis.hypotheses import hypotheses_of  # noqa: E402
from frostcore.diagnosis.judge import judge  # noqa: E402
from frostcore.diagnosis.readings import readings_of  # noqa: E402
from frostcore.diagnosis.weigh import weigher_of  # noqa: E402
from frostcore.remedy.courses import Comparing  # noqa: E402
from frostcore.remedy.exact import Exam, Problem, Solved, optimum  # noqa: E402
from frostcore.remedy.expected import best  # noqa: E402
from frostcore.remedy.plans.proposed import proposals  # noqa: E402
from frostcore.remedy.plans.proved import Proof  # noqa: E402
from frostcore.remedy.rates import Rates  # noqa: E402
from frostcore.remedy.rehearse import WAYS, rehearse_calls  # noqa: E402
from frostcore.remedy.work import Works  # noqa: E402
from frostcore.sheet.load import load  # noqa: E402

GOAL_MEAN, GOAL_WORST, GOAL_STEP_MS, GOAL_TURNS_MS, GOAL_PLAN_MS = 1.01, 1.05, 15.0, 150.0, 100.0
SUSPECTS, PROBLEMS_EACH = 5, 12
FEW, TESTS_EACH, TELLING = 4, 3, 0.05
SEEDS = (1, 2, 3)
CALL_RATES = Rates(mend_lasts=0.0)


def held(reached: bool) -> str:
    """How a goal stands."""
    return "reached" if reached else "NOT reached"


def cpu(act) -> tuple[float, object]:  # noqa: ANN001 - any call
    """Milliseconds of processor, and what came of it."""
    began = time.process_time()
    found = act()
    return 1000 * (time.process_time() - began), found


def orders(sheets: list) -> list[float]:
    """Small problems of every unit, without tests: the order's cost by the optimum's."""
    drawn = random.Random(7)  # noqa: S311 - the same problems every time
    ratios = []
    for sheet in sheets:
        works = Works(sheet, Rates())
        units = [part.id for part in sheet.components if (work := works.of(part.id)) and work.had]
        for _ in range(PROBLEMS_EACH):
            some = drawn.sample(units, min(SUSPECTS, len(units)))
            weights = [drawn.random() ** 2 for _ in some]
            whole = sum(weights) * 1.05
            beliefs = {unit: weight / whole for unit, weight in zip(some, weights, strict=True)}
            beliefs["elsewhere"] = 1 - sum(beliefs.values())
            ratios.append(best(works, beliefs).cost / optimum(works, beliefs))
    return ratios


def problems(sheets: list) -> list[tuple[float, float]]:
    """Small problems of every unit with tests that part its own suspects: the courses' rule, and parts alone,
    by the optimum."""
    chance, found = np.random.default_rng(13), []
    for sheet in sheets:
        judgement, works = judge(sheet, evidence_of(sheet, [])), Works(sheet, Rates())
        belief, planner = Belief(judgement.posterior), judgement.planner
        units = [unit for unit in belief.units if (work := works.of(unit)) and work.had and work.part]
        for _ in range(PROBLEMS_EACH):
            some = [*chance.choice(units, min(FEW, len(units)), replace=False), "elsewhere"]
            places = [belief.units.index(unit) for unit in some]
            weights = np.array([*chance.random(len(some) - 1) ** 2, 0.05])
            weights /= weights.sum()
            exams = []
            for at in chance.permutation(len(planner.outcomes.probes)):
                probe, outcomes = planner.outcomes.probes[at], planner.outcomes
                joint = belief.joint_of_classes(
                    outcomes.classes[at], int(outcomes.count[at]), outcomes.pulses[at]
                )[:, places]
                likely = joint / joint.sum(axis=0)
                if information((likely * weights)[None], weights)[0] < TELLING:
                    continue
                minutes = planner.minutes(probe, judgement.state)
                exams.append(Exam(works.rates.labour(minutes), minutes, likely))
                if len(exams) == TESTS_EACH:
                    break
            solved = Solved(Problem(works, dict(zip(some, weights.tolist(), strict=True)), tuple(exams)))
            least = solved.least()
            beliefs = dict(zip(some, weights.tolist(), strict=True))
            found.append((solved.ours() / least, best(works, beliefs).cost / least))
    return found


def remedy(calls: int = 0) -> int:
    """Print the figures with their goals; of so many whole calls a unit too."""
    sheets = [
        load(path.read_text(encoding="utf-8")).sheet for path in sorted(ROOT.glob("demo/sheets/*.json"))
    ]
    for sheet in sheets:
        readings_of(sheet).prepare()
    ratios = orders(sheets)
    mean, worst = statistics.mean(ratios), max(ratios)
    print(f"Order of parts against the optimum: {len(ratios)} problems of {SUSPECTS} suspects, every unit,")
    print("  places and joint orders as on the sheet, giving up open; tests left out.")
    print(f"  mean {mean:.4f} (goal {GOAL_MEAN}: {held(mean <= GOAL_MEAN)}),", end=" ")
    print(f"worst {worst:.4f} (goal {GOAL_WORST}: {held(worst <= GOAL_WORST)})\n")
    both = problems(sheets)
    ours, parts = [one for one, _ in both], [one for _, one in both]
    mean, worst = statistics.mean(ours), max(ours)
    print(f"Small problems with tests: {len(both)} of {FEW} suspects and {TESTS_EACH} readings, every unit,")
    print("  every way of testing, fitting, ordering together and giving up tried.")
    print(f"  the courses' rule: mean {mean:.4f} (goal {GOAL_MEAN}: {held(mean <= GOAL_MEAN)}),", end=" ")
    print(f"worst {worst:.4f} (goal {GOAL_WORST}: {held(worst <= GOAL_WORST)});")
    print(f"  parts without a test: mean {statistics.mean(parts):.3f}, worst {max(parts):.2f}\n")
    given = json.loads((ROOT / "demo/evidence/good-loop.json").read_text(encoding="utf-8"))
    print(f"{'unit':18} {'courses':>8} {'step, ms':>9} {'with turning points':>20}")
    steps, turns = [], []
    for sheet in sheets:
        readings_of(sheet).prepare()
        loop = given if isinstance(given, list) and sheet.title.startswith("Tarnbeck") else []
        for entries in ([], loop):
            judgement = judge(sheet, evidence_of(sheet, entries))
            Comparing(judgement, Rates()).compared()
            each, _ = cpu(lambda j=judgement: _untold(j))
            whole, found = cpu(lambda j=judgement: Comparing(j, Rates()).compared())
            steps.append(each)
            turns.append(whole)
            print(f"{sheet.title:18} {len(found.courses):8} {each:9.1f} {whole:20.1f}")
            if not loop:
                break
    print(
        f"  longest step {max(steps):.0f} ms (goal {GOAL_STEP_MS:.0f}: {held(max(steps) <= GOAL_STEP_MS)}),",
        end=" ",
    )
    print(
        f"with turning points {max(turns):.0f} ms"
        f" (goal {GOAL_TURNS_MS:.0f}: {held(max(turns) <= GOAL_TURNS_MS)})\n"
    )
    print("Changes to the wiring")
    longest, count, refused = 0.0, 0, 0
    for sheet in sheets:
        found = proposals(sheet, [part.id for part in sheet.components], "2999-12-31")
        for plan in found.plans:
            made = replace(plan, title=plan.title + " ")  # nothing of it is kept from another run
            each, proof = cpu(lambda s=sheet, p=made: _proved(s, p))
            longest, count, refused = max(longest, each), count + 1, refused + bool(proof.refusals)
            print(f"  {sheet.title:18} {plan.school:45} {len(proof.running.states):3} states {each:7.0f} ms")
        for reason in found.impossible:
            print(f"  {sheet.title:18} not possible: {reason}")
    print(f"  {count} proposed, {refused} refused; longest {longest:.0f} ms", end=" ")
    print(f"(goal {GOAL_PLAN_MS:.0f}: {held(longest <= GOAL_PLAN_MS)})\n")
    if calls:
        whole_calls(sheets, calls)
    return 0


def whole_calls(sheets: list, count: int) -> None:
    """Calls on units with faults drawn as they are called for, the same for every way of deciding."""
    print(f"Whole calls: {count} a unit, with each of {len(SEEDS)} draws of parts, meter and mains;")
    print("  a mended board is left out. Money on the mean; wrong parts and dear ones (board, inverter,")
    print("  compressor) a call; calls that end with a working unit, %.")
    head = "".join(f"{way:>17}" for way in WAYS)
    print(f"{'unit':16}{head}{'÷ to 0.99':>11}{'wrong':>7}{'dear, %':>8}{'works':>7}{'their':>7}")
    costs: dict[str, list[float]] = {way: [] for way in WAYS}
    shares, wrong, dear = [], [], []
    for sheet in sheets:
        known, weigher = hypotheses_of(sheet), weigher_of(sheet)
        places = np.array([place for place, item in enumerate(known.all) if item.fault])
        odds = weigher.prior[places] * weigher.behaviour.noticed[places]
        chosen = np.random.default_rng(11).choice(places, count, p=odds / odds.sum()).tolist()
        spent = {
            way: [one for seed in SEEDS for one in rehearse_calls(sheet, chosen, seed, way, CALL_RATES)]
            for way in WAYS
        }
        means = {way: statistics.mean(one.cost for one in some) for way, some in spent.items()}
        for way in WAYS:
            costs[way].append(means[way])
        ours = spent["courses"]
        shares.append(means["courses"] / means["to 0.99"])
        wrong.append(statistics.mean(one.wrong for one in ours))
        dear.append(statistics.mean(one.wrong_dear for one in ours))
        works, theirs = (
            100 * statistics.mean(one.works for one in spent[way]) for way in ("courses", "to 0.99")
        )
        figures = "".join(f"{means[way]:17.0f}" for way in WAYS)
        print(
            f"{sheet.title:16}{figures}{shares[-1]:11.3f}{wrong[-1]:7.2f}{100 * dear[-1]:8.1f}{works:7.0f}"
            f"{theirs:7.0f}",
            flush=True,
        )
    ours, certain, cheap, board = (statistics.mean(costs[way]) for way in WAYS)
    for told, value, goal in (
        ("of testing to 0.99, on the mean", ours / certain, 1.0),
        ("of testing to 0.99, on the worst unit", max(shares), 1.05),
        ("of cheapest first", ours / cheap, 0.45),
        ("of board first", ours / board, 0.25),
        ("wrong parts a call", statistics.mean(wrong), 0.12),
        ("boards and compressors wrongly had, a call", statistics.mean(dear), 0.01),
    ):
        print(f"  {told}: {value:.3f} (goal {goal}: {held(value <= goal)})")


def _untold(judgement) -> object:  # noqa: ANN001 - a Judgement
    comparing = Comparing(judgement, Rates())
    comparing._turns = lambda _: ()  # noqa: SLF001 - the step without its turning points
    return comparing.compared()


def _proved(sheet, plan) -> Proof:  # noqa: ANN001 - a Sheet and a Plan
    proof = Proof(sheet, plan)
    _ = proof.refusals, proof.runs, proof.warnings
    return proof
