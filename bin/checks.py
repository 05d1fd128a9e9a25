"""All checks and tests, one after the other; every one runs even when an earlier one fails."""

import os
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
BIN = Path(sys.executable).parent
STYLES = ("frostline/ui/css/frostline.css", "frostline/ui/static/ui/dist/frostline.css")


def run(*command: str, **environment: str) -> tuple[int, str]:
    """Run a command, showing its output as it comes; returns its exit code and output."""
    with subprocess.Popen(
        command,
        cwd=ROOT,
        env={**os.environ, **environment},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    ) as process:
        lines = []
        for line in process.stdout:
            sys.stdout.write(line)
            lines.append(line)
        sys.stdout.flush()
    return process.returncode, "".join(lines)


def debian(*packages: str) -> None:
    """Install Debian packages; needed once on a machine."""
    run("apt-get", "update", "-qq")
    run("apt-get", "install", "-y", "-qq", *packages, DEBIAN_FRONTEND="noninteractive")


def prepare() -> None:
    """Bring what is not Python: Chromium for the browser tests, ngspice for the circuit's reference,
    Node's packages for the styles."""
    if not Path("/usr/bin/chromium").exists():
        debian("chromium")
    if shutil.which("ngspice") is None:
        debian("ngspice")
    if shutil.which("npm") is None:
        debian("nodejs", "npm")
    if not (ROOT / "node_modules/.package-lock.json").exists():
        # Not npm ci: it wants every other platform's optional binary in the lock, and not every registry
        # mirror has them.
        run("npm", "install", "--no-save", "--no-fund", "--no-audit")


def styles_current() -> tuple[int, str]:
    """Build the stylesheet anew and compare it with the one committed."""
    with tempfile.TemporaryDirectory() as folder:
        built = Path(folder) / "built.css"
        code, output = run(
            "npx", "--no-install", "tailwindcss", "--input", STYLES[0], "--output", str(built), "--minify"
        )
        if code:
            return code, output
        if (
            built.read_text(encoding="utf-8").strip()
            != (ROOT / STYLES[1]).read_text(encoding="utf-8").strip()
        ):
            print(f"{STYLES[1]} is not what {STYLES[0]} gives. Build it: npm run css")
            return 1, ""
    return 0, ""


def main() -> int:
    """Run all, print the count, return non-zero when anything failed."""
    prepare()
    scratch = tempfile.mkdtemp(prefix="frostline-test-")
    # The circuits' matrices are small: threads only get into each other's way.
    demo = {"FROSTLINE_DEMO": "1", "FROSTLINE_DATA": scratch, "OPENBLAS_NUM_THREADS": "1"}
    deployed = {
        "FROSTLINE_DEMO": "0",
        "FROSTLINE_SECRET_KEY": "k7" * 10 + "Vw3-zR9_tYq1pL5xN8bM2cJ6hF4gD0sA",
        "FROSTLINE_ALLOWED_HOSTS": "frostline.example",
        "FROSTLINE_DATA": scratch,
    }
    manage = (sys.executable, "manage.py")
    checks = {
        "lint": lambda: run(str(BIN / "ruff"), "check", "--quiet", "."),
        "format": lambda: run(str(BIN / "ruff"), "format", "--check", "--quiet", "."),
        "import contracts": lambda: run(str(BIN / "lint-imports")),
        "styles are current": styles_current,
        "migrations are complete": lambda: run(*manage, "makemigrations", "--check", "--dry-run", **demo),
        "deployment checks": lambda: run(*manage, "check", "--deploy", "--fail-level", "WARNING", **deployed),
        "static files": lambda: run(*manage, "collectstatic", "--noinput", "--verbosity", "0", **demo),
    }
    passed = failed = 0
    for name, check in checks.items():
        print(f"── {name}", flush=True)
        code, _ = check()
        passed, failed = (passed + 1, failed) if code == 0 else (passed, failed + 1)
        if code:
            print(f"── {name} FAILED")
    print("── tests", flush=True)
    labels = sys.argv[1:] or ["frostcore", "frostline", "tests"]
    code, output = run(*manage, "test", *labels, "--timing", **demo)
    count = int(match[1]) if (match := re.search(r"^Ran (\d+) tests?", output, re.MULTILINE)) else 0
    bad = sum(int(number) for number in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", output))
    if (code and not bad) or not count:
        bad += 1
    shutil.rmtree(scratch, ignore_errors=True)
    passed, failed = passed + max(count - bad, 0), failed + bad
    print(f"{passed} passed, {failed} failed")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
