"""Square codes that a telephone's camera reads, as SVG."""

import segno
from django.utils.safestring import SafeString, mark_safe


def code_of(address: str) -> SafeString:
    """An address as a square code, an inline SVG without size of its own."""
    made = segno.make(address, error="m", micro=False)
    text: str = made.svg_inline(scale=1, border=2, omitsize=True, svgclass="code", lineclass=None)
    return mark_safe(text)  # noqa: S308 - made by the library from modules, no text of anyone's in it
