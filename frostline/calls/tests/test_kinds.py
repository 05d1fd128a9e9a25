"""Calls on units nobody has described: begun from a kind, learned on, kept, moved to a better sheet."""

import uuid

from django.urls import reverse

from frostcore.quantity import Dimension, parse
from frostcore.tape.entries import PlateRead, PowerSet, ReadingTaken
from frostcore.tape.learned import PinsLearned
from frostline.calls.actions.record_slip import NewSlip, Recorded, record_slip
from frostline.calls.models import Call
from frostline.calls.tapes import standing_of
from frostline.sheets.actions.shelve_kinds import shelve_kinds
from frostline.sheets.models import Draft, Revision
from frostline.tests import fixtures


class KindCase(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        shelve_kinds()

    def setUp(self):
        self.client.force_login(self.technician)

    def begin(self, plate="Norwick NX-300 120V 60Hz R600a 62g", slug="kind-bottom-freezer", **more):
        kind = Revision.objects.get(sheet__slug=slug)
        data = {"slip_id": uuid.uuid4(), "revision": kind.pk, "plate": plate, "complaint": "warm"} | more
        return self.client.post(reverse("calls:new_kind"), data)

    def call(self, **more):
        self.begin(**more)
        return Call.objects.latest("number")

    def post(self, call, stage, **data):
        address = reverse("calls:stage", args=[call.pk, stage])
        return self.client.post(address, {"slip_id": uuid.uuid4(), **data}, follow=True)


class Narrowing(KindCase):
    def test_the_kind_is_narrowed_by_what_is_seen_and_the_call_moves(self):
        call = self.call()
        address = reverse("calls:move", args=[call.pk])
        page = self.client.get(address)
        self.assertContains(page, "Which kind is it?")
        self.assertContains(page, "look for this first", count=1)
        page = self.client.get(
            address, {"second_coil": "yes", "inverter": "yes", "dispenser": "no", "x": "yes"}
        )
        first = page.context["narrowed"].kinds[0]
        self.assertEqual(first[0].sheet.slug, "kind-dual-evaporator")
        self.assertContains(page, f"?to={first[0].pk}")
        chosen = self.client.get(address, {"to": first[0].pk})
        self.assertContains(chosen, "From here on")

    def test_three_windings_alike_on_a_kind_without_inverter_ask_which_kind_it_is(self):
        call = self.call()
        unplugged = PowerSet("power_set", "unplugged")
        record_slip(call, NewSlip(uuid.uuid4(), unplugged), self.technician)
        pairs = (("run", "common", "9.1"), ("start", "common", "9.0"), ("run", "start", "9.2"))
        for red, black, ohms in pairs:
            body = ReadingTaken(
                "reading",
                "ohm",
                parse(f"{ohms} Ω", Dimension.RESISTANCE),
                f"compressor.{red}",
                f"compressor.{black}",
                pulled=("Compressor",),
            )
            self.assertIsInstance(record_slip(call, NewSlip(uuid.uuid4(), body), self.technician), Recorded)
        page = self.client.get(reverse("calls:now", args=[call.pk]))
        self.assertContains(page, "another kind of unit")
        page = self.client.get(reverse("calls:move", args=[call.pk]))
        self.assertContains(page, "yes, by what was read")
        kinds = {kind.sheet.slug: chance for kind, chance, _ in page.context["narrowed"].kinds}
        self.assertEqual(set(kinds), {"kind-dual-evaporator", "kind-side-by-side"})


class Taking(KindCase):
    def test_three_fields_open_a_call(self):
        call = self.call()
        standing = standing_of(call)
        self.assertTrue(standing.unit.startswith("Norwick NX-300 (two doors, one coil"))
        self.assertEqual(standing.sheet.plate.mains_volts, 120.0)
        self.assertEqual(standing.latest(PlateRead).charge_grams, 62.0)
        self.assertEqual(standing.flammable, "R600a")
        page = self.client.get(reverse("calls:now", args=[call.pk]))
        self.assertContains(page, "by what is usual for its kind")
        self.assertContains(page, "Customer not told")

    def test_every_kind_is_shown_with_its_picture(self):
        page = self.client.get(reverse("calls:new_kind"))
        self.assertContains(page, 'class="kind-picture"', count=9)

    def test_nothing_chosen_or_typed_says_what_to_do(self):
        page = self.client.post(reverse("calls:new_kind"), {"slip_id": uuid.uuid4()})
        for words in ("Tap the kind of unit", "Type maker and model"):
            self.assertContains(page, words, status_code=422)

    def test_what_is_understood_of_the_plate_is_shown_as_it_is_typed(self):
        page = self.client.get(reverse("calls:plate"), {"plate": "KX-12 220-240V R600a"})
        self.assertContains(page, "KX-12; 230 V, R600a")

    def test_kinds_stand_apart_from_sheets(self):
        self.assertNotContains(self.client.get(reverse("sheets:library")), "Generic")
        self.assertNotContains(self.client.get(reverse("calls:new")), "Generic")


class Learning(KindCase):
    def pins(self, call, **more):
        data = {
            "kind": "pins_learned",
            "red_point": "DefrostHeater.1",
            "red_printed": "CN2-5",
            "red_colour": "brown",
            "black_point": "DefrostHeater.2",
            "black_printed": "CN2-6",
            "black_colour": "blue",
        }
        return self.post(call, "trace", **(data | more))

    def test_pins_are_called_as_printed_once_they_are_read(self):
        call = self.call()
        before = self.client.get(reverse("calls:stage", args=[call.pk, "trace"]) + "?function=defrost_heater")
        self.assertContains(before, "Defrost heater’s feed at the board")
        self.assertContains(before, "usual for its kind")
        self.pins(call)
        after = self.client.get(reverse("calls:stage", args=[call.pk, "trace"]) + "?function=defrost_heater")
        self.assertContains(after, "CN2-5")
        self.assertNotContains(after, "Defrost heater’s feed at the board")

    def test_nothing_typed_is_told(self):
        page = self.pins(self.call(), red_printed="", red_colour="", black_printed="", black_colour="")
        self.assertContains(page, "Type what is printed at a pin", status_code=422)

    def test_a_code_is_added_by_its_papers_words_and_asked_about_where_they_tell_nothing(self):
        call = self.call()
        code = {"kind": "code_learned", "shown": "d3", "rule": ""}
        page = self.post(call, "decode", **code, meaning="The weather")
        self.assertContains(page, "does not say what the board detected", status_code=422)
        self.post(call, "decode", **code, meaning="Defrost sensor open")
        self.assertEqual([item.id for item in standing_of(call).sheet.codes], ["d3"])

    def test_a_slip_of_what_was_learned_is_corrected(self):
        call = self.call()
        self.pins(call)
        slip = next(s for s in standing_of(call).slips if isinstance(s.entry.body, PinsLearned))
        page = self.client.get(reverse("calls:correct", args=[call.pk, slip.entry.id]))
        self.assertContains(page, "CN2-5")

    def test_what_was_learned_begins_a_draft_for_the_next_unit(self):
        call = self.call()
        self.pins(call)
        self.client.post(reverse("calls:keep", args=[call.pk]))
        draft = Draft.objects.get()
        self.assertEqual(str(draft), "Norwick NX-300")
        page = self.client.get(draft.get_absolute_url() + "?section=plugs")
        self.assertContains(page, "CN2-5")
        self.assertContains(page, "brown")


class Moving(KindCase):
    def test_trying_shows_what_would_change_before_it_counts(self):
        call = self.call(plate="Tarnbeck TB-34 230V 50Hz")
        self.post(call, "look", kind="power_set", state="unplugged")
        reading = {"kind": "reading", "meter": "ohm", "value": "OL", "mode": "off_cold"}
        self.post(
            call,
            "trace",
            **reading,
            red="DefrostHeater.1",
            black="DefrostHeater.2",
            function="defrost_heater",
        )
        address = reverse("calls:move", args=[call.pk])
        self.assertContains(self.client.get(address), "Tarnbeck TB-34")
        page = self.client.get(address, {"to": self.revision.pk})
        self.assertContains(page, "Readings that move along")
        self.assertTrue(standing_of(call).sheet.generic)
        self.client.post(address, {"to": self.revision.pk, "slip_id": uuid.uuid4()})
        standing = standing_of(call)
        self.assertEqual(standing.sheet.title, "Tarnbeck TB-34")
        page = self.client.get(reverse("calls:now", args=[call.pk]))
        self.assertContains(page, "Another sheet")
