"""Many calls with a real mix of entries, to see how the product holds when a workshop has worked for years.

Some dozens of tapes are made entry by entry as people make them, through the core's own door; then they are
copied, each with ids, times and a customer of its own. The rows and the index are what the actions write.
"""

import json
import uuid
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any

from django.db import connection, transaction
from django.db.models import Max
from django.utils import timezone

from frostcore.circuit.meter import MeterRange
from frostcore.errors import TapeError
from frostcore.faults.table import usual_pairs
from frostcore.quantity import Dimension, Quantity
from frostcore.sheet import model as core
from frostcore.sheet.load import read
from frostcore.tape import entries
from frostcore.tape.entries import Body, CallTaken, Entry, PlateRead
from frostcore.tape.looks import LOOKS
from frostcore.tape.standing import Standing, stand, thermometer_places
from frostcore.tape.take import Answers, Offered, Taken, take
from frostcore.tape.versions import version_of
from frostline.accounts.models import User
from frostline.calls.actions.keep_index import COLUMNS, shown_of, words_of_call
from frostline.calls.models import Call, CallIndex, Customer, Slip
from frostline.sheets.actions.publish_revision import keep_revision
from frostline.sheets.models import Revision

TAPES_A_SHEET, BATCH = 6, 250
START = datetime(2020, 1, 1, 8, tzinfo=timezone.get_default_timezone())
KEEP_ALL = Answers(
    kept=(
        "ohms_live:power",
        "ohms_power_unknown:power",
        "volts_unplugged:power",
        "unit_slip:value",
        "unit_slip:temperature",
        "pulled:pulled",
    ),
    code="-",
)
SURNAMES = (
    *("Fennel", "Brekk", "Tolve", "Sandquoy", "Holm", "Ness", "Quoy", "Rusk"),
    *("Wick", "Vaila", "Unst", "Yell", "Stroma", "Graem", "Skea"),
)
STREETS = (
    "Quay Steps",
    "Harbour Road",
    "Netmakers’ Row",
    "Slipway",
    "Skerry Lane",
    "Noss Lane",
    "Station Pier",
)
COMPLAINTS = (
    "It is warm and the light flickers",
    "Freezer drawers stick in ice",
    "It never stops running",
    "The display is dead since the storm",
    "Water under the salad drawer",
    "It clicks and does not start",
)


@dataclass(frozen=True)
class Pattern:
    """A tape to copy: its revision, its entries and where it leaves the call."""

    revision: Revision
    tape: tuple[Entry, ...]
    standing: Standing


def make_sheets(folder: Path, count: int, by: User) -> list[Revision]:
    """``count`` sheets: those of the folder, and copies of them under other models."""
    documents = [json.loads(path.read_text(encoding="utf-8")) for path in sorted(folder.glob("*.json"))]
    made = []
    for number in range(count):
        data = json.loads(json.dumps(documents[number % len(documents)]))
        if number >= len(documents):
            data["id"] = f"{data['id']}-{number}"
            data["plate"]["model"] = f"{data['plate']['model']}{number}"
            data["plate"]["models"] = []
        text = json.dumps(data, ensure_ascii=False)
        made.append(keep_revision(text, read(text), by, START).revision)
    return made


def _quantity(dimension: Dimension, value: float) -> Quantity:
    return Quantity(dimension, value, typed=f"{value:g}")


def _bodies(sheet: core.Sheet, random: Random) -> Iterator[Callable[[], Body]]:
    """Ways to make an entry that people make often on this sheet."""
    pairs, modes = usual_pairs(sheet), [mode.id for mode in sheet.modes]
    places = list(thermometer_places(sheet))
    ohms = (4.7, 52.0, 240.0, 2700.0, 15300.0)

    def looked() -> Body:
        chosen = random.choice(LOOKS)
        return entries.Observed("observed", chosen.id, random.choice(chosen.answers).id)

    def measured() -> Body:
        red, black = random.choice(pairs)
        meter = random.choice(list(MeterRange))
        value = random.choice(ohms if meter is MeterRange.OHM else (0.1, 11.9, 104.0, 229.0))
        shown = _quantity(meter.dimension, value)
        return entries.ReadingTaken("reading", meter.value, shown, red, black, mode=random.choice(modes))

    def sensed() -> Body:
        sensor = random.choice(sheet.sensors)
        celsius = random.choice((-18.0, 0.0, 4.0, 21.0))
        nominal = float(sheet.curve(sensor).ohms(celsius)) * random.uniform(0.9, 1.1)
        return entries.ReadingTaken(
            "reading",
            "ohm",
            _quantity(Dimension.RESISTANCE, round(nominal)),
            sensor=sensor.id,
            temperature=_quantity(Dimension.TEMPERATURE, celsius),
        )

    yield looked
    yield measured
    yield lambda: entries.PowerSet("power_set", random.choice(["live", "unplugged"]))
    yield lambda: entries.TemperatureTaken(
        "temperature_taken",
        random.choice(places),
        _quantity(Dimension.TEMPERATURE, random.randint(-20, 12)),
    )
    yield lambda: entries.Noted("noted", f"{random.choice(COMPLAINTS)}, said twice")
    yield lambda: entries.ModeSet("mode_set", random.choice(modes))
    yield lambda: entries.PlugMoved("plug_moved", random.choice(sheet.connectors).id, "pulled")
    if sheet.sensors:
        yield sensed
    if sheet.codes:
        yield lambda: entries.CodeSeen("code_seen", (code := random.choice(sheet.codes)).id, code.id)


def make_pattern(revision: Revision, length: int, random: Random, *, closed: bool) -> Pattern:
    """A tape of about ``length`` entries that the core took one after the other."""
    sheet = revision.content
    plate = sheet.plate
    tape = [
        Entry("0", START, "", CallTaken("call_taken", random.choice(COMPLAINTS), age_years=7)),
        Entry(
            "1",
            START + timedelta(minutes=2),
            "",
            PlateRead("plate_read", plate.model, "S-0", plate.mains_volts, plate.mains_hertz),
        ),
    ]
    makers = list(_bodies(sheet, random))
    while len(tape) < length:
        body = random.choice(makers)()
        offered = Offered(str(len(tape)), START + timedelta(minutes=len(tape) + 2), "", body)
        answers = Answers(KEEP_ALL.kept, code="") if isinstance(body, entries.CodeSeen) else KEEP_ALL
        try:
            found = take(stand(sheet, tape), offered, answers)
        except TapeError:
            continue
        if isinstance(found, Taken):
            tape += [
                Entry(f"{offered.id}.{number}", offered.at, "", taken)
                for number, taken in enumerate(found.bodies)
            ]
    if closed:
        ended = entries.Outcome("outcome", entries.Result.REPAIRED, "Fan freed and joint remade.")
        tape.append(Entry("end", START + timedelta(minutes=len(tape) + 9), "", ended))
    return Pattern(revision, tuple(tape), stand(sheet, tape))


@transaction.atomic
def copy_calls(patterns: list[Pattern], first: int, count: int, by: User, random: Random) -> None:
    """``count`` calls, numbered from ``first``, each a copy of one of the patterns."""
    customers: list[Customer] = []
    calls: list[Call] = []
    slips: list[Slip] = []
    index: list[CallIndex] = []
    words: list[tuple[int | str, ...]] = []
    key = Customer.objects.aggregate(last=Max("pk"))["last"] or 0
    for number in range(first, first + count):
        pattern, key = patterns[number % len(patterns)], key + 1
        name = f"{random.choice(SURNAMES)} {random.choice(SURNAMES)}"
        address = f"{random.randint(1, 99)} {random.choice(STREETS)}"
        customers.append(Customer(pk=key, name=name, address=address, phone=f"{number:06d}"))
        opened = START + timedelta(minutes=60 * number)
        call = Call(number=number, revision=pattern.revision, customer_id=key, opened_at=opened, opened_by=by)
        calls.append(call)
        slips += _copied(pattern, call, by, opened)
        serial = f"S-{number:06d}"
        shown = shown_of(call, pattern.standing) | {"serial": serial}
        last = opened + (pattern.tape[-1].at - START)
        index.append(
            CallIndex(call_id=call.pk, number=number, slips=len(pattern.tape), last_at=last, **shown)
        )
        told = words_of_call(name, address, pattern.standing) | {"serial": serial}
        words.append((number, *(told.get(column, "") for column in COLUMNS)))
    Customer.objects.bulk_create(customers, batch_size=500)
    Call.objects.bulk_create(calls, batch_size=500)
    Slip.objects.bulk_create(slips, batch_size=500)
    CallIndex.objects.bulk_create(index, batch_size=500)
    marks = ", ".join(["%s"] * (len(COLUMNS) + 1))
    with connection.cursor() as cursor:
        cursor.executemany(
            f"INSERT INTO calls_words (rowid, {', '.join(COLUMNS)}) VALUES ({marks})",  # noqa: S608
            words,
        )


def _copied(pattern: Pattern, call: Call, by: User, opened: datetime) -> Iterator[Slip]:
    for position, entry in enumerate(pattern.tape, 1):
        at = opened + (entry.at - START)
        yield Slip(
            id=uuid.uuid4(),
            call=call,
            position=position,
            kind=entry.body.kind,
            version=version_of(entry.body.kind),
            body=_document(entry),
            at=at,
            recorded_at=at,
            by=by,
        )


def _document(entry: Entry) -> dict[str, Any]:
    return entries.body_to_document(entry.body)  # type: ignore[arg-type]


def load_many(count: int, folder: Path, by: User, say: Callable[[str], None]) -> None:
    """``count`` calls over 200 sheets, of some 20 entries each, and one each of 20, 200 and 2,000."""
    random = Random(7)  # noqa: S311
    say("200 sheets …")
    revisions = make_sheets(folder, 200, by)
    say("tapes to copy …")
    patterns = [
        make_pattern(revision, random.randint(8, 32), random, closed=random.random() < 0.8)
        for revision in revisions[: len(list(folder.glob("*.json"))) * 4]
        for _ in range(TAPES_A_SHEET)
    ]
    number = (Call.objects.aggregate(last=Max("number"))["last"] or 100) + 1
    for length in (20, 200, 2000):
        long = make_pattern(revisions[length % 5], length, random, closed=False)
        copy_calls([long], number, 1, by, random)
        number += 1
    random.shuffle(patterns)
    spread = [
        Pattern(revisions[place % len(revisions)], item.tape, item.standing)
        if revisions[place % len(revisions)].content.plate.appliance == item.revision.content.plate.appliance
        else item
        for place, item in enumerate(patterns * 4)
    ]
    for done in range(0, count, BATCH):
        copy_calls(spread, number + done, min(BATCH, count - done), by, random)
        if done and done % (40 * BATCH) == 0:
            say(f"{done:,} calls …")
