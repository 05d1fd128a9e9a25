"""Drafts of sheets: several people at once, nothing lost, pasted tables, published or proposed."""

import json
import uuid

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from frostcore import document as documents
from frostcore.sheet.load import load
from frostcore.tests.papers import ENGLISH
from frostline.accounts.models import User
from frostline.sheets.actions.shelve_kinds import shelve_kinds
from frostline.sheets.models import Draft, DraftEdit, Revision, Sheet
from frostline.sheets.tests.test_spreadsheets import workbook
from frostline.tests import fixtures


class DraftCase(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.lead = User.objects.get(role="lead")
        shelve_kinds()

    def setUp(self):
        self.client.force_login(self.technician)

    def begin(self, slug="kind-bottom-freezer"):
        kind = Revision.objects.get(sheet__slug=slug)
        self.client.post(reverse("sheets:drafts"), {"revision": kind.pk})
        return Draft.objects.latest("created_at")

    def edit(self, draft, *edits, section="plate"):
        sent = {"edits": [{"id": str(uuid.uuid4()), "section": section, **edit} for edit in edits]}
        address = reverse("sheets:draft_edit", args=[draft.pk]) + f"?section={section}"
        return self.client.post(address, json.dumps(sent), content_type="application/json")

    def plate(self, draft, **values):
        rows = {row["id"]: row for row in Draft.objects.get(pk=draft.pk).tables["plate"]}
        edits = [
            {
                "op": "cell",
                "row": rows[name]["key"],
                "column": "value",
                "text": text,
                "seen": rows[name].get("value", ""),
            }
            for name, text in values.items()
        ]
        return self.edit(draft, *edits)

    def paste(self, draft, section, text, **more):
        return self.client.post(
            reverse("sheets:draft_paste", args=[draft.pk]), {"section": section, "text": text, **more}
        )

    def whole(self):
        """A draft with every table of the English paper."""
        draft = self.begin()
        self.plate(draft, **ENGLISH["plate"])
        for name in ("codes", "sensors", "plugs", "parts"):
            self.paste(draft, name, ENGLISH[name], take="1")
        draft.refresh_from_db()
        return draft


class Typing(DraftCase):
    def test_a_draft_begins_from_a_kind_with_the_tables_of_a_paper(self):
        draft = self.begin()
        page = self.client.get(draft.get_absolute_url())
        for words in ("Rating plate", "Connectors", "Stated readings", "Maker is not typed yet"):
            self.assertContains(page, words)
        side = self.client.get(reverse("sheets:draft_side", args=[draft.pk]))
        self.assertContains(side, "0 of 3")
        self.assertContains(side, "One more fact")

    def test_each_edit_counts_once_however_often_it_is_sent(self):
        draft = self.begin()
        row = draft.tables["plate"][0]["key"]
        edit = {"id": str(uuid.uuid4()), "section": "plate", "op": "cell", "row": row}
        edit |= {"column": "value", "text": "N"}
        for _ in range(3):
            address = reverse("sheets:draft_edit", args=[draft.pk]) + "?section=plate"
            self.client.post(address, json.dumps({"edits": [edit]}), content_type="application/json")
        draft.refresh_from_db()
        self.assertEqual((draft.version, DraftEdit.objects.count()), (1, 1))
        self.assertEqual(draft.tables["plate"][0]["value"], "N")

    def test_two_people_in_one_cell_lose_neither_text(self):
        draft = self.begin()
        self.plate(draft, maker="Norwick")
        row = draft.tables["plate"][0]["key"]
        mine = {"op": "cell", "row": row, "column": "value", "text": "Nordwick", "seen": ""}
        told = self.edit(draft, mine).json()
        self.assertEqual(told["conflicts"][0]["theirs"], "Norwick")
        self.assertEqual(told["conflicts"][0]["mine"], "Nordwick")
        draft.refresh_from_db()
        self.assertEqual(draft.tables["plate"][0]["value"], "Norwick")

    def test_what_others_typed_is_told_and_nothing_where_nothing_changed(self):
        draft = self.begin()
        address = reverse("sheets:draft_rows", args=[draft.pk]) + "?section=plate"
        self.assertNotIn("rows", self.client.get(f"{address}&seen=0").json())
        self.plate(draft, maker="Norwick")
        told = self.client.get(f"{address}&seen=0").json()
        self.assertEqual(told["rows"][0]["value"], "Norwick")
        self.assertEqual(told["title"], "Norwick")

    def test_nonsense_is_refused_in_words(self):
        draft = self.begin()
        address = reverse("sheets:draft_edit", args=[draft.pk]) + "?section=plate"
        for body in ("", "[]", '{"edits": [1]}', '{"edits": [{"id": "x"}]}', "{" * 5000, '{"edits": 1}'):
            answer = self.client.post(address, body, content_type="application/json")
            self.assertEqual(answer.status_code, 422, body[:20])
            self.assertTrue(answer.json()["problem"])
        missing = reverse("sheets:draft_edit", args=[uuid.uuid4()]) + "?section=plate"
        gone = self.client.post(missing, '{"edits": []}', content_type="application/json")
        self.assertEqual(gone.status_code, 404)

    def test_a_problem_stands_at_its_cell_with_its_cure(self):
        draft = self.whole()
        rows = {row["id"]: row for row in draft.tables["parts"]}
        edits = [
            {"op": "cell", "row": rows["defrost_heater"]["key"], "column": name, "text": text}
            for name, text in (("watts", "200"), ("ohms", "240"))
        ]
        told = self.edit(draft, *edits, section="parts").json()
        (problem,) = [item for item in told["problems"] if item["column"] == "ohms"]
        self.assertEqual(problem["cures"], ["72"])
        page = self.client.get(draft.get_absolute_url() + "?section=parts")
        self.assertContains(page, 'data-grid-cure="72"')


class Pasting(DraftCase):
    def test_what_was_understood_is_shown_before_it_counts(self):
        draft = self.begin()
        page = self.paste(draft, "sensors", ENGLISH["sensors"])
        self.assertContains(page, "Temperatures in °F, resistances in kΩ.")
        self.assertContains(page, "Put 5 rows in")
        draft.refresh_from_db()
        self.assertEqual(draft.tables["sensors"], [])
        self.paste(draft, "sensors", ENGLISH["sensors"], take="1")
        draft.refresh_from_db()
        self.assertEqual([row["ohms"] for row in draft.tables["sensors"]][:2], ["46500", "27600"])

    def test_a_question_is_asked_before_rows_can_be_taken(self):
        draft = self.begin()
        page = self.paste(draft, "sensors", "0 16.33\n25 5.0", take="1")
        self.assertContains(page, "Are the temperatures in °C or °F?")
        draft.refresh_from_db()
        self.assertEqual(draft.tables["sensors"], [])
        answered = {"ask-degrees": "C", "ask-scale": "1000", "take": "1"}
        self.paste(draft, "sensors", "0 16.33\n25 5.0", **answered)
        draft.refresh_from_db()
        self.assertEqual([row["ohms"] for row in draft.tables["sensors"]], ["16330", "5000"])

    def test_an_empty_paste_is_told(self):
        self.assertContains(self.paste(self.begin(), "codes", " "), "Nothing pasted yet", status_code=422)

    def test_a_spreadsheet_is_a_paste_and_a_broken_one_is_told(self):
        draft = self.begin()
        data = workbook(ENGLISH["sensors"])
        page = self.paste(draft, "sensors", "", file=SimpleUploadedFile("t.xlsx", data))
        self.assertContains(page, "Put 5 rows in")
        page = self.paste(draft, "sensors", "", file=SimpleUploadedFile("t.xlsx", data[:300]))
        self.assertContains(page, "The file is damaged", status_code=422)

    def test_markup_in_a_paste_is_text(self):
        draft = self.begin()
        page = self.paste(draft, "codes", "Code\tMeaning\nE1\t<script>alert(1)</script>")
        self.assertNotContains(page, "<script>alert(1)")


class Publishing(DraftCase):
    def test_the_paper_pasted_is_published_by_a_lead_and_exported_as_it_is(self):
        draft = self.whole()
        exported = self.client.get(reverse("sheets:draft_document", args=[draft.pk])).content.decode()
        self.client.force_login(self.lead)
        self.client.post(reverse("sheets:draft_publish", args=[draft.pk]), {"note": "from the paper"})
        draft.refresh_from_db()
        revision = draft.published
        self.assertEqual((draft.state, revision.number), ("published", 1))
        self.assertEqual(revision.sheet.slug, "norwick-nx-300")
        self.assertEqual(revision.note, "from the paper")
        self.assertEqual(load(exported).sheet.components, revision.content.components)
        shown = self.client.get(reverse("sheets:document", args=["norwick-nx-300", 1]))
        self.assertEqual(load(shown.content.decode()).sheet, revision.content)
        self.assertEqual(documents.write(revision.content)["source"], "archetype")

    def test_what_still_has_to_be_mended_stands_in_the_way(self):
        draft = self.begin()
        self.client.force_login(self.lead)
        page = self.client.post(reverse("sheets:draft_publish", args=[draft.pk]), follow=True)
        self.assertContains(page, "Maker is not typed yet")
        self.assertEqual(Draft.objects.get(pk=draft.pk).state, "open")

    def test_a_technician_proposes_and_does_not_publish(self):
        draft = self.whole()
        refused = self.client.post(reverse("sheets:draft_publish", args=[draft.pk]))
        self.assertEqual(refused.status_code, 403)
        self.client.post(reverse("sheets:draft_propose", args=[draft.pk]), {"note": "done"})
        draft.refresh_from_db()
        self.assertEqual((draft.state, draft.note), ("proposed", "done"))
        self.assertContains(self.client.get(reverse("sheets:drafts")), "proposed")

    def test_a_published_draft_is_not_changed_any_more(self):
        draft = self.whole()
        self.client.force_login(self.lead)
        self.client.post(reverse("sheets:draft_publish", args=[draft.pk]))
        told = self.plate(draft, maker="Other")
        self.assertEqual(told.status_code, 409)
        self.assertIn("not changed any more", told.json()["problem"])

    def test_a_revision_of_a_sheet_is_drafted_compared_and_withdrawn(self):
        self.client.post(reverse("sheets:copy", args=["tarnbeck-tb-34", 1]))
        draft = Draft.objects.latest("created_at")
        row = next(row for row in draft.tables["plugs"] if row["id"] == "CN2.5")
        edit = {"op": "cell", "row": row["key"], "column": "colour", "text": "pink", "seen": row["colour"]}
        self.edit(draft, edit, section="plugs")
        self.client.force_login(self.lead)
        self.client.post(reverse("sheets:draft_publish", args=[draft.pk]))
        sheet = Sheet.objects.get(slug="tarnbeck-tb-34")
        self.assertEqual(sheet.newest.number, 2)
        page = self.client.get(reverse("sheets:compare", args=[sheet.slug]) + "?from=1&to=2")
        self.assertContains(page, "CN2.5, colour")
        self.assertContains(page, "→ pink")
        self.client.post(reverse("sheets:withdraw", args=[sheet.slug, 2]), {"why": "misread"})
        sheet.refresh_from_db()
        self.assertEqual(sheet.newest.number, 1)
        self.assertContains(self.client.get(reverse("sheets:revision", args=[sheet.slug, 2])), "misread")

    def test_a_file_that_is_no_sheet_is_refused_with_its_places(self):
        wrong = self.client.post(reverse("sheets:drafts"), {"revision": ""})
        self.assertContains(wrong, "Nothing chosen", status_code=422)
        file = SimpleUploadedFile("x.json", b'{"format": "frostline-sheet-2"}')
        wrong = self.client.post(reverse("sheets:drafts"), {"file": file})
        self.assertContains(wrong, "plate: is missing", status_code=422)
        self.assertEqual(Draft.objects.count(), 0)


class Outfit(DraftCase):
    def change(self, draft, **data):
        return self.client.post(reverse("sheets:draft_outfit", args=[draft.pk]), data, follow=True)

    def rows(self, draft):
        return {row["id"]: row for row in Draft.objects.get(pk=draft.pk).tables["parts"]}

    def test_a_part_the_kind_has_not_is_added_and_its_pins_are_pasted_like_any(self):
        draft = self.begin()
        self.edit(
            draft,
            {
                "op": "cell",
                "row": self.rows(draft)["defrost_heater"]["key"],
                "column": "watts",
                "text": "220",
            },
            section="parts",
        )
        shown = self.change(draft, name="Drain heater", what="heater", place="evaporator", modes=["defrost"])
        self.assertContains(shown, "Drain heater is in")
        self.assertIn("drain_heater", self.rows(draft))
        self.assertEqual(self.rows(draft)["defrost_heater"]["watts"], "220")
        self.assertEqual(DraftEdit.objects.get(edit__op="add_part").edit["name"], "Drain heater")
        table = "Plug\tPin\tWire\tGoes to\nCN9\t1\tRD\tDrain heater\n\t2\tBU\tDrain heater"
        self.paste(draft, "plugs", table, **{"ask-colours": "iec", "take": "1"})
        document = json.loads(self.client.get(reverse("sheets:draft_document", args=[draft.pk])).content)
        pins = {
            pin["number"] for each in document["connectors"] if each["id"] == "CN9" for pin in each["pins"]
        }
        self.assertEqual(len(pins), 2)
        ends = {run["points"][0]: run["points"][-1] for run in document["harness"]}
        self.assertEqual(ends["CN9.1"], "drain_heater.1")
        shown = self.change(draft, leave="drain_heater")
        self.assertContains(shown, "It is out")
        self.assertNotIn("drain_heater", self.rows(draft))

    def test_what_can_t_be_is_told_and_changes_nothing(self):
        draft = self.begin()
        for data, told in (
            ({"name": "Defrost heater", "what": "heater", "place": "evaporator"}, "already"),
            ({"name": "", "what": "heater", "place": "evaporator"}, "Nothing typed|required|called"),
            ({"name": "x", "what": "rocket", "place": "evaporator"}, "not one of|Choose|valid"),
            ({"leave": "compressor"}, "no such part"),
        ):
            shown = self.change(draft, **data)
            self.assertRegex(shown.content.decode(), told)
        self.assertEqual(Draft.objects.get(pk=draft.pk).version, 0)
        Draft.objects.update(state="published")
        self.assertContains(self.change(draft, leave="damper"), "published")
