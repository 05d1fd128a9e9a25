import uuid

from django.urls import reverse

from frostline.calls.models import Slip
from frostline.calls.tapes import standing_of
from frostline.calls.tests.test_tape import TapeCase


class SeenAndMeasured(TapeCase):
    def post(self, stage, expected=302, **data):
        response = self.client.post(
            reverse("calls:stage", args=[self.call.pk, stage]), {"slip_id": str(uuid.uuid4()), **data}
        )
        self.assertEqual(response.status_code, expected)
        return response

    def last(self):
        return Slip.objects.filter(call=self.call).last().body

    def candidates(self, **query):
        return self.client.get(reverse("calls:candidates", args=[self.call.pk]), query)

    def test_segments_tapped_are_kept_with_the_code_and_the_lamps(self):
        self.post("decode", kind="code_seen", frames="[adefg][acdfg]", lamps=["alarm"])
        self.assertEqual(
            (self.last()["shown"], self.last()["code"], self.last()["frames"], self.last()["lamps"]),
            ("E5", "E5", "[adefg][acdfg]", ["alarm"]),
        )

    def test_nothing_seen_and_lamps_the_sheet_lacks_are_refused(self):
        self.assertContains(self.post("decode", 422, kind="code_seen"), "Nothing seen yet", status_code=422)
        self.assertContains(
            self.post("decode", 422, kind="code_seen", shown="E5", lamps=["disco"]), "disco", status_code=422
        )
        self.assertContains(
            self.post("decode", 422, kind="code_seen", frames="[xyz]"), "is no digit", status_code=422
        )

    def test_candidates_answer_each_way_of_seeing(self):
        self.assertContains(self.candidates(shown="E5"), "exactly this")
        self.assertContains(self.candidates(frames="[adefg][acfg]"), "segment d of digit 2 looks dead")
        self.assertContains(self.candidates(taps="0-0.2,0.5-0.7,3-3.2,3.5-3.7"), 'data-replay="0.0,0.25;')
        self.assertContains(self.candidates(taps="rubbish"), "is no tap")
        self.assertNotContains(self.candidates(shown=""), "candidate")
        self.assertEqual(self.candidates(frames="[][]").status_code, 200)

    def test_a_code_card_tells_rule_causes_what_cannot_and_how_codes_are_listed(self):
        self.post("decode", kind="code_seen", shown="E5")
        page = self.client.get(reverse("calls:stage", args=[self.call.pk, "decode"]))
        for text in (
            "does not rise above 8 °C",
            "within 40 min",
            "Forced defrost",
            "never resets",
            "What can’t: fridge sensor, freezer sensor.",
            "Hold ▲ for 6 s",
            "insulated probes",
        ):
            self.assertContains(page, text)

    def test_volts_at_the_board_become_a_reading(self):
        self.post("look", kind="power_set", state="live")
        data = {
            "kind": "reading",
            "meter": "vdc",
            "sensor": "fridge",
            "value": "1.6V",
            "temperature": "9C",
            "doubt": "0.5 K",
            "accuracy": "1 %",
        }
        self.post("probe", **data)
        self.assertEqual((self.last()["meter"], self.last()["value"]["value"]), ("vdc", 1.6))
        (slip,) = standing_of(self.call).readings
        judged = standing_of(self.call).judged_reading(slip)
        self.assertAlmostEqual(judged.by_curve.point.resistance.value, 4705.88, places=2)
        self.assertContains(
            self.post("probe", 422, **(data | {"value": "9V"})), "Check the pins", status_code=422
        )
        self.assertContains(
            self.post("probe", 422, **(data | {"value": ""})), "This field is required", status_code=422
        )
        page = self.client.get(reverse("calls:stage", args=[self.call.pk, "probe"]), {"sensor": "fridge"})
        self.assertContains(page, "What the board believes")

    def test_the_guide_says_what_a_good_sensor_gives_in_ohms_and_in_volts(self):
        page = self.client.get(reverse("calls:stage", args=[self.call.pk, "probe"]), {"sensor": "fridge"})
        # 15.33 kΩ at 0 °C behind 10 kΩ from 5 V: 5·15.33/25.33 V.
        self.assertContains(page, "good: 15.3 kΩ, live 3.03 V at the pin")

    def test_an_ice_bath_settles_on_the_page_and_as_a_fragment(self):
        readings = {"readings": "0s=20k 60s=28k 120s=31k1 180s=32k3 240s=32k8 300s=33k 400s=33k1 500s=33k1"}
        fragment = self.client.get(reverse("calls:settle", args=[self.call.pk, "defrost"]), readings)
        self.assertContains(fragment, "Settled: 33")
        self.assertNotContains(fragment, "<!doctype")
        self.assertContains(
            self.client.get(
                reverse("calls:stage", args=[self.call.pk, "probe"]), {"sensor": "defrost", **readings}
            ),
            "Use it as the 0 °C reading",
        )
        self.assertContains(
            self.client.get(reverse("calls:settle", args=[self.call.pk, "defrost"]), {"readings": "27k"}),
            "has no time",
        )
        self.assertEqual(
            self.client.get(reverse("calls:settle", args=[self.call.pk, "ghost"])).status_code, 404
        )

    def test_the_curve_goes_out_as_svg_with_its_readings(self):
        self.post("look", kind="power_set", state="unplugged")
        self.post(
            "probe",
            kind="reading",
            sensor="defrost",
            value="OL",
            temperature="0C",
            doubt="0.5K",
            accuracy="1%",
            meter="ohm",
        )
        drawn = self.client.get(reverse("calls:curve", args=[self.call.pk, "defrost"]))
        self.assertEqual(drawn["Content-Type"], "image/svg+xml")
        self.assertContains(drawn, "Reading OL (open) at 0 °C: open.")
        self.assertNotContains(drawn, "nan")

    def test_the_cautions_stand_at_the_step_they_belong_to(self):
        address = reverse("calls:stage", args=[self.call.pk, "probe"])
        self.assertContains(self.client.get(address), "pull the plug")
        self.post("look", kind="power_set", state="live")
        self.assertContains(self.client.get(address), "a second person near")
        self.post("look", kind="power_set", state="unplugged")
        page = self.client.get(address)
        for text in (
            "lethal charge",
            "Flammable refrigerant",
            "Local codes and licensed practice come first.",
        ):
            self.assertContains(page, text)
        self.assertContains(
            self.client.get(reverse("calls:stage", args=[self.call.pk, "close"])),
            "Never bypass a thermal fuse",
        )
