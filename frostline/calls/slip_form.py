"""The base of the forms on a tape."""

import dataclasses
import uuid
from typing import Any, ClassVar, cast, get_args

from django import forms

from frostcore.sheet.model import Sheet
from frostcore.tape.entries import Body
from frostcore.tape.take import Answers
from frostline.ui.forms import FrostForm


class SlipForm(FrostForm):
    """Base of the forms on a tape: carries the id its slip will have, and when it was made.

    ``body`` is the entry's class; its fields are filled by name from the form's.
    """

    body: ClassVar[type]
    kind: ClassVar[str]
    slip_id = forms.UUIDField(widget=forms.HiddenInput, initial=uuid.uuid4)
    made_at = forms.DateTimeField(required=False, widget=forms.HiddenInput)
    set_power = forms.ChoiceField(
        required=False,
        choices=[("", "as it stands"), ("unplugged", "UNPLUGGED"), ("live", "LIVE")],
        widget=forms.HiddenInput,
    )

    def __init_subclass__(cls, **options: Any) -> None:
        super().__init_subclass__(**options)
        if "body" in cls.__dict__:
            (cls.kind,) = get_args(cls.body.__annotations__["kind"])

    def __init__(self, *arguments: Any, sheet: Sheet | None, **options: Any) -> None:
        # Only a new call has none yet, and no field of its form asks for it.
        self.sheet = cast(Sheet, sheet)
        super().__init__(*arguments, **options)
        for name, field in self.fields.items():
            # Several forms share a page: their fields' ids must differ.
            field.widget.attrs.setdefault("id", f"{self.kind}-{name}")

    def values(self) -> dict[str, Any]:
        """What the body's fields are filled with, by name; lists as the tuples bodies hold."""
        names = {field.name for field in dataclasses.fields(self.body)}
        return {
            name: tuple(value) if isinstance(value, list) else value
            for name, value in self.cleaned_data.items()
            if name in names
        }

    def to_body(self) -> Body:
        """The entry's body; call only on a valid form."""
        body: Body = self.body(kind=self.kind, **self.values())
        return body

    def answers(self) -> Answers:
        """What was answered to questions about this entry, this time or before."""
        kept, power = answered(self.data), self.cleaned_data.get("set_power") or ""
        return Answers(kept, power, self.cleaned_data.get("code") or "")

    @classmethod
    def initial_of(cls, body: Any) -> dict[str, Any]:
        """Initial values that show ``body`` again, for a correction."""
        return {name: getattr(body, name) for name in cls.base_fields if hasattr(body, name)}


def answered(data: Any) -> tuple[str, ...]:
    """Questions answered «as typed», this time or before."""
    lists = hasattr(data, "getlist")
    values = [*data.getlist("kept"), *data.getlist("keep")] if lists else [data.get("kept", "")]
    return tuple(dict.fromkeys(part for value in values for part in value.split() if part))
