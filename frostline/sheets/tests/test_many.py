"""Many sheets at once: each by itself, with a report."""

import io
import json
import tempfile
import zipfile
from pathlib import Path

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.urls import reverse

from frostline.accounts.models import User
from frostline.sheets.models import Revision
from frostline.tests import fixtures

GOOD = {name: fixtures.document(name) for name in ("skerrow-sk-48", "ondrel-or-620")}
WRONG = json.dumps(json.loads(GOOD["skerrow-sk-48"]) | {"plate": {}})


def packed(files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in files.items():
            archive.writestr(name, text)
    return out.getvalue()


class Many(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.lead = User.objects.get(role="lead")

    def setUp(self):
        self.client.force_login(self.lead)

    def send(self, *files):
        uploads = [SimpleUploadedFile(name, data) for name, data in files]
        return self.client.post(reverse("sheets:upload_many"), {"files": uploads})

    def test_each_is_published_by_itself_and_what_became_of_it_is_told(self):
        tarnbeck = fixtures.document("tarnbeck-tb-34").encode()
        page = self.send(
            ("a.zip", packed({"folder/sk.json": GOOD["skerrow-sk-48"], "../bad.json": "{", "read.txt": "x"})),
            ("or.json", GOOD["ondrel-or-620"].encode("utf-8-sig")),
            ("tb.json", tarnbeck),
        )
        for words in ("sk.json</code> is ", "bad.json</code> <strong>is not kept", "is already"):
            self.assertContains(page, words)
        self.assertEqual(
            sorted(Revision.objects.values_list("sheet__slug", "number")),
            [("ondrel-or-620", 1), ("skerrow-sk-48", 1), ("tarnbeck-tb-34", 1)],
        )

    def test_what_is_no_sheets_file_is_refused_whole(self):
        bomb = packed({"x.json": "0" * 9_000_000})
        for name, data, words in (
            ("a.zip", packed({"a.json": GOOD["skerrow-sk-48"]})[:500], "is damaged"),
            ("a.zip", bomb, "one too large"),
            ("a.zip", packed({f"{number}.json": "{}" for number in range(61)}), "more than 60 sheets"),
            ("a.json", b"\xff\xff", "not UTF-8"),
            ("a.exe", b"MZ", "no sheet"),
        ):
            with self.subTest(words):
                self.assertContains(self.send((name, data)), words, status_code=422)
        self.assertEqual(Revision.objects.count(), 1)

    def test_a_technician_may_not(self):
        self.client.force_login(self.technician)
        self.assertEqual(self.send(("a.json", GOOD["skerrow-sk-48"].encode())).status_code, 403)

    def test_a_folder_is_published_at_the_command_line(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for name, text in (*GOOD.items(), ("wrong", WRONG), ("blob", "\0")):
            (folder / f"{name}.json").write_text(text, encoding="utf-8")
        (folder / "latin.json").write_bytes(b"\xff")
        out = io.StringIO()
        with self.assertRaisesRegex(CommandError, "Mend those"):
            call_command("import_sheets", folder, by="iver", stdout=out)
        self.assertIn("2 kept, 3 not.", out.getvalue())
        self.assertIn("wrong.json is not kept\n    plate", out.getvalue())
        for arguments, words in (({"by": "maren"}, "no lead"), ({"by": "iver"}, "no sheet")):
            with self.assertRaisesRegex(CommandError, words):
                call_command("import_sheets", folder / "none", **arguments)
