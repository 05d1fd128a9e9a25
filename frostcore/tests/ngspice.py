"""Runs decks through ngspice, the independent reference, and reads the node voltages it prints."""

import re
import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path

_VALUE = re.compile(r"^(n\d+) = (\S+)$")


def run(decks: Sequence[str]) -> list[list[dict[str, complex]]]:
    """Node voltages of each deck, one mapping for each analysis in it; all decks in one process, one
    after the other."""
    with tempfile.TemporaryDirectory() as folder:
        commands = []
        for number, deck in enumerate(decks):
            body, _, rest = deck.partition(".control\n")
            control = rest.partition(".endc")[0].replace("quit\n", "")
            Path(folder, f"{number}.cir").write_text(body + ".end\n", encoding="ascii")
            commands += [
                f"source {folder}/{number}.cir",
                f"echo deck {number}",
                *(
                    f"echo analysis\n{line}" if line.startswith(("op", "ac")) else line
                    for line in control.splitlines()
                ),
                "destroy all",
                "remcirc",
            ]
        script = Path(folder, "all.cir")
        script.write_text(
            "all decks\n.control\n" + "\n".join(commands) + "\nquit\n.endc\n.end\n", encoding="ascii"
        )
        done = subprocess.run(
            ["ngspice", "-b", str(script)], capture_output=True, text=True, check=False, timeout=1200
        )
    return _parse(done.stdout, len(decks), done.stderr)


def _parse(output: str, count: int, errors: str) -> list[list[dict[str, complex]]]:
    found: list[list[dict[str, complex]]] = []
    for line in output.splitlines():
        if re.match(r"^deck \d+$", line):
            found.append([])
        elif line.strip() == "analysis":
            found[-1].append({})
        elif match := _VALUE.match(line):
            found[-1][-1][match[1]] = complex(*(float(part) for part in match[2].split(",")))
    if len(found) != count or not all(all(values for values in analyses) for analyses in found):
        raise AssertionError(f"ngspice answered {len(found)} of {count} decks: {errors[-2000:]}")
    return found


def run_one(deck: str) -> list[dict[str, complex]]:
    """Node voltages of one deck run as it stands, as a user would."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "deck.cir")
        path.write_text(deck, encoding="ascii")
        done = subprocess.run(
            ["ngspice", "-b", str(path)], capture_output=True, text=True, check=False, timeout=120
        )
    voltages = [{}]
    for line in done.stdout.splitlines():
        if match := _VALUE.match(line):
            if match[1] in voltages[-1]:
                voltages.append({})
            voltages[-1][match[1]] = complex(*(float(part) for part in match[2].split(",")))
    return voltages
