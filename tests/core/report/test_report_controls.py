from typing import get_args

from tin_bucket.core.report.controls import controls_html
from tin_bucket.core.report.model import AGAINST_WORDS, Against, Report
from tin_bucket.core.report.seen import ChoiceSeen

DAYS = ["2026-11-25", "2026-11-24"]


def test_every_rule_has_words():
    assert set(AGAINST_WORDS) == set(get_args(Against))


def test_the_form_has_the_days_and_the_choices_and_what_is_chosen():
    port = ChoiceSeen("Port", "port", "is", "Sø & Co", ["Sø & Co", "<b>"], "text", [])
    since = ChoiceSeen("Since", "day", "from", '"x', [], "date", [])
    form = controls_html(Report(title="Late", against="P1M"), [port, since], DAYS, DAYS[1], "")
    assert '<option value="2026-11-24" selected>' in form.split('name="against"')[0]
    assert '<option value="" selected>a month before</option>' in form
    assert '<option value="Sø &amp; Co" selected>' in form
    assert "<b>" not in form
    assert '<input type="date" name="choice Since" value="&quot;x"' in form
