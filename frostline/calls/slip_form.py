"""The base of the forms on a tape."""

import uuid
from typing import Any, ClassVar

from django import forms

from frostcore.sheet.model import Sheet
from frostcore.tape import entries
from frostline.ui.forms import FrostForm


class SlipForm(FrostForm):
    """Base of the forms on a tape: carries the id its slip will have."""

    kind: ClassVar[str]
    slip_id = forms.UUIDField(widget=forms.HiddenInput, initial=uuid.uuid4)

    def __init__(self, *arguments: Any, sheet: Sheet, **options: Any) -> None:
        self.sheet = sheet
        super().__init__(*arguments, **options)
        for name, field in self.fields.items():
            # Several forms share a page: their fields' ids must differ.
            field.widget.attrs.setdefault("id", f"{self.kind}-{name}")

    def to_body(self) -> entries.Body:
        """The entry's body; call only on a valid form."""
        raise TypeError(f"{self.kind} slips are not written by hand")

    @classmethod
    def initial_of(cls, body: Any) -> dict[str, Any]:
        """Initial values that show ``body`` again, for a correction."""
        return {name: getattr(body, name) for name in cls.base_fields if hasattr(body, name)}


def answered(data: Any) -> tuple[str, ...]:
    """Questions answered «as typed», this time or before."""
    values = (
        [*data.getlist("kept"), *data.getlist("keep")] if hasattr(data, "getlist") else [data.get("kept", "")]
    )
    return tuple(dict.fromkeys(part for value in values for part in value.split() if part))
