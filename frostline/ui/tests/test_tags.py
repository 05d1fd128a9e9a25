from datetime import timedelta

from django.template import Context, Template
from django.test import SimpleTestCase
from django.utils import timezone

from frostcore.quantity import Dimension
from frostcore.verdict import Band, Verdict
from frostline.ui.forms import FrostForm, QuantityField


class Probe(FrostForm):
    ohms = QuantityField(Dimension.RESISTANCE, label="Meter shows", help_text="Plug out.")


def render(source, **context):
    return Template(source).render(Context(context))


class Marks(SimpleTestCase):
    def test_every_verdict_has_a_shape_of_its_own_and_says_its_name(self):
        drawn = {verdict: render("{% mark verdict %}", verdict=verdict) for verdict in Verdict}
        shapes = {svg.split(">", 1)[1] for svg in drawn.values()}
        self.assertEqual(len(shapes), len(Verdict))
        for verdict, svg in drawn.items():
            self.assertIn(f'aria-label="{verdict.label}"'.replace("'", "&#x27;"), svg)

    def test_the_line_is_broken_when_open_and_pinned_when_short(self):
        band = Band(90, 100, 110)
        inside, high, low = (
            render("{% gauge v r b %}", v=v, r=r, b=band)
            for v, r in ((Verdict.IN_BAND, 100), (Verdict.HIGH, 300), (Verdict.LOW, 30))
        )
        self.assertIn('cy="56', inside)
        bead = [float(svg.split('cy="')[1].split('"')[0]) for svg in (high, inside, low)]
        self.assertEqual(bead, sorted(bead))
        self.assertNotIn("circle", render("{% gauge v r b %}", v=Verdict.OPEN, r=None, b=band))
        self.assertIn("gauge-pin", render("{% gauge v r b %}", v=Verdict.SHORT, r=0, b=band))


class Fields(SimpleTestCase):
    def test_an_error_is_tied_to_its_field_and_what_was_typed_stays(self):
        form = Probe({"ohms": "banana"})
        self.assertFalse(form.is_valid())
        drawn = render("{% field form.ohms %}", form=form)
        for text in (
            'value="banana"',
            'aria-invalid="true"',
            "id_ohms-error",
            "id_ohms-help",
            "Type it like 2k7",
        ):
            self.assertIn(text, drawn)

    def test_what_is_typed_is_never_taken_for_markup(self):
        form = Probe({"ohms": "<b>5</b>"})
        self.assertNotIn("<b>", render("{% field form.ohms %}{% include 'ui/form_errors.html' %}", form=form))

    def test_ambiguities_are_offered_by_name(self):
        ((name, ambiguous),) = Probe({"ohms": "1,000"}).ambiguities()
        self.assertEqual((name, [choice.value for choice in ambiguous.choices]), ("ohms", [1, 1000]))


class Words(SimpleTestCase):
    def test_how_long_ago_is_told_in_a_word_or_two(self):
        for delta, text in (
            (timedelta(seconds=20), "now"),
            (timedelta(minutes=5), "5 min ago"),
            (timedelta(hours=3), "3 h ago"),
            (timedelta(days=1, hours=2), "yesterday"),
            (timedelta(days=9), "9 days ago"),
        ):
            self.assertEqual(render("{{ moment|ago }}", moment=timezone.now() - delta), text)

    def test_an_error_in_kelvin_carries_its_sign(self):
        self.assertEqual(render("{{ a|kelvin }} {{ b|kelvin }}", a=2.04, b=-3.0), "+2 K −3 K")
