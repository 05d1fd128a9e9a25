"""The door's ``ladder``: by a sheet, by a kind, by a fault, and what it says to nonsense."""

from unittest import TestCase

from frostcore.tests.test_door_circuit import TB, answer, ask


class Ladder(TestCase):
    def test_a_sheets_board_with_readings(self):
        at = ("said=dead", "ohm:l-lf=OL", "ohm:lf-n=1M", "diode:sh-d=0.01", "ohm:sh-bm=OL")
        told = answer(
            "ladder", "--sheet", TB, "--mains", "228V", *(each for one in at for each in ("--at", one))
        )
        self.assertEqual((told["named"], told["values"]), ("U1", "the sheet’s"))
        self.assertEqual(
            next(rung["stage"] for rung in told["rungs"] if rung["state"] == "first_bad"), "input"
        )
        self.assertIn("Change together with it: fuse F1 and sense resistor R3.", told["told"])
        self.assertIsNone(told["next"])
        self.assertAlmostEqual(sum(rung["chance"] for rung in told["rungs"]), 1.0, delta=0.01)

    def test_a_kinds_board_without_an_esr_meter_by_what_is_printed_on_it(self):
        told = answer(
            "ladder", "--kind", "linear", "--mains", "118V", "--no-esr", "--at", "printed:C1=2200u"
        )  # fmt: skip
        self.assertEqual(told["values"], "usual ones")
        points = [each["point"] for rung in told["rungs"] for each in rung["readings"]]
        self.assertFalse([point for point in points if point.startswith("esr")])
        self.assertEqual(told["next"]["point"], "said")

    def test_a_fault_shows_itself_at_every_point(self):
        told = answer("ladder", "--kind", "flyback", "--mains", "230V", "--fault", "NT1:open")
        shows = {each["point"]: each["shows"] for each in told["shows"]}
        self.assertEqual(shows["ohm:la-a"], "OL")
        self.assertEqual(shows["vac:la-a"], "230 V")
        self.assertEqual(shows["vdc:p12-g"], "0.00 V")

    def test_nonsense_ends_with_a_sentence(self):
        for arguments, told in (
            (("--mains", "230V"), "Nothing says what supply it is: choose its kind"),
            (("--mains", "moon", "--kind", "linear"), "moon"),
            (("--mains", "230V", "--kind", "linear", "--at", "vdc"), "has no value"),
            (("--mains", "230V", "--kind", "linear", "--at", "vdc:x-y=3"), "There is no reading “vdc:x-y”"),
            (("--mains", "230V", "--kind", "linear", "--fault", "moon"), "There is no fault “moon”"),
            (("--mains", "230V", "--sheet", TB, "--board", "attic"), "There is no board “attic”"),
            (
                ("--mains", "230V", "--kind", "linear", "--at", "printed:Q9=3k"),
                "no part with a printed value",
            ),
        ):
            with self.subTest(arguments):
                code, out, err = ask("ladder", *arguments)
                self.assertEqual((code, out), (2, ""))
                self.assertIn(told, err)
                self.assertEqual(err.count("\n"), 1)
