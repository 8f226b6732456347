"""Figures of a table, by kind; what can be said of them; and when they say that they cannot be trusted."""

from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.analysis.compare import ColumnChange
from tin_bucket.core.analysis.view import View, positions
from tin_bucket.core.columns.readings import numbers_of
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.report.figure import Moves
from tin_bucket.core.report.figures.registry import REPORT_FIGURES, told_by
from tin_bucket.core.report.model import Report
from tin_bucket.core.report.says import Speaker
from tin_bucket.core.report.seen import FigureSeen, SourceSeen
from tin_bucket.core.report.text import reference, references
from tin_bucket.core.table.table import TableColumn

NOW = datetime(2026, 11, 25, 12, tzinfo=UTC)


class Rows:
    """A table in memory, as figures read it."""

    taken = "2026-11-25T05:30:00+00:00"

    def __init__(self, columns, moved=None):
        self.columns = {
            name: (TableColumn(name, kind, unit=unit), values) for name, (kind, unit, values) in columns.items()
        }
        self.height = len(next(iter(columns.values()))[2])
        self.moved = moved

    def _seen(self, where):
        return positions(View(where=where), self.height, self.columns.get)

    def count(self, where):
        return len(self._seen(where))

    def column(self, name, where):
        if name not in self.columns:
            return None
        heading, values = self.columns[name]
        return heading, [values[at] for at in self._seen(where)]

    def numbers(self, name, where):
        return numbers_of(self.column(name, where)[1])

    def moves(self):
        return self.moved


TABLE = Rows(
    {
        "route": ("text", "", ["a", "a", "b", "b", "c", None]),
        "delay": ("whole number", "min", [0, 20, 5, 5, None, "soon"]),
        "day": ("date", "", ["2026-11-20", "2026-11-22", "2026-11-21", None, "2026-11-19", "2026-11-23"]),
    },
    Moves({"new": 3, "gone": 2, "changed": 4}, {"delay": ColumnChange("delay", cells=4, rose=3, fell=1)}),
)


def figure(**parts):
    return Report.model_validate({"title": "r", "figures": [{"name": "f", "query": 1, **parts}]}).figures[0]


def told(**parts):
    return told_by(figure(**parts), TABLE)


def test_amounts():
    assert told(tells="amount").value == 6
    assert told(tells="amount", figure="mean", column="delay").value == 7.5
    assert told(tells="amount", figure="mean", column="delay").notes == ["1 value of delay is no number."]
    assert told(tells="amount", figure="different", column="route").value == 3
    of_a = [{"by": "one of", "column": "route", "values": ["a"]}]
    assert told(tells="amount", figure="sum", column="delay", where=of_a).value == 20
    nothing = told(tells="amount", figure="mean", column="delay", where=[{"by": "empty", "column": "route"}])
    assert (nothing.value, nothing.why) == (None, "No row has a number in delay.")


def test_a_share_is_of_the_rows_that_count():
    late = [{"by": "between", "column": "delay", "low": "10"}]
    there = [{"by": "empty", "column": "route", "no": True}]
    assert told(tells="share", meet=late, where=there).value == 20
    assert told(tells="share", meet=late, where=[{"by": "one of", "column": "route", "values": ["z"]}]).why


def test_the_name_that_leads_and_its_figure():
    high = told(tells="leading", by="route", figure="mean", column="delay")
    assert (high.value, high.amount, high.unit) == ("a", 10, "min")
    assert [one.model_dump(exclude={"no"}) for one in high.where] == [
        {"by": "one of", "column": "route", "values": ["a"]}
    ]
    low = told(tells="leading", by="route", most="lowest", figure="mean", column="delay")
    assert (low.value, low.amount) == ("b", 5)
    # Of equal ones the first by name, the same one each time; a name with few rows is passed over.
    assert told(tells="leading", by="route").value == "a"
    assert told(tells="leading", by="route", most="lowest").value == "c"
    assert told(tells="leading", by="route", most="lowest", least=2).value == "a"


def test_what_moved_is_told_of_two_dates():
    assert told(tells="moves", what="gone").value == 2
    assert told(tells="moves", what="rose and fell", column="delay").value == "rose on 3 and fell on 1"
    assert told(tells="moves", what="rose and fell", column="day").value == "did not move"
    assert (
        told_by(figure(tells="moves"), Rows({"a": ("text", "", [])})).why
        == "There is no other date to hold it against."
    )


def test_dates():
    assert told(tells="date").value == "2026-11-25T05:30:00+00:00"
    assert told(tells="date", which="first", column="day").value == "2026-11-19"
    assert told(tells="date", which="last", column="day").value == "2026-11-23"


@pytest.mark.parametrize("kind", [one.key for one in REPORT_FIGURES])
def test_a_column_that_is_gone_is_said_by_each_kind(kind):
    parts = {
        "amount": {"figure": "sum", "column": "gone"},
        "share": {"meet": [{"by": "empty", "column": "gone"}]},
        "leading": {"by": "gone"},
        "moves": {"what": "changed", "column": "gone"},
        "date": {"which": "first", "column": "gone"},
    }[kind]
    if kind == "moves":
        assert told(tells=kind, **parts).value == 0
        return
    with pytest.raises(ProblemError) as error:
        told(tells=kind, **parts)
    assert error.value.problem.kind == "column-unknown"


@given(st.lists(st.tuples(st.sampled_from("abc"), st.integers(-50, 50)), min_size=1, max_size=40))
def test_shares_of_all_values_are_the_whole_and_the_leader_leads(rows):
    names, values = zip(*rows, strict=True)
    table = Rows({"n": ("text", "", list(names)), "v": ("whole number", "", list(values))})
    shares = [
        told_by(figure(tells="share", meet=[{"by": "one of", "column": "n", "values": [one]}]), table).value
        for one in set(names)
    ]
    assert sum(shares) == pytest.approx(100)
    sums = {one: sum(v for n, v in rows if n == one) for one in set(names)}
    high = told_by(figure(tells="leading", by="n", figure="sum", column="v"), table)
    assert high.amount == sums[high.value] == max(sums.values())


def speaker(now, then, source=None):
    own = figure(tells="amount", figure="mean", column="delay")
    source = source or SourceSeen(1, "Sailings", 9, 4, Rows.taken, "2026-11-18T05:30:00+00:00", "complete", 6)
    seen = FigureSeen(own, now, then, source)
    return Speaker({"f": seen}, source.taken, source.then_taken, UTC, NOW, {"f": "#/query/1"})


def test_a_figure_leads_to_its_rows_and_says_where_it_is_from():
    said = speaker(
        told(tells="amount", figure="mean", column="delay"), told(tells="amount", figure="lowest", column="delay")
    )
    value = said.say(reference("F"))
    assert value.text == "7.50\u00a0min"
    assert 'href="#/query/1"' in value.html
    assert "Sailings, as of 25 November, 05:30, complete. 1 value of delay is no number. It was 0" in value.html
    assert said.say(reference("f: change")).text.replace("\u00a0", " ") == "7.50 min more"
    assert "▲" in said.say(reference("f: change")).html
    assert said.say(reference("f: then")).text == "0\u00a0min"
    assert said.say(reference("as of")).text == "25 November"
    assert said.say(reference("against")).text == "18 November"


@pytest.mark.parametrize(
    ("source", "doubt"),
    [
        (SourceSeen(1, "S", 9, None, Rows.taken, "", "incomplete", 6, "346 of 352"), "incomplete"),
        (SourceSeen(1, "S", 9, None, Rows.taken, "", "complete", 6, old="A refresh was due."), "old"),
    ],
)
def test_a_figure_that_is_old_or_incomplete_says_so_in_its_place(source, doubt):
    said = speaker(told(tells="amount"), None, source).say(reference("f"))
    assert said.text == f"6 ({doubt})"
    assert f'<small class="doubt">{doubt}</small>' in said.html


def test_what_is_missing_never_stands_as_a_figure():
    lost = speaker(
        told(tells="amount", figure="mean", column="delay", where=[{"by": "empty", "column": "route"}]), None
    )
    assert "missing" in lost.say(reference("f")).text
    assert "missing" in lost.say(reference("unknown <b>")).text
    assert "<b>" not in lost.say(reference("unknown <b>")).html
    assert "no earlier figure" in speaker(told(tells="amount"), None).say(reference("f: change")).text
    assert "missing" in speaker(told(tells="amount"), None).say(reference("f: colour")).text


def test_a_condition_is_decided_by_the_value_the_change_or_what_it_was():
    from tin_bucket.core.report.text import condition

    own = speaker(
        told(tells="amount", figure="highest", column="delay"), told(tells="amount", figure="lowest", column="delay")
    )
    for words, holds in (
        ("when f above 19", True), ("when f above 20", False), ("when f: change at least 20", True),
        ("when f: then is 0", True), ("when f: moved contains rose", True), ("when g above 1", None),
    ):  # fmt: skip
        assert own.holds(condition(words)) is holds, words


def test_names_that_mean_something_else_are_refused():
    for name in ("as of", "End", "when it rains", "a: b", "{x}", " "):
        with pytest.raises(ValueError, match=r"name of a figure|means something else"):
            Report.model_validate({"title": "r", "figures": [{"tells": "amount", "query": 1, "name": name}]})
    with pytest.raises(ValueError, match="two figures"):
        Report.model_validate(
            {"title": "r", "figures": [{"tells": "amount", "query": 1, "name": n} for n in ("a", "A")]}
        )


def test_a_first_report_says_only_figures_that_it_has():
    from tin_bucket.core.chart.propose import Offered
    from tin_bucket.core.report.propose import AtHand, begin, offers

    columns = [
        Offered("sku", False, False, "", 500, is_key=True), Offered("route", False, False, "", 9),
        Offered("status", False, False, "", 3), Offered("fare", True, False, "SKC", 80),
        Offered("hull_id", True, False, "", 6), Offered("departs", False, True, "", 300, 14),
    ]  # fmt: skip
    hand = AtHand(7, "Sailings by route", 500, columns, {"route": ["x"], "status": ["late", "arrived"]}, (), "P7D")
    found = offers(hand, taken=["mean fare"])
    names = [one.name for one in found]
    assert len({name.casefold() for name in names}) == len(names)
    assert names[:3] == ["sailings", "mean fare 2", "late sailings, in %"]
    assert not any("hull_id" in name for name in names)
    made = begin(hand)
    known = {one.name for one in made.figures}
    said = {one.name for one in references(made.blocks[0].text)}
    assert said - {"as of", "against"} == known
    alone = begin(AtHand(7, "Fleet today", 6, columns[:1]))
    assert "change" not in alone.blocks[0].text
    assert [one.block for one in alone.blocks] == ["text"]
