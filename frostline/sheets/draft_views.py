"""Pages of drafts: parse, call an action or the core, render."""

import json
import uuid
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from frostcore.errors import FrostError, SheetError
from frostcore.paper.draft import SECTIONS, section
from frostcore.paper.edits import Edit, read_edit
from frostcore.paper.merge import merged
from frostcore.paper.outfit import parts_to_leave
from frostcore.paper.paste import recognise
from frostcore.paper.rows import Section
from frostline.accounts.access import lead_required, signed_in
from frostline.sheets.actions.begin_draft import begin_draft
from frostline.sheets.actions.change_outfit import add_part, leave_out
from frostline.sheets.actions.edit_draft import DraftClosedError, built, edit_draft
from frostline.sheets.actions.publish_draft import propose_draft, publish_draft
from frostline.sheets.forms import BeginForm, NewPartForm, PasteForm
from frostline.sheets.models import Draft, Revision
from frostline.sheets.workbench import (
    READ_FROM,
    chips,
    grid_of,
    pages_of,
    pasted_context,
    problems_of_section,
    side_of,
    taken_of_section,
)

MOST_EDITS = 400
LARGEST_EDIT = 600_000


@require_http_methods(["GET", "HEAD", "POST"])
def drafts(request: HttpRequest) -> HttpResponse:
    """Drafts on their way, and a new one."""
    form = BeginForm(request.POST or None, request.FILES or None)
    problems: tuple[object, ...] = ()
    if request.method == "POST" and form.is_valid():
        try:
            text, revision = form.begins_with()
            pages = form.cleaned_data.get("pages", ())
            return redirect(begin_draft(text, signed_in(request), revision, pages=pages))
        except SheetError as error:
            problems = error.problems
    shown = Draft.objects.exclude(state="dropped").select_related("changed_by", "published__sheet")
    context = {
        "form": form,
        "problems": problems,
        "drafts": shown[:200],
    }
    return render(request, "sheets/drafts.html", context, status=422 if form.errors or problems else 200)


@require_POST
def copy(request: HttpRequest, slug: str, number: int) -> HttpResponse:
    """A draft that begins with a revision."""
    revision = get_object_or_404(Revision, sheet__slug=slug, number=number)
    return redirect(begin_draft(revision.document, signed_in(request), revision))


@require_safe
def draft(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A draft: one section as a grid, with what works already beside it."""
    one, here = get_object_or_404(Draft, pk=pk), section_or_404(request.GET.get("section", "plate"))
    found = built(one)
    context = {
        "draft": one,
        "grid": grid_of(one, here, found),
        "chips": chips(one, found, here.id),
        "paste": PasteForm() if not here.fixed or here.id == "parts" else None,
        "after": _after(here),
        "pages": pages_of(one),
        "readable": here.id in READ_FROM,
    }
    if here.id == "parts" and one.at_work:
        base = json.loads(one.base)
        context |= {"new_part": NewPartForm(base), "leavable": parts_to_leave(base)}
    return render(request, "sheets/draft.html", context)


@require_POST
def outfit(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Add a part the kind has not, or take one out that this unit has not."""
    one = get_object_or_404(Draft, pk=pk)
    form = NewPartForm(json.loads(one.base), request.POST)
    leave = request.POST.get("leave", "")
    try:
        if leave:
            leave_out(one.pk, leave, signed_in(request))
            messages.success(request, "It is out, and what hung on it alone.")
        elif form.is_valid():
            add_part(one.pk, form.part(), signed_in(request))
            messages.success(request, f"{form.cleaned_data['name']} is in: its row stands last.")
        else:
            for errors in form.errors.values():
                messages.error(request, str(errors[0]))
    except (FrostError, DraftClosedError) as error:
        messages.error(request, str(error))
    return redirect(f"{one.get_absolute_url()}?section=parts")


def _after(here: Section) -> Section | None:
    """The section that comes next on a paper."""
    at = SECTIONS.index(here)
    return SECTIONS[at + 1] if at + 1 < len(SECTIONS) else None


@require_safe
def side(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """What works already, what is missing, and the drawing (a fragment)."""
    one = get_object_or_404(Draft, pk=pk)
    return render(request, "sheets/draft_side.html", {"draft": one, "side": side_of(one)})


@require_safe
def rows(request: HttpRequest, pk: uuid.UUID) -> JsonResponse:
    """A section's rows as they stand now, where the draft has changed since ``seen``."""
    one, here = get_object_or_404(Draft, pk=pk), section_or_404(request.GET.get("section", "plate"))
    if request.GET.get("seen") == str(one.version):
        return JsonResponse({"version": one.version})
    return JsonResponse(_answer(one, here.id) | {"rows": one.tables.get(here.id, [])})


@require_POST
def edit(request: HttpRequest, pk: uuid.UUID) -> JsonResponse:
    """Make edits, each once; cells that somebody changed meanwhile come back as conflicts."""
    try:
        asked = _edits(request)
        here = section_or_404(str(request.GET.get("section", "plate")))
        done = edit_draft(pk, asked, signed_in(request))
    except DraftClosedError as error:
        return JsonResponse({"problem": str(error)}, status=409)
    except Draft.DoesNotExist:
        raise Http404 from None
    except ValueError as error:
        return JsonResponse({"problem": str(error)}, status=422)
    conflicts = [
        {"row": item.row, "column": item.column, "theirs": item.theirs, "mine": item.mine}
        for item in done.conflicts
    ]
    return JsonResponse(_answer(done.draft, here.id) | {"conflicts": conflicts})


def _answer(one: Draft, here: str) -> dict[str, Any]:
    found = built(one)
    return {
        "version": one.version,
        "problems": problems_of_section(found, one, here),
        "taken": taken_of_section(found, one, here),
        "title": one.title,
    }


def _edits(request: HttpRequest) -> list[tuple[uuid.UUID, Edit]]:
    if len(request.body) > LARGEST_EDIT:
        message = "more than a table holds was sent at once"
        raise ValueError(message)
    try:
        data = json.loads(request.body)
        asked = data["edits"]
        found = [(uuid.UUID(str(item["id"])), read_edit(item)) for item in asked[:MOST_EDITS]]
    except (KeyError, TypeError, AttributeError, json.JSONDecodeError, RecursionError):
        message = "edits are an object with a list “edits”, each with an id"
        raise ValueError(message) from None
    return found


@require_POST
def paste(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """What a pasted table is understood as (a fragment); with ``take``, its rows are put in."""
    one, here = get_object_or_404(Draft, pk=pk), section_or_404(request.POST.get("section", "plate"))
    form = PasteForm(request.POST, request.FILES or None)
    if not form.is_valid():
        return render(
            request, "sheets/pasted.html", {"draft": one, "form": form, "section": here}, status=422
        )
    answers = {name[4:]: str(value) for name, value in request.POST.items() if name.startswith("ask-")}
    text = form.cleaned_data["text"]
    found = recognise(here.id, text, answers)
    together, lost = merged(here.id, built(one).document, one.tables.get(here.id, []), found.rows)
    if request.POST.get("take") and found.rows and not found.questions:
        edits = [(uuid.uuid4(), Edit("rows", here.id, rows=tuple(together)))]
        edit_draft(one.pk, edits, signed_in(request))
        messages.success(request, f"{len(found.rows)} rows are in. Look them over: marked cells want an eye.")
        return redirect(f"{one.get_absolute_url()}?section={here.id}")
    context = pasted_context(one, here, text, found, lost) | {"form": form, "answers": answers}
    return render(request, "sheets/pasted.html", context)


@require_POST
def propose(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Put a draft before a lead."""
    get_object_or_404(Draft, pk=pk)
    try:
        one = propose_draft(pk, request.POST.get("note", ""), signed_in(request))
    except DraftClosedError as error:
        messages.error(request, str(error))
        return redirect("sheets:drafts")
    messages.success(request, f"{one} is proposed. A lead compares it and takes it over.")
    return redirect(one)


@lead_required
@require_POST
def publish(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Publish a draft, or say what still has to be mended."""
    one = get_object_or_404(Draft, pk=pk)
    try:
        published = publish_draft(pk, request.POST.get("note", ""), signed_in(request))
    except SheetError as error:
        for problem in error.problems[:8]:
            messages.error(request, str(problem))
        return redirect(one)
    except DraftClosedError as error:
        messages.error(request, str(error))
        return redirect(one)
    messages.success(request, f"{published.revision} is published.")
    return redirect(published.revision.sheet)


@require_safe
def document(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The sheet's document as far as the draft goes."""
    one = get_object_or_404(Draft, pk=pk)
    text = json.dumps(built(one).document, ensure_ascii=False, indent=2) + "\n"
    response = HttpResponse(text, content_type="application/json; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="draft.json"'
    return response


def section_or_404(name: str) -> Section:
    """A table of a draft by its name."""
    try:
        return section(name)
    except KeyError:
        raise Http404 from None
