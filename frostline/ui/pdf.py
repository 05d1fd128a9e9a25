"""PDF from HTML: tagged, with the app's own fonts, fetching nothing from anywhere but what it is handed."""

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from frostcore.errors import FrostError

FONTS = Path(__file__).parent / "static/ui/fonts"
MISSING = (
    "A PDF can’t be made on this machine: Pango is not installed (Debian: libpango-1.0-0, libpangoft2-1.0-0)."
    " Print the page instead."
)


def pdf_of(html: str, files: Mapping[str, bytes]) -> bytes:
    """A PDF of an HTML document; ``files`` are its pictures by their addresses.

    FrostError where what lays out text is not installed.
    """
    try:
        from weasyprint import HTML  # noqa: PLC0415 - half a second, and it needs what Debian may not have
        from weasyprint.urls import URLFetcher, URLFetcherResponse  # noqa: PLC0415
    except OSError:
        raise FrostError(MISSING) from None

    class Handed(URLFetcher):
        """Gives what was handed over, and the app's fonts; nothing else is fetched."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            if url in files:
                return URLFetcherResponse(url, files[url], {"Content-Type": "image/jpeg"})
            name = url.removeprefix("font:")
            if url != name and (FONTS / name).parent == FONTS and (FONTS / name).is_file():
                return URLFetcherResponse(url, (FONTS / name).read_bytes(), {"Content-Type": "font/woff2"})
            message = f"nothing is fetched for {url[:80]}"
            raise ValueError(message)

    made: bytes = HTML(string=html, url_fetcher=Handed(), base_url=None).write_pdf(pdf_tags=True)
    return made
