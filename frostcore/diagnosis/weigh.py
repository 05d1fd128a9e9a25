"""What one piece of evidence says of each hypothesis: ln P(evidence | hypothesis), in each draw.

A pure function of sheet and evidence, kept by both, so that a call is weighed anew from its tape each time
in no time.
"""

import math
from collections import OrderedDict
from functools import cached_property
from threading import Lock

import numpy as np
import numpy.typing as npt

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.power import at_plug
from frostcore.diagnosis.behaviour import Behaviour, behaviour_of
from frostcore.diagnosis.causal import FELT, HISTORY
from frostcore.diagnosis.evidence import (
    AtPlug,
    Bypassed,
    Changed,
    Drawn,
    Evidence,
    Experience,
    Fitted,
    Looked,
    Measured,
    Past,
    Ran,
    Read,
    Said,
    Sensed,
    Shown,
    Turned,
)
from frostcore.diagnosis.experience import factors
from frostcore.diagnosis.hypotheses import Floats, Hypotheses
from frostcore.diagnosis.likelihood import STRANGE, kin, log_given, log_likelihood, widths
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.readings import Readings, readings_of
from frostcore.sheet.model import Sheet
from frostcore.tape.standing import ROOM
from frostcore.thermal.behaviour import log_of_run

KEPT = 2000

WARMER, COLDER = (12.0, 6.0), (-8.0, 5.0)
"""How far from its setting a compartment is that is too warm or too cold, in kelvin: mean, and what it
differs by."""

ROOM_USUAL, ROOM_FAR, ROOM_SPAN = (21.0, 4.0), 9.0, 60.0
"""Rooms in °C: mean, and what they differ by; so far off a cabinet can't cope; all that there is."""

RIGHT_KELVIN = 2.5
"""How far from its setting one is that is right: cycles, doors, the thermometer's place."""

WATTS_AGAIN = 0.02
"""How far the same watts lie from themselves in another mode."""

WATTS_SHARE, WATTS_FLOOR, WATTS_SLIP = 0.06, 2.0, 0.03
"""How far watts at the plug may be from the sum of the loads, and how often they are of something else."""

OTHER_LOAD, AMPERES_OTHER, AMPERES_FLOOR = 0.25, 0.3, 0.05
"""A unit whose watts differ so much from a good one's may have another power factor: amperes are then known
to that share; and a clamp's own floor."""

SPEED_SHARE = 0.1
"""How far a sound fan's speed may be from its rated."""

MOVED = {"move": (0.75, 0.03), "warm": (0.4, 0.04), "chill": (0.4, 0.04)}
"""How often a reading changes so that comes and goes there, and any other."""

MEASURED_SLIP = 0.03

HELPED = {"yes": (0.92, 0.05), "for_a_while": (0.02, 0.12), "no": (0.03, 0.83)}
"""How often fitting a part helps where it was the fault, and where it was not."""

PUT_BACK_WRONG = 4.0
"""What was out is so many times likelier to have been put back wrong."""


class Weigher:
    """One sheet's evidence, weighed and kept."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self.readings: Readings = readings_of(sheet)
        self.known: Hypotheses = self.readings.hypotheses
        self._kept: OrderedDict[object, Floats] = OrderedDict()
        self._kin: dict[object, bool] = {}
        self._lock = Lock()

    @property
    def behaviour(self) -> Behaviour:
        """What the unit does under each hypothesis."""
        return behaviour_of(self.sheet)

    @cached_property
    def prior(self) -> Floats:
        """P(hypothesis) of a unit somebody calls for: faults that nobody notices are rarer there."""
        found = self.known.prior * self.behaviour.noticed
        found[1:-1] *= self.known.prior[1:-1].sum() / found[1:-1].sum()
        found[[0, -1]] = self.known.prior[[0, -1]]
        return np.asarray(found)

    def log(self, evidence: Evidence, mains: float | None = None) -> Floats | None:
        """Ln P(evidence | hypothesis): draws × hypotheses, or 1 × hypotheses; None where it says nothing."""
        key = (evidence, mains, self.readings.draws)
        if key not in self._kept:
            found = self._weighed(evidence, mains)
            if found is None:
                return None
            with self._lock:
                self._kept[key] = np.atleast_2d(found)
                while len(self._kept) > KEPT:
                    self._kept.popitem(last=False)
        return self._kept[key]

    def log_given(self, evidence: Evidence, newer: Evidence, mains: float | None = None) -> Floats | None:
        """As :meth:`log`, where newer evidence of the same kind says the same again of some hypotheses."""
        found = self.log(evidence, mains)
        if found is None:
            return None
        key = (evidence, newer, mains, self.readings.draws)
        if key not in self._kept:
            once = self._once(evidence, newer)
            with self._lock:
                self._kept[key] = np.where(np.isnan(once), found, once)
        return self._kept[key]

    def kin(self, probe: Probe, other: Probe) -> bool:
        """Whether two readings of good units err together."""
        key = ("kin", probe, other, self.readings.draws)
        if key not in self._kin:
            self._kin[key] = kin(self.readings, probe, other) is not None
        return self._kin[key]

    def _once(self, evidence: Evidence, newer: Evidence) -> Floats:
        """Ln P(evidence | what is newer) where the two are foretold alike; nan where they are not."""
        if isinstance(evidence, Read) and isinstance(newer, Read):
            return log_given(self.readings, evidence.probe, evidence.value, (newer.probe, newer.value))
        if isinstance(evidence, AtPlug) and isinstance(newer, AtPlug):
            one, other = (self.behaviour.watts[each.mode] for each in (evidence, newer))
            sigma = WATTS_AGAIN * newer.watts + WATTS_FLOOR
            fits = _normal(evidence.watts, newer.watts, sigma)
            flat = 1 / max(500.0, 2 * float(one.max()))
            once = math.log((1 - WATTS_SLIP) * fits + WATTS_SLIP * flat)
            pulses = self.readings.never_settles(evidence.mode) | self.readings.never_settles(newer.mode)
            steady = ~self.known.comes_and_goes & ~pulses
            return np.where(alike_watts(one, other) & steady, once, np.nan)[None]
        return np.full((1, len(self.known)), np.nan)

    def _weighed(self, evidence: Evidence, mains: float | None) -> Floats | None:
        match evidence:
            case Read():
                return log_likelihood(self.readings, evidence.probe, evidence.value, mains)
            case Looked():
                return np.asarray(np.log(self.behaviour.look(evidence.look, evidence.answer)))
            case Said():
                return np.asarray(np.log(self.behaviour.complaints[evidence.complaint]))
            case Measured():
                return self._measured(evidence)
            case Shown():
                return self._shown(evidence)
            case AtPlug():
                return self._at_plug(evidence)
            case Turned():
                return self._turned(evidence)
        return self._told(evidence)

    def _told(self, evidence: Evidence) -> Floats | None:
        match evidence:
            case Changed():
                return self._changed(evidence)
            case Drawn():
                return self._drawn(evidence)
            case Sensed() | Ran():
                return self._sensed(evidence) if isinstance(evidence, Sensed) else self._ran(evidence)
            case Bypassed():
                mine = np.array([item.component == evidence.component for item in self.known.all])
                runs = np.where(mine, 0.05, 0.95)
                return np.asarray(np.log(runs if evidence.runs else 1 - runs))
            case Past():
                return self._past(evidence.of)
            case Experience(counts=counts):
                return self._experience(dict(counts))
            case Fitted(helped=helped, component=part) if helped:
                cured, other = HELPED[helped]
                found = np.full(len(self.known), other)
                for place, item in enumerate(self.known.all):
                    if item.fault and part in {item.component, item.unit}:
                        put_back = item.fault.mode == "misplaced"
                        found[place] = min(0.9, PUT_BACK_WRONG * other) if put_back else cured
                return np.asarray(np.log(found))
        return None

    def _experience(self, counts: dict[str, int]) -> Floats:
        """Every fault by how its kind of part has fared; a unit that is well, or wrong as nobody models,
        stays as likely."""
        kinds = {part.id: str(part.kind) for part in self.sheet.components}
        mine = [kinds.get(item.component, "") if item.fault else None for item in self.known.all]
        whole = float(self.prior[1:-1].sum())
        prior: dict[str, float] = {}
        for kind, chance in zip(mine, self.prior, strict=True):
            if kind is not None:
                prior[kind] = prior.get(kind, 0.0) + float(chance) / whole
        known = factors(prior, counts)
        return np.asarray(np.log([1.0 if kind is None else known.get(kind, 1.0) for kind in mine]))

    def _ran(self, evidence: Ran) -> Floats:
        """By what a run of each thermal class shows; what comes and goes is there half the time."""
        faults = tuple(item.fault for item in self.known.all if item.fault)
        by_fault = log_of_run(self.sheet, faults, dict(evidence.found))
        told = [
            by_fault[item.fault.id if item.fault else "" if place == 0 else None]
            for place, item in enumerate(self.known.all)
        ]
        chances = np.exp(np.array(told))
        return np.asarray(np.log(np.where(self.known.comes_and_goes, 0.5 * (chances + chances[0]), chances)))

    def _sensed(self, evidence: Sensed) -> Floats:
        """Likelier where the part has a fault that is heard or felt so, less likely where it is not."""
        modes, other = FELT[evidence.what]
        found = np.full(len(self.known), other)
        for place, item in enumerate(self.known.all):
            if item.fault and item.component == evidence.component:
                told = [chance for mode, chance in modes.items() if mode in item.fault.mode]
                found[place] = max(told, default=other)
        return np.asarray(np.log(found))

    def _drawn(self, evidence: Drawn) -> Floats | None:
        """By the watts, where a good unit's power factor is known; a unit that takes other watts may have
        another."""
        watts = self.behaviour.watts.get(evidence.mode)
        settled = circuits_of(self.sheet).scene(evidence.mode)
        plug = at_plug(settled)
        if watts is None or not plug.tells_amperes or plug.watts <= 0:
            return None
        expected = plug.amperes.nominal * watts / watts[0]
        other = np.abs(watts / watts[0] - 1) > OTHER_LOAD
        sigma = np.where(other, AMPERES_OTHER, WATTS_SHARE) * expected + AMPERES_FLOOR
        return self._figure(
            _normal(evidence.amperes, expected, sigma), evidence.mode, max(4.0, 2 * expected.max())
        )

    def _past(self, event: str) -> Floats:
        """Likelier after it; the whole is not made likelier, so that it shifts and adds nothing."""
        found = np.zeros(len(self.known))
        for place, item in enumerate(self.known.all):
            for part, times in HISTORY[event]:
                if part in item.id.replace(":", "_").split("_") or part in item.id:
                    found[place] = max(found[place], math.log(times))
        return found

    def _room(self, celsius: float) -> Floats:
        """A room is as rooms are, but where it is itself what is wrong."""
        wrong = self.behaviour.state("room")
        usual, far = _normal(celsius, *ROOM_USUAL), 1 / ROOM_SPAN
        odd = far if abs(celsius - ROOM_USUAL[0]) > ROOM_FAR else 0.1 * far
        found = (1 - wrong) * (0.97 * usual + 0.03 * far) + wrong * odd
        found[-1] = 0.97 * usual + 0.03 * far
        return np.asarray(np.log(found))

    def _measured(self, evidence: Measured) -> Floats | None:
        if evidence.place == ROOM:
            return self._room(evidence.celsius)
        set_at = setting(self.sheet, evidence.place)
        if set_at is None:
            return None
        off, zone = evidence.celsius - set_at, self.behaviour.zone(evidence.place)
        found = (
            zone["warm"] * _normal(min(off, WARMER[0]), *WARMER)  # warm is warm, up to the room
            + zone["right"] * _normal(off, 0.0, RIGHT_KELVIN)
            + zone["cold"] * _normal(max(off, COLDER[0]), *COLDER)
        )
        slip = MEASURED_SLIP / 60
        found = (1 - MEASURED_SLIP) * found + slip
        found[-1] = 1 / 60
        return np.asarray(np.log(found))

    def _shown(self, evidence: Shown) -> Floats | None:
        behaviour = self.behaviour
        if evidence.code is None or (evidence.code and evidence.code not in behaviour.codes):
            return None
        if not evidence.code:
            return np.asarray(np.log(np.maximum(behaviour.no_code, 0.02)))
        others = [chance for name, chance in behaviour.codes.items() if name != evidence.code]
        first = np.prod([1 - 0.4 * chance for chance in others], axis=0) if others else 1.0
        return np.asarray(np.log(np.maximum(behaviour.codes[evidence.code] * first, 1e-4)))

    def _at_plug(self, evidence: AtPlug) -> Floats | None:
        expected = self.behaviour.watts.get(evidence.mode)
        if expected is None:
            return None
        sigma = WATTS_SHARE * expected + WATTS_FLOOR
        return self._figure(
            _normal(evidence.watts, expected, sigma), evidence.mode, max(500.0, 2 * expected.max())
        )

    def _figure(self, fits: Floats, mode: str, span: float) -> Floats:
        """Ln P(a figure at the plug): as it fits each hypothesis, half of the time as it fits a sound unit
        where the fault comes and goes or the mode never settles, or a slip anywhere in a span."""
        sound, flat = fits[0], 1 / span
        unsteady = self.known.comes_and_goes | self.readings.never_settles(mode)
        fits = np.where(unsteady, 0.5 * (fits + sound), fits)
        fits[-1] = (1 - STRANGE) * sound + STRANGE * flat
        return np.asarray(np.log((1 - WATTS_SLIP) * fits + WATTS_SLIP * flat))

    def _turned(self, evidence: Turned) -> Floats | None:
        share = self.behaviour.hertz.get(evidence.fan)
        nominal = self.sheet.component(evidence.fan).nominal
        if share is None or not nominal.rpm or not nominal.pulses_per_revolution:
            return None
        expected = share * nominal.rpm * nominal.pulses_per_revolution / 60
        sigma = SPEED_SHARE * expected + 1.0
        fits = _normal(evidence.hertz, expected, sigma)
        fits = np.where(self.known.comes_and_goes, 0.5 * (fits + fits[0]), fits)
        flat = 1 / max(200.0, 2 * float(expected.max()))
        return np.asarray(np.log((1 - WATTS_SLIP) * fits + WATTS_SLIP * flat))

    def _changed(self, evidence: Changed) -> Floats:
        """What comes and goes where this reading sees it changes when it is moved."""
        foretold = self.readings.of(evidence.probe)
        width = widths(self.readings, evidence.probe, foretold.astype(float), None)
        y = np.arcsinh(np.where(np.isfinite(foretold), foretold, 1e9))
        apart = np.abs(y - y[:, :1]) > 3 * np.maximum(width, width[:, :1])
        often, seldom = MOVED[evidence.how]
        chance = np.where(apart & self.known.comes_and_goes, often, seldom)
        chance[:, -1] = 0.1
        return np.asarray(np.log(chance if evidence.changes else 1 - chance))


def alike_watts(one: Floats, other: Floats) -> npt.NDArray[np.bool_]:
    """Which hypotheses take the same watts in two modes."""
    return np.asarray(np.abs(one - other) < WATTS_AGAIN * np.maximum(one, other) + 1.0)


def setting(sheet: Sheet, place: str) -> float | None:
    """What a compartment should be at in °C, by its sensor's set-point or the mode it usually is in; None
    where the sheet does not say."""
    for sensor in sheet.sensors:
        where = sheet.component(sensor.component).place
        while where and where != place:
            where = sheet.place(where).inside
        if where and sensor.set_point_celsius is not None:
            return sensor.set_point_celsius
    usual = next((mode.celsius for mode in sheet.modes if mode.live and mode.celsius), None)
    return (usual or {}).get(place)


def _normal(value: float, mean: Floats | float, sigma: Floats | float) -> Floats:
    return np.asarray(np.exp(-0.5 * ((value - mean) / sigma) ** 2) / (sigma * math.sqrt(2 * math.pi)))


def weigher_of(sheet: Sheet) -> Weigher:
    """A sheet's, kept with its circuits. CircuitError where it has no circuit to judge by."""
    kept = circuits_of(sheet).foretelling.kept
    if "weigher" not in kept:
        kept["weigher"] = Weigher(sheet)
    found: Weigher = kept["weigher"]
    return found
