"""What is remembered of a unit: the other calls on it, by its serial number, or by its customer and model."""

import json
import uuid
from dataclasses import dataclass

from django.db.models import Q

from frostcore.errors import SheetError
from frostcore.report.earlier import Earlier, earlier_of, fitted_before
from frostcore.sheet.plan import write_plan
from frostcore.tape.entries import PartFitted
from frostcore.tape.standing import Standing
from frostcore.verdict import Question
from frostline.calls.models import Call, CallIndex
from frostline.calls.tapes import standing_of

MOST = 6


@dataclass(frozen=True)
class Remembered:
    """An earlier call on the unit; ``written`` is the plan it left, as a document, where this call's wiring
    is still as built."""

    call: Call
    earlier: Earlier
    written: str
    slip_id: uuid.UUID


def remembered(call: Call, standing: Standing) -> tuple[Remembered, ...]:
    """The earlier calls on this unit, the latest first; a practice call remembers nothing."""
    if call.practice:
        return ()
    same = Q(call__customer=call.customer, unit=standing.unit[:170])
    if standing.plate and standing.plate.serial.strip():
        same |= Q(serial=standing.plate.serial)
    rows = CallIndex.objects.filter(same, call__practice=False, number__lt=call.number)
    found: list[Remembered] = []
    for row in rows.select_related("call__revision__sheet", "call__customer").order_by("-number")[:MOST]:
        try:
            earlier = earlier_of(standing_of(row.call))
        except SheetError:
            continue
        left = earlier.plan if earlier.plan and standing.now.plan is None and not standing.outcome else None
        written = json.dumps(write_plan(left), ensure_ascii=False) if left and not found else ""
        found.append(Remembered(row.call, earlier, written, uuid.uuid4()))
    return tuple(found)


def questions_of_memory(call: Call, standing: Standing, body: PartFitted) -> tuple[Question, ...]:
    """What is asked of a part that was fitted to this unit before."""
    for each in remembered(call, standing):
        asked = fitted_before(standing.sheet, body.component, each.earlier, each.call.number)
        if asked:
            return (asked,)
    return ()
