import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from frostcore.curves.table import read_csv
from frostcore.errors import SheetError
from frostline.accounts.models import User
from frostline.sheets.actions.publish_revision import publish_revision
from frostline.sheets.models import Revision, Sheet
from frostline.tests import fixtures


class Publishing(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.lead = User.objects.get(role="lead")

    def setUp(self):
        self.client.force_login(self.lead)
        self.document = json.loads(self.revision.document)

    def publish(self, text, **data):
        return self.client.post(reverse("sheets:upload"), {"document": text, **data})

    def test_a_board_on_the_mat(self):
        lead = User.objects.get(role="lead")
        fixtures.publish("calvane-cv-24", lead)
        self.client.force_login(lead)
        page = self.client.get(reverse("sheets:mat", args=["tarnbeck-tb-34"]))
        self.assertContains(page, "7.5 kΩ")
        self.assertContains(page, "compressor relay clicks")
        self.assertContains(page, "holds a")  # the bulk capacitor's caution
        self.assertContains(
            self.client.get(reverse("sheets:sheet", args=["tarnbeck-tb-34"])), "Board on the mat"
        )
        two = reverse("sheets:mat", args=["calvane-cv-24"])
        self.assertContains(self.client.get(two), "Lower zone board")
        self.assertContains(self.client.get(two, {"board": "lower_board"}), "lower module transistor")
        self.assertEqual(self.client.get(two, {"board": "kettle"}).status_code, 404)
        self.assertEqual(self.client.get(reverse("sheets:mat", args=["nowhere"])).status_code, 404)

    def test_a_changed_document_becomes_a_new_revision_and_calls_keep_theirs(self):
        call = fixtures.call(self.revision, self.technician)
        self.document["components"][0]["price"] = 19
        self.publish(json.dumps(self.document))
        self.assertEqual(Sheet.objects.get().newest.number, 2)
        self.assertEqual(call.revision.content.component("plug").price, 14)

    def test_the_same_document_again_changes_nothing(self):
        self.assertContains(
            self.client.post(reverse("sheets:upload"), {"document": self.revision.document}, follow=True),
            "nothing was changed",
        )
        self.assertEqual(Revision.objects.count(), 1)

    def test_a_wrong_document_is_refused_with_every_place_and_kept_in_the_field(self):
        self.document["components"][0]["place"] = "attic"
        self.document["sensors"][0]["curve"] = "none"
        response = self.publish(json.dumps(self.document))
        for text in ("2 places to mend", "components[0].place", "sensors[0].curve", "attic"):
            self.assertContains(response, text, status_code=422)
        self.assertEqual(Revision.objects.count(), 1)

    def test_a_file_that_is_no_text_is_refused(self):
        response = self.client.post(
            reverse("sheets:upload"), {"file": SimpleUploadedFile("sheet.json", b"\xff\xfe\x00")}
        )
        self.assertContains(response, "is not UTF-8 text", status_code=422)

    def test_a_circuit_that_can_not_be_solved_is_not_published(self):
        data = json.loads(fixtures.document("tarnbeck-tb-34"))
        next(part for part in data["components"] if part["id"] == "compressor")["nominal"].pop("start_ohms")
        with self.assertRaisesRegex(SheetError, r"modes\[0\]: The sheet gives no start_ohms for compressor"):
            publish_revision(json.dumps(data), User.objects.get(role="lead"))

    def test_what_is_hardly_meant_is_told_on_the_sheets_page(self):
        data = json.loads(fixtures.document("tarnbeck-tb-34"))
        heater = next(item for item in data["components"] if item["id"] == "defrost_heater")
        heater["nominal"] |= {"ohms": 24, "watts": 220}
        publish_revision(json.dumps(data), User.objects.get(role="lead"))
        page = self.client.get(reverse("sheets:sheet", args=["tarnbeck-tb-34"]))
        self.assertContains(page, "Worth a second look")
        self.assertContains(page, "2.20 kW, and 220 W are stated")

    def test_sheet_and_curve_come_out_as_they_went_in(self):
        out = self.client.get(reverse("sheets:document", args=["tarnbeck-tb-34", 1])).content.decode()
        self.assertEqual(out, self.revision.document)
        table = read_csv(
            self.client.get(reverse("sheets:curve", args=["tarnbeck-tb-34", 1, "ntc_5k"])).content.decode()
        )
        self.assertEqual(
            [[row.celsius, row.ohms] for row in table.rows], self.document["curves"]["ntc_5k"]["rows"]
        )

    def test_typed_text_is_understood_as_it_is_typed(self):
        for typed, shown in {
            "2k7": "2.70 kΩ",
            "1,000": "1.00 Ω or 1.00 kΩ?",
            "banana": "Type it like",
            "": "",
        }.items():
            self.assertContains(self.client.get("/ui/understood/resistance/", {"resistance": typed}), shown)
        self.assertEqual(self.client.get("/ui/understood/love/").status_code, 404)

    def test_the_colour_scheme_is_remembered_and_never_leads_off_the_site(self):
        response = self.client.post("/ui/choose/", {"theme": "dark", "back": "https://elsewhere.example/"})
        self.assertEqual((response["Location"], response.cookies["theme"].value), ("/", "dark"))
        self.assertContains(self.client.get("/sheets/"), 'data-theme="dark"')
