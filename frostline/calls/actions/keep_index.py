"""Keep the index beside a tape: what lists show of a call, and the words it is found by."""

from django.db import connection
from django.db.models import Count, Max

from frostcore.report.due import due_of
from frostcore.sheet.model import squeezed
from frostcore.tape.entries import Checked, Noted, Observed, PartFitted, Result
from frostcore.tape.standing import Standing
from frostline.calls.judging import leading, step_of
from frostline.calls.models import Call, CallCause, CallDue, CallIndex, Slip

UNREADABLE_ACT = "Its sheet can’t be read by this version"
COLUMNS = ("customer", "address", "model", "serial", "codes", "complaint", "notes", "parts", "squeezed")


def keep_index(call: Call, standing: Standing | None) -> CallIndex:
    """Write the index row and the searchable words of a call as its tape leaves it.

    Without a standing (its sheet can't be read) the row says so.
    """
    slips = Slip.objects.filter(call=call).aggregate(count=Count("pk"), latest=Max("at"))
    row = CallIndex(
        call=call,
        number=call.number,
        slips=slips["count"],
        last_at=slips["latest"] or call.opened_at,
        **shown_of(call, standing),
    )
    row.save()
    keep_dues(call, standing)
    keep_cause(call, standing)
    keep_words(call, standing)
    return row


def keep_cause(call: Call, standing: Standing | None) -> None:
    """Write what a closed call names as the cause; none for practice, or where nothing was put right."""
    CallCause.objects.filter(call=call).delete()
    outcome = standing.outcome if standing else None
    if standing is None or outcome is None or call.practice or outcome.result not in PUT_RIGHT:
        return
    sheet, kinds = standing.now.unchanged, {part.id: part.kind for part in standing.now.unchanged.components}
    if outcome.cause in kinds:
        CallCause(
            call=call,
            archetype=sheet.archetype[:80],
            kind=kinds[outcome.cause],
            serial=standing.plate.serial[:60] if standing.plate else "",
            closed_at=standing.tape[-1].at,
        ).save()


PUT_RIGHT = {Result.REPAIRED, Result.WORKED_AROUND}


def keep_dues(call: Call, standing: Standing | None) -> None:
    """Write what is due on a call."""
    CallDue.objects.filter(call=call).delete()
    dues = due_of(standing) if standing else ()
    CallDue.objects.bulk_create(
        CallDue(call=call, kind=due.kind, day=due.day, text=_short(due.text, 160)) for due in dues
    )


def shown_of(call: Call, standing: Standing | None) -> dict[str, object]:
    """What the index row says of a call."""
    if standing is None:
        return {"is_open": True, "unit": str(call.revision.sheet), "stage": "call", "act": UNREADABLE_ACT}
    step, plate, taken, outcome = step_of(standing), standing.plate, standing.call, standing.outcome
    return {
        "is_open": outcome is None,
        "unit": standing.unit[:170],
        "model": plate.model if plate else "" if standing.sheet.generic else standing.sheet.plate.model[:60],
        "serial": plate.serial if plate else "",
        "complaint": _short(taken.complaint if taken else "", 120),
        "stage": step.stage,
        "act": _short(step.act, 120),
        "suspect": _short(leading(standing), 120),
        "result": outcome.result.label if outcome else "",
    }


def _short(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"


def keep_words(call: Call, standing: Standing | None) -> None:
    """Write the words a call is found by."""
    who = call.customer
    words = words_of_call(who.name, f"{who.address} {who.phone}", standing)
    marks = ", ".join(["%s"] * (len(COLUMNS) + 1))
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM calls_words WHERE rowid = %s", [call.number])
        cursor.execute(
            f"INSERT INTO calls_words (rowid, {', '.join(COLUMNS)}) VALUES ({marks})",  # noqa: S608
            [call.number, *(words.get(name, "") for name in COLUMNS)],
        )


def words_of_call(name: str, address: str, standing: Standing | None) -> dict[str, str]:
    """The words a call is found by, by column."""
    who = {"customer": name, "address": address}
    if standing is None:
        return who
    plate, taken, sheet = standing.plate, standing.call, standing.sheet
    models = [standing.unit, plate.model if plate else ""]
    notes = [body.text for body in standing.all_of(Noted)]
    notes += [body.note for body in standing.all_of(Observed) if body.note]
    notes += [f"{body.check} {body.detail}" for body in standing.all_of(Checked)]
    parts = [f"{sheet.part_name(body.component)} {body.note}" for body in standing.all_of(PartFitted)]
    if standing.outcome:
        notes.append(standing.outcome.done)
        parts.append(sheet.part_name(standing.outcome.cause) if standing.outcome.cause else "")
    serial = plate.serial if plate else ""
    return who | {
        "model": " ".join(models),
        "serial": serial,
        "codes": " ".join(f"{seen.shown} {seen.code}" for seen in standing.codes),
        "complaint": f"{taken.complaint} {taken.replaced_before}" if taken else "",
        "notes": " ".join(notes),
        "parts": " ".join(parts),
        "squeezed": " ".join(squeezed(text) for text in (*models, serial) if text),
    }
