"""What a run over time is for on a call: what each way of watching would tell of the suspects, in bits and
minutes; which proofs the work that was done asks for.

Both follow from the simulation of every thermal class of the sheet's faults: what a way of watching shows of
each, and what a class shows that a sound unit does not.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from frostcore.circuit.kept import circuits_of
from frostcore.diagnosis.hypotheses import hypotheses_of
from frostcore.diagnosis.judge import Judgement
from frostcore.faults.known import Fault
from frostcore.sentence import in_sentence
from frostcore.sheet.model import Sheet
from frostcore.tape.entries import Mended, Outcome, PartFitted
from frostcore.tape.standing import Standing
from frostcore.thermal.behaviour import WATCHED, classes_of, shown_watched, tempered
from frostcore.thermal.faults import SOUND, Broken, broken_by
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.verdicts import TITLES

LEAST_BITS = 0.02
"""What would tell less is not worth its while."""

ALWAYS = ("cuts_out", "holds")
"""Asked for whatever was done: cold alone is no proof."""


@dataclass(frozen=True)
class Worth:
    """A way of watching a run: which, in words, how long it takes (min), what it would tell of the suspects
    (bits)."""

    id: str
    words: str
    minutes: float
    bits: float


@dataclass(frozen=True)
class Proof:
    """A proof that the case asks for: the kind and place of its verdict, in words, and why."""

    key: str
    title: str
    why: str


def classes(sheet: Sheet) -> dict[str, Broken]:
    """The thermal class of each of a sheet's faults, by the fault's id."""
    kept = circuits_of(sheet).foretelling.kept
    if "classes of faults" not in kept:
        faults = tuple(item.fault for item in hypotheses_of(sheet).all if item.fault)
        found = broken_by(sheet, thermal_of(sheet), faults)
        kept["classes of faults"] = dict(zip((fault.id for fault in faults), found, strict=True))
    known: dict[str, Broken] = kept["classes of faults"]
    return known


def worth(judgement: Judgement) -> tuple[Worth, ...]:
    """What each way of watching would tell of the suspects as they stand, the most an hour first."""
    sheet = judgement.sheet
    by_fault, known = classes(sheet), hypotheses_of(sheet)
    chances: dict[Broken, float] = {}
    for place, item in enumerate(known.all):
        if item.fault or place == 0:
            of = by_fault[item.fault.id] if item.fault else SOUND
            chances[of] = chances.get(of, 0.0) + float(judgement.posterior.now[place])
    shown = _shown(sheet, tuple(chances))
    found, before = [], 0.0
    for name, (words, minutes) in WATCHED.items():
        bits = _bits(chances, {of: shown[of][name] for of in chances})
        # What takes another instrument and tells no more is not worth it.
        if bits >= LEAST_BITS and (name == "forced" or bits >= before + LEAST_BITS):
            found.append(Worth(name, words, minutes, bits))
        before = before if name == "forced" else max(before, bits)
    return tuple(sorted(found, key=lambda each: -each.bits / each.minutes))


def prepare(sheet: Sheet) -> None:
    """Simulate what :func:`worth` and :func:`proofs_of` need of a sheet, which takes some seconds, once."""
    watched = _shown(sheet, tuple({SOUND, *classes(sheet).values()}))
    # With every thermometer hung and the watts on it is what a run is weighed by: simulated once for both.
    for of, shown in watched.items():
        classes_of(sheet).setdefault(of, shown["coil"])


def _shown(sheet: Sheet, of: tuple[Broken, ...]) -> dict[Broken, dict[str, dict[str, str]]]:
    """What each way of watching shows of each class; kept with the sheet's circuits."""
    kept = circuits_of(sheet).foretelling.kept
    known: dict[Broken, dict[str, dict[str, str]]] = kept.setdefault("thermal classes watched", {})
    plant = thermal_of(sheet)
    for each in of:
        if each not in known:
            known[each] = shown_watched(plant, each)
    return known


def _bits(chances: Mapping[Broken, float], shown: Mapping[Broken, dict[str, str]]) -> float:
    """What seeing it tells of the classes: the mutual information of class and outcome, where an outcome is
    what one of the classes shows and units of a class differ as they are weighed to."""
    outcomes = list({tuple(sorted(found.items())): found for found in shown.values()}.values())
    p = np.array(list(chances.values()))
    p /= p.sum()
    rows = [
        [tempered(seen, shown[of], seen.keys() | shown[of].keys()) for seen in outcomes] for of in chances
    ]
    given = np.exp(np.array(rows))
    given /= given.sum(axis=1, keepdims=True)
    whole = p @ given
    with np.errstate(divide="ignore", invalid="ignore"):
        each = np.where(given > 0, given * np.log2(given / whole), 0.0)
    return float(p @ each.sum(axis=1))


def proofs_of(standing: Standing) -> tuple[Proof, ...]:
    """The proofs a run has to give on a call: that it keeps its settings and cuts out, and whatever a unit
    shows otherwise with the faults of what was done to it. Of a sheet that was prepared."""
    sheet = standing.sheet
    faults = [item.fault for item in hypotheses_of(sheet).all if item.fault]
    by_fault, shown = classes(sheet), classes_of(sheet)
    names = {room.id: room.name for room in sheet.compartments}
    sound = shown[SOUND]
    why: dict[str, str] = {key: "" for key in sound if key.partition(":")[0] in ALWAYS}
    for part in _worked_on(standing):
        for fault in faults:
            if part in {fault.component, fault.unit} and by_fault[fault.id] in shown:
                for key, code in shown[by_fault[fault.id]].items():
                    if sound.get(key) != code:
                        why[key] = why.get(key) or _why(sheet, fault)
    return tuple(
        Proof(key, _title(key, names), why[key]) for key in sorted(why, key=lambda key: not why[key])
    )


def _worked_on(standing: Standing) -> list[str]:
    """What was fitted or mended, and what the call ended with as its cause."""
    found = []
    for slip in standing.effective:
        match slip.entry.body:
            case PartFitted(component=part) | Mended(unit=part) | Outcome(cause=part) if part:
                found.append(part)
    return list(dict.fromkeys(found))


def _why(sheet: Sheet, fault: Fault) -> str:
    return f"{sheet.part_name(fault.component)}: {fault.name}"


def _title(key: str, names: Mapping[str, str]) -> str:
    kind, _, place = key.partition(":")
    return f"{names[place]}: {in_sentence(TITLES[kind])}" if place in names else TITLES[kind]
