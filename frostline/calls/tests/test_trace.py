import json
import uuid
import xml.etree.ElementTree as ET

from django.urls import reverse

from frostcore.circuit.kept import circuits_of
from frostcore.quantity import Dimension, parse
from frostcore.tape.entries import PlugMoved, PowerSet, ReadingTaken, StepDone, TemperatureTaken
from frostcore.tape.take import Answers
from frostcore.tape.versions import read_body
from frostline.accounts.models import User
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.models import Slip
from frostline.sheets.actions.publish_revision import publish_revision
from frostline.tests import fixtures

KEPT = ("volts_unplugged:power", "ohms_power_unknown:power")
READING = {
    "kind": "reading",
    "red": "CN2.5",
    "black": "CN2.6",
    "meter": "vac",
    "mode": "normal",
    "pulled": "",
    "function": "defrost_heater",
    "kept": "",
}


class TraceCase(fixtures.CallCase):
    def page(self, stage="trace", call=None, **query):
        return self.client.get(reverse("calls:stage", args=[(call or self.call).pk, stage]), query)

    def post(self, stage="trace", query="", **data):
        return self.client.post(
            reverse("calls:stage", args=[self.call.pk, stage]) + query, {"slip_id": str(uuid.uuid4()), **data}
        )

    def put(self, body):
        return record_slip(self.call, NewSlip(uuid.uuid4(), body, Answers(kept=KEPT)), self.user)

    def bodies(self, kind):
        return [
            read_body(slip.kind, slip.version, slip.body)
            for slip in Slip.objects.filter(call=self.call, kind=kind).order_by("position")
        ]


class Trace(TraceCase):
    def test_every_function_of_every_unit_is_drawn_in_every_mode(self):
        lead = User.objects.get(role="lead")
        for revision in fixtures.all_revisions(lead):
            call = fixtures.call(revision, self.user)
            circuits = circuits_of(revision.content)
            modes = [mode.id for mode in revision.content.modes]
            for number, function in enumerate(circuits.functions):
                page = self.page(call=call, function=function.id, mode=modes[number % len(modes)])
                self.assertContains(page, 'class="trace"')
                # A word of its own: a form's token may hold these letters.
                self.assertNotRegex(page.content.decode(), r"\bnan\b")
            self.assertContains(self.page(call=call, whole="1"), "Only the path")

    def test_two_taps_place_the_leads_and_show_every_setup(self):
        page = self.page(function="defrost_heater", mode="defrost")
        self.assertContains(page, "229 V")
        self.assertContains(page, "red=CN7.1&amp;lead=black")
        page = self.page(function="defrost_heater", mode="defrost", red="CN7.1", lead="black")
        self.assertContains(page, "black=CN7.2&amp;lead=red")
        page = self.page(function="defrost_heater", mode="defrost", red="CN7.1", black="CN7.2")
        for words in ("Normal, cooling", "Plug out, still cold, CN7 pulled", "240 Ω", "OL"):
            self.assertContains(page, words)

    def test_a_sensor_in_ohms_is_read_with_its_plug_pulled(self):
        sheet = self.call.revision.content
        sensor = next(item for item in sheet.sensors if item.pins)
        red, black = sensor.pins
        plug = red.partition(".")[0]
        asked = {"function": sensor.component, "mode": "off_cold", "meter": "ohm", "red": red, "black": black}
        self.assertContains(self.page(**asked), f"Pull {plug} first")
        self.assertNotContains(self.page(**(asked | {"meter": "vdc", "mode": "normal"})), "first: plugged in")
        self.put(PowerSet("power_set", "unplugged"))
        self.put(PlugMoved("plug_moved", plug, "pulled"))
        self.assertNotContains(self.page(**asked), "first: plugged in")

    def test_a_bimetal_that_may_stand_either_way_asks_how_cold_it_is(self):
        self.put(TemperatureTaken("temperature_taken", "freezer", parse("0C", Dimension.TEMPERATURE)))
        page = self.page(mode="off_cold", meter="ohm", red="CN2.5", black="CN2.6", function="defrost_heater")
        self.assertContains(page, "240 Ω or OL")
        self.assertContains(page, "may stand open or closed")
        self.assertContains(page, 'name="temperature"')
        self.put(PowerSet("power_set", "unplugged"))
        fields = READING | {"meter": "ohm", "mode": "off_cold", "value": "OL", "temperature": "21C"}
        self.post(**fields, query="?mode=off_cold&meter=ohm&red=CN2.5&black=CN2.6&function=defrost_heater")
        (taken,) = self.bodies("reading")
        self.assertEqual(taken.temperature.value, 21.0)
        self.assertContains(
            self.page(mode="off_cold", meter="ohm", red="CN2.5", black="CN2.6"), "As it should be"
        )

    def test_faults_are_shown_on_demand(self):
        self.assertNotContains(self.page(function="defrost_heater", mode="normal"), "relay does not open")
        page = self.page(function="defrost_heater", mode="normal", faults="1")
        self.assertContains(page, "relay does not open")
        self.assertContains(page, "Defrost heater: burnt through")

    def test_a_chosen_fault_is_shown_in_every_setup(self):
        page = self.page(function="defrost_heater", mode="normal", faults="1", fault="thermal_fuse:open")
        self.assertContains(page, "Faulty: Thermal fuse: blown.")
        self.assertContains(page, "106 V")
        self.assertContains(self.page(function="defrost_heater", fault="nothing:such"), "Should read")

    def test_everything_that_runs_in_a_mode_is_lit(self):
        lit = self.page(mode="normal", whole="1", working="1").content.count(b"wire-case lit")
        self.assertGreater(
            lit, self.page(mode="cut_out", whole="1", working="1").content.count(b"wire-case lit")
        )
        self.assertGreater(lit, self.page(mode="normal", whole="1").content.count(b"wire-case lit"))

    def test_the_circuit_is_a_deck_to_download(self):
        answer = self.client.get(
            reverse("calls:trace_deck", args=[self.call.pk]),
            {"function": "defrost_heater", "mode": "normal", "fault": "thermal_fuse:open"},
        )
        self.assertIn(b"* node", answer.content)
        self.assertIn(b"let reading = mag(", answer.content)
        self.assertEqual(
            self.client.get(reverse("calls:trace_deck", args=[self.call.pk]), {"red": "CN2.77"}).status_code,
            404,
        )

    def test_a_sheet_without_a_harness_says_so_everywhere(self):
        data = json.loads(fixtures.document("tarnbeck-tb-34"))
        for name in ("harness", "boards", "supplies"):
            data.pop(name)
        data["connectors"] = []
        for place in data["places"]:
            for step in place.get("steps", []):
                step.pop("plugs", None)
        for sensor in data["sensors"]:
            sensor.pop("pins")
        call = fixtures.call(
            publish_revision(json.dumps(data), User.objects.get(role="lead")).revision, self.user
        )
        self.assertContains(self.page(call=call), "has no harness yet")
        for stage in ("call", "look", "decode", "open", "probe", "close"):
            self.assertEqual(self.page(stage, call=call).status_code, 200)

    def test_a_point_that_is_not_there_is_told_and_the_page_still_works(self):
        page = self.page(function="defrost_heater", mode="normal", red="CN2.99")
        self.assertContains(page, "There is no point “CN2.99”")
        self.assertContains(page, "Should read")

    def test_the_picture_is_a_file_of_its_own(self):
        for query in ({"function": "defrost_heater", "mode": "defrost"}, {"whole": "1"}):
            answer = self.client.get(reverse("calls:trace_svg", args=[self.call.pk]), query)
            root = ET.fromstring(answer.content)
            self.assertTrue(root.tag.endswith("svg"))
            self.assertNotIn(b"href", answer.content)
            self.assertIn(b"red", answer.content)


class Readings(TraceCase):
    def test_a_reading_goes_on_the_tape_with_its_setup(self):
        self.put(PowerSet("power_set", "live"))
        answer = self.post(**READING, value="104vac", query="?function=defrost_heater&mode=normal")
        self.assertRedirects(
            answer,
            reverse("calls:stage", args=[self.call.pk, "trace"]) + "?function=defrost_heater&mode=normal",
        )
        (body,) = self.bodies("reading")
        self.assertEqual(
            (body.red, body.black, body.meter, body.mode, body.value.value),
            ("CN2.5", "CN2.6", "vac", "normal", 104),
        )
        page = self.page(function="defrost_heater", mode="normal")
        self.assertContains(page, "phantom")
        self.assertContains(page, "mark-on-line")
        self.assertContains(page, "Thermal fuse: blown")
        self.assertContains(page, "Now the low-impedance reading")

    def test_volts_with_the_plug_out_are_asked_about_and_the_answer_sets_the_power(self):
        self.put(PowerSet("power_set", "unplugged"))
        asked = self.post(**READING, value="104vac")
        self.assertContains(asked, "Was the plug in?", status_code=422)
        self.assertContains(asked, "104vac", status_code=422)
        self.assertEqual(self.bodies("reading"), [])
        self.post(**READING, value="104vac", set_power="live")
        self.assertEqual([body.state for body in self.bodies("power_set")], ["unplugged", "live"])
        self.assertEqual(len(self.bodies("reading")), 1)

    def test_a_plug_told_pulled_by_its_reading_goes_on_the_tape_too(self):
        self.put(PowerSet("power_set", "unplugged"))
        given = {
            **READING,
            "red": "CN3.5",
            "black": "CN3.6",
            "meter": "ohm",
            "mode": "off_cold",
            "function": "defrost_sensor",
        }
        asked = self.post(**given, value="49.4k")
        self.assertContains(asked, "fits CN3 pulled", status_code=422)
        self.post(**{**given, "pulled": "CN3"}, value="49.4k")
        self.assertEqual(
            [(body.connector, body.state) for body in self.bodies("plug_moved")], [("CN3", "pulled")]
        )
        self.assertEqual(self.bodies("reading")[0].pulled, ("CN3",))

    def test_nothing_typed_and_nonsense_are_told_and_keep_what_was_typed(self):
        self.put(PowerSet("power_set", "live"))
        self.assertContains(self.post(**READING, value=""), "required", status_code=422)
        self.assertContains(self.post(**READING, value="lots"), "lots", status_code=422)
        self.assertContains(
            self.post(**{**READING, "red": "CN2.77"}, value="3V"),
            "There is no point “CN2.77”",
            status_code=422,
        )
        self.assertEqual(self.bodies("reading"), [])

    def test_a_reading_is_corrected_with_its_setup_kept(self):
        self.put(PowerSet("power_set", "live"))
        self.post(**READING, value="104vac")
        slip = Slip.objects.get(call=self.call, kind="reading")
        address = reverse("calls:correct", args=[self.call.pk, slip.pk])
        self.assertContains(self.client.get(address), "104vac")
        self.client.post(address, {**READING, "slip_id": str(uuid.uuid4()), "value": "0.1V"})
        self.assertEqual([body.value.value for body in self.bodies("reading")], [104, 0.1])


class ModesAndPlugs(TraceCase):
    def test_a_mode_is_entered_counts_down_and_is_left_and_its_output_asked_for_again(self):
        self.put(PowerSet("power_set", "live"))
        page = self.page(function="defrost_heater", mode="defrost")
        self.assertContains(page, "then hold ▼ for 3 s")
        self.post(kind="mode_set", mode="defrost", state="entered")
        page = self.page(function="defrost_heater")
        self.assertContains(page, "Forced defrost (now)")
        self.assertContains(page, "data-until=")
        self.put(
            ReadingTaken(
                "reading",
                "vac",
                _volts(230),
                "CN2.5",
                "CN2.6",
                function="defrost_heater",
                mode="defrost",
                pulled=(),
            )
        )
        self.post(kind="mode_set", mode="defrost", state="left")
        page = self.page(function="defrost_heater")
        self.assertContains(page, "Read CN2.5 to CN2.6 again.")
        self.assertNotContains(page, "data-until=")

    def test_plugs_are_pulled_with_one_tap_and_the_readings_follow(self):
        self.put(PowerSet("power_set", "unplugged"))
        self.post(kind="plug_moved", connector="CN7", state="pulled")
        page = self.page(function="defrost_heater", mode="off_cold", red="CN2.5", black="CN2.6")
        self.assertContains(page, "CN7 pulled")
        self.assertContains(page, "Plug out, still cold, CN7 pulled")
        self.assertContains(page, "OL")


class WayIn(TraceCase):
    def test_steps_are_ticked_off_with_counts_and_come_back_in_reverse(self):
        self.put(PowerSet("power_set", "unplugged"))
        page = self.page("open", place="evaporator")
        self.assertContains(page, "Take out three drawers")
        for step, counted in ((0, ""), (1, "4"), (2, "")):
            self.post(
                "open",
                "?place=evaporator",
                kind="step_done",
                place="evaporator",
                step=step,
                state="opened",
                counted=counted,
            )
        page = self.page("open", place="evaporator")
        self.assertContains(page, "4 out")
        text = fixtures.shown(page).content.decode()
        self.assertLess(text.index("Reverse: ease the cover"), text.index("Reverse: take out three drawers"))
        self.assertContains(self.page(function="evaporator_fan"), "CN7 pulled")
        self.post("open", kind="step_done", place="evaporator", step=2, state="closed", counted="")
        self.post("open", kind="step_done", place="evaporator", step=1, state="closed", counted="3")
        self.assertContains(self.page("open"), "1 left over")
        self.assertContains(self.page("close"), "1 left over")
        self.assertEqual([body.counted for body in self.bodies("step_done")], [None, 4, None, None, 3])

    def test_the_cautions_of_taking_apart_stand_there(self):
        self.assertContains(self.page("open"), "fan blades and fins cut")
        self.assertNotContains(self.page("open"), "close its supply")
        with_water = fixtures.call(
            fixtures.publish("pellworth-pw-27", User.objects.get(role="lead")), self.user
        )
        page = self.client.get(reverse("calls:stage", args=[with_water.pk, "open"]))
        self.assertContains(page, "close its supply before you pull the unit")

    def test_a_step_that_is_not_there_is_refused(self):
        self.assertContains(
            self.post("open", kind="step_done", place="evaporator", step=9, state="opened"),
            "no step 10",
            status_code=422,
        )
        self.assertEqual(self.bodies("step_done"), [])

    def test_a_cover_taken_off_while_live_is_asked_about_first(self):
        self.put(PowerSet("power_set", "live"))
        step = {"kind": "step_done", "place": "evaporator", "step": 1, "state": "opened", "counted": "4"}
        asked = self.post("open", "?place=evaporator", **step)
        self.assertContains(asked, "covers come off with the plug out", status_code=422)
        self.assertContains(asked, 'name="counted" value="4"', status_code=422)
        self.assertEqual(self.bodies("step_done"), [])
        self.post("open", **step, set_power="unplugged")
        self.assertEqual([body.counted for body in self.bodies("step_done")], [4])
        self.assertEqual([body.state for body in self.bodies("power_set")], ["live", "unplugged"])
        self.assertContains(self.post("open", kind="power_set", state="live"), "stands open", status_code=422)
        self.post("open", kind="power_set", state="live", keep="live_open")
        self.assertEqual([body.state for body in self.bodies("power_set")][-1], "live")

    def test_closing_shows_what_is_still_open(self):
        self.put(PowerSet("power_set", "unplugged"))
        self.put(StepDone("step_done", "damper_duct", 1, "opened"))
        self.put(PlugMoved("plug_moved", "CN4", "pulled"))
        page = self.page("close")
        self.assertContains(page, "Plug CN4 in again")
        self.assertContains(page, "plug CN8 in")


def _volts(value):
    return parse(f"{value}V", Dimension.VOLTAGE)
