"""A run read live: begun, fed with a token, judged as it goes on, ended as a file that counts."""

import html
import json
import re
import uuid
from datetime import timedelta

from django.test import Client
from django.urls import reverse
from django.utils import timezone
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisCase

from frostcore.tape.entries import Attached
from frostcore.tape.ran_words import runs_of
from frostcore.tests.test_thermal_runs import run_of, text_of
from frostline.calls.tapes import standing_of
from frostline.runs.actions.take_rows import MOST_ROWS, RefusedError, read_sent
from frostline.runs.models import LiveBatch, LiveRun
from frostline.tests import fixtures
from frostline.ui.immutable import ImmutableError
from frostline.ui.stored import path_of

AGENT = "a" * 32


class LiveCase(fixtures.PageCase):
    @classmethod
    def setUpTestData(cls):
        cls.technician, cls.revision = fixtures.workshop()
        cls.call = fixtures.call(cls.revision, cls.technician)

    def setUp(self):
        self.client.force_login(self.technician)
        self.outside = Client()

    def begun(self, places=("fridge", "freezer", "plug"), room="23 C"):
        address = reverse("runs:live_begin", args=[self.call.pk])
        self.page = self.client.post(address, {"places": list(places), "room": room})
        self.token = re.search(r'token = "([^"]+)"', html.unescape(self.page.content.decode()))[1]
        return LiveRun.objects.latest("begun_at")

    def rows(self, count, begun=None, first=0):
        begun = timezone.now().timestamp() - 60.0 * count if begun is None else begun
        lines = text_of(run_of()).splitlines()[1 + first : 1 + first + count]
        cells = [[float(cell) for cell in line.split(",")] for line in lines]
        return [[begun + cell[0], cell[1], cell[2], cell[5]] for cell in cells]

    def post(self, run, rows, first=0, token=None, **changes):
        body = {"agent": AGENT, "sent": timezone.now().timestamp(), "first": first, "rows": rows} | changes
        return self.outside.post(
            reverse("runs:feed", args=[run.pk]),
            json.dumps(body),
            content_type="application/json",
            headers={"Authorization": f"Bearer {self.token if token is None else token}"},
        )


class Live(LiveCase):
    def test_its_token_is_shown_once_and_kept_as_a_hash(self):
        run = self.begun()
        self.assertContains(self.page, "The token is shown this once.")
        self.assertNotIn(self.token, run.token_hash)
        self.assertNotContains(self.client.get(reverse("runs:live", args=[run.pk])), self.token)
        heads = [head for _, head in self.page.context["channels"]]
        self.assertEqual(heads, ["fridge °C", "freezer °C", "plug W"])
        self.assertContains(self.client.get(reverse("runs:runs", args=[self.call.pk])), "Read live since")

    def test_rows_come_once_whatever_is_sent_twice(self):
        run, rows = self.begun(), self.rows(30)
        self.assertEqual(self.post(run, rows[:20]).json(), {"next": 20})
        self.assertEqual(self.post(run, rows[:20]).json(), {"next": 20})
        self.assertEqual(self.post(run, rows[10:30], first=10).json(), {"next": 30})
        kept = [row for batch in run.batches.all() for row in batch.rows]
        self.assertEqual(kept, rows)
        with self.assertRaises(ImmutableError):
            LiveBatch.objects.update(count=1)

    def test_two_agents_of_one_run_do_not_take_each_others_place(self):
        run, rows = self.begun(), self.rows(4)
        self.post(run, rows[:2])
        self.assertEqual(self.post(run, rows[2:], agent="b" * 32).json(), {"next": 2})
        self.assertEqual(sum(run.batches.values_list("count", flat=True)), 4)

    def test_it_is_judged_as_it_goes_on_and_ends_as_a_file_that_counts(self):
        run, rows = self.begun(), self.rows(1440)
        page = self.client.get(reverse("runs:live", args=[run.pk]))
        self.assertContains(page, "No rows yet")
        self.assertEqual(self.client.post(reverse("runs:live_end", args=[run.pk])).status_code, 302)
        self.assertIsNone(LiveRun.objects.get(pk=run.pk).ended_at)
        self.post(run, rows)
        page = self.client.get(reverse("runs:live_now", args=[run.pk]))
        self.assertContains(page, "It cut out")
        self.assertContains(page, "1440 rows over 24.0 hours")
        marked = {"slip_id": uuid.uuid4(), "at": "12 h", "what": "knob", "to": "-18 C", "place": "freezer"}
        self.client.post(reverse("runs:live", args=[run.pk]), marked)
        page = self.client.get(reverse("runs:live_now", args=[run.pk]))
        self.assertContains(page, "12:00 h")
        done = self.client.post(reverse("runs:live_end", args=[run.pk]), follow=True)
        self.assertContains(done, "Control set: −18 °C")
        standing = standing_of(self.call)
        entry = runs_of(standing)[0]
        self.assertEqual((entry.room.value, entry.found["cuts_out"]), (23.0, "yes"))
        text = path_of(entry.digest).read_text(encoding="utf-8")
        self.assertEqual(text.splitlines()[0], "time,fridge °C,freezer °C,plug W")
        self.assertEqual(len(text.splitlines()), 1441)
        self.assertEqual(len(standing.all_of(Attached)), 1)
        self.assertEqual(self.post(run, self.rows(2), first=1440).status_code, 410)
        self.assertEqual(self.client.post(reverse("runs:live_end", args=[run.pk])).status_code, 404)
        self.assertRedirects(
            self.client.get(reverse("runs:live", args=[run.pk])),
            reverse("runs:run", args=[self.call.pk, entry.digest]),
        )

    def test_how_full_it_is_goes_with_it(self):
        address = reverse("runs:live_begin", args=[self.call.pk])
        self.page = self.client.post(address, {"places": ["plug"], "room": "", "full": "half"})
        self.token = re.search(r'token = "([^"]+)"', html.unescape(self.page.content.decode()))[1]
        run = LiveRun.objects.latest("begun_at")
        begun = timezone.now().timestamp() - 600.0
        self.post(run, [[begun + 60.0 * n, 95.0] for n in range(5)])
        self.client.post(reverse("runs:live_end", args=[run.pk]))
        self.assertEqual(runs_of(standing_of(self.call))[0].full, "half")

    def test_a_setting_without_a_moment_is_of_now(self):
        run = self.begun()
        self.post(run, self.rows(120))
        marked = {"slip_id": uuid.uuid4(), "at": "", "what": "door", "to": "", "place": ""}
        self.client.post(reverse("runs:live", args=[run.pk]), marked)
        self.assertAlmostEqual(LiveRun.objects.get(pk=run.pk).marked[0]["at"], 7200.0, delta=90.0)

    def test_a_clock_that_is_not_the_servers_is_told(self):
        run = self.begun()
        self.post(run, self.rows(5), sent=timezone.now().timestamp() - 400.0)
        self.assertContains(
            self.client.get(reverse("runs:live_now", args=[run.pk])), "The agent’s clock is not this server’s"
        )

    def test_another_token_ends_the_one_before(self):
        run = self.begun()
        old = self.token
        page = self.client.post(reverse("runs:live_renew", args=[run.pk]))
        self.token = re.search(r'token = "([^"]+)"', html.unescape(page.content.decode()))[1]
        self.assertEqual(self.post(run, self.rows(2), token=old).status_code, 401)
        self.assertEqual(self.post(run, self.rows(2)).status_code, 200)

    def test_nothing_to_read_and_a_room_that_is_none_are_told(self):
        address = reverse("runs:live_begin", args=[self.call.pk])
        self.assertEqual(self.client.post(address, {"room": "23"}).status_code, 422)
        self.assertEqual(self.client.post(address, {"places": ["fridge"], "room": "warm"}).status_code, 422)
        self.assertEqual(self.client.post(address, {"places": ["cellar"], "room": ""}).status_code, 422)
        self.assertFalse(LiveRun.objects.exists())


class Hostile(LiveCase):
    def test_who_has_no_token_adds_nothing_and_learns_nothing(self):
        run, rows = self.begun(), self.rows(2)
        for token in ("", "x", self.token[:-1], f"{self.token}x", "é"):
            self.assertEqual(self.post(run, rows, token=token).status_code, 401)
        other = self.post(LiveRun(pk=uuid.uuid4()), rows)
        self.assertEqual((other.status_code, other.json()), (401, self.post(run, rows, token="x").json()))
        self.assertEqual(self.outside.get(reverse("runs:feed", args=[run.pk])).status_code, 405)
        basic = self.outside.post(
            reverse("runs:feed", args=[run.pk]), "{}", content_type="application/json",
            headers={"Authorization": f"Basic {self.token}"},
        )  # fmt: skip
        self.assertEqual(basic.status_code, 401)
        self.assertFalse(run.batches.exists())

    def test_a_token_opens_no_page(self):
        run = self.begun()
        for name in ("live", "live_now"):
            page = self.outside.get(
                reverse(f"runs:{name}", args=[run.pk]), headers={"Authorization": f"Bearer {self.token}"}
            )
            self.assertEqual(page.status_code, 302)

    def test_a_run_whose_time_is_over_takes_nothing(self):
        run = self.begun()
        LiveRun.objects.filter(pk=run.pk).update(expires_at=timezone.now() - timedelta(seconds=1))
        self.assertEqual(self.post(run, self.rows(2)).status_code, 410)

    def test_posts_that_are_none_are_told_and_keep_nothing(self):
        run, rows = self.begun(), self.rows(2)
        for words, changes in (
            ("agent:", {"agent": "../../x"}),
            ("agent:", {"agent": None}),
            ("sent:", {"sent": "now"}),
            ("first:", {"first": -1}),
            ("first:", {"first": True}),
            ("rows:", {"rows": []}),
            ("rows:", {"rows": rows * MOST_ROWS}),
            ("a moment and 3 values", {"rows": [[1.0, 2.0]]}),
            ("Unix seconds", {"rows": [["now", 1, 2, 3]]}),
            ("Unix seconds", {"rows": [[-5, 1, 2, 3]]}),
            ("null where there is no reading", {"rows": [[1.0, "cold", 2, 3]]}),
            ("null where there is no reading", {"rows": [[1.0, True, 2, 3]]}),
            ("columns are fridge °C, freezer °C, plug W", {"heads": ["fridge"]}),
        ):
            with self.subTest(words, **{name: str(value)[:30] for name, value in changes.items()}):
                told = self.post(run, **({"rows": rows} | changes))
                self.assertIn(told.status_code, {413, 422})
                if told.status_code == 422:
                    self.assertIn(words, told.json()["problem"])
        for body in (b"", b"[", b"[" * 90_000, b"\xff", b"[1]", b'{"rows": NaN}'):
            told = self.outside.post(
                reverse("runs:feed", args=[run.pk]), body, content_type="application/json",
                headers={"Authorization": f"Bearer {self.token}"},
            )  # fmt: skip
            self.assertEqual(told.status_code, 422, body[:20])
        large = self.post(run, [], padding="x" * 500_000)
        self.assertEqual(large.status_code, 413)
        self.assertFalse(run.batches.exists())

    def test_readings_beyond_any_refrigerator_are_none_and_the_page_stands(self):
        run = self.begun()
        rows = self.rows(20)
        rows[3][1], rows[5][2], rows[7][3] = 9.9e37, None, -1e9
        rows[9][0] -= 3600.0
        self.assertEqual(self.post(run, rows).status_code, 200)
        page = self.client.get(reverse("runs:live_now", args=[run.pk]))
        self.assertContains(page, "20 rows")


class Read(HypothesisCase):
    json_values = st.recursive(
        st.none() | st.booleans() | st.floats(allow_nan=True) | st.integers() | st.text(max_size=5),
        lambda inner: (
            st.lists(inner, max_size=4)
            | st.dictionaries(st.sampled_from(["agent", "sent", "first", "rows"]), inner)
        ),
        max_leaves=12,
    )

    @settings(max_examples=150, deadline=None)
    @given(json_values)
    def test_whatever_is_posted_is_rows_or_refused_with_a_sentence(self, data):
        try:
            sent = read_sent(data, 2)
        except RefusedError as error:
            self.assertEqual(error.status, 422)
            self.assertTrue(str(error))
        else:
            self.assertTrue(all(len(row) == 3 for row in sent.rows))
