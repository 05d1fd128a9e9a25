"""Forms about sheets."""

from django import forms

from frostline.ui.forms import FrostForm

LARGEST_BYTES = 2_000_000


class UploadForm(FrostForm):
    """A sheet document, as a file or pasted."""

    file = forms.FileField(label="Sheet file (.json)", required=False)
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
            if upload.size > LARGEST_BYTES:
                self.add_error(
                    "file",
                    f"The file has {upload.size / 1e6:.1f} MB; a sheet has at most {LARGEST_BYTES / 1e6:.0f}"
                    " MB. Choose the sheet's JSON document.",
                )
                return cleaned
            try:
                cleaned["document"] = upload.read().decode("utf-8")
            except UnicodeDecodeError:
                self.add_error(
                    "file",
                    f"“{upload.name}” is not UTF-8 text. Save the sheet as UTF-8 JSON and choose it again.",
                )
                return cleaned
        if not cleaned.get("document", "").strip() and not self.errors:
            self.add_error(
                "document", "Nothing to check yet. Choose a file, or paste the sheet's JSON text here."
            )
        return cleaned
