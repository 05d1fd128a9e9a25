"""The engine's figures as one table: processor time, the ratio to ngspice on the same circuits, and the
ratio to the bare bound (factorisation and low-rank products in plain NumPy and SciPy), in one run.

``--scale`` prints the pages' figures on a large workshop instead (bin/bench_scale.py), ``--judgement`` those
of the judgement (bin/bench_judgement.py), ``--shelf`` what finding a sheet costs (bin/bench_library.py).
"""

import argparse
import random
import resource
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import tracemalloc
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from scipy.sparse.linalg import splu

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from frostcore.circuit.build import build  # noqa: E402
from frostcore.circuit.element import Analysis  # noqa: E402
from frostcore.circuit.settle import Settled, settle  # noqa: E402
from frostcore.circuit.solver import assemble, injected  # noqa: E402
from frostcore.circuit.spice import deck  # noqa: E402
from frostcore.faults.known import broken, faults  # noqa: E402
from frostcore.faults.table import Prediction, predict, usual_pairs, usual_setups  # noqa: E402
from frostcore.sheet.load import load  # noqa: E402
from frostcore.sheet.model import Sheet  # noqa: E402

GOAL_SECONDS, GOAL_RATIO, GOAL_BARE = 0.3, 200, 1.5


@dataclass
class Unit:
    """A unit with what its rounds gave."""

    text: str
    seconds: list[float] = field(default_factory=list)
    reference: list[float] = field(default_factory=list)
    bare: list[float] = field(default_factory=list)
    table: Prediction | None = None

    @property
    def sheet(self) -> Sheet:
        """The sheet, read anew, so that nothing is kept from the round before."""
        return load(self.text).sheet


def cold_table(sheet: Sheet) -> tuple[float, Prediction]:
    """Seconds of processor from a sheet just read to its whole prediction table, and the table."""
    start = time.process_time()
    table = predict(sheet, usual_setups(sheet), usual_pairs(sheet), faults(sheet))
    return time.process_time() - start, table


def bare_bound(sheet: Sheet, table: Prediction) -> float:
    """Seconds of processor that the linear algebra alone takes: one factorisation a scene, its columns, and
    for every fault a product across every pair, with all decisions (logic, states, names) left out."""
    scenes: dict[tuple[str, bool, tuple[str, ...]], Settled] = {}
    for setup in table.setups:
        live = setup.meter.live
        key = (setup.mode, live, setup.pulled)
        if key not in scenes:
            scenes[key] = settle(build(sheet, setup.mode, live=live, pulled=setup.pulled))
    slots = random.Random(3)  # noqa: S311
    spent, edits = 0.0, len({fault.acts for fault in table.faults})
    for (_, live, _), settled in scenes.items():
        for analysis in (Analysis.AC, Analysis.DC) if live else (Analysis.DC,):
            rows = settled.solved[analysis].rows
            matrix, right = assemble(settled.circuit, analysis, rows)
            size, branches = matrix.shape[0], len(rows)
            ends = np.array([[slots.randrange(size), slots.randrange(size)] for _ in table.pairs])
            touched = np.array([slots.randrange(branches) for _ in range(edits)])
            unit = np.zeros((size, branches), right.dtype, order="F")
            unit[size - branches + np.arange(branches), np.arange(branches)] = 1
            start = time.process_time()
            factors = splu(matrix, relax=1, panel_size=1)
            x, columns = factors.solve(right), factors.solve(unit)
            ports = factors.solve(injected(ends, size, right.dtype))
            across = columns[ends[:, 0]] - columns[ends[:, 1]]  # pairs × branches
            _ = (x[ends[:, 0]] - x[ends[:, 1]])[None] - across.T[touched] * right[-1]
            seen = np.einsum("np,pn->p", ports, np.eye(size)[ends[:, 0]] - np.eye(size)[ends[:, 1]])
            _ = seen[None] - across.T[touched] * across.T[touched]
            spent += time.process_time() - start
    return spent


class Spice:
    """Decks of a sample of a unit's faults, to be run one process each."""

    def __init__(self, sheet: Sheet, sample: int, folder: Path) -> None:
        known, modes = faults(sheet), [mode.id for mode in sheet.modes if mode.live]
        self.paths = []
        chosen = random.Random(7).sample(known, min(sample, len(known)))  # noqa: S311
        for number, fault in enumerate(chosen):
            settled = broken(sheet, modes[number % len(modes)], [fault.id])
            path = folder / f"{sheet.id}-{number}.cir"
            analysis = Analysis.AC if number % 2 else Analysis.DC
            path.write_text(deck(settled, fault.id, analyses=(analysis,)), encoding="ascii")
            self.paths.append(path)

    def seconds(self, share: slice) -> float:
        """Mean seconds of processor ngspice takes for one circuit, of a share of the sample."""
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        paths = self.paths[share]
        for path in paths:
            subprocess.run(["ngspice", "-b", str(path)], capture_output=True, check=True)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        spent = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
        return spent / len(paths)


def memory_of(sheet: Sheet) -> float:
    """The most megabytes a table takes while it is made, without the table itself."""
    tracemalloc.start()
    _, table = cold_table(sheet)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return (peak - table.values.nbytes) / 2**20


def measure(units: list[Unit], rounds: int, sample: int) -> None:
    """Rounds of all units in turn with ngspice between them, so that a clock that wanders wanders for all."""
    with tempfile.TemporaryDirectory() as folder:
        decks = [Spice(unit.sheet, sample, Path(folder)) for unit in units]
        for number in range(rounds):
            for unit, spice in zip(units, decks, strict=True):
                sheet = unit.sheet
                spent, unit.table = cold_table(sheet)
                unit.seconds.append(spent)
                unit.bare.append(bare_bound(sheet, unit.table))
                share = max(1, len(spice.paths) // rounds)
                unit.reference.append(spice.seconds(slice(number * share, (number + 1) * share)))


def held(kept: bool) -> str:
    """A goal's word."""
    return "held" if kept else "NOT held"


def engine(rounds: int, sample: int) -> int:
    """Print the table; returns 0 whatever the figures are, for they are to be read."""
    if shutil.which("ngspice") is None:
        print("ngspice is not installed (Debian: apt-get install ngspice); nothing to compare with.")
        return 2
    units = [Unit(path.read_text(encoding="utf-8")) for path in sorted(ROOT.glob("demo/sheets/*.json"))]
    measure(units, rounds, sample)
    print(
        f"{'unit':16} {'nodes':>5} {'faults':>6} {'setups':>6} {'pairs':>5} {'readings':>9} {'table, s':>9}"
        f" {'bare, s':>8} {'÷ bare':>7} {'a circuit':>10} {'ngspice':>9} {'ratio':>7} {'MB beside':>9}"
    )
    figures = []
    for unit in units:
        table = unit.table
        assert table is not None  # noqa: S101 - measured above
        sheet = unit.sheet
        seconds, bare = statistics.median(unit.seconds), statistics.median(unit.bare)
        each, reference = seconds / table.solved, statistics.median(unit.reference)
        figures.append((table.values.size, sheet.title, seconds, seconds / bare, reference / each))
        print(
            f"{sheet.title:16} {len(build(sheet, sheet.modes[0].id).nodes):5} {len(table.faults):6}"
            f" {len(table.setups):6} {len(table.pairs):5} {table.values.size:9} {seconds:9.3f} {bare:8.3f}"
            f" {seconds / bare:7.2f} {each * 1e6:7.0f} µs {reference * 1e3:6.1f} ms {reference / each:7.0f}"
            f" {memory_of(sheet):9.0f}",
            flush=True,
        )
    _, title, seconds, over, ratio = max(figures)
    print("\nSeconds are processor time, medians of rounds taken in turn with ngspice's.")
    print(
        f"largest unit, {title}, cold: {seconds:.3f} s (goal: under {GOAL_SECONDS} s:"
        f" {held(seconds < GOAL_SECONDS)})"
    )
    print(f"over the bare bound: {over:.2f} (goal: at most {GOAL_BARE}: {held(over <= GOAL_BARE)})")
    print(
        f"ratio to ngspice, one run a circuit: {ratio:.0f} (goal: at least {GOAL_RATIO}:"
        f" {held(ratio >= GOAL_RATIO)}); least of all units {min(item[4] for item in figures):.0f}"
    )
    return 0


def main() -> int:
    """Print what was asked for."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=5, help="how often each table is made cold (5)")
    parser.add_argument(
        "--sample", type=int, default=60, help="how many circuits of each unit ngspice solves (60)"
    )
    parser.add_argument(
        "--scale", action="store_true", help="pages on 50,000 calls instead; makes them if need be"
    )
    parser.add_argument("--judgement", action="store_true", help="the judgement, rehearsed on every unit")
    parser.add_argument("--runs", type=int, default=60, help="units a sheet with --judgement (60)")
    parser.add_argument("--outward", type=int, default=8, help="of them against the sheet's order (8)")
    parser.add_argument("--shelf", type=int, metavar="SHEETS", help="finding one of so many sheets (200)")
    parser.add_argument("--pictures", action="store_true", help="tables read from pictures of papers")
    parser.add_argument("--bench", action="store_true", help="boards on the mat")
    parser.add_argument("--boards", type=int, default=2, help="with --bench: boards a fault")
    parser.add_argument("--thermal", action="store_true", help="temperatures over time, and runs judged")
    parser.add_argument("--units", type=int, default=12, help="with --thermal: units a class of fault")
    parser.add_argument("--remedy", action="store_true", help="courses and changes to the wiring")
    parser.add_argument("--whole", type=int, default=0, help="with --remedy: whole calls a unit, 34 say")
    parser.add_argument("--calls", type=int, default=50_000, help="how many calls with --scale (50,000)")
    options = parser.parse_args()
    if options.scale:
        from bench_scale import scale  # noqa: PLC0415 - needs Django, which the engine does not

        return scale(options.calls)
    if options.shelf:
        from bench_library import library  # noqa: PLC0415 - needs Django

        return library(options.shelf)
    if options.pictures:
        from bench_pictures import pictures  # noqa: PLC0415 - needs Pillow and tesseract

        return pictures()
    if options.bench:
        from bench_board import board  # noqa: PLC0415 - needs more than the others

        return board(options.boards)
    if options.thermal:
        from bench_thermal import thermal  # noqa: PLC0415 - needs more than the others

        return thermal(options.units)
    if options.remedy:
        from bench_remedy import remedy  # noqa: PLC0415 - needs no ngspice

        return remedy(options.whole)
    if options.judgement:
        from bench_judgement import judgement  # noqa: PLC0415 - an hour of rehearsals needs no ngspice

        return judgement(options.runs, options.outward)
    return engine(options.rounds, options.sample)


if __name__ == "__main__":
    sys.exit(main())
