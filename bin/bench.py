"""The engine's figures as one table, each with its ratio against ngspice on the same circuits in the same
run."""

import argparse
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import tracemalloc
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from frostcore.circuit.build import build  # noqa: E402
from frostcore.circuit.element import Analysis  # noqa: E402
from frostcore.circuit.faulted import with_fault  # noqa: E402
from frostcore.circuit.settle import settle  # noqa: E402
from frostcore.circuit.spice import deck  # noqa: E402
from frostcore.faults.edits import damage  # noqa: E402
from frostcore.faults.known import faults  # noqa: E402
from frostcore.faults.table import predict, usual_pairs, usual_setups  # noqa: E402
from frostcore.sheet.load import load  # noqa: E402

GOAL_SECONDS, GOAL_RATIO = 0.3, 50


def cold_table(text: str) -> tuple[float, object]:
    """Seconds from a sheet just read to its whole prediction table, and the table."""
    sheet = load(text).sheet
    start = time.perf_counter()
    table = predict(sheet, usual_setups(sheet), usual_pairs(sheet), faults(sheet))
    return time.perf_counter() - start, table


def ngspice_seconds(text: str, sample: int) -> float:
    """Mean seconds ngspice takes for one circuit: one run a hypothesis and mode, decks already
    written."""
    sheet = load(text).sheet
    known, modes = faults(sheet), [mode.id for mode in sheet.modes if mode.live]
    chosen = random.Random(7).sample(known, min(sample, len(known)))  # noqa: S311
    with tempfile.TemporaryDirectory() as folder:
        paths = []
        for number, fault in enumerate(chosen):
            base = settle(build(sheet, modes[number % len(modes)]))
            path = Path(folder, f"{number}.cir")
            path.write_text(
                deck(
                    with_fault(base, damage(base.circuit, fault.acts)),
                    fault.id,
                    analyses=(Analysis.AC if number % 2 else Analysis.DC,),
                ),
                encoding="ascii",
            )
            paths.append(path)
        subprocess.run(["ngspice", "-b", str(paths[0])], capture_output=True, check=False)
        start = time.perf_counter()
        for path in paths:
            subprocess.run(["ngspice", "-b", str(path)], capture_output=True, check=True)
        return (time.perf_counter() - start) / len(paths)


def memory_of(text: str) -> float:
    """The most megabytes a table takes while it is made."""
    tracemalloc.start()
    cold_table(text)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return peak / 2**20


def main() -> int:
    """Print the table; returns 0 whatever the figures are, for they are to be read, not to break a
    build."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=5, help="how often each table is made cold (5)")
    parser.add_argument(
        "--sample", type=int, default=60, help="how many circuits of each unit ngspice solves (60)"
    )
    options = parser.parse_args()
    if shutil.which("ngspice") is None:
        print(
            "ngspice is not installed (Debian: apt-get install ngspice); there is nothing to compare with.",
            file=sys.stderr,
        )
        return 2
    print(
        f"{'unit':16} {'nodes':>5} {'faults':>6} {'setups':>6} {'pairs':>5} {'readings':>9} {'table, s':>9}"
        f" {'best, s':>8} {'peak MB':>8} {'a circuit':>10} {'ngspice':>9} {'ratio':>7}"
    )
    largest, worst = None, None
    for path in sorted(ROOT.glob("demo/sheets/*.json")):
        text = path.read_text(encoding="utf-8")
        runs = [cold_table(text) for _ in range(options.rounds)]
        seconds, table = statistics.median(run[0] for run in runs), runs[0][1]
        each = seconds / table.solved
        reference = ngspice_seconds(text, options.sample)
        sheet = load(text).sheet
        nodes = len(build(sheet, sheet.modes[0].id).nodes)
        print(
            f"{sheet.title:16} {nodes:5} {len(table.faults):6} {len(table.setups):6} {len(table.pairs):5}"
            f" {table.values.size:9} {seconds:9.3f} {min(run[0] for run in runs):8.3f} {memory_of(text):8.0f}"
            f" {each * 1e6:7.0f} µs {reference * 1e3:6.1f} ms {reference / each:7.0f}",
            flush=True,
        )
        if largest is None or table.values.size > largest[0]:
            largest = (table.values.size, sheet.title, seconds)
        worst = reference / each if worst is None else min(worst, reference / each)
    print(
        f"\nlargest unit, {largest[1]}, cold: {largest[2]:.3f} s (goal: under {GOAL_SECONDS} s:"
        f" {'held' if largest[2] < GOAL_SECONDS else 'NOT held'})"
    )
    print(
        f"least ratio to ngspice, one run a circuit: {worst:.0f} (goal: at least {GOAL_RATIO}:"
        f" {'held' if worst >= GOAL_RATIO else 'NOT held'})"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
