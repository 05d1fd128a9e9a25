"""Commands about what is wrong: the judgement, what a unit does, the judgement rehearsed."""

import argparse
import json
from collections.abc import Mapping
from datetime import datetime
from typing import Any

import numpy as np

from frostcore.circuit.element import CircuitError
from frostcore.diagnosis.acts import document, instruction, unit_name
from frostcore.diagnosis.behaviour import behaviour_of
from frostcore.diagnosis.evidence import Evidence, evidence_of
from frostcore.diagnosis.from_tape import evidence_from
from frostcore.diagnosis.hypotheses import Floats, hypotheses_of
from frostcore.diagnosis.judge import Doubt, Judgement, Suspect, judge
from frostcore.diagnosis.planner import Proposal
from frostcore.diagnosis.readings import readings_of
from frostcore.diagnosis.rehearse import POLICIES, Ended, Rehearsal, rehearse
from frostcore.diagnosis.rehearse_pairs import PairRehearsal, rehearse_pairs
from frostcore.door import arguments
from frostcore.errors import FrostError
from frostcore.sheet.model import Sheet
from frostcore.tape.entries import Entry
from frostcore.tape.looks import LOOKS
from frostcore.tape.standing import stand
from frostcore.tape.versions import read_body


def add_commands(commands: Any) -> None:
    """Add ``diagnose``, ``behave`` and ``rehearse``."""
    told = commands.add_parser("diagnose", help="suspects, what is named, and the next test, from evidence")
    told.add_argument("--sheet", required=True, metavar="FILE")
    evidence_options(told)
    told.add_argument("--strike", type=int, metavar="N", help="leave entry N out (0 is the first)")
    told.set_defaults(run=_diagnose)
    does = commands.add_parser("behave", help="what the unit does in a mode, sound or with a fault")
    does.add_argument("--sheet", required=True, metavar="FILE")
    does.add_argument("--mode", required=True)
    does.add_argument("--fault", default="", metavar="ID", help="a fault of the sheet; sound without")
    does.set_defaults(run=_behave)
    tried = commands.add_parser("rehearse", help="units with known faults, diagnosed test by test")
    tried.add_argument("--sheet", required=True, metavar="FILE")
    tried.add_argument(
        "--faults", nargs="+", default=["all"], metavar="ID", help="faults to rehearse, or all"
    )
    tried.add_argument("--some", type=int, default=0, metavar="N", help="so many of them, drawn by weight")
    tried.add_argument(
        "--pairs", type=int, default=0, metavar="N", help="so many units with two faults, instead"
    )
    tried.add_argument("--seed", type=int, default=1)
    tried.add_argument("--policy", choices=list(POLICIES), default="bits")
    tried.add_argument("--no-looks", action="store_true", help="readings alone")
    tried.set_defaults(run=_rehearse)


def evidence_options(command: argparse.ArgumentParser) -> None:
    """Add the two ways evidence is given in."""
    source = command.add_mutually_exclusive_group(required=True)
    source.add_argument("--evidence", metavar="FILE", help='a list of entries, such as {"act": "look", …}')
    source.add_argument("--tape", metavar="FILE", help="a call’s tape as the product exports it")


def evidence_given(sheet: Sheet, options: argparse.Namespace) -> tuple[Evidence, ...]:
    """The evidence that was given in."""
    return _from_tape(sheet, options.tape) if options.tape else _from_file(sheet, options.evidence)


def _diagnose(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    evidence = evidence_given(sheet, options)
    if options.strike is not None and not 0 <= options.strike < len(evidence):
        message = f"--strike {options.strike}: there are {len(evidence)} entries, numbered from 0"
        raise FrostError(message)
    readings_of(sheet).prepare()
    return judgement_document(judge(sheet, evidence, options.strike))


def _from_file(sheet: Sheet, path: str) -> tuple[Evidence, ...]:
    return evidence_of(sheet, json_of(path))


def json_of(path: str) -> Any:
    """A file's JSON; FrostError naming it where it is none."""
    try:
        return json.loads(arguments.text_of(path))
    except ValueError as error:
        message = f"{path}: this is not JSON ({error})"
        raise FrostError(message) from None


def _from_tape(sheet: Sheet, path: str) -> tuple[Evidence, ...]:
    tape = json_of(path)
    entries = tape.get("entries") if isinstance(tape, dict) else None
    if not isinstance(entries, list):
        message = f"{path}: this is no tape; export one from a call’s page"
        raise FrostError(message)
    try:
        read = [
            Entry(
                str(item["id"]),
                datetime.fromisoformat(item["at"]),
                str(item.get("by", "")),
                read_body(str(item["kind"]), int(item["version"]), item.get("body", {})),
                item.get("supersedes") or "",
            )
            for item in entries
        ]
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        message = f"{path}: an entry of this tape can’t be read ({error!r})"
        raise FrostError(message) from None
    return tuple(item for item, _ in evidence_from(stand(sheet, read)))


def judgement_document(judgement: Judgement) -> dict[str, Any]:
    """A judgement as plain data."""
    step, doubt = judgement.next, judgement.again
    return {
        "suspects": [_suspect(judgement, each) for each in judgement.suspects],
        "named": judgement.named.unit if judgement.named else None,
        "group": [each.unit for each in judgement.group],
        "unexplained": list(judgement.unexplained),
        "beside": [
            {"unit": each.unit, "component": each.component, "probability": each.probability}
            for each in judgement.beside
        ],
        "read_again": {"entry": doubt.entry, "neighbours": [list(each.pair) for each in doubt.neighbours]}
        if doubt
        else None,
        "next": _proposal(judgement, step) if step else None,
        "alternatives": [_proposal(judgement, each) for each in judgement.proposals if each is not step][:4],
        "fitted": list(judgement.posterior.fitted),
        "draws": judgement.weigher.readings.draws,
    }


def _again(doubt: Doubt) -> dict[str, Any]:
    return {"entry": doubt.entry, "neighbours": [list(each.pair) for each in doubt.neighbours]}


def _suspect(judgement: Judgement, suspect: Suspect) -> dict[str, Any]:
    return {
        "unit": suspect.unit,
        "name": unit_name(judgement.sheet, suspect.unit, [item.name for item, _ in suspect.faults]),
        "component": suspect.component,
        "faults": [
            {"id": item.id, "name": item.name, "probability": chance} for item, chance in suspect.faults
        ],
        "probability": suspect.probability,
        "bits": {str(entry): round(bits, 3) for entry, bits in judgement.bits(suspect).items()},
    }


def _proposal(judgement: Judgement, proposal: Proposal) -> dict[str, Any]:
    words = instruction(judgement.sheet, judgement.state, proposal.test)
    return {
        **document(judgement.sheet, proposal.test),
        "minutes": round(proposal.minutes, 2),
        "bits": round(proposal.bits, 4),
        "words": words.act,
        "how": list(words.how),
        "cautions": list(words.cautions),
        "leaves": {
            each.text: {"chance": each.chance, "suspects": dict(each.leaves)}
            for each in judgement.outcomes(proposal)
        },
    }


def _behave(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    known, modes = hypotheses_of(sheet), [mode.id for mode in sheet.modes if mode.live]
    if options.mode not in modes:
        message = f"There is no live mode “{options.mode}” on the {sheet.title}; it has {', '.join(modes)}."
        raise CircuitError(message)
    name = options.fault or "well"
    if name not in known.place:
        message = f"There is no fault “{name}” on the {sheet.title}; the command faults lists them."
        raise CircuitError(message)
    at, does = known.place[name], behaviour_of(sheet)

    def told(chances: Mapping[str, Floats]) -> dict[str, float]:
        return {name: round(float(chance[at]), 4) for name, chance in chances.items() if chance[at] > LEAST}

    looks = {
        look.id: {
            answer.id: round(float(does.looks[look.id][row, at]), 4)
            for row, answer in enumerate(look.answers)
        }
        for look in LOOKS
    }
    return {
        "fault": name,
        "mode": options.mode,
        "functions": told(does.states),
        "looks": looks,
        "codes": told(does.codes),
        "watts": round(float(does.watts[options.mode][at]), 2),
    }


LEAST = 5e-3
"""A chance below this is not worth printing."""


def _rehearse(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    known = hypotheses_of(sheet)
    wanted = [item.id for item in known.all if item.fault] if options.faults == ["all"] else options.faults
    unknown = [name for name in wanted if name not in known.place]
    if unknown:
        message = f"There is no fault “{unknown[0]}” on the {sheet.title}; the command faults lists them."
        raise CircuitError(message)
    if options.pairs:
        return pairs_document(rehearse_pairs(sheet, _count("--pairs", options.pairs), seed=options.seed))
    places = [known.place[name] for name in wanted]
    if options.some:
        places = some_of(sheet, places, _count("--some", options.some), options.seed)
    return rehearsal_document(
        rehearse(sheet, places, seed=options.seed, policy=options.policy, looks=not options.no_looks)
    )


def some_of(sheet: Sheet, places: list[int], count: int, seed: int) -> list[int]:
    """Some hypotheses, drawn by their weight without repeats."""
    weights = hypotheses_of(sheet).prior[places]
    chosen = np.random.default_rng(seed).choice(
        places, min(count, len(places)), replace=False, p=weights / weights.sum()
    )
    return [int(place) for place in chosen]


def _count(name: str, number: int) -> int:
    """A number of units; CircuitError where it is none, or more than anybody waits for."""
    if not 1 <= number <= MOST_UNITS:
        message = f"{name} {number}: a number of units is between 1 and {MOST_UNITS}."
        raise CircuitError(message)
    return number


MOST_UNITS = 10_000


def pairs_document(found: PairRehearsal) -> dict[str, Any]:
    """What came of a rehearsal of two faults, as plain data."""
    return {
        "runs": len(found.both),
        "both_in_turn": found.in_turn,
        "both_at_once": found.at_once,
        "single": found.single,
        "begun_needlessly": found.begun_needlessly if found.single else None,
        "missed": [
            {"faults": list(each.faults), "first": each.first, "then": list(each.second)}
            for each in found.both
            if not each.in_turn
        ],
    }


def rehearsal_document(found: Rehearsal) -> dict[str, Any]:
    """What came of a rehearsal, as plain data."""

    def right(each: Ended) -> bool:
        return each.right

    return {
        "runs": len(found.ended),
        "right": found.share(right),
        "right_by_weight": found.share(right, weighted=True),
        "right_without_intermittents": found.share(right, lambda each: not each.intermittent),
        "sure_and_wrong": found.share(lambda each: each.sure_and_wrong),
        "wrong_boards_by_weight": found.share(lambda each: each.wrong_board, weighted=True),
        "tests": found.mean(lambda each: each.tests),
        "minutes": found.mean(lambda each: each.minutes),
        "group_size": found.mean(lambda each: len(each.named)),
        "missed": [
            {"fault": each.fault, "named": list(each.named), "stated": round(each.stated, 4)}
            for each in found.ended
            if not each.right
        ],
    }
