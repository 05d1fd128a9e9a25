"""Sheet documents of every version that ever landed, brought to the present one.

Stored revisions never change; reading one takes it through the steps below, each a pure function from a
document of one version to the next. A step works on the plain document and judges nothing: what is wrong in
the old one is as wrong in the new one, at the same place.
"""

import hashlib
import re
from collections.abc import Callable
from typing import Any

Document = dict[str, Any]

FORMAT = "frostline-sheet-2"
"""The present version."""

_READS_ALIKE_ONLY = re.compile(r"([a-z0-9]+) ([a-z0-9-]+)")
"""A title from which maker and model can be read back once its blank is a dash."""


def identifier_of(maker: str, model: str) -> str:
    """The identifier a sheet without one gets: its title where that can be told from any other, else with
    a few letters of the title's digest.

    Two makers whose names read alike get two identifiers, and letters of any script get one.
    """
    title = f"{maker} {model}".strip().lower()
    readable = "-".join(re.findall(r"[a-z0-9]+", title))[:40].strip("-")
    if _READS_ALIKE_ONLY.fullmatch(title) and len(readable) == len(title):
        return readable
    mark = hashlib.sha256(f"{maker}\0{model}".lower().encode("utf-8", "surrogatepass")).hexdigest()[:8]
    return f"{readable or 'sheet'}-{mark}"


def _from_1(old: Document) -> Document:
    """An identifier of its own, signals as kind and name, a stated reading's range under the meter's name."""
    plate = old.get("plate")
    maker, model = (
        (str(plate.get(name, "")) for name in ("maker", "model")) if isinstance(plate, dict) else ("", "")
    )
    new = {"format": FORMAT, "id": identifier_of(maker, model)} | {
        key: value for key, value in old.items() if key not in {"format", "id"}
    }
    if isinstance(old.get("codes"), list):
        new["codes"] = [_code_from_1(code) for code in old["codes"]]
    if isinstance(old.get("stated_readings"), list):
        new["stated_readings"] = [
            {"meter" if key == "function" else key: value for key, value in stated.items()}
            if isinstance(stated, dict)
            else stated
            for stated in old["stated_readings"]
        ]
    return new


def _code_from_1(code: Any) -> Any:
    tests = code.get("condition", {}).get("tests") if isinstance(code, dict) else None
    if not isinstance(tests, list):
        return code
    return code | {"condition": code["condition"] | {"tests": [_test_from_1(test) for test in tests]}}


def _test_from_1(test: Any) -> Any:
    if not isinstance(test, dict) or not isinstance(test.get("signal"), str):
        return test
    kind, _, name = test["signal"].partition(":")
    return test | {"signal": {"kind": kind, "id": name}}


UPGRADES: dict[str, Callable[[Document], Document]] = {"frostline-sheet-1": _from_1}
"""From each earlier version to the next."""


def upgraded(data: Any) -> Any:
    """A document in the present version; what is no sheet document of an earlier one comes back as it is."""
    while isinstance(data, dict) and isinstance(data.get("format"), str) and data["format"] in UPGRADES:
        data = UPGRADES[data["format"]](data)
    return data
