"""So many taps and keys an act takes, and no more; docs/hands.md says what is counted."""

from unittest import TestCase

from tests.browser.counted import TOLD, counted, told

MOST = {  # taps, keys, requests
    "A new call, beside its words": (6, 0, 2),
    "The rating plate as the sheet has it": (1, 0, 1),
    "The plug’s state": (1, 0, 1),
    "A look, where it is asked for": (1, 0, 1),
    "A code, where it is asked for": (0, 3, 1),
    "A look, in the list of looks": (1, 0, 1),
    "The suggested reading (three digits)": (0, 4, 1),
    "A step of a way in, with its count": (1, 0, 1),
    "A sensor that was not asked for, at its temperature": (2, 8, 3),
    "A reading that was not asked for, of another function": (2, 8, 3),
}


class Counted(TestCase):
    def test_no_act_takes_more_than_it_may_and_the_page_says_what_it_takes(self):
        found = counted()
        for counts in found.values():
            self.assertEqual([count.act for count in counts], list(MOST))
            for count in counts:
                most = MOST[count.act]
                self.assertLessEqual((count.taps, count.keys), most[:2], count)
                self.assertLessEqual(count.keys, most[1], count)
                self.assertLessEqual(count.requests, most[2], count)
        self.assertEqual(TOLD.read_text(), told(found))
