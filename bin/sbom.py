"""What Frostline is made of and under which licences, read from the environment that serves it."""

import json
import re
import sys
from dataclasses import dataclass
from importlib import metadata
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PINNED = ROOT / "requirements/base.txt"


@dataclass(frozen=True)
class Part:
    """One package or script, its version, licence, where it is used."""

    name: str
    version: str
    licence: str
    used: str
    hashes: tuple[str, ...] = ()


def parts() -> list[Part]:
    """Every package of the server's environment, and the scripts and styles that pages are served with."""
    found = []
    pinned = re.findall(r"^([A-Za-z0-9_.-]+)==(\S+) \\((?:\n    --hash=\S+(?: \\)?)+)", _pins(), re.MULTILINE)
    for name, version, hashes in pinned:
        sums = tuple(re.findall(r"--hash=sha256:([0-9a-f]{64})", hashes))
        found.append(Part(name, version, licence_of(name), "server", sums))
    return [*found, *served()]


def _pins() -> str:
    return PINNED.read_text(encoding="utf-8")


def served() -> list[Part]:
    """What browsers get that was made elsewhere."""
    script = next(
        Path(str(metadata.distribution("django-htmx").locate_file("django_htmx"))).rglob("htmx-2.min.js")
    )
    htmx = re.search(r'version:"([0-9.]+)"', script.read_text(encoding="utf-8"))
    styles = (ROOT / "frostline/ui/static/ui/dist/frostline.css").read_text(encoding="utf-8")
    tailwind = re.search(r"tailwindcss v([0-9.]+)", styles)
    return [
        Part("htmx", htmx[1] if htmx else "?", "0BSD", "pages"),
        Part("tailwindcss", tailwind[1] if tailwind else "?", "MIT", "pages (its base styles)"),
        *(
            Part(path.stem, "as served", "OFL-1.1", "pages (font)")
            for path in sorted((ROOT / "frostline/ui/static/ui/fonts").glob("*.woff2"))
        ),
    ]


def licence_of(name: str) -> str:
    """A package's licence as it states it: the expression, else the classifiers', else the field's first
    line."""
    about = metadata.metadata(name)
    if expression := about.get("License-Expression"):
        return expression
    stated = [
        line.split(" :: ")[-1] for line in about.get_all("Classifier") or () if line.startswith("License ::")
    ]
    given = (about.get("License") or "").strip().splitlines()
    return ", ".join(dict.fromkeys(stated)) or (given[0] if given else "not stated")


def cyclonedx(found: list[Part]) -> dict[str, object]:
    """The bill of materials."""
    version = metadata_version()
    return {
        "bomFormat": "CycloneDX",
        "specVersion": "1.5",
        "version": 1,
        "metadata": {"component": {"type": "application", "name": "frostline", "version": version}},
        "components": [
            {
                "type": "library",
                "name": part.name,
                "version": part.version,
                "purl": f"pkg:{'pypi' if part.used == 'server' else 'npm'}/{part.name}@{part.version}",
                "licenses": [{"license": {"name": part.licence}}],
                **(
                    {"hashes": [{"alg": "SHA-256", "content": each} for each in part.hashes]}
                    if part.hashes
                    else {}
                ),
            }
            for part in found
        ],
    }


def metadata_version() -> str:
    """Frostline's own version."""
    told = re.search(r'__version__ = "([^"]+)"', (ROOT / "frostline/__init__.py").read_text(encoding="utf-8"))
    return told[1] if told else "?"


def page(found: list[Part]) -> str:
    """The page of licences."""
    lines = [f"| {part.name} | {part.version} | {part.licence} | {part.used} |" for part in found]
    return "\n".join(
        [
            "# Licences of what Frostline is served with",
            "",
            "Made by `bin/sbom --licences`. Frostline itself: MIT (LICENSE).",
            "",
            "| part | version | licence | where |",
            "|---|---|---|---|",
            *lines,
            "",
        ]
    )


def main() -> int:
    """Print the bill of materials, or the page."""
    found = parts()
    print(
        page(found) if "--licences" in sys.argv[1:] else json.dumps(cyclonedx(found), indent=2),
        end="\n" * ("--licences" not in sys.argv),
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
