"""Forms about sheets."""

from typing import Any

from django import forms
from django.core.files.uploadedfile import UploadedFile

from frostcore.errors import FrostError
from frostcore.paper.outfit import ADDABLE, NewPart
from frostline.sheets import spreadsheets
from frostline.sheets.models import Revision, current_revisions
from frostline.sheets.packages import Pictures, is_package, unpacked
from frostline.ui.forms import FrostForm

LARGEST_BYTES, LARGEST_PACKAGE = 2_000_000, 60_000_000
LARGEST_TABLE = 400_000


def sheet_file(upload: UploadedFile) -> tuple[str, Pictures]:
    """A sheet's document, and the pages that come with it; FrostError in words for what is none."""
    most = LARGEST_PACKAGE if (upload.name or "").lower().endswith(".zip") else LARGEST_BYTES
    if (upload.size or 0) > most:
        told = f"The file has {(upload.size or 0) / 1e6:.1f} MB; a sheet has at most {most / 1e6:.0f} MB."
        raise FrostError(told)
    data = upload.read()
    if is_package(data):
        return unpacked(data)
    try:
        return data.decode("utf-8-sig"), ()
    except UnicodeDecodeError:
        told = f"“{upload.name}” is not UTF-8 text. Save the sheet as UTF-8 JSON and choose it again."
        raise FrostError(told) from None


class UploadForm(FrostForm):
    """A sheet document, as a file or pasted; ``pages`` where its file has them."""

    file = forms.FileField(label="Sheet file (.json, or .zip with its pages)", required=False)
    document = forms.CharField(
        label="or its text",
        required=False,
        strip=False,
        widget=forms.Textarea(attrs={"rows": 10, "spellcheck": "false", "class": "field-code"}),
    )

    def clean(self) -> dict[str, object]:
        cleaned = super().clean()
        upload = cleaned.get("file")
        if upload:
            try:
                cleaned["document"], cleaned["pages"] = sheet_file(upload)
            except FrostError as error:
                self.add_error("file", str(error))
                return cleaned
        if not cleaned.get("document", "").strip() and not self.errors:
            self.add_error(
                "document", "Nothing to check yet. Choose a file, or paste the sheet's JSON text here."
            )
        return cleaned


class BeginForm(FrostForm):
    """What a draft begins from: a kind of unit, another sheet, or a file."""

    revision = forms.ChoiceField(label="Begin from", required=False)
    file = forms.FileField(label="or a sheet’s file (.json, .zip)", required=False)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        kinds, sheets = current_revisions(generic=True), current_revisions()
        self._known = {str(item.pk): item for item in (*kinds, *sheets)}
        self.fields["revision"].choices = [
            ("", "Choose"),
            ("A kind of unit", [(str(item.pk), str(item.sheet.model)) for item in kinds]),
            ("Another sheet", [(str(item.pk), str(item.sheet)) for item in sheets]),
        ]

    def clean(self) -> dict[str, object]:
        cleaned = super().clean()
        upload = cleaned.get("file")
        if upload:
            try:
                cleaned["document"], cleaned["pages"] = sheet_file(upload)
            except FrostError as error:
                self.add_error("file", str(error))
        elif not cleaned.get("revision") and not self.errors:
            self.add_error("revision", "Nothing chosen. Choose the kind that looks most like it, or a file.")
        return cleaned

    def begins_with(self) -> tuple[str, Revision | None]:
        """The document it begins with, and the revision that is of."""
        if "document" in self.cleaned_data:
            return str(self.cleaned_data["document"]), None
        revision = self._known[self.cleaned_data["revision"]]
        return Revision.objects.get(pk=revision.pk).document, revision


class NewPartForm(FrostForm):
    """A part that the kind has not."""

    name = forms.CharField(label="What it is called", max_length=60)
    what = forms.ChoiceField(label="It is", choices=[("", "Choose"), *((a.id, a.words) for a in ADDABLE)])
    place = forms.ChoiceField(label="Where")
    modes = forms.MultipleChoiceField(label="It runs in", required=False, widget=forms.CheckboxSelectMultiple)

    def __init__(self, document: dict[str, Any], *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        places = [(place["id"], place["name"]) for place in document.get("places", ())]
        self.fields["place"].choices = [("", "Choose"), *places]
        live = [mode for mode in document.get("modes", ()) if mode.get("live", True)]
        self.fields["modes"].choices = [(mode["id"], mode["name"]) for mode in live]

    def part(self) -> NewPart:
        """The part as it was told."""
        told = self.cleaned_data
        return NewPart(told["what"], told["name"], told["place"], tuple(told["modes"]))


class PasteForm(FrostForm):
    """A table, pasted or from a file."""

    text = forms.CharField(
        label="Paste the table here, head and all",
        required=False,
        strip=False,
        max_length=200_000,
        widget=forms.Textarea(attrs={"rows": 5, "spellcheck": "false", "class": "field-code"}),
    )
    file = forms.FileField(label="or a file (.xlsx, .csv, .txt)", required=False)

    def clean(self) -> dict[str, object]:
        cleaned = super().clean()
        upload = cleaned.get("file")
        if upload and upload.size > LARGEST_TABLE:
            self.add_error("file", "The file is larger than any table of a paper. Choose the table alone.")
        elif upload:
            try:
                cleaned["text"] = _table_text(upload.read())
            except FrostError as error:
                self.add_error("file", str(error))
        elif not cleaned.get("text", "").strip() and not self.errors:
            self.add_error("text", "Nothing pasted yet.")
        return cleaned


def _table_text(data: bytes) -> str:
    """A file's table as text; FrostError for a spreadsheet that can't be read."""
    if spreadsheets.is_spreadsheet(data):
        return spreadsheets.text_of(data)
    for coding in ("utf-8-sig", "utf-16" if data.startswith((b"\xff\xfe", b"\xfe\xff")) else "utf-8"):
        try:
            return data.decode(coding)
        except UnicodeDecodeError:
            continue
    return data.decode("cp1252", errors="replace")
