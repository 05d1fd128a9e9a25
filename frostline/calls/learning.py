"""What a page asks of the unit itself: forms for pins, values, parts, codes and curves not known yet."""

from dataclasses import dataclass

from frostcore.sheet.model import Component, Sheet
from frostcore.sheet.origin import Source
from frostcore.sheet.points import printed_pin
from frostcore.tape.standing import Standing
from frostline.calls.learn_forms import (
    CodeLearnedForm,
    CurveLearnedForm,
    PartForm,
    PinsForm,
    StatedLearnedForm,
    ValueForm,
)
from frostline.calls.slip_form import SlipForm


@dataclass(frozen=True)
class LearnAtLeads:
    """What can be read on the unit where the leads are: the pins, the part, what its paper states.

    ``pins`` is None where neither lead is on a pin; ``unread`` says that what is printed there is not known.
    """

    pins: SlipForm | None
    unread: bool
    part: Component
    value: SlipForm
    order: SlipForm
    stated: SlipForm
    usual: str
    """What is usual for it, in words; empty where its own values are known."""


def at_leads(
    standing: Standing, component: str, where: dict[str, str], posted: SlipForm | None
) -> LearnAtLeads | None:
    """What can be read on the unit at the leads of a trace; None where its sheet came with all of it."""
    sheet = standing.sheet
    if sheet.source is not Source.ARCHETYPE or standing.outcome:
        return None
    red, black = where["red"], where["black"]
    pins = {"red": red if sheet.pin(red) else "", "black": black if sheet.pin(black) else ""}
    initial = {f"{lead}_{name}": value for lead in pins for name, value in _marked(sheet, pins[lead]).items()}
    part = sheet.component(component)

    def form(kind: type[SlipForm], **shown: object) -> SlipForm:
        return posted if posted is not None and posted.kind == kind.kind else kind(initial=shown, sheet=sheet)

    usual = ", ".join(text for text in (_ohms(part), _watts(part)) if text) if sheet.usual(part.id) else ""
    return LearnAtLeads(
        form(PinsForm, **initial) if any(pins.values()) else None,
        any(point and not printed_pin(sheet, point) for point in pins.values()),
        part,
        form(ValueForm, component=component),
        form(PartForm, component=component, part_number=part.part_number, price=part.price),
        form(StatedLearnedForm, **where),
        usual,
    )


def _marked(sheet: Sheet, point: str) -> dict[str, str]:
    if not point:
        return {"point": ""}
    pin = sheet.pin(point)
    return {
        "point": point,
        "printed": printed_pin(sheet, point),
        "colour": pin[1].colour if pin else "",
    }


def _ohms(part: Component) -> str:
    return "" if part.nominal.ohms is None else f"{part.nominal.ohms:g} Ω"


def _watts(part: Component) -> str:
    return "" if part.nominal.watts is None else f"{part.nominal.watts:g} W"


def code_to_learn(standing: Standing, posted: SlipForm | None) -> SlipForm | None:
    """The form for a code the sheet has not: where one was seen that it has not, or where it has none."""
    if standing.outcome:
        return None
    if posted is not None and posted.kind == CodeLearnedForm.kind:
        return posted
    unknown = next((seen.shown for seen in reversed(standing.codes) if not standing.code_of(seen)), "")
    if not unknown and standing.sheet.codes:
        return None
    return CodeLearnedForm(initial={"shown": unknown}, sheet=standing.sheet)


def curve_to_learn(standing: Standing, sensor: str, posted: SlipForm | None) -> SlipForm | None:
    """The form for a sensor's curve, where the sheet has only that of its kind."""
    sheet = standing.sheet
    if standing.outcome or sheet.source_of(f"curves.{sheet.sensor(sensor).curve}") is not Source.ARCHETYPE:
        return None
    if posted is not None and posted.kind == CurveLearnedForm.kind:
        return posted
    return CurveLearnedForm(initial={"sensor": sensor, "beta_kelvin": 3800}, sheet=sheet)
