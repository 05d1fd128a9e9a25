"""Pages of a PDF as pictures, drawn in a process of its own: what a file from anywhere does to it, it does
to no one else.

Run as a program it reads a PDF from its input and writes a zip of pictures; :func:`pages` calls it.
"""

import io
import resource
import subprocess
import sys
import zipfile

HEAD = b"%PDF-"
MOST_PAGES, POINTS, MOST_SECONDS = 12, 1900, 60
MOST_MEMORY = 2_000_000_000


class PdfError(ValueError):
    """A PDF whose pages can't be drawn."""


def pages(data: bytes) -> list[bytes]:
    """Its first pages as PNG files. Raises PdfError."""
    try:
        done = subprocess.run(
            [sys.executable, "-I", __file__],
            input=data,
            capture_output=True,
            timeout=MOST_SECONDS,
            check=True,
        )
        with zipfile.ZipFile(io.BytesIO(done.stdout)) as packed:
            return [packed.read(name) for name in sorted(packed.namelist())]
    except (subprocess.SubprocessError, zipfile.BadZipFile):
        message = "The PDF can’t be read. Photograph its pages, or save them as pictures."
        raise PdfError(message) from None


def main() -> None:
    """Draw the pages of the PDF on standard input."""
    import pypdfium2  # noqa: PLC0415 - only where there is a PDF

    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    document = pypdfium2.PdfDocument(sys.stdin.buffer.read())
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        for number in range(min(len(document), MOST_PAGES)):
            page = document[number]
            scale = min(6.0, POINTS / max(page.get_width(), 1.0))
            scale = min(scale, 2 * POINTS / max(page.get_height(), 1.0))
            drawn = io.BytesIO()
            page.render(scale=scale).to_pil().save(drawn, "PNG")
            packed.writestr(f"{number:02d}.png", drawn.getvalue())
    sys.stdout.buffer.write(out.getvalue())


if __name__ == "__main__":
    main()
