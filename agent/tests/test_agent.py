"""The agent: what it is told, what it asks, what it keeps, what it sends."""

import json
import socket
import tempfile
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from agent.__main__ import main
from agent.config import ConfigError, read_config
from agent.logging_loop import loop_of
from agent.meter import Meter, MeterError
from agent.post import Post, StoppedError
from agent.spool import Spool
from agent.standin import NAME, Figures, StandIn, figures_of

ROWS = [["0", "4.5", "-18.2", "96"], ["60", "4.6", "-18.1", "97"]]


def config(**changes):
    told = {
        "feed": "http://127.0.0.1:1/runs/feed/x/",
        "token": "secret",
        "resource": "TCPIP0::127.0.0.1::5025::SOCKET",
        "every_seconds": 0.05,
    } | changes
    lines = [f"{name} = {json.dumps(value)}" for name, value in told.items()]
    channels = [("fridge °C", "MEAS? (@1)"), ("freezer °C", "MEAS? (@2)")]
    lines += [f'[[channel]]\nhead = "{head}"\nquery = "{query}"' for head, query in channels]
    return "\n".join(lines)


class Told(TestCase):
    def test_a_configuration(self):
        found = read_config(config())
        self.assertEqual((found.every, found.channels[1].query), (0.05, "MEAS? (@2)"))

    def test_what_is_wrong_in_it_is_told(self):
        for text, words in (
            ("feed =", "no TOML"),
            (config(token=""), "token: is missing"),
            (config(feed="file:///etc/hosts"), "feed: "),
            (config(resource="the logger"), "resource: "),
            (config(every_seconds=0), "every_seconds"),
            (config(every_seconds=True), "every_seconds"),
            (config().partition("[[channel]]")[0], "channel: there is none"),
            (config() + '\n[[channel]]\nhead = "fridge °C"\nquery = "x"', "a head of its own"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ConfigError, words):
                read_config(text)

    @settings(max_examples=50, deadline=None)
    @given(st.text(max_size=200))
    def test_whatever_it_is_told_ends_in_a_configuration_or_a_sentence(self, text):
        with self.assertRaises(ConfigError) as told:
            read_config(text)
        self.assertTrue(str(told.exception))


class WithStandIn(TestCase):
    def setUp(self):
        self.standin = StandIn(Figures(ROWS))
        threading.Thread(target=self.standin.serve_forever, daemon=True).start()
        self.addCleanup(self.standin.server_close)
        self.addCleanup(self.standin.shutdown)

    def meter(self, timeout=0.4):
        meter = Meter(self.standin.resource, timeout)
        self.addCleanup(meter.close)
        return meter


class Asked(WithStandIn):
    def test_figures(self):
        meter = self.meter()
        self.assertEqual([meter.figure(f"MEAS? (@{n})") for n in (1, 2, 3)], [4.5, -18.2, 96.0])
        self.assertEqual(meter.name, NAME)

    def test_an_answer_in_two_packets_is_one_and_an_open_input_is_none(self):
        meter = self.meter()
        self.standin.fails = "SPLIT"
        self.assertEqual(meter.figure("MEAS? (@2)"), -18.2)
        self.standin.fails = "OPEN"
        self.assertIsNone(meter.figure("MEAS? (@2)"))
        self.assertIsNone(meter.figure("MEAS? (@9)"))

    def test_after_a_time_out_no_answer_is_the_one_before(self):
        meter = self.meter()
        meter.figure("MEAS? (@1)")
        for fails in ("MUTE", "DROP"):
            with self.subTest(fails):
                self.standin.fails = fails
                with self.assertRaises(MeterError):
                    meter.figure("MEAS? (@1)")
                self.assertEqual(meter.figure("MEAS? (@2)"), -18.2)
        late = self.meter(timeout=0.3)
        late.figure("MEAS? (@1)")
        self.standin.fails = "SLOW"
        with self.assertRaises(MeterError):
            late.figure("MEAS? (@1)")
        self.assertEqual([late.figure("MEAS? (@2)"), late.figure("MEAS? (@3)")], [-18.2, 96.0])

    def test_a_question_it_does_not_know_is_told_and_mended(self):
        meter = self.meter()
        with self.assertRaisesRegex(MeterError, "was not answered"):
            meter.figure("JUGGLE?")
        with self.assertRaisesRegex(MeterError, "no figure"):
            meter.figure("*IDN?")
        self.assertEqual(meter.figure("MEAS? (@1)"), 4.5)

    def test_nobody_there_is_told_at_the_first_question(self):
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            port = free.getsockname()[1]
        with Meter(f"TCPIP0::127.0.0.1::{port}::SOCKET", 0.3) as meter, self.assertRaises(MeterError):
            meter.figure("MEAS? (@1)")

    def test_one_that_comes_back_is_asked_anew(self):
        meter = self.meter()
        meter.figure("MEAS? (@1)")
        self.standin.fails = "DROP"
        with self.assertRaises(MeterError):
            meter.figure("MEAS? (@1)")
        self.assertEqual(meter.figure("MEAS? (@1)"), 4.5)

    def test_its_file_is_a_clock_and_columns(self):
        figures = figures_of("time,fridge\n0,4.5\n60,4.6\n")
        self.assertEqual(figures.now(1), "4.5")
        with self.assertRaisesRegex(ValueError, "no rows"):
            figures_of("time,fridge\n")


class Kept(TestCase):
    def setUp(self):
        self.path = Path(self.enterContext(tempfile.TemporaryDirectory())) / "spool.jsonl"

    def test_rows_stand_on_the_disk_and_go_on_where_they_were(self):
        one = Spool(self.path)
        for at in range(3):
            one.add(float(at), (1.0, None))
        other = Spool(self.path)
        self.assertEqual((other.agent, other.next, other.rows), (one.agent, 3, one.rows))
        other.have(2)
        self.assertEqual([row.seq for row in other.since(2, 9)], [2])
        other.have(3)
        again = Spool(self.path)
        self.assertEqual((again.agent, again.next, again.rows), (one.agent, 3, []))

    def test_a_line_cut_off_while_it_was_written_is_left_out(self):
        spool = Spool(self.path)
        spool.add(1.0, (2.0,))
        spool.add(2.0, (3.0,))
        text = self.path.read_text(encoding="utf-8")
        self.path.write_text(text[:-9], encoding="utf-8")
        again = Spool(self.path)
        self.assertEqual((again.next, len(again.rows)), (1, 1))

    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.integers(0, 12), max_size=12))
    def test_however_it_is_told_what_is_there_nothing_that_is_not_is_lost(self, told):
        with tempfile.TemporaryDirectory() as folder:
            path, there = Path(folder) / "spool.jsonl", 0
            spool = Spool(path)
            for step, wanted in enumerate(told):
                spool.add(float(step), (float(step),))
                there = max(there, min(wanted, spool.next))
                spool.have(there)
                spool = Spool(path)
                self.assertEqual([row.seq for row in spool.since(there, 99)], list(range(there, step + 1)))


class _Run(BaseHTTPRequestHandler):
    """The other end: rows each once."""

    def do_POST(self):
        server = self.server
        body = json.loads(self.rfile.read(int(self.headers["Content-Length"])))
        server.tokens.append(self.headers["Authorization"])
        status = server.statuses.pop(0) if server.statuses else 200
        answer = {"problem": "No more."}
        if status in {200, 599}:
            for number, row in enumerate(body["rows"], body["first"]):
                server.rows.setdefault(number, row)
            answer = {"next": max(server.rows) + 1}
        out = json.dumps(answer).encode()
        if status == 599:  # taken, and the answer is lost on the way
            self.close_connection = True
            return
        self.send_response(status)
        if status == 302:
            self.send_header("Location", "/elsewhere/")
        self.send_header("Content-Length", str(len(out)))
        self.end_headers()
        self.wfile.write(out)

    def do_GET(self):
        self.server.tokens.append("elsewhere")
        self.send_error(404)

    def log_message(self, *arguments):
        pass


class Sent(WithStandIn):
    def setUp(self):
        super().setUp()
        self.far = ThreadingHTTPServer(("127.0.0.1", 0), _Run)
        self.far.rows, self.far.statuses, self.far.tokens = {}, [], []
        threading.Thread(target=self.far.serve_forever, daemon=True).start()
        self.addCleanup(self.far.server_close)
        self.addCleanup(self.far.shutdown)
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.feed = f"http://127.0.0.1:{self.far.server_address[1]}/runs/feed/x/"
        self.said = []

    def loop(self):
        loop = loop_of(
            read_config(config(feed=self.feed, resource=self.standin.resource, timeout_seconds=0.4)),
            self.meter(),
            self.folder,
        )
        loop.say = self.said.append
        return loop

    def test_rows_go_with_the_token_in_the_header_alone(self):
        self.assertEqual(self.loop().run(3), 3)
        self.assertEqual([row[1:] for row in self.far.rows.values()], [[4.5, -18.2]] * 3)
        self.assertEqual(set(self.far.tokens), {"Bearer secret"})

    def test_what_could_not_be_sent_is_sent_later_and_once(self):
        loop = self.loop()
        self.far.statuses = [500, 599]
        loop.run(3)
        self.assertIn("not sent", self.said[0])
        loop.post.not_before = 0.0
        loop.post.send()
        loop.post.not_before = 0.0
        self.assertTrue(loop.post.send())
        self.assertEqual(sorted(self.far.rows), [0, 1, 2])

    def test_a_loop_begun_again_goes_on_with_its_count(self):
        self.loop().run(2)
        self.loop().run(2)
        self.assertEqual(sorted(self.far.rows), [0, 1, 2, 3])

    def test_a_run_that_has_ended_stops_it_and_its_rows_stay(self):
        loop = self.loop()
        self.far.statuses = [410]
        with self.assertRaisesRegex(StoppedError, "No more"):
            loop.run(5)
        self.assertEqual(len(Spool(self.folder / "frostline-agent.jsonl").rows), 1)

    def test_the_token_follows_nobody_elsewhere(self):
        loop = self.loop()
        self.far.statuses = [302]
        loop.run(1)
        self.assertNotIn("elsewhere", self.far.tokens)
        self.assertIn("not sent", self.said[0])

    def test_a_channel_that_does_not_answer_is_none_and_the_others_are_kept(self):
        loop = self.loop()
        self.standin.fails = "MUTE"
        loop.run(1)
        self.assertEqual(self.far.rows[0][1:], [None, -18.2])
        self.assertIn("fridge °C", self.said[0])

    def test_tries_are_further_and_further_apart(self):
        spool = Spool(self.folder / "other.jsonl")
        spool.add(1.0, (2.0,))
        now = [0.0]
        post = Post("http://127.0.0.1:1/", "secret", ("a",), spool, monotonic=lambda: now[0])
        waits = []
        for _ in range(9):
            post.send()
            waits.append(post.wait)
            now[0] = post.not_before
        self.assertEqual(waits, [1, 2, 4, 8, 16, 32, 60, 60, 60])
        now[0] -= 1.0
        post.told = ""
        self.assertFalse(post.send())
        self.assertEqual(post.told, "")

    def test_as_a_program(self):
        path = self.folder / "agent.toml"
        path.write_text(config(feed=self.feed, resource=self.standin.resource), encoding="utf-8")
        self.assertEqual(main([str(path), "--rows", "2"]), 0)
        self.assertEqual(len(self.far.rows), 2)
        path.write_text("nonsense", encoding="utf-8")
        self.assertEqual(main([str(path)]), 2)
        self.assertEqual(main([str(self.folder / "none.toml")]), 2)


class Rhythm(TestCase):
    def test_rows_are_due_by_the_clock_and_what_is_missed_is_missed(self):
        """A row a minute with an hour's stop: the rows before and after lie on the same minutes."""
        now, stops = [0.0], {5: 3630.0}

        class Figure:
            def figure(self, query):
                return 1.0

        class Sink:
            told = ""

            def __init__(self):
                self.at = []
                self.spool = self

            def add(self, at, values):
                self.at.append(at)

            def send(self):
                now[0] += 7.0 + stops.get(len(self.at), 0.0)  # a row takes some seconds

        def sleep(seconds):
            now[0] += seconds

        loop = loop_of(
            read_config(config(every_seconds=60)),
            None,
            Path(self.enterContext(tempfile.TemporaryDirectory())),
        )
        sink = Sink()
        loop.meter, loop.post = Figure(), sink
        loop.clock = loop.monotonic = lambda: now[0]
        loop.sleep = sleep
        loop.run(9)
        self.assertEqual(sink.at[:5], [0.0, 60.0, 120.0, 180.0, 240.0])
        self.assertEqual([at % 60 for at in sink.at], [0.0] * 9)
        self.assertGreater(sink.at[5], 3600.0)
