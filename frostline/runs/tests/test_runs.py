"""Runs on a call: a file kept, shown as understood, counted, judged; nonsense told and nothing lost."""

import html
import re
import uuid
from datetime import timedelta
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from frostcore.diagnosis.evidence import Ran
from frostcore.diagnosis.from_tape import evidence_from
from frostcore.diagnosis.judge import judge
from frostcore.quantity import Dimension, parse
from frostcore.tape.entries import Attached, PartFitted, TemperatureTaken
from frostcore.tape.ran import RunLogged
from frostcore.tape.ran_words import runs_of
from frostcore.tests.test_thermal_runs import run_of, text_of
from frostcore.thermal.faults import Broken
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.tapes import standing_of
from frostline.tests import fixtures
from frostline.ui.stored import path_of


class Runs(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)
        cls.sound = text_of(run_of())
        cls.welded = text_of(run_of(Broken(runs_on=frozenset({"compressor"}))))

    def setUp(self):
        self.client.force_login(self.technician)
        self.address = reverse("runs:runs", args=[self.call.pk])

    def send(self, text, name="kitchen.csv"):
        content = text if isinstance(text, bytes) else text.encode()
        file = SimpleUploadedFile(name, content, "text/csv")
        return self.client.post(self.address, {"slip_id": uuid.uuid4(), "file": file, "rows": ""})

    def counted(self, text, **columns):
        sent = self.send(text)
        page = self.client.get(sent.url)
        form = page.context["form"]
        chosen = {name: form[name].initial for name in form.names} | columns
        return self.client.post(sent.url, chosen | {"slip_id": uuid.uuid4(), "room": "23"})

    def standing(self):
        return standing_of(self.call)

    def test_a_file_is_kept_and_shown_before_it_counts(self):
        sent = self.send(self.sound)
        page = self.client.get(sent.url)
        self.assertContains(page, "1441 rows over 24.0 hours")
        self.assertContains(page, "celsius freezer °C")
        self.assertEqual(page.context["form"]["column_1"].value(), "freezer")
        self.assertEqual(self.standing().all_of(RunLogged), ())
        kept = self.standing().all_of(Attached)[0]
        self.assertEqual(path_of(kept.digest).read_bytes(), self.sound.encode())
        self.assertContains(self.client.get(self.address), "Kept, not counted yet")

    def test_counted_it_is_judged_drawn_and_on_the_tape(self):
        done = self.counted(self.sound)
        page = self.client.get(done.url)
        self.assertContains(page, "Proved: it comes to its settings")
        self.assertContains(page, "Freezer compartment: comes to its setting")
        self.assertEqual(len(page.context["picture"].lines), 4)
        self.assertContains(page, "heater on")
        run = self.standing().all_of(RunLogged)[0]
        self.assertEqual(run.room.number, 23.0)
        self.assertContains(self.client.get(self.address), "Proved: it comes to its settings")
        self.assertContains(page, "A run logged")

    def test_one_that_never_stops_is_not_proved_and_names_no_part(self):
        page = self.client.get(self.counted(self.welded).url)
        self.assertContains(
            page, "Not proved: a compartment does not keep its setting and it does not cut out."
        )
        self.assertNotContains(page, "relay welded")
        run = self.standing().all_of(RunLogged)[0]
        self.assertEqual((run.found["cuts_out"], run.found["holds:freezer"]), ("never", "cold"))
        evidence = [item for item, _ in evidence_from(self.standing())]
        self.assertIn(Ran(tuple(sorted(run.found.items()))), evidence)
        found = judge(self.standing().sheet, evidence)
        place = found.weigher.known.place["board:welded:k_compressor"]
        self.assertGreater(found.posterior.chances[place], found.weigher.prior[place])

    def test_one_that_is_still_falling_is_foretold(self):
        done = self.counted(text_of(run_of(days=1), first=0, last=3 * 3600))
        page = self.client.get(done.url)
        self.assertEqual(page.context["falling"], ["fridge", "freezer"])
        with patch("frostline.runs.ensembles.MEMBERS", 70), patch("frostline.runs.ensembles.FAULTY", 10):
            told = self.client.get(f"{done.url}coming/")
        self.assertContains(told, "Freezer compartment")
        self.assertContains(told, "At its setting in about")
        self.assertEqual(len(told.context["picture"].fans), 2)
        # The log begins at midnight by its own clock, 2026-01-01, and three hours of it were seen.
        name, forecast, moments = told.context["forecasts"][1]
        self.assertEqual(name, "Freezer compartment")
        begun = told.context["picture"] and page.context["log"].begins
        self.assertAlmostEqual((moments[0] - begun).total_seconds() / 60, forecast.median, delta=0.01)
        self.assertContains(told, "at the latest")
        self.assertContains(page, "Watch it until")

    def test_what_was_typed_in_passing_foretells_too(self):
        start, run = timezone.now(), run_of(days=1)
        for minutes in (0, 40, 80, 120):
            celsius = f"{run.of('hung:freezer')[minutes]:.1f} C"
            body = TemperatureTaken("temperature_taken", "freezer", parse(celsius, Dimension.TEMPERATURE))
            moment = start + timedelta(minutes=minutes)
            with patch("django.utils.timezone.now", return_value=moment):
                record_slip(self.call, NewSlip(uuid.uuid4(), body), self.technician)
        page = self.client.get(self.address)
        self.assertContains(page, "Typed on this call")
        self.assertContains(page, "after 120 min")
        with patch("frostline.runs.ensembles.MEMBERS", 70), patch("frostline.runs.ensembles.FAULTY", 10):
            told = self.client.get(reverse("runs:typed", args=[self.call.pk]))
        self.assertContains(told, "At its setting in about")
        other = fixtures.call(self.revision, self.technician)
        self.assertEqual(self.client.get(reverse("runs:typed", args=[other.pk])).status_code, 404)

    def test_what_the_call_asks_for_stands_by_the_newest_run(self):
        address = reverse("runs:further", args=[self.call.pk])
        page = self.client.get(address)
        self.assertContains(page, "No run shows it yet.")
        self.assertContains(page, "Force a defrost and read the watts")
        body = PartFitted("part_fitted", "defrost_heater")
        record_slip(self.call, NewSlip(uuid.uuid4(), body), self.technician)
        self.counted(self.sound)
        page = self.client.get(address)
        self.assertContains(page, "for Defrost heater")
        self.assertContains(page, "The heater was on")
        self.assertTrue(all(verdict.good for _, verdict in page.context["proofs"]))

    def test_a_column_left_out_is_not_told_of(self):
        done = self.counted(self.sound, column_4="-")
        page = self.client.get(done.url)
        self.assertContains(page, "Its temperature came and went")
        self.assertContains(page, "Air does not show them: watts do.")
        self.assertContains(page, "can’t tell")

    def test_two_thermometers_of_one_place_are_judged_by_their_mean_and_two_plugs_are_asked_about(self):
        page = self.client.get(self.counted(self.sound, column_3="freezer").url)
        self.assertContains(page, "of 2 thermometers")
        other = self.sound.replace("seconds,", "seconds,watts (old),", 1).splitlines()
        text = "\n".join([other[0], *(line.replace(",", ",95.0,", 1) for line in other[1:])])
        page = self.counted(text)
        self.assertContains(page, "is of the plug too. Leave one of the two out.", status_code=422)
        self.assertEqual(len(runs_of(self.standing())), 1)

    def test_pasted_rows_count_too(self):
        sent = self.client.post(self.address, {"slip_id": uuid.uuid4(), "rows": self.sound})
        self.assertEqual(self.client.get(sent.url).status_code, 200)

    def test_nonsense_is_told_and_kept(self):
        for text, words in (
            (b"\x00\x01\x02", "No row of heads was found"),
            ("fridge,freezer\n4,-18\n5,-18\n", "No column is a clock"),
            ("device,time,fridge\nA,2026-01-05 08:00,4\nB,2026-01-05 08:00,5\n", "2 devices"),
        ):
            with self.subTest(words):
                page = self.send(text, f"{words}.csv")
                self.assertEqual(page.status_code, 422)
                self.assertContains(page, words, status_code=422)
        self.assertEqual(len(self.standing().all_of(Attached)), 3)
        empty = self.client.post(self.address, {"slip_id": uuid.uuid4(), "rows": ""})
        self.assertContains(empty, "Choose the logger’s file", status_code=422)

    def test_a_file_of_another_call_is_none_of_this(self):
        sent = self.send(self.sound)
        other = fixtures.call(self.revision, self.technician)
        digest = sent.url.split("/")[-3]
        self.assertEqual(self.client.get(reverse("runs:columns", args=[other.pk, digest])).status_code, 404)
        self.assertEqual(self.client.get(reverse("runs:run", args=[self.call.pk, digest])).status_code, 404)

    def test_the_room_is_a_temperature(self):
        sent = self.send(self.sound)
        page = self.client.post(sent.url, {"slip_id": uuid.uuid4(), "room": "warm", "column_0": "fridge"})
        self.assertEqual(page.status_code, 422)

    def test_who_is_not_signed_in_sees_none(self):
        self.client.logout()
        self.assertEqual(self.client.get(self.address).status_code, 302)

    def marked(self, address, at, what, to="", place=""):
        data = {"slip_id": uuid.uuid4(), "at": at, "what": what, "to": to, "place": place}
        return self.client.post(address, data, follow=True)

    def test_what_was_set_on_the_way_is_a_flag_and_parts_the_run(self):
        address = self.counted(self.sound).url
        page = self.marked(address, "12 h", "knob", "-24 C", "freezer")
        self.assertContains(page, "12:00 h")
        self.assertContains(page, "Control set: −24 °C")
        self.assertContains(page, "too warm")
        run = runs_of(self.standing())[0]
        self.assertEqual(run.found["holds:freezer"], "warm")
        evidence = [item for item, _ in evidence_from(self.standing()) if isinstance(item, Ran)]
        self.assertEqual(evidence, [Ran(tuple(sorted(run.found.items())))])
        found = self.client.get(f"{address}compared/")
        rows = [
            cells for _, rows in found.context["groups"] for name, cells in rows if name == "As it should be"
        ]
        self.assertEqual(rows, [["yes", "yes", "–"], ["yes", "no", "–"]])
        self.assertContains(found, "From 12.0 h, control set: −24 °C")
        self.assertContains(found, "A sound one")
        page = self.client.post(f"{address}unset/1/", follow=True)
        self.assertNotContains(page, "12:00 h")
        self.assertEqual(runs_of(self.standing())[0].found["holds:freezer"], "yes")
        self.assertEqual(self.client.post(f"{address}unset/1/").status_code, 404)

    def test_a_screw_turned_on_a_run_is_a_calibration(self):
        address = self.counted(self.sound).url
        self.assertEqual(self.client.get(address).context["by_turns"], "")
        page = self.marked(address, "12 h", "range", "0.5", "")
        link = re.search(r'href="([^"]*calibration[^"]*)"', page.content.decode())[1]
        found = self.client.get(html.unescape(link))
        self.assertContains(found, "One of it does")
        self.assertEqual(found.context["found"].next_turn, 0.0)  # it is where it should be: nothing changed

    def test_a_setting_that_is_none_is_told_and_kept_as_typed(self):
        address = self.counted(self.sound).url
        for at, to, words in (
            ("noon", "", "is no moment of the run"),
            ("40 h", "", "this is after its end"),
            ("3 h", "-20 C", "Say which compartment"),
            ("3 h", "-9999 C", "-9999"),
        ):
            with self.subTest(at=at, to=to):
                page = self.marked(address, at, "knob", to)
                self.assertContains(page, words, status_code=422)
                self.assertContains(page, f'value="{at}"', status_code=422)
        self.assertEqual(runs_of(self.standing())[0].settings, ())

    def test_its_columns_chosen_anew_keep_its_settings(self):
        address = self.counted(self.sound).url
        self.marked(address, "12 h", "defrost")
        self.counted(self.sound, column_4="-")
        runs = runs_of(self.standing())
        self.assertEqual((len(runs), runs[0].settings[0].what), (1, "defrost"))
        self.assertEqual(len(self.client.get(self.address).context["runs"]), 1)

    def test_a_run_beside_another_before_and_after(self):
        before = self.counted(self.welded).url
        after = self.counted(self.sound).url
        digest = before.split("/")[-2]
        page = self.client.get(after, {"beside": digest})
        self.assertEqual(len(page.context["picture"].before), 4)
        found = self.client.get(f"{after}compared/", {"beside": digest})
        self.assertEqual(found.context["heads"], ["kitchen.csv", "This run", "A sound one"])
        rows = {name: cells for _, rows in found.context["groups"] for name, cells in rows}
        self.assertIn(rows["Runs of the time"][0], {"99%", "100%"})
        now, sound = (float(cell.rstrip("%")) for cell in rows["Runs of the time"][1:])
        self.assertAlmostEqual(now, sound, delta=5)
        self.assertEqual(len(self.client.get(after, {"beside": "nonsense"}).context["picture"].before), 0)

    def test_its_rows_come_out_as_understood(self):
        address = self.counted(self.sound.replace("°C", "°F").replace("watts", "watts"), column_3="-").url
        text = self.client.get(f"{address}rows.csv").content.decode()
        head, first = text.splitlines()[:2]
        self.assertEqual(head, "seconds,fridge °C,freezer °C,coil:evaporator °C,plug W")
        sent = self.sound.splitlines()[1].split(",")
        self.assertAlmostEqual(float(first.split(",")[1]), (float(sent[1]) - 32) / 1.8, places=2)
        again = self.counted(text, column_0="fridge").url
        self.assertEqual(self.client.get(again).status_code, 200)
