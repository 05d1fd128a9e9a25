import uuid
from pathlib import Path

from django.conf import settings
from django.urls import reverse

from frostcore.curves.table import read_csv
from frostcore.parts.drawer import read_drawer
from frostline.accounts.models import User
from frostline.calls.models import Slip
from frostline.desk.checks import CHECKS, SensorCheck
from frostline.tests import fixtures

ROOT = Path(settings.BASE_DIR)
POT = {"nominal": "10k", "ends": "9k8", "stop1": "12", "sweep": "100 2k5 1k2 7k 9k7", "tolerance": "20%"}
BIMETAL = {"kind": "bimetal", "opens": "13", "differential": "18", "unit": "°C", "at": "21C", "reads": "OL"}


class QuickChecks(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.user, cls.revision = fixtures.workshop()
        fixtures.publish("pellworth-pw-27", User.objects.get(role="lead"))
        cls.call = fixtures.call(cls.revision, cls.user)

    def setUp(self):
        self.client.force_login(self.user)

    def check(self, check_name, **query):
        return self.client.get(reverse("desk:check", args=[check_name]), query)

    def file(self, check_name, query, **data):
        return self.client.post(
            reverse("desk:file", args=[check_name]),
            {"query": query, "call": str(self.call.pk), "slip_id": str(uuid.uuid4()), **data},
        )

    def test_each_opens_empty_and_asks_for_nothing_yet(self):
        for name in CHECKS:
            page = self.check(name)
            self.assertContains(page, "<form")
            self.assertNotContains(page, 'class="error"')
        self.assertEqual(self.check("soup").status_code, 404)

    def test_a_thermostat_is_set_by_turns(self):
        first = self.check("calibration", target="-24", turns_0="0", seen_0="-19 -19.8 -20 -20.1")
        self.assertContains(first, "Mains stand on the thermostat")
        self.assertContains(first, "then wait for 4 cycles")
        query = {"target": "-24", "turns_0": "0", "seen_0": "-20 -20 -20 -20", "turns_1": "0.9"}
        there = self.check("calibration", seen_1="-22 -23.5 -24 -24.1", **query)
        self.assertContains(there, "Leave it: within a kelvin")
        self.assertContains(
            self.check("calibration", target="-24", seen_0="cold"), "be read as a temperature"
        )
        self.assertContains(self.check("calibration", target="-24"), "at least one cut-out")
        self.file("calibration", "target=-24&turns_0=0&seen_0=-20+-20+-20+-20")
        bodies = [str(slip.body) for slip in Slip.objects.filter(call=self.call)]
        self.assertEqual(sum("cut-out" in body for body in bodies), 1)

    def test_a_capacitor_is_judged_and_filed(self):
        page = self.check("capacitor", farads="100u", volts="35V", esr="2")
        self.assertContains(page, "Bad: change it")
        self.assertContains(page, "it holds a lethal")
        self.assertContains(page, "File it into a call")
        self.assertContains(self.check("capacitor", farads="22", volts="35V", esr="2"), "with its unit")
        self.assertContains(self.check("capacitor", farads="22u", volts="35V"), "Nothing measured yet")
        self.file("capacitor", "farads=100u&volts=35V&esr=2")
        bodies = [str(slip.body) for slip in Slip.objects.filter(call=self.call)]
        self.assertEqual(sum("2.00 Ω at 100 kHz" in body for body in bodies), 1)

    def test_a_bus_is_foretold_and_judged(self):
        page = self.check("bus", mains="230V", watts="2.4W", farads="22u", lamp="60W")
        self.assertContains(page, "19 s with a dead switcher")
        self.assertContains(page, "Lamp in series")
        self.assertNotContains(page, "File it into a call")
        page = self.check("bus", mains="230V", watts="2.4W", farads="22u", reads="320V", ripple="1.9V")
        self.assertContains(page, "the diode test parts them")
        self.assertContains(page, "File it into a call")
        self.assertContains(self.check("bus", mains="12V", watts="3W", farads="22u"), "mains volts")

    def test_a_relay_by_coil_drive_and_contact(self):
        page = self.check(
            "relay", volts="12V", ohms="360", coil="365", pull="8.6V", drop="180mV", amperes="1.1A"
        )
        for told in ("Coil: in band", "Drive: low", "Contact: high", "hold, not to pull in", "burnt"):
            self.assertContains(page, told)
        self.assertContains(self.check("relay", volts="12V", ohms="360", drop="0.2V"), "amperes too")
        self.assertContains(self.check("relay", volts="12V", ohms="360"), "Nothing measured yet")

    def test_two_boards_side_by_side(self):
        table = "point,meter,here,there\nfan output,diode,0.02,0.55\nbridge,diode,1.12,1.13"
        page = self.check("twin", readings=table)
        self.assertContains(page, "1 of 2 points differ")
        self.assertContains(page, "A short on this one")
        self.assertContains(self.check("twin", readings="point,meter\na,ohm"), "no column here, there")
        self.assertContains(self.check("twin", readings="point,meter,here,there\n"), "No reading yet")

    def test_what_stands_in_comes_from_the_workshop_s_small_parts(self):
        old = {"kind": "fuse", "amperes": "2A", "time_class": "slow", "breaking_amperes": "35A"}
        self.assertContains(self.check("substitute", **old), "No fuse is among the 0 small parts")
        self.client.force_login(User.objects.get(role="lead"))
        small, table = reverse("calls:small"), (ROOT / "demo/bench/drawer.csv").read_text(encoding="utf-8")
        self.client.post(small, {"text": table})
        self.assertContains(self.client.get(small), "FU-2A-T")
        again = self.client.get(reverse("calls:small_csv")).content.decode()
        self.assertEqual(read_drawer(again), read_drawer(table))
        page = self.check("substitute", **old)
        self.assertContains(page, "FU-2A-T")
        self.assertContains(page, "never more; the wiring burns instead")
        self.assertContains(page, "quick is not slow")
        self.assertContains(self.check("substitute", kind="fuse"), "Type what is printed")
        self.assertContains(self.check("substitute", kind="fuse", amperes="lots"), "amperes: ")
        self.assertContains(self.client.post(small, {"text": "id,kind\nX,soup"}), "line 2", status_code=422)
        self.client.force_login(self.user)
        self.assertEqual(self.client.get(small).status_code, 403)

    def test_a_code_on_any_unit_names_the_units(self):
        page = self.check("code", shown="E5")
        self.assertContains(page, "Tarnbeck TB-34")
        self.assertContains(
            self.check("code", sheet="pellworth-pw-27", shown="zzzzzz"), "No code on any sheet looks like"
        )

    def test_loads_are_judged_by_arithmetic(self):
        page = self.check("heater", ohms="240", mains="230V", watts="220W")
        self.assertContains(page, "as it should be")
        self.assertContains(page, "File it into a call")
        self.assertContains(self.check("heater", ohms="41", mains="230V"), "fits a heater for 120 V")
        self.assertContains(self.check("heater", mains="120V", watts="450W"), "32.0 Ω")
        self.assertContains(self.check("heater", mains="120V"), "or the rating alone")
        self.assertContains(
            self.check("windings", phases="1", ab="16.5", bc="38", ac="21.5", earth="OL"), "they add up"
        )
        self.assertContains(self.check("windings", phases="3", ab="8.6", bc="8.7", ac="OL"), "U–W is open")
        self.assertContains(self.check("speed", hertz="70Hz", pulses="2", rpm="2100"), "2100 rpm")
        self.assertContains(self.check("speed", hertz="70Hz", pulses="0"), "Ensure this value")

    def test_watts_at_the_plug_are_set_against_the_sheet(self):
        page = self.check("plug", sheet="tarnbeck-tb-34", mode="defrost", watts="5W")
        self.assertContains(page, "What is missing fits: defrost heater")
        self.assertContains(self.check("plug", sheet="tarnbeck-tb-34", mode="defrost"), "Adds up to")
        self.file("plug", "sheet=tarnbeck-tb-34&mode=defrost&watts=5W")
        self.assertEqual(Slip.objects.get(kind="checked").body["verdict"], "low")

    def test_a_sensor_is_identified_judged_and_its_error_named(self):
        self.assertContains(
            self.check("sensor", ohms1="2k7", celsius1="25C", ohms2="9k0", celsius2="0C"), "Pellworth PW-27"
        )
        points = {
            "ohms1": "8k66",
            "celsius1": "22C",
            "ohms2": "18k3",
            "celsius2": "0C",
            "ohms3": "42k5",
            "celsius3": "-18C",
        }
        curve = next(key for key, known in self.known() if known.source == "Tarnbeck TB-34")
        page = self.check("sensor", curve=curve, **points)
        self.assertContains(page, "Resistance in series")
        self.assertContains(page, "File it into a call")

    def test_an_address_names_a_curve_by_what_it_says(self):
        before = {known.id: known.curve for _, known in self.known()}
        fixtures.publish("ondrel-or-620", User.objects.get(role="lead"))
        after = {known.id: known.curve for _, known in self.known()}
        self.assertGreater(len(after), len(before))
        for name, curve in before.items():
            self.assertEqual(after[name], curve)
        gone = self.check("sensor", curve="c6", ohms1="8k66", celsius1="22C")
        self.assertContains(gone, "No sheet has this curve any more")
        self.assertContains(gone, "8k66")

    def known(self):
        return SensorCheck().known.items()

    def test_what_is_missing_or_unreadable_is_said_and_kept(self):
        for query, text in (
            ({"ohms1": "5k"}, "Point 1 has no temperature"),
            ({"ohms1": "", "celsius1": ""}, "Nothing to check yet"),
            ({"ohms1": "5k", "celsius1": "25C", "table": "hello"}, "fewer than two rows"),
            ({"ohms1": "banana", "celsius1": "25C"}, "be read as a resistance"),
            ({"ohms1": "1,000", "celsius1": "25C"}, "which one?"),
        ):
            with self.subTest(text):
                self.assertContains(self.check("sensor", **query), text)
        self.assertContains(self.check("pot", **(POT | {"sweep": "100 1,000 5k"})), "two ways")
        self.assertContains(self.check("code", shown=""), "Codes appear here")

    def test_a_pasted_table_is_understood_asked_about_and_exported(self):
        table = (
            "T (°F)\tR"
            " (kΩ)\n-4\t44.06\n14\t25.47\n32\t17.33\n50\t9.564\n59\t7.647\n68\t6.161\n77\t5.0\n86\t4.086"
        )
        page = self.check("sensor", table=table)
        self.assertContains(page, "°F (from the header)")
        self.assertContains(page, "stands off the line")
        rows = read_csv(self.client.get(reverse("desk:table_csv"), {"table": table}).content.decode()).rows
        self.assertEqual((rows[0].celsius, rows[0].ohms, rows[2].celsius), (-20.0, 44060.0, 0.0))
        self.assertEqual(self.client.get(reverse("desk:table_csv"), {"table": "hello"}).status_code, 404)

    def test_controls_are_judged(self):
        self.assertContains(self.check("pot", **POT), "the wiper goes back")
        self.assertContains(self.check("thermostat", **BIMETAL), "not a fault")
        self.assertContains(self.check("thermostat", **(BIMETAL | {"unit": ""})), "read as °F")
        self.assertContains(
            self.check("thermostat", **(BIMETAL | {"at": "cold"})), "be read as a temperature"
        )

    def test_filing_computes_the_result_anew_and_records_it_once(self):
        slip_id = str(uuid.uuid4())
        query = "kind=bimetal&opens=13&differential=18&unit=%C2%B0C&at=-20C&reads=OL"
        for _ in range(2):
            self.assertRedirects(
                self.file("thermostat", query, slip_id=slip_id),
                self.call.get_absolute_url(),
                fetch_redirect_response=False,
            )
        body = Slip.objects.get(kind="checked").body
        self.assertEqual((body["verdict"], body["figure"]), ("open", "OL (open)"))
        self.assertIn("failed open", body["detail"])
        self.assertContains(self.client.get(body["address"]), "failed open")
        self.assertContains(
            self.client.get(reverse("calls:stage", args=[self.call.pk, "probe"])), "Quick check: thermostat"
        )

    def test_filing_nothing_or_nowhere_is_not_found(self):
        self.assertEqual(self.file("pot", "").status_code, 404)
        self.assertEqual(self.file("pot", "nominal=10k&ends=9k8", call="x").status_code, 404)
        self.assertEqual(self.file("pot", "nominal=10k&ends=9k8", call=str(uuid.uuid4())).status_code, 404)
        self.assertFalse(Slip.objects.filter(kind="checked").exists())

    def test_a_filed_check_can_be_taken_back_but_not_rewritten(self):
        self.file("pot", "nominal=10k&ends=9k8")
        slip = Slip.objects.get(kind="checked")
        address = reverse("calls:correct", args=[self.call.pk, slip.pk])
        self.assertNotContains(self.client.get(address), "Record the correction")
        self.client.post(address, {"kind": "withdrawn", "slip_id": str(uuid.uuid4()), "why": "wrong call"})
        self.assertEqual(Slip.objects.get(supersedes=slip).kind, "withdrawn")

    def test_search_answers_by_code_condition_and_model(self):
        for typed, text in (
            ("E5", "Defrost does not warm up"),
            ("defrost stays cold too long", "E5"),
            ("pw27d", "Pellworth PW-27"),
            ("qqqq", "Nothing answers"),
            ("", "Type a name, a code"),
        ):
            self.assertContains(self.client.get(reverse("desk:search"), {"q": typed}), text)
