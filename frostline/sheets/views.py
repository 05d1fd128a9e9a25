"""The library of sheets."""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from frostcore import cautions
from frostcore.circuit.kept import circuits_of
from frostcore.curves.model import describe as describe_curve
from frostcore.curves.picture import draw
from frostcore.curves.table import write_csv
from frostcore.curves.verdict import Limits
from frostcore.diagnosis.mat import on_mat
from frostcore.display.condition import describe
from frostcore.display.decode import shown_text
from frostcore.errors import FrostError, SheetError
from frostcore.sheet import model as core
from frostcore.sheet.load import schema
from frostline.accounts.access import lead_required, signed_in
from frostline.sheets.actions.import_sheets import import_sheets
from frostline.sheets.actions.publish_revision import publish_revision
from frostline.sheets.actions.withdraw_revision import withdraw_revision
from frostline.sheets.forms import UploadForm
from frostline.sheets.many import documents
from frostline.sheets.models import Revision, current_revisions
from frostline.sheets.packages import packed
from frostline.sheets.workbench import compared


@require_safe
def shelf(request: HttpRequest) -> HttpResponse:
    """Every sheet, by maker and model."""
    return render(request, "sheets/library.html", {"revisions": current_revisions()})


@require_safe
def mat(request: HttpRequest, slug: str) -> HttpResponse:
    """A board of a unit on the mat, without display or cabinet."""
    revision = _revision(slug, None)
    content = revision.content
    if revision.unreadable or not content.boards:
        raise Http404
    boards = [(each.component, content.part_name(each.component)) for each in content.boards]
    chosen = request.GET.get("board") or boards[0][0]
    if chosen not in dict(boards):
        raise Http404
    found = on_mat(content, chosen)
    context = {
        "revision": revision,
        "content": content,
        "boards": boards,
        "chosen": chosen,
        "mat": found,
        "codes": [code for code in content.codes if code.id in found.idle_codes],
        "cautions": (cautions.BULK_CAPACITOR, cautions.ON_MAT),
    }
    return render(request, "sheets/mat.html", context)


@require_safe
def sheet(request: HttpRequest, slug: str, number: int | None = None) -> HttpResponse:
    """One sheet: rating plate, codes, sensors with their curves, components, places, revisions."""
    revision = _revision(slug, number)
    if revision.unreadable:
        return render(
            request,
            "sheets/unreadable.html",
            {"revision": revision, "problems": revision.unreadable.problems},
        )
    content = revision.content
    sensors = [
        {
            "sensor": sensor,
            "name": content.sensor_name(sensor),
            "curve": describe_curve(content.curve(sensor)),
            "picture": draw(content.curve(sensor), Limits(tolerance=sensor.working_tolerance)),
        }
        for sensor in content.sensors
    ]
    codes = [
        {
            "code": code,
            "shown": shown_text(code.shown),
            "condition": describe(content, code.condition),
            "causes": [(content.component(cause.component), cause.why) for cause in code.implicates],
        }
        for code in content.codes
    ]
    places = [
        {
            "place": place,
            "components": [component for component in content.components if component.place == place.id],
        }
        for place in content.places
    ]
    connectors = [
        (connector, content.wiring.pins_of.get(connector.id, ())) for connector in content.connectors
    ]
    return render(
        request,
        "sheets/sheet.html",
        {
            "revision": revision,
            "content": content,
            "sensors": sensors,
            "codes": codes,
            "places": places,
            "connectors": connectors,
            "doubts": circuits_of(content).doubts,
            "pages": revision.pages.select_related("picture"),
            "revisions": revision.sheet.revisions.select_related("created_by", "withdrawal"),
        },
    )


@require_safe
def document(request: HttpRequest, slug: str, number: int) -> HttpResponse:
    """A revision's document, just as it was published."""
    revision = _revision(slug, number)
    response = HttpResponse(revision.document, content_type="application/json; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{revision.sheet.slug}-r{revision.number}.json"'
    return response


@require_safe
def package(request: HttpRequest, slug: str, number: int) -> HttpResponse:
    """A revision with the pages of its paper, as one file."""
    revision = _revision(slug, number)
    response = HttpResponse(packed(revision), content_type="application/zip")
    response["Content-Disposition"] = f'attachment; filename="{revision.sheet.slug}-r{revision.number}.zip"'
    return response


@require_safe
def curve_csv(request: HttpRequest, slug: str, number: int, curve: str) -> HttpResponse:
    """A curve as CSV: a table's own rows, or a formula's values every 5 degrees."""
    revision = _revision(slug, number)
    if revision.unreadable:
        raise Http404
    found = revision.content.curves.get(curve)
    if found is None:
        raise Http404
    if isinstance(found, core.TableDocument):
        rows = found.rows
    else:
        model = found.curve()
        rows = tuple(
            (float(celsius), float(f"{model.ohms(celsius):.5g}"))
            for celsius in range(round(model.domain[0]), round(model.domain[1]) + 1, 5)
        )
    response = HttpResponse(write_csv(rows), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{revision.sheet.slug}-{curve}.csv"'
    return response


@require_safe
def schema_document(request: HttpRequest) -> HttpResponse:
    """The published JSON Schema of sheets."""
    return JsonResponse(schema(), json_dumps_params={"indent": 2}, content_type="application/schema+json")


@lead_required
@require_http_methods(["GET", "HEAD", "POST"])
def upload(request: HttpRequest) -> HttpResponse:
    """Publish a sheet, or say every place where it is wrong."""
    form = UploadForm(request.POST or None, request.FILES or None)
    problems: tuple[object, ...] = ()
    if request.method == "POST" and form.is_valid():
        try:
            given, pages = form.cleaned_data["document"], form.cleaned_data.get("pages", ())
            published = publish_revision(given, signed_in(request), pages=pages)
        except SheetError as error:
            problems = error.problems
            shown = request.POST.copy()
            shown["document"] = form.cleaned_data["document"]
            form.data = shown
        else:
            said = (
                "is published" if published.created else "is already the newest revision; nothing was changed"
            )
            messages.success(request, f"{published.revision} {said}.")
            return redirect(published.revision.sheet)
    return render(
        request,
        "sheets/upload.html",
        {"form": form, "problems": problems},
        status=422 if form.errors or problems else 200,
    )


@lead_required
@require_POST
def upload_many(request: HttpRequest) -> HttpResponse:
    """Publish several sheets at once, with what became of each."""
    context: dict[str, object] = {"form": UploadForm(), "problems": ()}
    try:
        files = documents(request.FILES.getlist("files"))
    except FrostError as error:
        return render(request, "sheets/upload.html", context | {"refused": str(error)}, status=422)
    return render(
        request, "sheets/upload.html", context | {"report": import_sheets(files, signed_in(request))}
    )


def _revision(slug: str, number: int | None) -> Revision:
    known = Revision.objects.select_related("sheet", "withdrawal")
    if number is None:
        found = known.filter(newest_of__slug=slug).first()
        return found or _last(slug)
    return get_object_or_404(known, sheet__slug=slug, number=number)


def _last(slug: str) -> Revision:
    """The last revision of a sheet, where all of them were withdrawn."""
    found = Revision.objects.select_related("sheet").filter(sheet__slug=slug).order_by("-number").first()
    if found is None:
        raise Http404
    return found


@require_safe
def compare(request: HttpRequest, slug: str) -> HttpResponse:
    """Two revisions of a sheet compared, in words and on the drawing."""
    old, new = (_revision(slug, _number(request.GET.get(name, ""))) for name in ("from", "to"))
    if old.unreadable or new.unreadable:
        raise Http404
    return render(
        request, "sheets/compare.html", {"old": old, "new": new} | compared(old.content, new.content)
    )


def _number(text: str) -> int | None:
    return int(text) if text.isdigit() and len(text) < 7 else None


@lead_required
@require_POST
def withdraw(request: HttpRequest, slug: str, number: int) -> HttpResponse:
    """Take a revision away from new calls."""
    revision = _revision(slug, number)
    why = request.POST.get("why", "").strip()
    if not why:
        messages.error(request, "Say why it is withdrawn: those who worked with it will ask.")
    elif withdraw_revision(revision, why, signed_in(request)):
        messages.success(request, f"{revision} is withdrawn: no new call takes it.")
    return redirect("sheets:revision", slug, number)
