"""The ladder of a board: by itself, its readings in the address; and on a call, its readings on the tape."""

import contextlib
import uuid
from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme, urlencode
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from frostcore import cautions
from frostcore.bench.judge import BenchJudgement
from frostcore.bench.known_good import beside
from frostcore.bench.ladder import Ladder
from frostcore.bench.printed import PREFIX, is_printed, printable, value_of, with_printed
from frostcore.bench.printed import shown as printed_value
from frostcore.bench.supplies import supply_of
from frostcore.bench.telling import Telling
from frostcore.bench.typed import reading_from
from frostcore.bench.weigh import BenchReading
from frostcore.errors import FrostError
from frostcore.sheet.model import Sheet
from frostcore.sheet.supply import BoardSupply
from frostcore.tape.benched import BoardBack, BoardOut, BoardRead
from frostcore.tape.entries import Body, Mended
from frostcore.tape.on_bench import OnBench
from frostcore.tape.standing import Standing
from frostline.accounts.access import signed_in
from frostline.bench.actions import keep, key_of
from frostline.bench.forms import LONGEST, TYPED, KeepForm, MatForm, pairs_of, typed_on
from frostline.bench.models import KnownGood
from frostline.bench.tables import judgement_now, judgement_of
from frostline.calls import pages
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.models import Call
from frostline.calls.tapes import call_or_404, standing_of
from frostline.calls.unreadable import reads_sheet
from frostline.sheets.models import Revision

MOST_GOOD = 60


@require_safe
def start(request: HttpRequest) -> HttpResponse:
    """Which supply, on which mains."""
    sheet = _sheet(request.GET.get("sheet", ""))
    board = request.GET.get("board", "")
    form = MatForm(sheet=sheet, board=board, initial={"esr": True})
    return render(request, "bench/start.html", {"form": form, "content": sheet, "board": board})


@require_safe
def ladder(request: HttpRequest) -> HttpResponse:
    """A board's ladder; what was read stands in the address."""
    sheet, board = _sheet(request.GET.get("sheet", "")), request.GET.get("board", "")
    form = MatForm(request.GET, sheet=sheet, board=board)
    context: dict[str, Any] = {"form": form, "content": sheet, "board": board}
    if not form.is_valid():
        return render(request, "bench/start.html", context)
    data = form.cleaned_data
    try:
        supply = supply_of(sheet, board, data["kind"], data["mains"].number)
        pairs = _asked(request.GET)
        supply, printed, told = _printed(supply, pairs)
        of = judgement_now if "probe" in request.GET or typed_on(request.GET) else judgement_of
        begun = of(supply, data["mains"].number, esr=data["esr"])
    except FrostError as error:
        form.add_error("kind", str(error))
        return render(request, "bench/start.html", context)
    if begun is None:
        return render(request, "bench/working.html", context | {"supply": supply})
    at, problem = _taken(begun, pairs)
    problem, at = told or problem, [*printed, *at]
    readings = [reading_from(begun, probe, typed)[0] for probe, typed in at if not is_printed(probe)]
    context |= _shown(begun, readings, request.GET.get("see", ""), problem)
    context |= {
        "base": _base(request.GET, at),
        "mains": data["mains"],
        "pairs": [pair for pair in at if not is_printed(pair[0])],
        "kept": [
            *((name, request.GET.get(name, "")) for name in ("sheet", "board", "kind", "mains", "esr")),
            *(("at", f"{probe}={typed}") for probe, typed in at),
        ],
    }
    key = key_of(request.GET.get("sheet", ""), board, data["kind"], data["mains"].number)
    context |= _beside(begun, readings, key, request.GET.get("good", ""))
    return render(request, "bench/ladder.html", context)


def _beside(begun: BenchJudgement, readings: list[BenchReading], key: str, chosen: str) -> dict[str, Any]:
    """The good boards kept of such a supply, and the one chosen beside this board."""
    goods = list(KnownGood.objects.filter(supply=key)[:MOST_GOOD])
    good = next((each for each in goods if str(each.pk) == chosen), None)
    found = beside(begun, readings, good.kept) if good else ()
    return {"goods": goods, "good": good, "differences": found}


@require_POST
def keep_good(request: HttpRequest) -> HttpResponse:
    """Keep a good board's readings as the reference of its type."""
    back = request.POST.get("back", "")
    form = KeepForm(request.POST, sheet=_sheet(request.POST.get("sheet", "")))
    try:
        kept = keep(form, signed_in(request))
    except FrostError as error:
        messages.error(request, str(error))
    else:
        messages.success(request, f"Kept as a good {kept.name}: {len(kept.readings)} readings.")
    if url_has_allowed_host_and_scheme(back, allowed_hosts=None):
        return redirect(back)
    return redirect("bench:start")


def _sheet(slug: str) -> Sheet | None:
    if not slug:
        return None
    revision = Revision.objects.filter(newest_of__slug=slug).first()
    return revision.content if revision and not revision.unreadable else None


def _asked(query: QueryDict) -> list[tuple[str, str]]:
    """What stands in an address: what was read before, and what was just typed in its place at the end."""
    pairs = pairs_of(query.getlist("at"))
    new = [*typed_on(query), (query.get("probe", ""), query.get("value", "")[:LONGEST])]
    new = [(probe, typed) for probe, typed in new if probe]
    again = {probe for probe, _ in new}
    return [*((name, text) for name, text in pairs if name not in again), *new]


def _printed(
    supply: BoardSupply, pairs: list[tuple[str, str]]
) -> tuple[BoardSupply, list[tuple[str, str]], dict[str, str]]:
    """The supply with its parts as printed, what of the pairs that is, and what is wrong with one."""
    good, problem = list[tuple[str, str]](), dict[str, str]()
    for probe, typed in pairs:
        if is_printed(probe):
            try:
                value_of(supply, probe, typed)
            except FrostError as error:
                problem = {"probe": probe, "text": str(error), "typed": typed}
            else:
                good.append((probe, typed))
    return with_printed(supply, good), good, problem


def _taken(
    begun: BenchJudgement, pairs: list[tuple[str, str]]
) -> tuple[list[tuple[str, str]], dict[str, str]]:
    """The readings among some pairs, and what is wrong with one: that is left out."""
    at, problem = list[tuple[str, str]](), dict[str, str]()
    for name, text in pairs:
        if is_printed(name):
            continue
        try:
            reading_from(begun, name, text)
        except FrostError as error:
            problem = {"probe": name, "text": str(error), "typed": text}
        else:
            at.append((name, text))
    return at, problem


def _base(query: QueryDict, at: list[tuple[str, str]]) -> str:
    """The address without what was typed last, for links that look at another reading."""
    kept = query.copy()
    for name in ["probe", "value", "see", "at", *(each for each in query if each.startswith(TYPED))]:
        kept.pop(name, None)
    kept.setlist("at", [f"{probe}={typed}" for probe, typed in at])
    return kept.urlencode()


def _shown(
    begun: BenchJudgement, readings: list[BenchReading], see: str, problem: dict[str, str]
) -> dict[str, Any]:
    """What a ladder's page shows."""
    found = Ladder(BenchJudgement(begun.weigher, readings))
    probes = {each.probe.id: each for rung in found.rungs for each in rung.readings}
    if found.asked:
        probes[found.asked.probe.id] = found.asked
    wanted = next((each for each in probes.values() if each.wanted), None)
    chosen = probes.get(problem.get("probe", "")) or probes.get(see) or wanted
    telling = Telling(found)
    shelf = [(name, urlencode(wanted)) for name, wanted in telling.replaced]
    of_print = is_printed(problem.get("probe", ""))
    return {
        "ladder": found,
        "telling": telling,
        "chosen": chosen,
        "readings": readings,
        "shelf": shelf,
        "problem": {} if of_print else problem,
        "printed": [(PREFIX + part.id, part.title, printed_value(part)) for part in printable(found.supply)],
        "print_problem": problem if of_print else {},
    }


# On a call.


@require_http_methods(["GET", "HEAD", "POST"])
@reads_sheet
def on_call(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A call's board on the mat: taken out, read, mended, put back."""
    call = call_or_404(pk)
    standing = standing_of(call)
    problem = dict[str, str]()
    form = _out_form(request, standing)
    if request.POST.get("act") == "many":
        problem = _read_many(request, call, standing)
        if not problem:
            return redirect("bench:call", call.pk)
        standing = standing_of(call)
    elif request.method == "POST":
        done = _ACTS.get(request.POST.get("act", ""))
        try:
            body = done(request, standing) if done else None
            if body is not None:
                slip = uuid.UUID(request.POST.get("slip_id", ""))
                record_slip(call, NewSlip(slip, body), signed_in(request))
                return redirect("bench:call", call.pk)
        except FrostError as error:
            problem = {
                "probe": request.POST.get("probe", ""),
                "typed": request.POST.get("value", "")[:LONGEST],
                "text": str(error),
            }
            if not problem["probe"] or standing.on_bench is None:
                messages.error(request, str(error))
        except ValueError:
            problem = {"probe": "", "typed": "", "text": "That form was not whole. Once more, please."}
    context = pages.frame(call, standing, None) | {"page_name": "Board on the mat", "form": form}
    boards = [(each.component, standing.sheet.part_name(each.component)) for each in standing.sheet.boards]
    context |= {"slip_id": uuid.uuid4(), "mat_board": form.component, "boards": boards}
    context["mat_caution"] = cautions.EMPTY
    benched = standing.on_bench
    if benched:
        try:
            context |= _benched(request, call, standing, benched, problem)
        except FrostError as error:
            context |= {"benched": benched, "unworkable": str(error)}
    return render(request, "bench/call.html", context, status=422 if problem or form.errors else 200)


def _out_form(request: HttpRequest, standing: Standing) -> MatForm:
    boards = [each.component for each in standing.sheet.boards]
    asked = request.POST.get("board") or request.GET.get("board", "")
    board = asked if asked in boards else boards[0] if boards else ""
    posted = request.POST if request.POST.get("act") == "out" else None
    return MatForm(posted, sheet=standing.sheet, board=board, initial={"esr": True})


def _benched(
    request: HttpRequest, call: Call, standing: Standing, benched: OnBench, problem: dict[str, str]
) -> dict[str, Any]:
    supply, begun = _begun(standing, benched)
    found: dict[str, Any] = {"benched": benched, "supply": supply}
    if begun is None:
        return found | {"working": True}
    readings = _understood(begun, benched)
    found |= _shown(begun, readings, request.GET.get("see", ""), problem)
    named = found["ladder"].judgement.named
    found["mended"] = found["telling"].told[0] if named else ""
    found["base"] = f"board={benched.out.board}"
    out = benched.out
    slug = call.revision.sheet.slug
    found["pairs"] = [(each.probe, each.value) for each in benched.readings if not is_printed(each.probe)]
    found["kept"] = [
        ("sheet", slug),
        ("board", out.board),
        ("kind", out.supply),
        ("mains", out.mains.canonical),
    ]
    if out.esr:
        found["kept"].append(("esr", "on"))
    key = key_of(slug, out.board, out.supply, out.mains.number)
    found |= _beside(begun, readings, key, request.GET.get("good", ""))
    return found


def _supply(standing: Standing, benched: OnBench) -> BoardSupply:
    """The supply of the board that is out, its parts as printed on it."""
    out = benched.out
    supply = supply_of(standing.sheet, out.board, out.supply or None, out.mains.number)
    return _printed(supply, [(each.probe, each.value) for each in benched.readings])[0]


def _begun(standing: Standing, benched: OnBench) -> tuple[BoardSupply, BenchJudgement | None]:
    out, supply = benched.out, _supply(standing, benched)
    return supply, judgement_of(supply, out.mains.number, esr=out.esr)


def _take_out(request: HttpRequest, standing: Standing) -> Body | None:
    form = _out_form(request, standing)
    if not form.is_valid():
        return None
    data = form.cleaned_data
    supply_of(standing.sheet, form.component, data["kind"] or None, data["mains"].number)
    return BoardOut("board_out", form.component, data["mains"], data["kind"], data["esr"])


def _read(request: HttpRequest, standing: Standing) -> Body:
    return _reading(standing, request.POST.get("probe", ""), request.POST.get("value", "")[:LONGEST])


def _reading(standing: Standing, probe: str, typed: str) -> Body:
    """One reading of the board that is out, as its slip."""
    benched = standing.on_bench
    if benched is None:
        raise FrostError("No board is on the mat: take one out first.")
    if is_printed(probe):
        part, value = value_of(_supply(standing, benched), probe, typed)
        said = printed_value(replace(part, farads=value, ohms=value))
        return BoardRead("board_read", probe, f"printed on {part.title}", typed.strip(), said)
    begun, _ = _read_on(standing, benched)
    reading, shown = reading_from(begun, probe, typed)
    asked = begun.table.probes[begun.table.row[probe]]
    verdict = Ladder(begun).verdict(asked, reading) if not reading.answer else None
    return BoardRead("board_read", probe, asked.name, typed.strip(), shown, str(verdict or ""))


def _read_many(request: HttpRequest, call: Call, standing: Standing) -> dict[str, str]:
    """All that was typed on the rungs, each a slip of its own; one that is wrong keeps no other away."""
    problem = dict[str, str]()
    try:
        first = uuid.UUID(request.POST.get("slip_id", ""))
    except ValueError:
        return {"probe": "", "typed": "", "text": "That form was not whole. Once more, please."}
    for probe, typed in typed_on(request.POST):
        try:
            body = _reading(standing, probe, typed)
            record_slip(call, NewSlip(uuid.uuid5(first, probe), body), signed_in(request))
        except FrostError as error:
            problem = {"probe": probe, "typed": typed, "text": str(error)}
    if problem and standing.on_bench is None:
        messages.error(request, problem["text"])
    return problem


def _mend(request: HttpRequest, standing: Standing) -> Body:
    benched, done = standing.on_bench, request.POST.get("done", "").strip()[:500]
    if benched is None:
        raise FrostError("No board is on the mat.")
    if not done:
        raise FrostError("Say what was done to the board, such as: U1, F1 and R3 changed.")
    name = standing.sheet.part_name(benched.out.board)
    return Mended("mended", benched.out.board, name, done, how="board_mended")


def _put_back(request: HttpRequest, standing: Standing) -> Body:
    if standing.on_bench is None:
        raise FrostError("No board is on the mat.")
    benched = standing.on_bench
    try:
        begun, readings = _read_on(standing, benched)
    except FrostError:  # a sheet whose supply can't be worked out
        return BoardBack("board_back", benched.out.board)
    return BoardBack(
        "board_back", benched.out.board, Telling(Ladder(BenchJudgement(begun.weigher, readings))).found
    )


def _read_on(standing: Standing, benched: OnBench) -> tuple[BenchJudgement, list[BenchReading]]:
    """The judgement of the board that is out, nothing read, and its readings."""
    out = benched.out
    begun = judgement_now(_supply(standing, benched), out.mains.number, esr=out.esr)
    return begun, _understood(begun, benched)


def _understood(begun: BenchJudgement, benched: OnBench) -> list[BenchReading]:
    """The readings of a tape that this supply has; others stand there and tell nothing of it."""
    readings = []
    for each in benched.readings:
        with contextlib.suppress(FrostError):  # what is printed is none of them either
            readings.append(reading_from(begun, each.probe, each.value)[0])
    return readings


_ACTS = {"out": _take_out, "read": _read, "mend": _mend, "back": _put_back}
