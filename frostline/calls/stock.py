"""The workshop's shelf: its table in and out, and what of it does for a unit's parts."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_safe

from frostcore.errors import SheetError
from frostcore.parts.drawer import read_drawer, write_drawer
from frostcore.parts.substitute import NAMES
from frostcore.remedy.stock import COLUMNS, StockItem, read_stock, write_stock
from frostline.accounts.access import lead_required, signed_in
from frostline.calls.models import DrawerList, StockList
from frostline.ui.forms import FrostForm
from frostline.ui.kept import Kept

LONGEST = 1_000_000
SHOWN = 200
_read: Kept[tuple[Any, ...]] = Kept(4)


class StockForm(FrostForm):
    """The shelf's table: a file, or pasted."""

    file = forms.FileField(label="Table as CSV", required=False)
    text = forms.CharField(
        label="or pasted",
        required=False,
        max_length=LONGEST,
        widget=forms.Textarea(attrs={"rows": 6, "spellcheck": "false"}),
    )

    def table(self) -> str:
        """The table's text; SheetError for a file that is no text."""
        upload = self.cleaned_data.get("file")
        if upload is None:
            return str(self.cleaned_data["text"])
        if upload.size > LONGEST:
            raise SheetError([f"{upload.name}: more than {LONGEST:,} bytes; that is no shelf"])
        try:
            return str(upload.read().decode("utf-8-sig"))
        except UnicodeDecodeError:
            raise SheetError([f"{upload.name}: it is not UTF-8 text; save it as CSV UTF-8"]) from None


@dataclass(frozen=True)
class Shelf:
    """A table of the workshop's: where it is kept, how it is read and written, its columns, what it is
    called."""

    name: str
    title: str
    told: str
    model: type[StockList] | type[DrawerList]
    read: Callable[[str], tuple[Any, ...]]
    write: Callable[[tuple[Any, ...]], str]
    columns: tuple[str, ...]
    address: str
    shown: tuple[tuple[str, str], ...]
    """What is shown of each line: its head, and which of its fields."""

    def rows(self, items: tuple[Any, ...]) -> list[list[Any]]:
        """Lines as they are shown."""
        cells = [[getattr(item, name) for _, name in self.shown] for item in items]
        return [["" if cell is None else cell for cell in row] for row in cells]

    def now(self) -> tuple[Any, ...]:
        """What is on it now."""
        last = self.model.objects.order_by("-pk").only("pk").first()
        if last is None:
            return ()
        found = _read.get((self.name, last.pk))
        if found is None:
            try:
                found = self.read(self.model.objects.get(pk=last.pk).text)
            except SheetError:  # kept by another version
                found = ()
            _read.keep((self.name, last.pk), found)
        return found


PARTS = Shelf(
    "stock",
    "What is on our shelf",
    "The first four are needed. A part counts as on the shelf by its number, or where what matters of its"
    " kind agrees.",
    StockList,
    read_stock,
    write_stock,
    COLUMNS,
    "calls:stock",
    (("Number", "number"), ("Name", "name"), ("Pieces", "count"), ("Price", "price"), ("Where", "shelf")),
)
SMALL = Shelf(
    "small",
    "Small parts for boards",
    "The first two are needed; what is not known stays empty and is asked. Figures with their unit: 470u,"
    " 25V.",
    DrawerList,
    read_drawer,
    write_drawer,
    NAMES,
    "calls:small",
    (("Number", "id"), ("Kind", "kind"), ("Pieces", "count"), ("Price", "price"), ("Family", "family")),
)
SHELVES = {shelf.name: shelf for shelf in (PARTS, SMALL)}


def stock_now() -> tuple[StockItem, ...]:
    """The parts of units on the shelf now."""
    return PARTS.now()


@lead_required
@require_http_methods(["GET", "HEAD", "POST"])
def stock(request: HttpRequest, name: str = "stock") -> HttpResponse:
    """The shelf: shown, and said anew as a whole."""
    shelf, form = SHELVES[name], StockForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        try:
            items = shelf.read(form.table())
        except SheetError as error:
            for problem in error.problems[:SHOWN]:
                form.add_error(None, str(problem))
        else:
            shelf.model(text=shelf.write(items), at=timezone.now(), by=signed_in(request)).save()
            messages.success(request, f"{len(items)} lines are on the shelf.")
            return redirect(request.path)
    items = shelf.now()
    context = {
        "form": form,
        "shelf": shelf,
        "others": [each for each in SHELVES.values() if each is not shelf],
        "rows": shelf.rows(items[:SHOWN]),
        "more": max(0, len(items) - SHOWN),
        "last": shelf.model.objects.select_related("by").defer("text").order_by("-pk").first(),
    }
    return render(request, "calls/stock.html", context, status=422 if form.errors else 200)


@lead_required
@require_safe
def stock_csv(request: HttpRequest, name: str = "stock") -> HttpResponse:
    """The shelf as CSV."""
    shelf = SHELVES[name]
    response = HttpResponse(shelf.write(shelf.now()), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}.csv"'
    return response
