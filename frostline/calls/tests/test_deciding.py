"""Courses on the page of a call, and what the workshop reckons with."""

import uuid

from django.urls import reverse

from frostcore.diagnosis.readings import readings_of
from frostcore.quantity import Dimension, parse
from frostcore.remedy.plans.proposed import proposals
from frostcore.remedy.rates import Rates
from frostcore.remedy.stock import read_stock
from frostcore.tape.entries import (
    CodeSeen,
    Observed,
    PartFitted,
    PartTried,
    PlugMoved,
    PowerSet,
    ReadingTaken,
    Rewired,
    StepDone,
    TemperatureTaken,
)
from frostcore.tape.ran import RunLogged
from frostcore.tape.take import Answers, question_id
from frostline.accounts.models import User
from frostline.calls.actions.record_slip import NewSlip, Recorded, record_slip
from frostline.calls.deciding import FIELDS, rates_now
from frostline.calls.models import WorkshopRates
from frostline.calls.stock import stock_now
from frostline.calls.tapes import standing_of
from frostline.tests import fixtures


class Deciding(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.lead = User.objects.get(role="lead")
        cls.call = fixtures.call(cls.revision, cls.technician)
        readings_of(cls.revision.content).prepare()

    def setUp(self):
        self.client.force_login(self.technician)

    def page(self):
        return self.client.get(reverse("calls:stage", args=[self.call.pk, "close"]))

    def test_what_if_is_reckoned_for_the_page_and_never_kept(self):
        address = reverse("calls:stage", args=[self.call.pk, "close"])
        stop = [
            each
            for each in self.client.get(address, {"stop": "33"}).context["courses"].courses
            if each.title == "Give it up"
        ]
        self.assertIn("33", stop[0].expected)
        self.assertEqual(rates_now(), Rates())
        page = self.client.get(address, {"stop": "-4"})
        self.assertContains(page, "greater than or equal to 0")

    def said(self, **rates):
        told = {name: getattr(Rates(), name) for name, _ in FIELDS} | rates
        self.client.force_login(self.lead)
        answer = self.client.post(reverse("calls:rates"), told, follow=True)
        self.client.force_login(self.technician)
        return answer

    def test_courses_stand_with_figures_and_reasons_the_cheapest_first(self):
        for body in (
            PowerSet("power_set", "unplugged"),
            ReadingTaken(
                "reading", "ohm", parse("41 Ω", Dimension.RESISTANCE), "CN2.5", "CN2.6", mode="off_cold"
            ),
        ):
            record_slip(self.call, NewSlip(uuid.uuid4(), body), self.technician)
        page = self.page()
        courses = page.context["courses"].courses
        figures = [float(course.expected.split()[-1].replace(",", "")) for course in courses]
        self.assertEqual(figures, sorted(figures))
        self.assertTrue(all(course.why for course in courses))
        self.assertContains(page, "Give it up")
        self.assertContains(page, "What a working unit of this age is worth.")
        self.assertNotContains(page, "What we reckon with")  # a lead's

    def test_what_a_lead_says_counts_from_then_on_and_is_kept(self):
        self.assertContains(self.said(stop="5"), "From now on")
        self.assertEqual(rates_now(), Rates(stop=5.0))
        first = self.page().context["courses"].courses[0]
        self.assertEqual(first.title, "Give it up")
        self.assertContains(self.page(), "costs more than a working unit of this age is worth")
        self.said(hour="90")
        self.assertEqual((rates_now().hour, WorkshopRates.objects.count()), (90.0, 2))

    def test_rates_of_nothing_are_reckoned_with_too(self):
        self.said(**{name: "0" for name, _ in FIELDS})
        self.assertEqual(self.page().context["courses"].courses[0].expected.split()[-1], "0")
        self.said(stop="0")
        self.assertEqual(self.page().context["courses"].courses[0].title, "Give it up")

    def test_a_rate_that_is_none_is_told_at_its_field_and_nothing_is_kept(self):
        for rates in ({"hour": "x"}, {"stop": "-1"}, {"restocking": "3"}, {"travel": "1e400"}, {"hour": ""}):
            self.assertEqual(self.said(**rates).status_code, 422)
        self.assertFalse(WorkshopRates.objects.exists())

    def test_a_technician_does_not_say_rates_and_old_ones_that_can_t_be_read_are_usual(self):
        self.assertEqual(self.client.get(reverse("calls:rates")).status_code, 403)
        WorkshopRates(rates={"our": 1}, at=self.call.opened_at, by=self.lead).save()
        self.assertEqual(rates_now(), Rates())


class Fitting(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)
        readings_of(cls.revision.content).prepare()

    def setUp(self):
        self.client.force_login(self.technician)

    def fit(self, component, **more):
        data = {"kind": "part_fitted", "slip_id": uuid.uuid4(), "component": component, "helped": ""}
        return self.client.post(reverse("calls:stage", args=[self.call.pk, "close"]), data | more)

    def fitted(self):
        bodies = (slip.entry.body for slip in standing_of(self.call).effective)
        return [body.component for body in bodies if isinstance(body, PartFitted)]

    def test_a_board_is_not_fitted_onto_the_load_that_killed_it_without_a_word(self):
        shorted = ReadingTaken(
            "reading",
            "ohm",
            parse("0.5 Ω", Dimension.RESISTANCE),
            "CN4.1",
            "CN4.2",
            mode="off_cold",
            pulled=("CN4",),
        )
        for body in (PowerSet("power_set", "unplugged"), shorted):
            record_slip(self.call, NewSlip(uuid.uuid4(), body), self.technician)
        shown = self.fit("board")
        self.assertContains(
            shown, "a bad evaporator fan killed it, and kills the new one too", status_code=422
        )
        self.assertContains(shown, "Put it on the tape all the same", status_code=422)
        self.assertEqual(self.fitted(), [])
        self.fit("board", keep="killed_by")
        self.assertEqual(self.fitted(), ["board"])

    def test_with_the_load_changed_too_nothing_is_asked(self):
        self.fit("evaporator_fan")
        self.fit("board")
        self.assertEqual(self.fitted(), ["evaporator_fan", "board"])

    def test_what_is_changed_with_a_part_is_asked_about_until_it_is(self):
        shown = self.fit("compressor")
        self.assertContains(shown, "are changed with it. Was that done?", status_code=422)
        self.assertEqual(self.fitted(), [])
        self.fit("start_ptc")
        self.fit("overload")
        self.fit("compressor")
        self.assertEqual(self.fitted(), ["start_ptc", "overload", "compressor"])


class Ending(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)
        readings_of(cls.revision.content).prepare()

    def setUp(self):
        self.client.force_login(self.technician)

    def put(self, *bodies):
        for body in bodies:
            self.assertIsInstance(
                record_slip(self.call, NewSlip(uuid.uuid4(), body), self.technician), Recorded
            )

    def close(self, result="repaired", **more):
        data = {"kind": "outcome", "slip_id": uuid.uuid4(), "result": result, "done": "Mended."}
        return self.client.post(reverse("calls:stage", args=[self.call.pk, "close"]), data | more)

    def asked(self, *told, **more):
        shown = self.close(**more)
        for words in told:
            self.assertContains(shown, words, status_code=422)
        self.assertIsNone(standing_of(self.call).outcome)

    def test_a_screw_left_over_and_a_place_left_open_are_asked_about(self):
        place = next(
            place for place in self.revision.content.places if place.steps and place.steps[0].fasteners
        )
        screws = place.steps[0].fasteners
        self.put(
            PowerSet("power_set", "unplugged"),
            StepDone("step_done", place.id, 0, "opened", screws),
            StepDone("step_done", place.id, 0, "closed", screws - 1),
            PlugMoved("plug_moved", "CN4", "pulled"),
            PartFitted("part_fitted", "fridge_lamp"),
            TemperatureTaken("temperature_taken", "fridge", parse("5 °C", Dimension.TEMPERATURE)),
        )
        self.asked("1 left over", "Not put back yet", "CN4")

    def test_live_with_the_unit_open_and_a_part_that_did_not_help_before_are_asked_about(self):
        place = next(place for place in self.revision.content.places if place.steps)
        self.put(
            PowerSet("power_set", "unplugged"),
            StepDone("step_done", place.id, 0, "opened"),
        )
        live = PowerSet("power_set", "live")
        asked = record_slip(self.call, NewSlip(uuid.uuid4(), live), self.technician)
        kept = Answers(tuple(question_id(each) for each in asked.questions))
        record_slip(self.call, NewSlip(uuid.uuid4(), live, kept), self.technician)
        self.put(
            PartTried("part_tried", "evaporator_fan", "no"),
            PartFitted("part_fitted", "evaporator_fan"),
        )
        self.asked("LIVE, with the unit open", "did not help before", cause="evaporator_fan")

    def test_a_wiring_changed_is_work_and_wants_its_proof(self):
        plan = next(each for each in proposals(self.revision.content, ["board"], "").plans)
        self.put(Rewired("rewired", "done", plan, "A. Fell"))
        self.asked("Nothing was read since the work")

    def test_a_tick_is_no_proof_and_what_was_read_since_the_work_is(self):
        self.asked("Nothing is on the tape as fitted, mended or put right")
        self.put(PartFitted("part_fitted", "fridge_lamp"))
        self.asked("Nothing was read since the work")
        self.asked(
            "Ticked, and nothing on the tape shows it", "reached set-point", proofs=["cycled_off", "off_draw"]
        )
        self.put(TemperatureTaken("temperature_taken", "fridge", parse("5 °C", Dimension.TEMPERATURE)))
        self.asked("power draw when off", proofs=["cycled_off", "off_draw"])
        self.close(proofs=["cycled_off"])
        self.assertEqual(standing_of(self.call).outcome.result, "repaired")

    def ran(self, digest="ab", **found):
        return RunLogged("run_logged", digest * 32, "night.csv", {"Probe": "freezer"}, found=found)

    def test_a_run_since_the_work_bears_it_out_or_is_against_it(self):
        before = self.ran(cuts_out="never")
        self.put(before, PartFitted("part_fitted", "fridge_lamp"))
        self.asked("Nothing was read since the work")
        # The same file read anew is not a run since.
        self.put(self.ran(cuts_out="never", defrosts="no"))
        self.asked("Nothing was read since the work")
        self.put(self.ran("cd", cuts_out="never", defrosts="yes", defrost_endless="no"))
        self.asked("The run “night.csv” is against it: it does not cut out.", proofs=["defrost_ended"])
        self.asked("Ticked, and nothing on the tape shows it", "reached set-point", proofs=["cycled_off"])
        self.put(
            self.ran("ef", cuts_out="yes", defrosts="yes", defrost_endless="no", **{"holds:freezer": "yes"})
        )
        self.close(proofs=["cycled_off", "defrost_ended"])
        self.assertEqual(standing_of(self.call).outcome.result, "repaired")

    def test_a_code_seen_since_the_work_does_not_bear_out_that_it_stayed_away(self):
        self.put(PartFitted("part_fitted", "fridge_lamp"), CodeSeen("code_seen", "E5", code="E5"))
        self.asked("Ticked, and nothing on the tape shows it", "the code stayed away", proofs=["code_away"])
        self.put(Observed("observed", "display", "dead"))
        self.asked("the code stayed away", proofs=["code_away"])
        self.put(Observed("observed", "display", "normal"))
        self.close(proofs=["code_away"])
        self.assertEqual(standing_of(self.call).outcome.result, "repaired")

    def test_it_can_be_closed_all_the_same_and_a_stop_is_not_asked_for_proofs(self):
        self.close(result="stopped")
        self.assertEqual(standing_of(self.call).outcome.result, "stopped")

    def test_closed_all_the_same(self):
        self.asked("Nothing is on the tape")
        self.close(keep="left_open")
        self.assertEqual(standing_of(self.call).outcome.result, "repaired")


class Shelf(fixtures.PageCase):
    TABLE = "number;kind;name;count;price;shelf;ohms;volts\nH-240;heater;Heater;2;29;B2;245;230\n"

    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.lead = User.objects.get(role="lead")

    def put(self, text):
        return self.client.post(reverse("calls:stock"), {"text": text})

    def test_a_lead_says_what_is_there_and_takes_it_out_again(self):
        self.client.force_login(self.lead)
        self.assertEqual(self.put(self.TABLE).status_code, 302)
        self.assertEqual(stock_now()[0].number, "H-240")
        page = self.client.get(reverse("calls:stock"))
        self.assertContains(page, "H-240")
        table = self.client.get(reverse("calls:stock_csv")).content.decode()
        self.assertEqual(read_stock(table), stock_now())

    def test_a_table_that_is_none_is_told_by_its_lines_stays_typed_and_changes_nothing(self):
        self.client.force_login(self.lead)
        self.put(self.TABLE)
        bad = self.TABLE.replace("heater", "boiler")
        page = self.put(bad)
        self.assertContains(page, "line 2: kind “boiler”", status_code=422)
        self.assertEqual(page.context["form"]["text"].value(), bad)
        self.assertEqual(stock_now()[0].number, "H-240")

    def test_a_technician_may_not(self):
        self.client.force_login(self.technician)
        self.assertEqual(self.put(self.TABLE).status_code, 403)
        self.assertEqual(stock_now(), ())
