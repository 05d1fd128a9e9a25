"""Files of a call: pictures, decks, the tape, what was kept with it."""

import uuid
from typing import Any

from django.http import FileResponse, Http404, HttpRequest, HttpResponse, JsonResponse
from django.template.loader import render_to_string
from django.views.decorators.http import require_safe

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.tape.entries import Attached, Entry, Unreadable, body_to_document
from frostcore.tape.versions import version_of
from frostline.calls import tracing
from frostline.calls.models import Call
from frostline.calls.sensing import sensor_picture
from frostline.calls.tapes import call_or_404, sensor_or_404, standing_of, tape_of
from frostline.calls.unreadable import reads_sheet
from frostline.ui.stored import path_of

HOLDS = (
    "The technical record: readings, observations, what was done, who recorded it. Name, address and"
    " telephone of the customer stand apart and are not in this file; the complaint and notes are as they"
    " were written and may name people."
)


@require_safe
@reads_sheet
def curve_svg(request: HttpRequest, pk: uuid.UUID, sensor: str) -> HttpResponse:
    """A sensor's curve with this call's readings, as an SVG file."""
    call = call_or_404(pk)
    standing = standing_of(call)
    chosen = sensor_or_404(standing.sheet, sensor)
    context = {
        "picture": sensor_picture(standing, chosen),
        "name": standing.sheet.sensor_name(chosen),
    }
    return as_file(_drawn("calls/curve.svg", context), call, f"{sensor}.svg")


@require_safe
@reads_sheet
def trace_svg(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A function's path with its expected readings, or the whole unit, as an SVG file."""
    call = call_or_404(pk)
    context = tracing.trace_context(standing_of(call), request.GET, None)
    trace: tracing.TracePage | None = context["trace"]
    if trace is None:
        raise Http404
    return as_file(_drawn("calls/trace.svg", context), call, f"{trace.choice.function.id}.svg")


@require_safe
@reads_sheet
def trace_deck(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The circuit as the trace shows it, as a SPICE deck."""
    call = call_or_404(pk)
    standing = standing_of(call)
    if not circuits_of(standing.sheet).functions:
        raise Http404
    try:
        name, deck = tracing.deck_of(standing, request.GET)
    except CircuitError:
        raise Http404 from None
    response = HttpResponse(deck, content_type="text/plain; charset=utf-8")
    return as_file(response, call, f"{name}.cir")


@require_safe
def tape_document(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The whole tape as a plain document: what was typed, when, by whom, nothing left out."""
    call = call_or_404(pk)
    tape = {
        "format": "frostline-tape-2",
        "holds": HOLDS,
        "call": call.number,
        "practice": call.practice,
        "sheet": call.revision.sheet.slug,
        "sheet_revision": call.revision.number,
        "sheet_digest": call.revision.digest,
        "entries": [_entry(entry) for entry in tape_of(call)],
    }
    response = JsonResponse(tape, json_dumps_params={"indent": 2, "ensure_ascii": False})
    return as_file(response, call, "tape.json")


def _entry(entry: Entry) -> dict[str, object]:
    body = entry.body
    if isinstance(body, Unreadable):
        told: dict[str, object] = {"version": body.version, "unreadable": body.text}
    else:
        told = {"version": version_of(body.kind), "body": body_to_document(body)}
    return {
        "id": entry.id,
        "at": entry.at.isoformat(),
        "recorded_at": (entry.recorded or entry.at).isoformat(),
        "by": entry.by,
        "supersedes": entry.supersedes or None,
        "kind": body.kind,
        **told,
    }


@require_safe
def attachment(request: HttpRequest, pk: uuid.UUID, digest: str) -> FileResponse:
    """A file kept with this call, to be saved, never to be run."""
    call = call_or_404(pk)
    bodies = (entry.body for entry in tape_of(call))
    kept = next((body for body in bodies if isinstance(body, Attached) and body.digest == digest), None)
    if kept is None or not path_of(digest).exists():
        raise Http404
    return FileResponse(
        path_of(digest).open("rb"),
        as_attachment=True,
        filename=kept.name,
        content_type="application/octet-stream",
    )


def _drawn(template: str, context: dict[str, Any]) -> HttpResponse:
    return HttpResponse(render_to_string(template, context).lstrip(), content_type="image/svg+xml")


def as_file(response: HttpResponse, call: Call, name: str) -> HttpResponse:
    """The response as a file of the call's."""
    response["Content-Disposition"] = f'attachment; filename="call-{call.number}-{name}"'
    return response
