"""The workshop's shelf: its table in and out, and what of it does for a unit's parts."""

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_safe

from frostcore.errors import SheetError
from frostcore.remedy.stock import COLUMNS, StockItem, read_stock, write_stock
from frostline.accounts.access import lead_required, signed_in
from frostline.calls.models import StockList
from frostline.ui.forms import FrostForm
from frostline.ui.kept import Kept

LONGEST = 1_000_000
SHOWN = 200
_read: Kept[tuple[StockItem, ...]] = Kept(4)


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


def stock_now() -> tuple[StockItem, ...]:
    """What is on the shelf now."""
    last = StockList.objects.order_by("-pk").only("pk").first()
    if last is None:
        return ()
    found = _read.get(last.pk)
    if found is None:
        try:
            found = read_stock(StockList.objects.get(pk=last.pk).text)
        except SheetError:  # kept by another version
            found = ()
        _read.keep(last.pk, found)
    return found


@lead_required
@require_http_methods(["GET", "HEAD", "POST"])
def stock(request: HttpRequest) -> HttpResponse:
    """The shelf: shown, and said anew as a whole."""
    form = StockForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        try:
            items = read_stock(form.table())
        except SheetError as error:
            for problem in error.problems[:SHOWN]:
                form.add_error(None, str(problem))
        else:
            StockList(text=write_stock(items), at=timezone.now(), by=signed_in(request)).save()
            messages.success(request, f"{len(items)} lines are on the shelf.")
            return redirect("calls:stock")
    items = stock_now()
    context = {
        "form": form,
        "items": items[:SHOWN],
        "more": max(0, len(items) - SHOWN),
        "columns": COLUMNS,
        "last": StockList.objects.select_related("by").defer("text").order_by("-pk").first(),
    }
    return render(request, "calls/stock.html", context, status=422 if form.errors else 200)


@lead_required
@require_safe
def stock_csv(request: HttpRequest) -> HttpResponse:
    """The shelf as CSV."""
    response = HttpResponse(write_stock(stock_now()), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="stock.csv"'
    return response
