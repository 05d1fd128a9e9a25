"""The square code's picture: dark exactly where the code's modules are, white all round."""

import re
from unittest import TestCase

import segno

from frostline.ui.codes import QUIET, code_of

ADDRESS = "https://frostline.example/calls/7f/"


class Codes(TestCase):
    def test_the_path_is_dark_exactly_where_the_modules_are(self):
        found = code_of(ADDRESS)
        dark = set()
        for x, y, wide, back in re.findall(r"M(\d+) (\d+)h(\d+)v1h-(\d+)z", found.path):
            self.assertEqual(wide, back)
            dark |= {(int(x) + at, int(y)) for at in range(int(wide))}
        matrix = segno.make(ADDRESS, error="m", micro=False).matrix
        wanted = {(x + QUIET, y + QUIET) for y, row in enumerate(matrix) for x, bit in enumerate(row) if bit}
        self.assertEqual(dark, wanted)
        self.assertEqual(found.size, len(matrix) + 2 * QUIET)
        finder = {(QUIET + x, QUIET + y) for x in range(7) for y in range(7) if {x, y} & {0, 6}}
        self.assertLessEqual(finder, dark)
