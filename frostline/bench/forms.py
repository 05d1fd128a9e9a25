"""What is said of a board before it is read: its supply, the mains here, the meters."""

from typing import Any

from django import forms
from django.http import QueryDict

from frostcore.bench.supplies import kinds, usual
from frostcore.quantity import Dimension
from frostcore.sheet.model import Sheet
from frostline.ui.forms import FrostForm, QuantityField

LOWEST, HIGHEST = 80.0, 280.0
MOST_READINGS, LONGEST, LONGEST_NAME = 120, 60, 80


class MatForm(FrostForm):
    """How a board lies on the mat."""

    kind = forms.ChoiceField(label="Supply", required=False)
    mains = QuantityField(Dimension.VOLTAGE, label="Mains at the bench, as measured")
    esr = forms.BooleanField(label="There is an ESR meter", required=False)

    def __init__(self, *arguments: Any, sheet: Sheet | None = None, board: str = "", **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.sheet, self.component = sheet, board
        described = [each for each in sheet.supplies if each.board == board] if sheet else []
        choices = [(each, usual(each, 230.0).name) for each in kinds()]
        first = [("", f"{described[0].name}, as its sheet says")] if described else []
        self.fields["kind"].choices = [*first, *choices]
        self.fields["kind"].required = not described

    def clean_mains(self) -> Any:
        """Mains as there are."""
        mains = self.cleaned_data["mains"]
        if mains.value is None or not LOWEST <= mains.value <= HIGHEST:
            raise forms.ValidationError(
                f"{mains.text} is no mains. Measure it at the bench and type it, such as 229 V.", code="mains"
            )
        return mains


def pairs_of(texts: list[str]) -> list[tuple[str, str]]:
    """Readings as they stand in an address, probe=value."""
    found = [text.partition("=") for text in texts[:MOST_READINGS]]
    return [(probe, typed[:LONGEST]) for probe, _, typed in found]


TYPED = "v:"
"""Before a probe's name, its field on the rungs."""


def typed_on(query: QueryDict) -> list[tuple[str, str]]:
    """What was typed on the rungs, (probe, text) each."""
    fields = [(name.removeprefix(TYPED), str(query[name])) for name in query if name.startswith(TYPED)]
    return [(probe, typed[:LONGEST]) for probe, typed in fields if typed.strip()][:MOST_READINGS]


class KeepForm(MatForm):
    """A good board's readings, and what type it is."""

    board = forms.CharField(required=False, max_length=80)
    name = forms.CharField(
        label="Its type, as printed on it",
        max_length=LONGEST_NAME,
        error_messages={"required": "Say what type the board is: what is printed on it."},
    )

    def __init__(self, data: Any, *, sheet: Sheet | None = None) -> None:
        super().__init__(data, sheet=sheet, board=data.get("board", ""))

    @property
    def readings(self) -> list[tuple[str, str]]:
        """The readings sent with it."""
        return pairs_of(self.data.getlist("at"))

    @property
    def trouble(self) -> str:
        """What is wrong with it, in a line."""
        return " ".join(str(error) for errors in self.errors.values() for error in errors)
