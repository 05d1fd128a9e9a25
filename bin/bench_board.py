"""Boards on the mat, measured: what is named and how soon, the step and the meter against ngspice."""

import math
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

import numpy as np  # noqa: E402 - the project is not installed

from frostcore.bench.faults import faults_of  # noqa: E402
from frostcore.bench.judge import BenchJudgement  # noqa: E402
from frostcore.bench.probes import probes_of  # noqa: E402
from frostcore.bench.ranges import BenchRange  # noqa: E402
from frostcore.bench.rehearse import described, figures, rehearse  # noqa: E402
from frostcore.bench.table import table_of  # noqa: E402
from frostcore.bench.unplugged import read_unplugged  # noqa: E402
from frostcore.bench.usual import USUAL  # noqa: E402
from frostcore.bench.weigh import BenchReading, BenchWeigher  # noqa: E402
from frostcore.faults.draws import Draw  # noqa: E402
from frostcore.supply.bus import Charging, Load, at_rest  # noqa: E402
from frostcore.tests.spice_board import meter_reads, transient  # noqa: E402

MAINS = {"flyback": 230.0, "dropper": 230.0, "linear": 120.0, "module_drive": 120.0}
GOALS = {"described": (0.97, 6.5, 0.005), "usual": (0.92, 8.0, 0.02)}
GOAL_WITHOUT_LIVE, GOAL_TABLE_S, GOAL_BARE, POINTS, NEAR = 0.55, 2.5, 0.94, 75, 0.98


def line(name: str, shown: str, goal: str, *, reached: bool) -> None:
    """A figure with its goal, and how that stands."""
    print(f"  {name:28} {shown:>9}  ({goal}: {'reached' if reached else 'NOT reached'})")


def rehearsals(draws: int) -> None:
    """Every fault of every kind of supply, by its own sheet's values and by usual ones."""
    for kind, mains in MAINS.items():
        for name, supply in (("described", described(USUAL[kind](mains))), ("usual", USUAL[kind](mains))):
            right, readings, wrong = GOALS[name]
            began = time.process_time()
            table_of(supply, mains)
            took = time.process_time() - began
            found = figures(rehearse(supply, mains, draws=draws))
            print(f"{kind}, {name}: {len(faults_of(supply))} faults, {draws} boards each")
            line("stage or part named", f"{found.right:.1%}", f"{right:.0%}", reached=found.right >= right)
            line("readings", f"{found.readings:.2f}", f"{readings}", reached=found.readings <= readings)
            line("sure and wrong", f"{found.wrong:.2%}", f"{wrong:.1%}", reached=found.wrong <= wrong)
            without = found.without_live
            line("no live reading", f"{without:.1%}", "55%", reached=without >= GOAL_WITHOUT_LIVE)
            line("its table, once", f"{took:.2f} s", f"{GOAL_TABLE_S} s", reached=took <= GOAL_TABLE_S)
            if name == "described":
                bare = figures(rehearse(supply, mains, draws=1, esr=False)).right
                line("without an ESR meter", f"{bare:.1%}", "94%", reached=bare >= GOAL_BARE)


def a_step() -> None:
    """What a page's judgement takes once its table is there."""
    weigher = BenchWeigher(table_of(described(USUAL["flyback"](230.0)), 230.0))
    readings = [
        BenchReading("said", answer="dead"),
        BenchReading("ohm:l-lf", 0.08),
        BenchReading("esr:p12-g", 0.07),
    ]
    BenchJudgement(weigher, readings).proposals  # noqa: B018 - what is kept is made
    began = time.process_time()
    for _ in range(10):
        BenchJudgement(weigher, readings).proposals  # noqa: B018 - that is what is measured
    print(f"a judgement with its next reading: {100 * (time.process_time() - began):.0f} ms processor")


def steps() -> None:
    """The half cycle stepped against ngspice's transients."""
    cases = [
        (
            Charging(math.sqrt(2) * volts, hertz, 1.5, ohms, farads, esr, halves=halves),
            Load(watts=watts, stops=60),
        )
        for volts, hertz in ((230.0, 50.0), (120.0, 60.0))
        for farads, esr in ((47e-6, 0.5), (22e-6, 1.0), (22e-6, 20.0), (10e-6, 4.0), (5e-6, 10.0))
        for halves in (False, True)
        for ohms in (6.0, 20.0)
        for watts in (1.2, 2.4, 6.0)
        if not (watts > 2 and farads < 1e-5 and (halves or volts < 200))
    ]
    off: dict[str, list[float]] = {"mean": [], "ripple": [], "peak to peak": [], "charging current": []}
    for charging, load in cases:
        found, told = transient(charging, load), at_rest(charging, load)
        if not found:
            continue
        off["mean"].append(abs(told.mean / found["mean"] - 1))
        off["ripple"].append(abs(told.ripple / found["ripple"] - 1))
        off["peak to peak"].append(abs(told.peak_to_peak / found["pp"] - 1))
        off["charging current"].append(abs(told.amperes_rms / found["irms"] - 1))
    points = len(off["mean"])
    print("the half-cycle step against ngspice's transients")
    line("points", f"{points} of {len(cases)}", f"{POINTS}", reached=points >= POINTS)
    for name, goal in (("mean", 0.005), ("ripple", 0.05), ("peak to peak", 0.1), ("charging current", 0.12)):
        worst = max(off[name])
        line(f"{name}, worst", f"{worst:.2%}", f"{goal:.1%}", reached=worst <= goal)
        print(f"    its mean {np.mean(off[name]):.2%}")


def meters() -> None:
    """Ohms and diode tests of every fault against ngspice, on boards of other parts."""
    same = near = diodes = ohms = close = 0
    for kind, mains in MAINS.items():
        supply, draw = described(USUAL[kind](mains)), Draw(0, 1, 5)
        probes = [each for each in probes_of(supply) if each.range in {BenchRange.OHM, BenchRange.DIODE}]
        conditions = [{}, *(fault.at(draw) for fault in faults_of(supply))]
        found = read_unplugged(supply, probes, conditions)
        rows = [(row, column) for row in range(len(probes)) for column in range(len(conditions))]
        rows = rows[:: max(1, len(rows) // 900)]
        reads = meter_reads(supply, [(probes[row], conditions[column]) for row, column in rows])
        for (row, column), read in zip(rows, reads, strict=True):
            told = found.values[row, column]
            if probes[row].range is BenchRange.DIODE:
                diodes += 1
                same += math.isinf(told) == math.isinf(read)
                near += told == read or abs(told - read) < 0.05
            elif told == found.other[row, column] and told <= 10e3:
                ohms += 1
                close += abs(told - read) <= 0.1 * read + 1e-3
    print("the meter with the plug out, against ngspice")
    line(f"{diodes} diode tests, OL or not", f"{same / diodes:.2%}", "100%", reached=same == diodes)
    line("  within 50 mV", f"{near / diodes:.2%}", "98%", reached=near >= NEAR * diodes)
    line(f"{ohms} of firm ohms, in 10 %", f"{close / ohms:.2%}", "100%", reached=close == ohms)


def board(draws: int) -> int:
    """All of it."""
    rehearsals(draws)
    a_step()
    steps()
    meters()
    return 0
