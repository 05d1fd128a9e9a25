"""Temperatures over time, measured: a week's cost, verdicts by channels over spoilt logs, calibration."""

import sys
import time
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

import numpy as np  # noqa: E402 - the project is not installed

from frostcore.thermal.calibration import CYCLE_NOISE, TurnAct, calibrate  # noqa: E402
from frostcore.thermal.control import DAY, openings  # noqa: E402
from frostcore.thermal.faults import SOUND, Broken, broken  # noqa: E402
from frostcore.thermal.forecast import HOURS, SAID_NEVER, SOONEST, ensemble, forecast  # noqa: E402
from frostcore.thermal.forecast import varied as another  # noqa: E402
from frostcore.thermal.log import Log, read_log  # noqa: E402
from frostcore.thermal.logged import logged  # noqa: E402
from frostcore.thermal.picture import run_picture  # noqa: E402
from frostcore.thermal.plant import Thermal, targets  # noqa: E402
from frostcore.thermal.simulate import Plant, Simulated, simulate  # noqa: E402
from frostcore.thermal.usual import USUAL  # noqa: E402
from frostcore.thermal.verdicts import Judged  # noqa: E402

COLD_S, WARM_S = 0.7, 0.5
CLASSES = {
    "sound": SOUND,
    "never stops": Broken(runs_on=frozenset({"compressor"})),
    "short cycles": Broken(changes=("limps",)),
    "no defrost": Broken(stands=frozenset({"defrost_heater"})),
    "endless defrost": Broken(changes=("defrost_long",)),
    "weak": Broken(changes=("weak",)),
    "seal": Broken(changes=("seal",)),
}
SPOILT = ("as it was", "every 5 min", "gaps", "rows twice", "clock back an hour", "whole °F")


def line(name: str, shown: str, goal: str, *, reached: bool) -> None:
    """A figure with its goal, and how that stands."""
    print(f"  {name:44} {shown:>10}  ({goal}: {'reached' if reached else 'NOT reached'})")


def weeks() -> None:
    """A week of each usual plant, cold and with its modes kept."""
    print("a week, processor seconds")
    for kind, make in USUAL.items():
        plant = Plant(make())
        acts = openings(plant.plant, 7)
        took = []
        for _ in range(2):
            began = time.process_time()
            run = simulate(plant, 7, acts=acts)
            took.append(time.process_time() - began)
        line(f"{kind}, cold", f"{took[0]:.2f} s", f"{COLD_S}", reached=took[0] <= COLD_S)
        line(f"{kind}, again", f"{took[1]:.2f} s", f"{WARM_S}", reached=took[1] <= WARM_S)
        share = abs(run.balance) / float(run.of("electric")[-1])
        line("  energy not accounted for", f"{share:.1e}", "1e-9", reached=share <= 1e-9)


def varied(plant: Thermal, chance: np.random.Generator) -> Thermal:
    """A plant as another of the same type may be, in another room."""
    rooms = tuple(
        replace(
            room,
            contents=room.contents * chance.uniform(0.5, 1.8),
            wall_room=room.wall_room * chance.uniform(0.85, 1.2),
            openings=int(chance.integers(2, 35)),
        )
        for room in plant.compartments
    )
    return plant.changed(compartments=rooms, room=float(chance.uniform(18, 30)))


def text_of(run: Simulated, spoilt: str, seed: int, first_day: int = 1) -> str:
    """A log of a day as a file, spoilt in one way."""
    log = logged(run, 300.0 if spoilt == "every 5 min" else 60.0, seed)
    chance = np.random.default_rng(seed)
    heads, rows = ["seconds"], []
    names = {name: name.replace("celsius:", "").replace("coil:", "coil ") for name in log.columns}
    unit = "°F" if spoilt == "whole °F" else "°C"
    heads += ["watts" if name == "watts" else f"{names[name]} {unit}" for name in log.columns]
    at = (log.seconds >= first_day * DAY) & (log.seconds <= (first_day + 1) * DAY)
    for number in np.flatnonzero(at):
        cells = []
        for name, values in log.columns.items():
            value = float(values[number])
            if spoilt == "whole °F" and name != "watts":
                cells.append(f"{value * 1.8 + 32:.0f}")
            else:
                cells.append(f"{value:.1f}")
        rows.append((float(log.seconds[number]) - first_day * DAY, cells))
    if spoilt == "gaps":
        for _ in range(3):
            start, long = chance.uniform(0, 80e3), chance.uniform(1500, 5400)
            rows = [row for row in rows if not start < row[0] < start + long]
    if spoilt == "clock back an hour":
        after = chance.uniform(20e3, 60e3)
        rows = [(now - 3600 if now > after else now, cells) for now, cells in rows]
    lines = [",".join([f"{now:.0f}", *cells]) for now, cells in rows]
    if spoilt == "rows twice":
        middle = int(chance.integers(100, len(lines) - 200))
        lines = [*lines[: middle + 100], *lines[middle:]]
    return "\n".join([",".join(heads), *lines])


def changed(plant: Thermal, by: Broken) -> Thermal:
    """A plant with a class of fault; an endless defrost here ends after two hours, by no temperature."""
    if by.changes == ("defrost_long",):
        return plant.changed(defrost=replace(plant.defrost, ends=1e3, most=120.0, fuse=1e3))
    return broken(plant, by)


def logs(kind: str, units: int) -> Iterator[tuple[str, str, Log, Thermal]]:
    """Every class × unit × spoiling: the class, the spoiling, the log, the plant it is judged by."""
    base = USUAL[kind]()
    for name, by in CLASSES.items():
        if "defrost" in name and base.defrost.kind == "none":
            continue
        for unit in range(units):
            chance = np.random.default_rng(100 * unit + len(name))
            real = changed(varied(base, chance), by)
            run = simulate(real, 2, acts=openings(real, 2, unit))
            stopped = int((run.when("stops") > DAY).sum()) - int((run.when("defrost") > DAY).sum())
            if name not in {"never stops", "sound", "short cycles"} and stopped < 3:
                continue  # it runs on too: that it never cuts out is true of it
            for spoilt in SPOILT:
                text = text_of(run, spoilt, unit)
                places = [room.place for room in base.compartments]
                log = read_log(text, places, [face.id for face in base.evaporators])
                yield name, spoilt, log, base


def of_air(log: Log) -> Log:
    """A log with its compartments' temperatures alone."""
    kept = [
        n for n, each in enumerate(log.columns) if each.quantity == "celsius" and "coil" not in each.where
    ]
    return Log(log.begins, log.seconds, tuple(log.columns[n] for n in kept), log.values[kept], log.said)


def told(plant: Thermal, log: Log) -> dict[str, str]:
    """Verdicts by kind."""
    return {each.kind: each.stands for each in Judged(plant, log).verdicts if each.kind != "holds"}


class Counted:
    """What was said, by channels and class."""

    def __init__(self) -> None:
        self.said: Counter[tuple[str, ...]] = Counter()
        self.seen: Counter[tuple[str, ...]] = Counter()

    def add(self, channels: str, name: str, spoilt: str, found: dict[str, str]) -> None:
        """One log's verdicts."""
        for often in ("", "minute"):
            if not often or spoilt != "every 5 min":
                self.seen[channels, name, often] += 1
                for verdict, stands in found.items():
                    self.said[channels, name, verdict, stands, often] += 1

    def share(self, channels: str, name: str, verdict: str, stands: str, often: str = "") -> float:
        """How often something was said of a class; never, of one there is not."""
        whole = self.seen[channels, name, often]
        return self.said[channels, name, verdict, stands, often] / whole if whole else 0.0


STOPPING = ("sound", "short cycles", "no defrost")


def verdicts(units: int) -> None:
    """What is said of each class, with watts and by air alone."""
    for kind in ("single_evaporator", "dual_evaporator", "cold_plate", "wine_cooler"):
        counted, took, count = Counted(), 0.0, 0
        for name, spoilt, log, plant in logs(kind, units):
            began = time.process_time()
            counted.add("watts", name, spoilt, told(plant, log))
            took += time.process_time() - began
            count += 1
            counted.add("air", name, spoilt, told(plant, of_air(log)))
        print(f"{kind}: {count} spoilt logs of a day, {1000 * took / count:.1f} ms each")
        said(counted.share)


def said(share: Callable[..., float]) -> None:
    """One kind's figures."""
    others = [each for each in CLASSES if each != "never stops"]
    right = share("watts", "never stops", "cuts_out", "no")
    line("never stops, with watts", f"{right:.1%}", "99%", reached=right >= 0.99)
    right = share("watts", "short cycles", "short_cycles", "yes", "minute")
    line("short cycles, watts every minute", f"{right:.1%}", "99%", reached=right >= 0.99)
    false = max(share("watts", each, "cuts_out", "no") for each in STOPPING)
    for each in others:
        if each != "short cycles":
            false = max(false, share("watts", each, "short_cycles", "yes"))
    for name, kind, stands in (
        ("no defrost", "defrosts", "no"),
        ("endless defrost", "defrost_endless", "yes"),
    ):
        told_of = share("watts", name, kind, stands)
        waits = share("watts", name, "defrosts", "not_seen")
        if told_of + waits:
            shown = f"{told_of + waits:.1%}"
            line(f"{name}: told, else “not seen yet”", shown, "97%", reached=told_of + waits >= 0.97)
            print(f"    told {told_of:.1%}, not seen {waits:.1%}")
    false = max(false, *(share("watts", each, "defrosts", "no") for each in ("sound", "weak", "seal")))
    line("false alarms, worst class", f"{false:.1%}", "1%", reached=false <= 0.01)
    right = share("air", "never stops", "cuts_out", "no")
    line("never stops, air alone", f"{right:.1%}", "90%", reached=right >= 0.9)
    false = max(share("air", each, "cuts_out", "no") for each in others)
    line("  false, worst class", f"{false:.1%}", "1%", reached=false <= 0.01)
    quiet = share("air", "short cycles", "short_cycles", "cannot_tell")
    line("short cycles by air: “can’t tell”", f"{quiet:.1%}", "100%", reached=quiet == 1.0)


def page(rows_a_minute: int = 6) -> None:
    """What a page of a run takes: eight columns, a week, a row every ten seconds; its file is read once."""
    plant = USUAL["single_evaporator"]()
    run = simulate(plant, 7, acts=openings(plant, 7))
    log = logged(run)
    columns = [*log.columns.values(), *(log.columns["celsius:fridge"] + add for add in (1, 2, 3))]
    lines = [",".join(["seconds", *log.columns, "one", "two", "three"])]
    for row, seconds in enumerate(log.seconds):
        cells = ",".join(f"{column[row]:.1f}" for column in columns)
        lines += [f"{seconds + 10 * part:.0f},{cells}" for part in range(rows_a_minute)]
    text = "\n".join(lines)
    began = time.process_time()
    read = read_log(text, [room.place for room in plant.compartments], ["evaporator"])
    took = time.process_time() - began
    print(f"{len(read.columns)} columns × {len(read.seconds):,} rows, read once in {took:.1f} s")
    began = time.process_time()
    for _ in range(5):
        judged = Judged(plant, read)
        shown = judged.proof, run_picture(judged)
    took = (time.process_time() - began) / 5
    line("judged and drawn", f"{1000 * took:.0f} ms", "60 ms", reached=bool(shown) and took <= 0.06)


AT = {"single_evaporator": 0.25, "dual_evaporator": 0.25, "mechanical": 0.25, "cold_plate": 0.5,
      "wine_cooler": 0.6, "thermoelectric": 0.6}  # fmt: skip
WITHIN = {"freezer": 0.85, "fridge": 0.8, "cabinet": 0.8}


def pulldowns(count: int = 40) -> None:
    """When it will be at its setting, of units that are none of the ensemble's."""
    for kind, make in USUAL.items():
        plant, chance = make(), np.random.default_rng(99)
        began = time.process_time()
        members = ensemble(plant, {room.place: plant.room for room in plant.compartments})
        print(f"{kind}: {len(members.seen)} simulations in {time.process_time() - began:.0f} s of processor")
        runs = [simulate(another(plant, chance), HOURS / 24) for _ in range(count)]
        for place in members.places:
            share = 0.5 if place == "fridge" else AT[kind]
            near = held = never = asked = 0
            for run in runs:
                found = np.flatnonzero(run.of(f"hung:{place}") <= targets(plant)[place])
                if not len(found) or share * found[0] < SOONEST:
                    continue
                when = float(found[0])
                told_of = forecast(members, air_until(run, share * when), place)
                if told_of is None or told_of.there:
                    continue
                asked += 1
                near += abs(told_of.median - when) <= 0.15 * when
                held += told_of.low <= when <= told_of.high
                never += told_of.never >= SAID_NEVER
            if asked:
                goal = WITHIN.get(place, 0.75) if kind not in {"wine_cooler", "thermoelectric"} else 0.75
                shown = f"{near / asked:.0%}"
                line(f"{place} at {share:.0%}, in 15 %", shown, f"{goal:.0%}", reached=near >= goal * asked)
                shown = f"{held / asked:.0%}"
                line("  four in five held", shown, "74 to 88%", reached=0.74 <= held / asked <= 0.88)
                line("  “never” of sound runs", f"{never / asked:.0%}", "1%", reached=never <= 0.01 * asked)


def asked_how_full(count: int = 20, kinds: tuple[str, ...] = tuple(USUAL)) -> None:
    """The same where somebody said how full the unit is: empty, half, full."""
    for kind in kinds:
        plant, chance = USUAL[kind](), np.random.default_rng(98)
        first = {room.place: plant.room for room in plant.compartments}
        tried: dict[str, list[tuple[bool, bool]]] = {room.place: [] for room in plant.compartments}
        for full in ("empty", "half", "full"):
            members = ensemble(plant, first, members=160, faulty=40, full=full)
            for _ in range(count):
                run = simulate(another(plant, chance, full), HOURS / 24)
                for place, results in tried.items():
                    share = 0.5 if place == "fridge" else AT[kind]
                    at = np.flatnonzero(run.of(f"hung:{place}") <= targets(plant)[place])
                    if len(at) and share * at[0] >= SOONEST:
                        when = float(at[0])
                        told_of = forecast(members, air_until(run, share * when), place)
                        if told_of is not None and not told_of.there:
                            near = abs(told_of.median - when) <= 0.15 * when
                            results.append((near, told_of.low <= when <= told_of.high))
        for place, results in tried.items():
            if not results:
                continue
            near, held = (sum(each[n] for each in results) / len(results) for n in (0, 1))
            goal = WITHIN.get(place, 0.75) if kind not in {"wine_cooler", "thermoelectric"} else 0.75
            line(
                f"{kind}, {place}, asked how full: in 15 %",
                f"{near:.0%}",
                f"{goal:.0%}",
                reached=near >= goal,
            )
            line("  four in five held", f"{held:.0%}", "74 to 88%", reached=0.74 <= held <= 0.88)


def air_until(run: Simulated, minutes: float) -> Log:
    """A run's compartments as logged so far."""
    return of_air(logged(run).as_log(until=minutes * 60))


def calibrations(count: int = 2000) -> None:
    """Random thermostats set by turns: slope 1.5 to 9 K a turn unknown, backlash, a hand's error."""
    chance = np.random.default_rng(3)
    within = stopped_wrong = 0
    for _ in range(count):
        slope, level = -chance.uniform(1.5, 9), chance.uniform(-8, 8)
        asked = stands = 0.0
        last, acts = 0.0, list[TurnAct]()
        for act in range(4):
            now = level + slope * stands
            early = chance.normal(0, 2)
            cuts = tuple(now + early * 0.4**k + chance.normal(0, CYCLE_NOISE) for k in range(4))
            acts.append(TurnAct(asked, cuts))
            found = calibrate(acts, 0.0)
            if found.stop or act == 3:
                within += abs(now) <= 1.0
                stopped_wrong += found.stop and abs(now) > 1.0
                break
            asked += found.next_turn
            made = found.next_turn * (1 + chance.normal(0, 0.03)) + chance.normal(0, 5 / 360)
            lost = chance.uniform(0, 0.08) if last and np.sign(found.next_turn) != last else 0.0
            stands += made - np.sign(made) * min(lost, abs(made))
            last = float(np.sign(found.next_turn))
            level += chance.normal(0, 0.25)
    print(f"{count} thermostats, up to three turns of four cycles")
    line("within a kelvin", f"{within / count:.1%}", "95%", reached=within >= 0.95 * count)
    line("stopped and was not", f"{stopped_wrong / count:.1%}", "3%", reached=stopped_wrong <= 0.03 * count)


def two_screws(count: int = 1000) -> None:
    """The same with a cut-in wanted too: a differential screw that goes either way by 1.5 to 6 K a turn."""
    chance = np.random.default_rng(3)
    by, wrong = np.zeros(8), 0
    for _ in range(count):
        slope = -chance.uniform(1.5, 9)
        own = chance.choice([-1, 1]) * chance.uniform(1.5, 6)
        does = np.array([[slope, chance.normal(0, 0.2)], [slope * chance.uniform(0.9, 1.1), own]])
        found_at = np.array([chance.uniform(-6, 6), 8 + chance.uniform(-5, 5)])
        stands, acts = np.zeros(2), list[TurnAct]()
        for act in range(8):
            now = found_at + does @ stands + chance.normal(0, 0.25, 2)
            early = chance.normal(0, 2, 2) * 0.4 ** np.arange(4)[:, None]
            shown = now + early + chance.normal(0, CYCLE_NOISE, (4, 2))
            acts.append(TurnAct(stands[0], tuple(shown[:, 0]), tuple(shown[:, 1]), stands[1]))
            found = calibrate(acts, 0.0, cut_in=8.0)
            if found.stop:
                by[act:] += 1
                wrong += bool((np.abs(now - [0.0, 8.0]) > 1.0).any())
                break
            stands += np.array([found.next_turn, found.next_differential])
    done = ", ".join(f"{acts} acts {by[acts - 1] / count:.0%}" for acts in (3, 4, 5, 6))
    print(f"{count} thermostats by both screws (no goal): stopped after {done};")
    print(f"  of those stopped {wrong / max(by[-1], 1):.1%} were not within a kelvin of both")


def thermal(units: int) -> int:
    """All of it."""
    weeks()
    verdicts(units)
    page()
    pulldowns()
    asked_how_full()
    calibrations()
    two_screws()
    return 0
