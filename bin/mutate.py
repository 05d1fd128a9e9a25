"""Change the named constants of the core one at a time, a little up and a little down, and see that a test
notices. Lists those that none does; returns non-zero when there is one.

A constant counts when it is a number at the top of a module, alone, in a tuple or in a table. Those of
``NOT_RULES`` are left out, each for the reason given there.
"""

import argparse
import ast
import os
import signal
import sys
import unittest
from collections.abc import Iterator
from dataclasses import dataclass
from importlib.abc import MetaPathFinder
from importlib.machinery import ModuleSpec, SourceFileLoader
from importlib.util import spec_from_file_location
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
TESTS = ROOT / "frostcore" / "tests"
ASIDE = {"test_door", "test_door_circuit", "test_layers", "test_against_ngspice"}
"""Tests that run another process, which would not see the change."""

SECONDS = 600
STEP = 0.05

NOT_RULES = {
    "circuit/kept.py": "how much is kept, not what is answered",
    "circuit/layout.py": "sizes of a drawing",
    "circuit/picture.py": "sizes of a drawing",
    "curves/picture.py": "sizes of a drawing",
    "display/pad.py": "sizes of a drawing",
    "line.py": "sizes of a drawing",
    "sheet/bounds.py": "how much a document may hold, not a limit of the job",
    "sheet/checks.py:LEAST_OHMS": "how much a document may say, not a limit of the job",
    "sheet/checks.py:MOST_OHMS": "how much a document may say, not a limit of the job",
    "curves/table.py:MOST_ROWS": "how much may be sent, not a limit of the job",
    "display/decode.py:LONGEST": "how much may be sent, not a limit of the job",
    "display/frames.py:LONGEST": "how much may be sent, not a limit of the job",
    "quantity.py:LONGEST": "how much may be sent, not a limit of the job",
    "quantity.py:LARGEST": "how much may be sent, not a limit of the job",
    "door/loads.py:MOST": "how much may be sent, not a limit of the job",
    "door/arguments.py:MOST_BYTES": "how much may be sent, not a limit of the job",
    "circuit/netlist.py": "what a deck needs; the answer is compared",
    "circuit/lowrank.py": "when to solve anew; compared with a circuit built anew to the last digits",
    "circuit/spice.py": "the least a deck may hold",
    "faults/catalogue.py:ROWS": "a table of failures, not of limits",
    "faults/catalogue.py:BOARD_ROWS": "a table of failures, not of limits",
    "faults/catalogue.py:WIRE_ROWS": "a table of failures, not of limits",
    "faults/table.py:FIGURES_AT_ONCE": "how much is held at once",
    "circuit/settle.py:ROUNDS": "when to give up",
    "circuit/meter.py:OHM_TEST": "what a deck measures with; the answer is the quotient",
    "curves/settle.py:TIME_CONSTANTS": "a grid, not a limit",
    "curves/kinds.py:SPREAD": "a grid, not a limit",
    "curves/known.py:GENERIC_OHMS": "a table of parts sold",
    "curves/known.py:GENERIC_BETAS": "a table of parts sold",
    "curves/known.py:PROFILE_CELSIUS": "a grid, not a limit",
    "curves/known.py:ID_LENGTH": "length of a name",
    "curves/verdict.py:ROUNDING": "the last binary digit",
    "display/search.py:KEPT_SHEETS": "how much is kept, not what is answered",
    "tape/versions.py": "numbers of versions",
    "circuit/trace.py:COST": "an order of preference; where a path goes is tested on every unit",
}


@dataclass(frozen=True)
class Change:
    """One number of one constant, and what it is changed to."""

    path: Path
    name: str
    line: int
    column: int
    before: float
    after: float

    def __str__(self) -> str:
        where = self.path.relative_to(ROOT)
        return f"{where}:{self.line} {self.name} {self.before:g} → {self.after:g}"

    @property
    def module(self) -> str:
        """The module's dotted name."""
        return ".".join(self.path.relative_to(ROOT).with_suffix("").parts)

    def apply(self, source: str) -> ast.Module:
        """The module's tree with this number changed."""
        tree = ast.parse(source)
        for node in ast.walk(tree):
            if isinstance(node, ast.Constant) and (node.lineno, node.col_offset) == (self.line, self.column):
                node.value = self.after
        return tree


def numbers(path: Path) -> Iterator[tuple[str, ast.Constant]]:
    """(constant's name, number) of every named constant of a module."""
    for node in ast.parse(path.read_text(encoding="utf-8")).body:
        if isinstance(node, ast.AnnAssign) and node.value:
            targets, value = [node.target], node.value
        elif isinstance(node, ast.Assign):
            targets, value = node.targets, node.value
        else:
            continue
        names = [item.id for target in targets for item in ast.walk(target) if isinstance(item, ast.Name)]
        if not names or not names[0].strip("_").isupper():
            continue
        found = [item for item in ast.walk(value) if isinstance(item, ast.Constant)]
        found = [item for item in found if type(item.value) in {int, float} and item.value]
        for place, item in enumerate(found):
            yield names[place] if len(names) == len(found) else names[0], item


def changes(only: str) -> list[Change]:
    """Every change to try; ``only`` is a part of a path or name."""
    found = []
    for path in sorted((ROOT / "frostcore").rglob("*.py")):
        inside = str(path.relative_to(ROOT / "frostcore"))
        if "tests" in path.parts or inside in NOT_RULES:
            continue
        for name, item in numbers(path):
            if f"{inside}:{name}" in NOT_RULES or only not in f"{inside}:{name}":
                continue
            whole = isinstance(item.value, int)
            for sign in (1, -1):
                after = item.value + sign if whole else item.value * (1 + sign * STEP)
                found.append(Change(path, name, item.lineno, item.col_offset, item.value, after))
    return found


class Changed(SourceFileLoader, MetaPathFinder):
    """Finds and loads one module with its change; every other as it stands."""

    def __init__(self, change: Change) -> None:
        super().__init__(change.module, str(change.path))
        self.change = change

    def find_spec(self, name: str, path: object = None, target: object = None) -> ModuleSpec | None:
        """This module and no other."""
        return spec_from_file_location(name, self.path, loader=self) if name == self.name else None

    def get_code(self, fullname: str) -> object:
        """Never from a cache."""
        source = Path(self.path).read_text(encoding="utf-8")
        return compile(self.change.apply(source), self.path, "exec")


def tests_for(change: Change | None) -> list[str]:
    """The core's tests, those of limits first, then those that share a word with the changed module."""
    names = [path.stem for path in sorted(TESTS.glob("test_*.py")) if path.stem not in ASIDE]
    words = set(change.module.split(".")[1:]) if change else set()
    order = {"test_limits": 0} | {
        name: 1 for name in names if name != "test_limits" and words & set(name.split("_"))
    }
    return [f"frostcore.tests.{name}" for name in sorted(names, key=lambda name: order.get(name, 2))]


def survives(change: Change | None) -> bool:
    """Whether all tests pass with the change; run in a process of its own."""
    if change:
        sys.meta_path.insert(0, Changed(change))
    from hypothesis import settings  # noqa: PLC0415 -- after the fork, so that each has its own

    settings.register_profile("mutate", derandomize=True, database=None, max_examples=25, deadline=None)
    settings.load_profile("mutate")
    for name in tests_for(change):
        suite = unittest.defaultTestLoader.loadTestsFromName(name)
        with Path(os.devnull).open("w", encoding="utf-8") as nowhere:
            result = unittest.TextTestRunner(nowhere, failfast=True, buffer=True).run(suite)
        if not result.wasSuccessful():
            return False
    return True


def start(change: Change | None) -> int:
    """Try a change in a process of its own; its number."""
    child = os.fork()
    if child:
        return child
    code = 1
    try:
        signal.alarm(SECONDS)
        code = 0 if survives(change) else 1
    except BaseException:  # noqa: BLE001 -- whatever goes wrong with the change was noticed
        code = 1
    finally:
        os._exit(code)


def tried(wanted: list[Change], workers: int) -> Iterator[tuple[Change, bool]]:
    """(change, whether it survived), as they end."""
    waiting, running = list(reversed(wanted)), {}
    while waiting or running:
        while waiting and len(running) < workers:
            change = waiting.pop()
            running[start(change)] = change
        child, status = os.wait()
        yield running.pop(child), status == 0


def main() -> int:
    """Try all; print each survivor and the count."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n\n")[0])
    parser.add_argument("only", nargs="?", default="", help="part of a path or name, such as parts/loads")
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    given = parser.parse_args()
    wanted = changes(given.only)
    if not wanted:
        print(f"bin/mutate: no constant's path or name has “{given.only}” in it")
        return 2
    # Loaded before the forks: each process then begins with them.
    import numpy  # noqa: F401, ICN001, PLC0415
    import scipy.linalg  # noqa: PLC0415
    import scipy.optimize  # noqa: F401, PLC0415

    _, status = os.waitpid(start(None), 0)
    if status:
        print("bin/mutate: the tests fail with nothing changed")
        return 2
    survivors = []
    for count, (change, survived) in enumerate(tried(wanted, given.workers), 1):
        if survived:
            survivors.append(change)
            print(f"survived: {change}", flush=True)
        elif count % 20 == 0:
            print(f"{count} of {len(wanted)}", flush=True)
    print(f"{len(wanted)} changes tried, {len(survivors)} survived")
    return 1 if survivors else 0


if __name__ == "__main__":
    sys.exit(main())
