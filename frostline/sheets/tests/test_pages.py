"""Pages of papers kept beside the rows and with the sheet; tables read from their pictures."""

import io
import json
import tempfile
import zipfile
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.urls import reverse
from PIL import Image, ImageDraw

from frostcore.paper.paste import recognise
from frostcore.tests.papers import ENGLISH, GERMAN
from frostline.sheets import reader
from frostline.sheets.actions import read_pages
from frostline.sheets.models import Draft, Page, Picture, Reading, Revision, RevisionPage
from frostline.sheets.tests.test_drafts import DraftCase
from frostline.tests import fixtures
from frostline.ui.pictures import LONGEST, PictureError, clean
from frostline.ui.stored import path_of

PICTURES = Path(settings.BASE_DIR) / "tests/pictures"
SECTIONS = ("codes", "sensors", "plugs", "parts")


def picture(size=(400, 300), form="JPEG", mode="RGB", **options):
    made = Image.new(mode, size, "white")
    ImageDraw.Draw(made).rectangle((40, 40, 120, 90), fill="black")
    out = io.BytesIO()
    made.save(out, form, **options)
    return out.getvalue()


class Cleaned(fixtures.PageCase):
    def test_what_a_camera_wrote_is_gone_and_the_picture_stands_upright(self):
        exif = Image.Exif()
        exif[0x0112] = 6  # lies on its side
        exif[0x010F] = "Maker of cameras"
        exif.get_ifd(0x8825)[2] = (60.0, 10.0, 5.0)  # where it was taken
        data = picture(exif=exif)
        self.assertIn(b"Maker of cameras", data)
        made = clean(data)
        self.assertEqual((made.width, made.height), (300, 400))
        with Image.open(io.BytesIO(made.content)) as opened:
            self.assertFalse(dict(opened.getexif()))
        self.assertNotIn(b"Maker of cameras", made.content)

    def test_large_ones_become_smaller_and_see_through_ones_white(self):
        self.assertEqual(clean(picture((5000, 800))).width, LONGEST)
        out = io.BytesIO()
        Image.new("RGBA", (50, 50), (0, 0, 0, 0)).save(out, "PNG")
        with Image.open(io.BytesIO(clean(out.getvalue()).content)) as opened:
            self.assertEqual(opened.convert("L").getpixel((20, 20)), 255)

    def test_what_is_no_picture_is_refused_in_words(self):
        bomb = picture((20_000, 20_000), "PNG", "1")
        for data, told in (
            (b"", "no picture"),
            (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "no picture"),
            (picture()[:300], "no picture"),
            (bomb, "million points|no picture"),
        ):
            with self.assertRaisesRegex(PictureError, told):
                clean(data)


class PageCase(DraftCase):
    """Files are kept in a folder of the test's own; what is read in the background is read when asked."""

    def setUp(self):
        super().setUp()
        # The lock of whoever reads pages too: tests run side by side.
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(override_settings(ATTACHMENTS=folder / "files", DATA_DIR=folder))
        started = mock.patch("frostline.sheets.actions.read_pages.spawn")
        self.started = self.enterContext(started)
        self.draft = self.begin()

    def add(self, *files):
        uploads = [SimpleUploadedFile(name, data) for name, data in files]
        return self.client.post(
            reverse("sheets:page_add", args=[self.draft.pk]),
            {"pages": uploads, "section": "plugs"},
            follow=True,
        )

    def read(self, page, section, corners=None):
        """A table read from a page, as it stands when the background has done its work."""
        self.client.post(
            reverse("sheets:page_table", args=[page.pk]),
            {"section": section, "corners": json.dumps(corners or page.found[0]["corners"])},
        )
        read_pages.work()
        return Reading.objects.latest("at")

    def look(self, reading, **given):
        return self.client.post(reverse("sheets:reading", args=[reading.pk]), given)


class Kept(PageCase):
    def test_pages_stay_beside_the_rows_and_go_with_the_sheet(self):
        shown = self.add(("one.jpg", picture()), ("two.png", picture(form="PNG")))
        self.assertContains(shown, "one.jpg")
        self.assertContains(shown, "two.png")
        self.assertEqual(self.started.call_count, 1)
        page = Page.objects.first()
        served = self.client.get(page.picture.get_absolute_url())
        self.assertEqual(served["Content-Type"], "image/jpeg")
        self.assertEqual(b"".join(served), path_of(page.picture_id).read_bytes())
        draft = self.whole()
        Page.objects.update(draft=draft)
        self.client.force_login(self.lead)
        self.client.post(reverse("sheets:draft_publish", args=[draft.pk]))
        revision = Revision.objects.latest("created_at")
        self.assertEqual([page.name for page in revision.pages.all()], ["one.jpg", "two.png"])
        self.assertContains(self.client.get(revision.sheet.get_absolute_url()), "one.jpg")
        self.client.post(reverse("sheets:copy", args=[revision.sheet.slug, revision.number]))
        self.assertEqual(Draft.objects.latest("created_at").pages.count(), 2)

    def test_a_page_is_turned_and_taken_away(self):
        self.add(("one.jpg", picture()))
        page = Page.objects.get()
        address = reverse("sheets:page_turn", args=[page.pk])
        self.client.post(address, {"way": "right"})
        turned = Page.objects.get().picture
        self.assertEqual((turned.width, turned.height), (300, 400))
        with Image.open(path_of(turned.pk)) as opened:
            # The mark in the upper left stands in the upper right now.
            self.assertLess(opened.convert("L").getpixel((300 - 60, 80)), 60)
        self.client.post(address, {"way": "left"})
        again = Page.objects.get().picture
        self.assertEqual((again.width, again.height), (400, 300))
        self.client.post(reverse("sheets:page_remove", args=[page.pk]))
        self.assertFalse(Page.objects.exists())
        self.assertTrue(Picture.objects.exists())  # what was kept is kept

    def test_the_pages_of_a_pdf_are_pictures(self):
        out = io.BytesIO()
        first, second = Image.new("RGB", (600, 800), "white"), Image.new("RGB", (600, 800), "black")
        first.save(out, "PDF", save_all=True, append_images=[second])
        self.add(("sheet.pdf", out.getvalue()))
        self.assertEqual(
            [page.name for page in Page.objects.all()], ["sheet.pdf, page 1", "sheet.pdf, page 2"]
        )
        shown = self.add(("broken.pdf", b"%PDF-1.7 nothing"))
        self.assertContains(shown, "The PDF can’t be read")

    def test_nothing_is_kept_of_files_among_which_one_is_wrong(self):
        shown = self.add(("one.jpg", picture()), ("letter.txt", b"not a picture"))
        self.assertContains(shown, "“letter.txt” is no picture")
        self.assertFalse(Page.objects.exists())

    def test_a_file_larger_than_any_page_is_refused_before_it_is_read(self):
        with mock.patch("frostline.ui.pictures.LARGEST_BYTES", 1000):
            shown = self.add(("sheet.pdf", b"%PDF-" + b"x" * 2000))
        self.assertContains(shown, "“sheet.pdf” has 0 MB; a picture has at most")
        self.assertFalse(Page.objects.exists())

    def test_a_closed_draft_takes_no_page(self):
        Draft.objects.update(state="published")
        self.add(("one.jpg", picture()))
        self.assertFalse(Page.objects.exists())

    def test_a_sheet_with_its_pages_goes_out_and_comes_back(self):
        draft = self.whole()
        self.draft = draft
        self.add(("front, with its drawing.jpg", picture()), ("back.jpg", picture((300, 200))))
        self.client.force_login(self.lead)
        self.client.post(reverse("sheets:draft_publish", args=[draft.pk]))
        revision = Revision.objects.latest("created_at")
        address = reverse("sheets:package", args=[revision.sheet.slug, revision.number])
        packed = self.client.get(address).content
        # Elsewhere: nothing of it is there.
        document = json.loads(revision.document)
        document["revision_note"] = "as it came"
        other = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(packed)) as source, zipfile.ZipFile(other, "w") as target:
            self.assertEqual(source.read("sheet.json").decode(), revision.document)
            for name in source.namelist():
                text = json.dumps(document) if name == "sheet.json" else source.read(name)
                target.writestr(name, text)
        upload = SimpleUploadedFile("sheet.zip", other.getvalue())
        self.client.post(reverse("sheets:upload"), {"file": upload})
        came = Revision.objects.latest("created_at")
        self.assertEqual(came.number, revision.number + 1)
        kept = [(page.name, page.position) for page in revision.pages.all()]
        self.assertEqual([(page.name, page.position) for page in came.pages.all()], kept)
        self.assertEqual(came.pages.first().picture.width, 400)

    def test_a_damaged_or_overfull_package_is_refused_and_nothing_is_kept(self):
        self.client.force_login(self.lead)
        before = Revision.objects.count()
        document = fixtures.document("tarnbeck-tb-34")
        for files, told in (
            ({"readme.txt": b"x"}, "no sheet"),
            ({"sheet.json": document, "pages/01.jpg": b"not a picture"}, "no picture"),
            ({"sheet.json": b" " * 60_000_000}, "larger than any sheet"),
            ({f"pages/{number}.jpg": b"x" for number in range(60)}, "more than any sheet"),
        ):
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
                for name, data in files.items():
                    packed.writestr(name, data)
            upload = SimpleUploadedFile("sheet.zip", out.getvalue())
            shown = self.client.post(reverse("sheets:upload"), {"file": upload})
            self.assertContains(shown, told, status_code=422)
        for data in (out.getvalue()[:200], b"PK\x03\x04rubbish"):
            shown = self.client.post(reverse("sheets:upload"), {"file": SimpleUploadedFile("s.zip", data)})
            self.assertContains(shown, "damaged", status_code=422)
        self.assertEqual(Revision.objects.count(), before)
        self.assertFalse(RevisionPage.objects.exists())


def plain(text):
    """A cell without what a picture can't tell: lines of every length, a footnote's mark."""
    return text.translate(str.maketrans("−–—", "---", "¹")).strip()


class Read(PageCase):
    def page(self, name):
        self.add((name, (PICTURES / name).read_bytes()))
        read_pages.work()
        return Page.objects.get(name=name)

    def test_every_table_of_both_papers_is_found_and_known_by_its_heads(self):
        for name in ("english.jpg", "german.jpg"):
            page = self.page(name)
            self.assertEqual([each["section"] for each in page.found], list(SECTIONS))

    def test_no_cell_of_either_paper_is_wrong_and_not_marked(self):
        for name, paper in (("english.jpg", ENGLISH), ("german.jpg", GERMAN)):
            page = self.page(name)
            for section, found in zip(SECTIONS, page.found, strict=True):
                reading = self.read(page, section, found["corners"])
                self.assertEqual((reading.state, reading.why), ("read", ""))
                rows = [line.split("\t") for line in paper[section].split("\n")]
                printed = {(r, c): plain(t) for r, row in enumerate(rows) for c, t in enumerate(row) if t}
                read = {(each["row"], each["column"]): each for each in reading.cells}
                self.assertEqual(set(read), set(printed), (name, section))
                unmarked = {
                    at: (text, read[at]["text"])
                    for at, text in printed.items()
                    if read[at]["text"].casefold() != text.casefold() and not read[at]["doubt"]
                }
                self.assertEqual(unmarked, {}, (name, section))
                right = sum(read[at]["text"].casefold() == text.casefold() for at, text in printed.items())
                self.assertGreaterEqual(right / len(printed), 0.96, (name, section))

    def test_rows_are_made_only_when_every_doubtful_cell_was_looked_at(self):
        page = self.page("german.jpg")
        reading = self.read(page, "sensors", page.found[1]["corners"])
        doubtful = [each for each in reading.cells if each["doubt"]]
        self.assertTrue(doubtful)
        self.assertEqual(len(reading.unwitnessed), 2)
        shown = self.look(reading)
        self.assertContains(shown, f"{len(doubtful) + 2} still to look at", status_code=422)
        self.assertNotContains(shown, "Put ", status_code=422)
        ticks = {f"ok-{each['row']}-{each['column']}": "1" for each in doubtful}
        self.assertContains(self.look(reading, **ticks), "2 still to look at", status_code=422)
        ticks |= {f"compared-{column}": "1" for column, _ in reading.unwitnessed}
        shown = self.look(reading, **ticks)
        self.assertContains(shown, "Put 6 rows in")
        self.assertContains(shown, "the dots are thousands")
        # A text typed over a doubtful one is seen, and it is what counts.
        first = doubtful[0]
        typed = {f"c-{first['row']}-{first['column']}": "°F"} | {
            name: value for name, value in ticks.items() if name != f"ok-{first['row']}-{first['column']}"
        }
        self.assertContains(self.look(reading, **typed), "Temperatures in °F")

    def test_what_is_read_is_the_paper_s_table_as_pasted(self):
        page = self.page("english.jpg")
        for section, found in zip(SECTIONS[1:3], page.found[1:3], strict=True):
            reading = self.read(page, section, found["corners"])
            high = max(each["row"] for each in reading.cells) + 1
            texts = {(each["row"], each["column"]): each["text"] for each in reading.cells}
            text = "\n".join("\t".join(texts.get((r, c), "") for c in range(5)) for r in range(high))
            self.assertEqual(recognise(section, text).rows, recognise(section, ENGLISH[section]).rows)

    def test_a_worn_picture_is_refused_in_words_and_typed_instead(self):
        with Image.open(PICTURES / "german.jpg") as opened:
            grey = opened.convert("L").point(lambda value: 150 + value // 5)
        out = io.BytesIO()
        grey.save(out, "JPEG")
        self.add(("pale.jpg", out.getvalue()))
        read_pages.work()
        page = Page.objects.get(name="pale.jpg")
        reading = self.read(page, "sensors", [[100, 470], [505, 470], [505, 815], [100, 815]])
        self.assertEqual(reading.state, "refused")
        shown = self.client.get(reverse("sheets:reading", args=[reading.pk]))
        self.assertContains(shown, "too pale")
        self.assertContains(shown, "Type it, the picture beside")

    def test_without_tesseract_it_says_so(self):
        self.add(("one.jpg", picture()))
        page = Page.objects.get()
        reader.languages.cache_clear()
        self.addCleanup(reader.languages.cache_clear)
        with mock.patch("frostline.sheets.reader.shutil.which", return_value=None):
            shown = self.client.get(reverse("sheets:page_table", args=[page.pk]))
        self.assertContains(shown, "no tesseract on this machine")

    def test_corners_that_are_none_are_told_and_nothing_is_begun(self):
        self.add(("one.jpg", picture()))
        page = Page.objects.get()
        for corners in (
            "",
            "[]",
            "[[1,2],[3,4],[5,6]]",
            '{"a": 1}',
            "[[1e999,0],[1,0],[1,1],[0,1]]",
            "x" * 5000,
        ):
            shown = self.client.post(
                reverse("sheets:page_table", args=[page.pk]), {"section": "plugs", "corners": corners}
            )
            self.assertContains(shown, "Drag the four marks")
        self.assertFalse(Reading.objects.exists())

    def test_no_second_process_is_begun_while_one_reads(self):
        self.add(("one.jpg", picture()))
        page = Page.objects.get()
        with read_pages._alone() as mine:
            self.assertTrue(mine)
            before = self.started.call_count
            read_pages.begin_reading(page, "plugs", [(0, 0), (9, 0), (9, 9), (0, 9)], self.technician)
            self.assertEqual(self.started.call_count, before)
            self.assertEqual(read_pages.work(), 0)  # and who comes all the same leaves
        self.assertEqual(read_pages.work(), 2)

    def test_whoever_waits_has_it_taken_up_where_a_process_ended_on_the_way(self):
        self.add(("one.jpg", picture()))
        page = Page.objects.get()
        reading = read_pages.begin_reading(page, "plugs", [(0, 0), (9, 0), (9, 9), (0, 9)], self.technician)
        Reading.objects.update(state="at work", tries=1)
        Page.objects.update(state="at work", tries=1)
        for name, one in (("page_table", page), ("reading", reading)):
            (settings.DATA_DIR / "reading-begun").unlink()
            before = self.started.call_count
            for _ in range(3):  # asked every second, begun once
                self.client.get(reverse(f"sheets:{name}", args=[one.pk]))
            self.assertEqual(self.started.call_count, before + 1, name)
        self.assertEqual(read_pages.work(), 2)
        page.refresh_from_db()
        reading.refresh_from_db()
        self.assertTrue(page.ended and reading.ended)
        (settings.DATA_DIR / "reading-begun").unlink()
        before = self.started.call_count
        self.client.get(reverse("sheets:page_table", args=[page.pk]))
        self.assertEqual(self.started.call_count, before)

    def test_what_ended_two_processes_is_not_tried_again(self):
        self.add(("one.jpg", picture()))
        page = Page.objects.get()
        reading = read_pages.begin_reading(page, "plugs", [(0, 0), (9, 0), (9, 9), (0, 9)], self.technician)
        Reading.objects.update(state="at work", tries=2)
        Page.objects.update(state="at work", tries=2)
        self.assertEqual(read_pages.work(), 0)
        reading.refresh_from_db()
        self.assertEqual(reading.state, "refused")
        self.assertIn("Type it", reading.why)
