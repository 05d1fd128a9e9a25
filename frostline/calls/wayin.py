"""What the way in and the way out show.

No rules of the job here.
"""

import uuid
from typing import Any

from django.http import QueryDict

from frostcore import cautions
from frostcore.remedy.wayin import closing, left_over, ways
from frostcore.sheet.model import ComponentKind
from frostcore.tape.standing import Standing
from frostline.calls import forms


def way_context(standing: Standing, query: QueryDict, posted: forms.SlipForm | None) -> dict[str, Any]:
    """Ways in with their steps ticked off, and the way out: the same in reverse."""
    sheet, bodies = standing.sheet, standing.bodies
    found = ways(sheet, bodies)
    chosen = next((way for way in found if way.place.id == query.get("place")), None) or next(
        (way for way in found if any(step.done for step in way.steps) and not way.open), None
    )
    chosen = chosen or (found[0] if found else None)
    return {
        "ways": found,
        "chosen_way": chosen,
        "steps": [{"item": step, "slip_id": uuid.uuid4()} for step in chosen.steps] if chosen else [],
        "inside_parts": [
            component for component in sheet.components if chosen and component.place == chosen.place.id
        ],
        **closing_context(standing),
        "way_cautions": cautions.for_way_in(
            valves=any(component.kind is ComponentKind.VALVE for component in sheet.components)
        ),
        "papers": sheet.papers,
    }


def closing_context(standing: Standing) -> dict[str, Any]:
    """The way out, and what does not add up."""
    lines = closing(standing.sheet, standing.bodies)
    return {
        "closing": [{"line": line, "slip_id": uuid.uuid4()} for line in lines],
        "left_over": left_over(standing.sheet, standing.bodies),
    }
