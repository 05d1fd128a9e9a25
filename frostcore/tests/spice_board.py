"""Boards through ngspice, the independent reference: rectifiers in time with real diodes, and a meter's ohms
and diode test on a board with the plug out."""

import math
import re
import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path

from frostcore.bench.faults import Condition
from frostcore.bench.probes import BenchProbe
from frostcore.bench.ranges import BenchRange
from frostcore.circuit.figures import WALL_OHMS
from frostcore.circuit.junction import DIODE_TEST, OHMS_TEST, SLOPE_OHMS, shown_ohms, shown_volts
from frostcore.circuit.meter import OPEN_OHMS
from frostcore.sheet.plate import usual_hertz
from frostcore.sheet.supply import BoardPart, BoardPartKind, BoardSupply
from frostcore.supply.bus import Charging, Load
from frostcore.supply.foretold import STOPS_SHARE
from frostcore.supply.start import Own

K = BoardPartKind
FIGURE = re.compile(r"^(mean|about|rms|pp|irms)\s*=\s*(\S+)", re.MULTILINE)
LEADS = re.compile(r"^leads\s*=\s*(\S+)", re.MULTILINE)

TRANSIENT = """rectifier
V1 s b SIN(0 {peak} {hertz})
Rs s a {ohms}
{bridge}
Re p c {esr}
C1 c n {farads} IC={first}
B1 p n I={amperes} + {watts}/sqrt(v(p,n)*v(p,n)+{least})
Rg n 0 1meg
Rb b 0 1meg
.options method=gear
.model DX D(IS=2e-9 N=1.75 RS=0.02 CJO=50p)
.control
tran {step} {end} {start} {step} uic
let out = v(p)-v(n)
let shifted = out - {peak}
meas tran mean AVG out from={start} to={end}
meas tran about AVG shifted from={start} to={end}
meas tran rms RMS shifted from={start} to={end}
meas tran pp PP out from={start} to={end}
meas tran irms RMS i(v1) from={start} to={end}
.endc
.end
"""


def transient(charging: Charging, load: Load) -> dict[str, float]:
    """Four diodes (one open where it charges by halves), all that charges it as ohms, a load of amperes and
    watts, after it has come to rest: mean, ripple, peak to peak, charging current."""
    bridge = ["D1 a p DX", "D2 b p DX", "D3 n a DX", "D4 n b DX"]
    period = 1 / charging.hertz
    settled = max(8 * charging.ohms * charging.farads, 20 * period)
    if load.watts:  # what is stored leaves by the watts, and a start too high takes so long to be forgotten
        settled = max(settled, 3 * charging.farads * charging.peak**2 * 0.1 / load.watts)
    start = math.ceil(settled / period) * period
    deck = TRANSIENT.format(
        peak=charging.peak, hertz=charging.hertz, ohms=charging.ohms, esr=charging.esr,
        bridge="\n".join(bridge[1:] if charging.halves else bridge), farads=charging.farads,
        first=charging.peak - charging.drop, amperes=load.amperes, watts=load.watts, least=load.stops**2 / 10,
        step=period / 2000, start=start, end=start + 2 * period,
    )  # fmt: skip
    run = subprocess.run(
        ["ngspice", "-b"], check=False, input=deck, capture_output=True, text=True, timeout=120
    )
    found = {name: float(value) for name, value in FIGURE.findall(run.stdout)}
    if found:
        found["ripple"] = math.sqrt(max(found["rms"] ** 2 - found["about"] ** 2, 0))
    return found


DROPPER = """a capacitor in series with the mains
V1 l n SIN(0 {crest} 50)
R1 l f 47
Cx f a {farads}
Rs n b 10
{bridge}
Dz m p DZ
C1 p m 470u IC={first}
RL p m {load}
Rg m 0 1meg
Rn n 0 1meg
.options method=gear
.model DX D(IS=2e-9 N=1.75 RS=0.02)
.model DZ D(IS=1e-12 BV=24 IBV=1m RS=0.5)
.control
tran 50u 6 5 50u uic
let out = v(p)-v(m)
meas tran mean AVG out from=5 to=6
.endc
.end
"""


def dropped(farads: float, load: float, diode: str = "") -> float:
    """The rail a series capacitor feeds through a bridge and a 24 V Zener diode at 230 V and 50 Hz, its first
    diode sound, open or short: mean volts."""
    first = {"open": [], "short": ["R9 a p 0.3"]}.get(diode, ["D1 a p DX"])
    bridge = "\n".join([*first, "D2 b p DX", "D3 m a DX", "D4 m b DX"])
    deck = DROPPER.format(
        crest=math.sqrt(2) * 230, farads=farads, load=load, bridge=bridge, first=0 if diode == "open" else 10
    )
    run = subprocess.run(
        ["ngspice", "-b"], check=False, input=deck, capture_output=True, text=True, timeout=120
    )
    return {name: float(value) for name, value in FIGURE.findall(run.stdout)}["mean"]


HICCUP = """a controller without help
Vb bus 0 {bus}
Rs bus own {start}
Cv own 0 {farads} IC={stops}
Vs s 0 1
S1 s en own 0 turns
Re en 0 1k
B1 own 0 I={running}*v(en)
.model turns SW(vt={middle} vh={half} ron=0.1 roff=1g)
.control
tran 0.1m 3 1 0.1m uic
meas tran first WHEN v(en)=0.5 RISE=1
meas tran falls WHEN v(en)=0.5 FALL=1 TD={after}
meas tran second WHEN v(en)=0.5 RISE=2
meas tran mean AVG v(own) from=1 to=3
.endc
.end
"""
MOMENT = re.compile(r"^(first|falls|second|mean)\s*=\s*(\S+)", re.MULTILINE)


def hiccups(own: Own, bus: float) -> tuple[float, float, float]:
    """A controller that starts and stops by its own supply's volts and has no help: the seconds of a whole
    round, of its running part, and the mean of its supply."""
    deck = HICCUP.format(
        bus=bus, start=own.start_ohms, farads=own.farads, stops=own.stops, running=own.running_amperes,
        middle=(own.starts + own.stops) / 2, half=(own.starts - own.stops) / 2, after=0,
    )  # fmt: skip
    run = subprocess.run(
        ["ngspice", "-b"], check=False, input=deck, capture_output=True, text=True, timeout=120
    )
    found = {name: float(value) for name, value in MOMENT.findall(run.stdout)}
    whole = found["second"] - found["first"]
    runs = found["falls"] - found["first"]
    return whole, runs % whole, found["mean"]


def meter_reads(supply: BoardSupply, asked: Sequence[tuple[BenchProbe, dict[str, Condition]]]) -> list[float]:
    """What a meter shows at each of some probes under some conditions, all in one process; inf for OL."""
    with tempfile.TemporaryDirectory() as folder:
        lines = []
        for number, (probe, conditions) in enumerate(asked):
            Path(folder, f"{number}.cir").write_text(_deck(supply, probe, conditions), encoding="ascii")
            between = f"v(nd_{probe.red})-v(nd_{probe.black})"
            lines += [f"source {folder}/{number}.cir", "op", f"let leads = {between}", "print leads"]
            lines += ["destroy all", "remcirc"]
        script = Path(folder, "all.cir")
        script.write_text("all\n.control\n" + "\n".join(lines) + "\nquit\n.endc\n.end\n", encoding="ascii")
        run = subprocess.run(
            ["ngspice", "-b", str(script)], capture_output=True, text=True, check=False, timeout=600
        )
    found = [float(value) for value in LEADS.findall(run.stdout)]
    if len(found) != len(asked):
        message = f"ngspice answered {len(found)} of {len(asked)}: {run.stderr[-500:]}"
        raise AssertionError(message)
    return [_shown(probe, leads) for (probe, _), leads in zip(asked, found, strict=True)]


def _shown(probe: BenchProbe, leads: float) -> float:
    if probe.range is BenchRange.DIODE:
        volts = shown_volts(leads)
        return math.inf if volts is None else volts
    ohms = shown_ohms(leads)
    return math.inf if ohms > OPEN_OHMS else ohms


def _deck(supply: BoardSupply, probe: BenchProbe, conditions: dict[str, Condition]) -> str:
    meter = DIODE_TEST if probe.range is BenchRange.DIODE else OHMS_TEST
    lines = ["board", f"VM m nd_{probe.black} {meter.dc_volts}", f"RM m nd_{probe.red} {meter.ohms}"]
    lines += [f"RI{number} nd_{node} 0 5g" for number, node in enumerate(sorted(supply.nodes))]
    for part in supply.parts:
        lines += _element(part, conditions.get(part.id))
    return (
        "\n".join([*lines, ".options gmin=1e-12 itl1=3000 itl2=3000 gminsteps=100 reltol=1e-4", ".end"])
        + "\n"
    )


def _element(part: BoardPart, condition: Condition | None) -> list[str]:
    """A part as SPICE has it: resistors, and diodes of the same knee at a milliampere."""
    a, b, c = (f"nd_{node}" for node in (part.a, part.b, part.c))
    kind = condition.kind if condition else ""
    lines = []
    if part.kind is K.REGULATOR:
        lines += [f"RX{part.id} {a} {c} {part.ohms}", f"RY{part.id} {b} {c} {part.ohms}"]
    if kind == "open":
        return lines
    if kind == "short":
        return [*lines, f"R{part.id} {a} {b} {condition.ohms}"]
    if part.kind in {K.DIODE, K.ZENER, K.SWITCH, K.REGULATOR}:
        ends = f"{a} {b}" if part.kind in {K.DIODE, K.ZENER} else f"{b} {a}"
        volts = SLOPE_OHMS * 1e-3  # n·kT/q at a milliampere
        saturation = 1e-3 * math.exp(-part.drop_volts / volts)
        model = f".model D{part.id} D(IS={saturation} N={volts / 0.025865})"
        return [*lines, f"D{part.id} {ends} D{part.id}", model]
    if part.kind in {K.SUPPRESSOR, K.FEEDBACK, K.FILM_CAPACITOR, K.ELECTROLYTIC}:
        return lines
    return [*lines, f"R{part.id} {a} {b} {part.ohms * (condition.factor if kind == 'scaled' else 1)}"]


CHAIN = """a whole supply, plugged in
VL nd_{line} 0 SIN(0 {crest} {hertz})
VN nd_{neutral} wall 0
RN wall 0 {wall}
{elements}
.options method=gear itl4=200 reltol=1e-3
.model DX D(IS=2e-9 N=1.75 RS=0.02 CJO=20p)
.model DS D(IS=1e-6 N=1.05 RS=0.02)
.control
tran {step} {end} {start} {step} uic
{measures}
.endc
.end
"""
MEASURED = re.compile(r"^(m\d+)\s*=\s*(\S+)", re.MULTILINE)
ROUNDED = 1e-3
"""So round are the corners of what a regulator wants (V²): ngspice finds no way over hard ones."""


def chain(
    supply: BoardSupply,
    mains: float,
    conditions: dict[str, Condition],
    asked: Sequence[BenchProbe],
    *,
    relay: tuple[str, str] | None = None,
) -> list[float]:
    """A supply's whole chain in time, from the plug's pins to its last rail, under conditions: its rectifiers
    with real diodes, its switchers, step-downs and regulators on the mean (a loop that charges the rail,
    a limit, watts off the bus); what a meter shows at each of some probes once it has come to rest."""
    hertz = usual_hertz(mains)
    lines = [f"RI{number} nd_{node} 0 {ISOLATED_OHMS}" for number, node in enumerate(sorted(supply.nodes))]
    for part in supply.parts:
        lines += _moving(supply, part, conditions, math.sqrt(2) * mains)
    for each in supply.transformers:
        first, second = supply.part(each.primary), supply.part(each.secondary)
        a, b = _nodes(first.a, first.b)
        lines += [
            f"E{each.id} {each.id}e nd_{second.b} {a} {b} {each.ratio}",
            f"R{each.id} {each.id}e nd_{second.a} {second.ohms + each.ratio**2 * first.ohms}",
            f"R{each.id}m {a} {b} 20k",
        ]
    for each in supply.switchers:
        bus, out = (
            f"v(nd_{one},nd_{other})" for one, other in ((each.plus, each.minus), (each.output, each.ground))
        )
        runs = f"(1+tanh({bus}-{STOPS_SHARE * math.sqrt(2) * mains}))/2"
        watts = f"(%s*({out}+0.7)/{each.efficiency}+{each.standby_watts})"
        taken = f"{watts}*{bus}/({bus}*{bus}+{LEAST_BUS})"
        lines += _switching(each.id, (each.plus, each.minus), (each.output, each.ground), str(each.volts),
                            each.limit_amperes, taken, runs)  # fmt: skip
    for each in supply.bucks:
        fed, out = (f"v(nd_{one},nd_{each.ground})" for one in (each.plus, each.output))
        taken = f"(%s*{out}/{each.efficiency})*{fed}/({fed}*{fed}+{LEAST_BUS})"
        rail = (each.plus, each.ground)
        lines += _switching(each.id, rail, (each.output, each.ground), _least(f"{fed}", each.volts),
                            each.limit_amperes, taken)  # fmt: skip
    for each in supply.regulators:
        part = supply.part(each.part)
        wanted = _least(f"(v(nd_{part.a},nd_{part.c})-{each.dropout})", each.volts)
        lines += _switching(part.id, (part.a, part.c), (part.b, part.c), wanted, each.limit_amperes, "%s")
    if relay:
        lines.append(f"Rrelay nd_{relay[0]} nd_{relay[1]} 0.1")
    rest = AT_REST_DROPPED if supply.droppers else AT_REST
    end = rest + 4 / hertz
    measures = [
        f"let l{number} = v(nd_{probe.red})-v(nd_{probe.black})\n"
        f"meas tran m{2 * number} AVG l{number} from={rest} to={end}\n"
        f"let s{number} = l{number} - m{2 * number}\n"
        f"meas tran m{2 * number + 1} RMS s{number} from={rest} to={end}"
        for number, probe in enumerate(asked)
    ]
    for steps in STEPS_A_CYCLE:  # where one finds no way past a corner another does
        deck = CHAIN.format(
            line=supply.line, neutral=supply.neutral, crest=math.sqrt(2) * mains, hertz=hertz,
            wall=WALL_OHMS, elements="\n".join(lines), step=1 / hertz / steps, end=end, start=rest,
            measures="\n".join(measures),
        )  # fmt: skip
        run = subprocess.run(
            ["ngspice", "-b"], check=False, input=deck, capture_output=True, text=True, timeout=40
        )
        found = {name: float(value) for name, value in MEASURED.findall(run.stdout)}
        if len(found) == 2 * len(asked):
            break
    else:
        message = f"ngspice measured {len(found)} of {2 * len(asked)}: {run.stderr[-800:]}"
        raise AssertionError(message)
    shown = []
    for number, probe in enumerate(asked):
        mean, rms = found[f"m{2 * number}"], found[f"m{2 * number + 1}"]
        shown.append(mean if probe.range is BenchRange.VDC else rms)
    return shown


STEPS_A_CYCLE = (1000, 1300, 700)
AT_REST, AT_REST_DROPPED, ISOLATED_OHMS = 0.5, 3.0, "2g"
"""Seconds until a chain has come to rest, for what its capacitors begin with is near that; what a series
capacitor feeds takes its time."""


def _nodes(*names: str) -> tuple[str, ...]:
    return tuple(f"nd_{name}" for name in names)


def _least(one: str, volts: float) -> str:
    return f"({one}+{volts}-sqrt(({one}-{volts})*({one}-{volts})+{ROUNDED}))/2"


def _switching(
    name: str,
    fed: tuple[str, str],
    out: tuple[str, str],
    wanted: str,
    limit: float,
    taken: str,
    runs: str = "1",
) -> list[str]:
    """A switcher or a regulator on its mean: a loop that asks for the amperes its rail wants, within its
    limit, and takes its own off what feeds it (``taken``, of the amperes it gives)."""
    (plus, minus), (rail, ground) = _nodes(*fed), _nodes(*out)
    missing = f"(({wanted})-v({rail},{ground}))"
    gives = f"({runs}*{limit}/2*(1+tanh(2*v({name}x)-1)))"
    return [
        f"B{name}x 0 {name}x I={missing}*0.04",  # of its limit: as much as volts miss, and 40 a second more
        f"C{name}y {name}x 0 20u IC=0.2",
        f"R{name}x {name}x {name}i 25",
        f"C{name}x {name}i 0 1m IC=0.2",
        f"D{name}h {name}i {name}t DX",
        f"V{name}h {name}t 0 0.6",
        f"D{name}l {name}b {name}i DX",
        f"V{name}l {name}b 0 -1.2",
        f"B{name}o {ground} {rail} I={gives}",
        f"B{name}i {plus} {minus} I={taken % gives}",
    ]


LEAST_BUS = 4.0


def _moving(
    supply: BoardSupply, part: BoardPart, conditions: dict[str, Condition], crest: float
) -> list[str]:
    """A part as it works: real diodes, capacitors with their series ohms, everything else its ohms."""
    condition = conditions.get(part.id)
    kind, (a, b) = condition.kind if condition else "", _nodes(part.a, part.b)
    if kind == "open":
        return []
    if kind == "short":
        return [f"R{part.id} {a} {b} {condition.ohms}"]
    rectifying = {name for each in supply.rectifiers for name in each.diodes}
    windings = {each.secondary for each in supply.transformers}
    if part.kind is K.DIODE:
        return [f"D{part.id} {a} {b} DX"] if part.id in rectifying else []
    if part.kind is K.ZENER:
        return [f"D{part.id} {a} {b} DZ{part.id}",
                f".model DZ{part.id} D(IS=1e-12 BV={part.volts} IBV=1m RS=0.5)"]  # fmt: skip
    if part.kind in {K.ELECTROLYTIC, K.FILM_CAPACITOR}:
        worn = condition if kind == "worn" else None
        farads = part.farads * (worn.factor if worn else 1.0)
        ohms = (part.esr_ohms or 0.1) * (worn.esr if worn else 1.0)
        bulk = any(each.bulk == part.id and not each.winding for each in supply.rectifiers)
        dropped = any(each.capacitor == part.id for each in supply.droppers)
        cut = any(
            each.kind == "open" and supply.part(name).kind is not K.DIODE for name, each in conditions.items()
        )
        first = _begins(supply, part)
        if dropped or (bulk and cut):
            first = 0.0
        elif bulk and not supply.droppers:
            first = 0.95 * crest
        return [f"R{part.id} {a} {part.id}c {ohms}", f"C{part.id} {part.id}c {b} {farads} IC={first}"]
    if part.kind in {K.SWITCH, K.REGULATOR, K.SUPPRESSOR, K.FEEDBACK} or part.id in windings or not part.ohms:
        return []
    if part.kind is K.LOAD and part.amperes:
        return [f"R{part.id} {a} {b} {5.0 / part.amperes}"]
    return [f"R{part.id} {a} {b} {part.ohms * (condition.factor if kind == 'scaled' else 1)}"]


def _begins(supply: BoardSupply, part: BoardPart) -> float:
    """The volts a rail's capacitor begins with: near those it comes to."""
    for each in (*supply.switchers, *supply.bucks):
        if part.a == each.output:
            return each.volts
    for each in supply.regulators:
        if supply.part(each.part).b == part.a:
            return each.volts
    return 24.0 if supply.droppers else 20.0
