import ast
import sys
from pathlib import Path
from unittest import TestCase

CORE = Path(__file__).resolve().parents[1]
ALLOWED = set(sys.stdlib_module_names) | {"numpy", "scipy", "frostcore"}


class Layers(TestCase):
    def test_the_core_imports_only_the_standard_library_numpy_and_scipy(self):
        seen = 0
        for path in CORE.rglob("*.py"):
            if "tests" in path.parts:
                continue
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                names = (
                    [alias.name for alias in node.names]
                    if isinstance(node, ast.Import)
                    else [node.module]
                    if isinstance(node, ast.ImportFrom)
                    else []
                )
                for name in names:
                    seen += 1
                    self.assertIn(name.split(".")[0], ALLOWED, path)
        self.assertGreater(seen, 100)
