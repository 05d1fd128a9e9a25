"""The bench's pages: a ladder by its address, on a call, beside a good board."""

import uuid
from unittest.mock import patch

from django.urls import reverse

from frostcore.diagnosis.from_tape import evidence_from
from frostcore.diagnosis.judge import judge
from frostcore.tape.benched import BoardBack, BoardOut, BoardRead
from frostcore.tape.entries import Mended
from frostline.bench import tables
from frostline.bench.models import KnownGood
from frostline.calls.tapes import standing_of
from frostline.tests import fixtures

KIND = {"kind": "linear", "mains": "229 V", "esr": "on"}


class Pages(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)

    def setUp(self):
        self.client.force_login(self.technician)

    def ladder(self, *at, **more):
        return self.client.get(reverse("bench:ladder"), KIND | {"at": list(at)} | more)


class Ladders(Pages):
    def test_it_begins_with_the_kind_and_the_mains(self):
        page = self.client.get(reverse("bench:start"))
        self.assertContains(page, "Mains at the bench, as measured")
        self.assertContains(page, "Transformer and linear regulators")

    def test_the_front_page_and_a_sheets_mat_lead_there(self):
        self.assertContains(self.client.get("/"), reverse("bench:start"))
        mat = self.client.get(reverse("sheets:mat", args=["tarnbeck-tb-34"]))
        self.assertContains(mat, "/bench/?sheet=tarnbeck-tb-34&amp;board=board")
        page = self.client.get("/bench/?sheet=tarnbeck-tb-34&board=board")
        self.assertContains(page, "Tarnbeck TB-34 board: flyback, as its sheet says")

    def test_it_shows_the_rungs_and_what_to_read_first(self):
        page = self.ladder()
        self.assertContains(page, "Mains in: fuse, suppressor")
        self.assertContains(page, "what the board did in its unit")
        self.assertContains(page, "Nothing at all")

    def test_what_is_typed_stands_on_its_rung_and_in_the_next_address(self):
        page = self.ladder("said=dead", probe="ohm:l-lf", value="OL")
        self.assertContains(page, "the first that fails")
        self.assertContains(page, 'name="at" value="ohm:l-lf=OL"')
        self.assertContains(page, "No power yet")

    def test_several_are_typed_on_the_rungs_at_once_and_a_wrong_one_is_told_beside_the_others(self):
        page = self.ladder(
            **{"v:ohm:l-lf": "1.4", "v:esr:bp-bm": "0.12", "v:vdc:bp-bm": "9 kV", "v:look:C1": ""}
        )
        self.assertContains(page, "up to 600 V")
        read = [each.probe.id for rung in page.context["ladder"].rungs for each in rung.read]
        self.assertEqual(read, ["ohm:l-lf", "esr:bp-bm"])
        self.assertNotIn("v%3A", page.context["base"])

    def test_a_wrong_value_says_why_and_loses_nothing(self):
        page = self.ladder("said=dead", probe="vdc:bp-bm", value="9 kV")
        self.assertContains(page, "up to 600 V")
        self.assertContains(page, 'value="9 kV"')
        self.assertContains(page, 'name="at" value="said=dead"')

    def test_addresses_that_are_nonsense_are_answered(self):
        for query in (
            {"kind": "moon", "mains": "229 V"},
            {"kind": "linear", "mains": "9 V"},
            {"kind": "linear", "mains": ""},
            {"sheet": "nothing-here", "mains": "229 V"},
            KIND | {"at": ["", "=", "a=b=c", "vdc:bp-bm", "said=\0", "ohm:l-lf=" + "9" * 500]},
            KIND | {"see": "nowhere", "good": "7"},
        ):
            with self.subTest(query):
                self.assertEqual(self.client.get(reverse("bench:ladder"), query).status_code, 200)

    def test_a_good_board_is_kept_and_the_next_stands_beside_it(self):
        at = ["esr:bp-bm=0.12", "esr:p12-bm=0.25", "ohm:a-b=2.4", "diode:a-bp=0.6"]
        told = KIND | {"at": at, "name": "LX-20", "back": "/bench/"}
        page = self.client.post(reverse("bench:good"), told, follow=True)
        self.assertContains(page, "Kept as a good LX-20: 4 readings.")
        good = KnownGood.objects.get()
        self.assertEqual(good.supply, "linear 230 V")
        page = self.ladder("esr:bp-bm=3.5", "ohm:a-b=2.3", good=good.pk)
        self.assertContains(page, "Reservoir capacitor C1:")
        self.assertEqual(page.context["differences"][0].odd, True)

    def test_what_is_no_good_board_is_not_kept(self):
        cases = (
            ({"at": ["esr:bp-bm=0.12"]}, "kept with 4 or more"),
            ({"name": ""}, "Say what type the board is"),
            ({"mains": "moon"}, "moon"),
            ({"at": ["esr:bp-bm=9", "esr:p12-bm=0.25", "ohm:a-b=2.4", "diode:a-bp=0.6"]}, "no good board"),
        )
        for wrong, told in cases:
            with self.subTest(told):
                data = KIND | {"at": [], "name": "LX-20", "back": "https://elsewhere.invalid/"} | wrong
                page = self.client.post(reverse("bench:good"), data, follow=True)
                self.assertContains(page, told)
                self.assertEqual(page.redirect_chain[-1][0], reverse("bench:start"))
        self.assertFalse(KnownGood.objects.exists())


class OnACall(Pages):
    def post(self, **told):
        address = reverse("bench:call", args=[self.call.pk])
        return self.client.post(address, {"slip_id": uuid.uuid4()} | told, follow=True)

    def bodies(self):
        return standing_of(self.call).bodies

    def take_out(self, **more):
        told = {"act": "out", "board": "board", "mains": "228 V", "kind": "linear", "esr": "on"}
        return self.post(**(told | more))

    def test_a_board_is_taken_out_read_mended_and_put_back(self):
        page = self.take_out()
        self.assertContains(page, "Mains in: fuse, suppressor")
        self.assertIsInstance(self.bodies()[-1], BoardOut)
        page = self.post(act="read", probe="esr:bp-bm", value="6")
        self.assertContains(page, "Reservoir capacitor")
        body = self.bodies()[-1]
        self.assertEqual((body.name, body.shown, body.verdict), ("reservoir capacitor C1", "6.00 Ω", "high"))
        self.post(act="mend", done="C1 changed")
        self.assertEqual(
            self.bodies()[-1], Mended("mended", "board", "Control board", "C1 changed", "", "board_mended")
        )
        mended = self.client.get(reverse("bench:call", args=[self.call.pk]))
        self.assertEqual(mended.context["ladder"].judgement.readings, ())
        self.post(act="back")
        self.assertIsInstance(self.bodies()[-1], BoardBack)
        self.assertIsNone(standing_of(self.call).on_bench)

    def test_the_sheets_own_supply_is_first_and_needs_no_kind(self):
        page = self.client.get(reverse("bench:call", args=[self.call.pk]))
        self.assertContains(page, "Tarnbeck TB-34 board: flyback, as its sheet says")

    def test_what_can_not_be_taken_says_why_and_stays(self):
        self.assertContains(self.take_out(mains="12 V"), "12.0 V is no mains", status_code=422)
        early = self.post(act="read", probe="esr:bp-bm", value="6")
        self.assertContains(early, "No board is on the mat", status_code=422)
        self.take_out()
        page = self.post(act="read", probe="vdc:bp-bm", value="OL")
        self.assertContains(page, "volts are never OL", status_code=422)
        page = self.post(act="read", probe="vdc:bp-bm", value="21", slip_id="none")
        self.assertContains(page, "That form was not whole", status_code=422)
        unsaid = self.post(act="mend", done=" ")
        self.assertContains(unsaid, "Say what was done to the board", status_code=422)
        self.assertFalse([body for body in self.bodies() if isinstance(body, BoardRead | Mended)])

    def test_what_is_typed_on_the_rungs_are_slips_of_their_own(self):
        self.take_out()
        told = {"act": "many", "v:ohm:l-lf": "1.4", "v:esr:bp-bm": "6", "v:vdc:bp-bm": "OL", "v:look:C1": ""}
        page = self.post(**told)
        self.assertContains(page, "volts are never OL", status_code=422)
        names = [body.probe for body in self.bodies() if isinstance(body, BoardRead)]
        self.assertEqual(names, ["ohm:l-lf", "esr:bp-bm"])
        self.assertEqual(page.context["ladder"].first_bad.id, "bulk")
        self.assertContains(self.post(act="many", slip_id="x"), "not whole", status_code=422)

    def test_a_form_sent_twice_is_one_reading(self):
        self.take_out()
        same = uuid.uuid4()
        for _ in range(2):
            self.post(act="read", probe="ohm:l-lf", value="1.4", slip_id=same)
        self.assertEqual(len([body for body in self.bodies() if isinstance(body, BoardRead)]), 1)

    def test_two_people_read_one_board(self):
        """The newest at a probe counts, whoever read it; the other's reading stays on the tape."""
        self.take_out()
        self.post(act="read", probe="esr:bp-bm", value="6")
        self.client.force_login(type(self.technician).objects.get(username="iver"))
        page = self.post(act="read", probe="esr:bp-bm", value="0.12")
        rung = next(each for each in page.context["ladder"].rungs if each.id == "bulk")
        self.assertEqual([each.shown for each in rung.read], ["0.12 Ω"])
        self.assertEqual(len([body for body in self.bodies() if isinstance(body, BoardRead)]), 2)

    def test_a_supply_that_can_not_be_worked_out_says_so_and_the_board_goes_back(self):
        self.take_out()
        with patch("frostline.bench.tables.judge_board", side_effect=ZeroDivisionError):
            tables._tables._ready.clear()
            with self.assertLogs("frostline.background", "ERROR"):
                page = self.client.get(reverse("bench:call", args=[self.call.pk]))
            self.assertContains(page, "This supply can’t be worked out")
            self.post(act="back")
        self.assertEqual(self.bodies()[-1], BoardBack("board_back", "board"))
        tables._tables._failed.clear()

    def test_what_the_bench_found_reaches_the_units_judgement(self):
        self.take_out()
        for probe, value in (("said", "dead"), ("esr:bp-bm", "9"), ("farads:bp-bm", "200u")):
            self.post(act="read", probe=probe, value=value)
        before = self.chance()
        self.post(act="back")
        self.assertEqual(self.bodies()[-1].found, "bench_bad")
        self.assertGreater(self.chance(), 1.5 * before)

    def chance(self):
        """How likely the unit's board is at fault."""
        standing = standing_of(self.call)
        judgement = judge(standing.sheet, [evidence for evidence, _ in evidence_from(standing)])
        units = judgement.weigher.known.units
        return float(judgement.posterior.units[units.index("board")])

    def test_readings_of_a_supply_the_sheet_no_longer_has_tell_nothing_and_stay(self):
        self.take_out()
        self.post(act="read", probe="esr:p12-bm", value="0.3")
        self.post(act="back")
        self.take_out(kind="dropper")
        page = self.client.get(reverse("bench:call", args=[self.call.pk]))
        self.assertContains(page, "Series capacitor")
        self.assertEqual(page.context["ladder"].judgement.readings, ())


class Printed(Pages):
    def test_a_board_nobody_described_is_judged_by_what_is_printed_on_it(self):
        page = self.ladder("farads:bp-bm=2100u")
        rung = next(each for each in page.context["ladder"].rungs if each.id == "bulk")
        self.assertEqual(rung.state, "first_bad")
        page = self.ladder("farads:bp-bm=2100u", probe="printed:C1", value="2200u")
        rung = next(each for each in page.context["ladder"].rungs if each.id == "bulk")
        self.assertEqual(rung.state, "good")
        self.assertContains(page, "reservoir capacitor C1, 2200 µF")
        self.assertContains(page, 'name="at" value="printed:C1=2200u"')

    def test_what_no_such_part_has_says_so(self):
        for probe, value, told in (
            ("printed:C1", "9 F", "a usual one is 1000 µF"),
            ("printed:T1p", "5", "is no part with a printed value here"),
            ("printed:C1", "moon", "moon"),
        ):
            with self.subTest(probe, value=value):
                page = self.ladder("said=dead", probe=probe, value=value)
                self.assertContains(page, told)
                self.assertContains(page, "nothing at all")

    def test_a_sheets_own_board_has_its_values(self):
        page = self.client.get("/bench/ladder/?sheet=tarnbeck-tb-34&board=board&kind=&mains=229V&esr=on")
        self.assertNotContains(page, "Printed on its parts")

    def test_on_a_call_it_is_a_slip_like_others(self):
        address = reverse("bench:call", args=[self.call.pk])
        out = {"act": "out", "board": "board", "mains": "228 V", "kind": "linear", "esr": "on"}
        self.client.post(address, {"slip_id": uuid.uuid4()} | out)
        told = {"act": "read", "probe": "printed:C1", "value": "2200u", "slip_id": uuid.uuid4()}
        page = self.client.post(address, told, follow=True)
        body = standing_of(self.call).bodies[-1]
        self.assertEqual((body.name, body.shown), ("printed on reservoir capacitor C1", "2200 µF"))
        self.assertContains(page, "reservoir capacitor C1, 2200 µF")
