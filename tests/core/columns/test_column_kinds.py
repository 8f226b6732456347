"""What values may mean is offered with its evidence; nothing is harmed before somebody asks."""

from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.analysis.profile import profile
from tin_bucket.core.columns.compressed import Packed
from tin_bucket.core.columns.kind_registry import convert, converter, guess_kind
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.columns.reads import Reads
from tin_bucket.core.detect.types import detect_types
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.formats.date_patterns import check_pattern, reader_of
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.table.reader import Reader

NOW = datetime(2026, 11, 25, tzinfo=UTC)


def guessed(values, name="x"):
    return [(one.kind, one.reads.dates if one.reads else None) for one in detect_types(values, name, NOW)]


@pytest.mark.parametrize(
    ("values", "name", "expected"),
    [
        ([1763962800, 1763966400], "departs", [("date and time", "seconds")]),
        ([1763962800123, 1763966400000], "when", [("date and time", "milliseconds")]),
        ([1763962800, 12], "departs", []),
        ([20261124, 20261125], "day", [("date", "%Y%m%d")]),
        (["24.11.2026", "03.04.2026"], "d", [("date", "%d.%m.%Y")]),
        (["03/04/2026", "05/06/2026"], "d", [("date", "%d/%m/%Y"), ("date", "%m/%d/%Y")]),
        (["24/11/2026", "05/06/2026"], "d", [("date", "%d/%m/%Y")]),
        (["24 Nov 2026", "1 Dec 2026"], "d", [("date", "%d %b %Y")]),
        (["Tue, 24 Nov 2026 07:30:00 GMT"], "d", [("date and time", "%a, %d %b %Y %H:%M:%S GMT")]),
        (["24.11.2026 07:30"], "d", [("date and time", "%d.%m.%Y %H:%M")]),
        (["yes", "No"], "x", [("yes/no", None)]),
        ([0, 1, 1], "x", [("yes/no", None)]),
        (["12", "-3"], "x", [("whole number", None)]),
        (["12.50", "3"], "x", [("decimal", None)]),
        (["12,50", "3"], "x", [("decimal", None)]),
        (["1.234,50", "3"], "x", [("decimal", None)]),
        (["12 %", "3.5 %"], "x", [("decimal", None)]),
        # Codes, long ids and words are no more than they seem.
        (["007", "010"], "x", []),
        (["4611686018427387905", "1"], "x", []),
        ([4611686018427387905], "x", []),
        (["SK-77192"], "x", []),
        (["Oxnith", "12"], "x", []),
        ([3, 25, 118], "count", []),
        ([None, ""], "x", []),
        ([True, False], "x", []),
    ],
)
def test_what_values_may_mean(values, name, expected):
    assert guessed(values, name) == expected


def test_a_guess_tells_its_evidence_an_example_and_what_does_not_fit():
    days = [f"{n % 28 + 1:02}.11.2026" for n in range(95)]
    one = detect_types([*days, "soon"], "d", NOW)[0]
    assert one.example == ("01.11.2026", "2026-11-01")
    assert "1 of 96 do not fit" in one.evidence
    both = detect_types(["03/04/2026"], "d", NOW)
    assert all("could be swapped" in one.evidence for one in both)
    assert "2025-11-24" in detect_types([1763962800], "at", NOW)[0].evidence


@given(st.lists(st.text(max_size=6) | st.integers() | st.floats(allow_nan=False) | st.none() | st.booleans()))
def test_whatever_is_guessed_fits_and_what_does_not_stays(values):
    for guess in detect_types(values, "departs at", NOW):
        made, unfit = convert(values, guess.kind, guess.reads)
        assert len(made) == len(values)
        # An empty text says nothing of the others' meaning, and stays as it is.
        assert unfit - values.count("") <= len(values) // 10 + 1
        for before, after in zip(values, made, strict=True):
            assert (before is None) == (after is None)


def test_dates_of_iso_8601_are_told_as_such_by_all_values_and_left_as_they_are():
    assert guess_kind(["2026-11-24", None, "2026-02-28"]) == "date"
    assert guess_kind(["2026-11-24T07:30:00+01:00", "2026-11-24T07:30Z"]) == "date and time"
    assert guess_kind(["2026-11-24"] * 5000 + ["soon"]) == "text"
    assert guess_kind(["2026-13-24"]) == "text"
    assert guess_kind(["2026-11-24", Miss("none", "not found")]) == "date"
    assert guess_kind([1, True]) == "text"


@pytest.mark.parametrize(
    ("kind", "reads", "value", "expected"),
    [
        ("date and time", Reads(zone="Europe/Berlin"), "2026-07-01T12:00:00", "2026-07-01T10:00:00Z"),
        ("date and time", Reads(zone="Europe/Berlin"), "2026-07-01T12:00:00+00:00", "2026-07-01T12:00:00Z"),
        ("date", Reads(dates="seconds", zone="Asia/Tokyo"), 1763938800, "2025-11-24"),
        ("date", Reads(dates="seconds", zone="America/New_York"), 1763938800, "2025-11-23"),
        ("date and time", Reads(dates="milliseconds"), 1763962800123, "2025-11-24T05:40:00.123Z"),
        ("date and time", Reads(dates="seconds"), "1763962800", "2025-11-24T05:40:00Z"),
        ("date and time", Reads(dates="%d.%m.%Y %I:%M %p"), "24.11.2026 12:05 am", "2026-11-24T00:05:00"),
        ("date and time", Reads(dates="%Y%m%dT%H%M%S%z"), "20261124T073000+0100", "2026-11-24T06:30:00Z"),
        ("date", Reads(dates="%d/%m/%y"), "24/11/69", "1969-11-24"),
        ("date", Reads(dates="%Y-%j"), "2026-032", "2026-02-01"),
        ("whole number", None, "1,234", 1234),
        ("decimal", None, "1 234.5", 1234.5),
        ("decimal", Reads(comma=True), "-1.234,5", -1234.5),
        ("decimal", Reads(comma=True), 3.5, 3.5),
        ("decimal", None, "12.5 %", 12.5),
        ("yes/no", Reads(yes=["Ja"], no=["Nein"]), "ja", True),
        ("yes/no", Reads(yes=["x"]), "no", False),
    ],
)
def test_values_are_read_as_asked(kind, reads, value, expected):
    assert converter(kind, reads)(value) == expected


@pytest.mark.parametrize(
    ("kind", "reads", "value"),
    [
        ("decimal", Reads(comma=True), "1,234.5"),
        ("decimal", None, "12,5"),
        ("decimal", None, "1e999"),
        ("whole number", None, "1.5"),
        ("whole number", None, True),
        ("date", Reads(dates="%d.%m.%Y"), "31.02.2026"),
        ("date and time", Reads(dates="%I:%M %p %Y %m"), "13:00 pm 2026 01"),
        ("date", Reads(dates="%Y-%j"), "2026-366"),
        ("yes/no", Reads(yes=["ja"], no=["nein"]), "oui"),
        ("date and time", Reads(dates="seconds"), 1e30),
    ],
)
def test_what_does_not_fit_stays_as_it_came_and_is_counted(kind, reads, value):
    assert convert([value, None], kind, reads) == ([value, None], 1)


@given(st.datetimes(min_value=datetime(1970, 1, 1), max_value=datetime(2060, 1, 1)))
def test_a_pattern_reads_what_it_writes(moment):
    for pattern in ("%d.%m.%Y %H:%M:%S", "%d %B %Y %H:%M:%S", "%b %d %Y %I:%M:%S %p", "%Y%m%d%H%M%S"):
        assert reader_of(pattern)(moment.strftime(pattern)) == moment.replace(microsecond=0)


@pytest.mark.parametrize("pattern", ["%Q", "%d.%m", "%Y", "%Y %Y %m", "%"])
def test_a_pattern_that_cannot_be_read_is_said(pattern):
    with pytest.raises(ValueError, match="pattern"):
        check_pattern(pattern)


def test_a_column_at_a_glance():
    found = profile([3, 1, None, 3, 2.5, Miss("none", "not found")], "n", NOW)
    assert (found.rows, found.filled, found.missed, found.distinct) == (6, 4, 1, 3)
    assert (found.lowest, found.highest, found.mean) == (1, 3, 2.375)
    assert found.frequent[0] == (3, 2)
    texts = profile(["b", "", "a", "b", None], "t", NOW)
    assert (texts.filled, texts.empty_texts, texts.lowest, texts.highest, texts.longest) == (4, 1, "", "b", 1)
    mixed = profile([1, "a", True], "m", NOW)
    assert (mixed.lowest, mixed.highest, mixed.mean) == (None, None, None)
    assert profile([], "e", NOW).distinct == 0
    assert profile([None, None, 1], "n", NOW, 1).nulls == 1
    ids = profile([str(n) for n in range(50)], "id", NOW)
    assert ids.frequent == []


def test_very_many_different_values_are_counted_up_to_a_limit():
    found = profile([*range(50), None, *range(5)], "n", NOW, most_distinct=10)
    assert (found.capped, found.rows, found.highest) == (True, 56, 49)
    assert found.distinct == 11
    assert found.filled == 55


@given(st.lists(st.none() | st.integers(-62_135_596_801, 253_402_300_800), max_size=6))
def test_seconds_read_at_once_are_those_read_one_by_one(values):
    reads = Reads(dates="seconds")
    one_by_one = [convert([value], "date and time", reads) for value in [*values, 1.5]]
    made, unfit = convert([*values, 1.5], "date and time", reads)
    assert made == [cell for (cell,), _ in one_by_one]
    assert unfit == sum(wrong for _, wrong in one_by_one)
    assert convert(values, "date and time", reads)[0] == made[:-1]


def test_a_few_texts_among_numbers_do_not_hide_their_span_and_are_told():
    found = profile([3, "-", 1, "n/a", 2.5, "-", 7, 8, 9], "fee", NOW)
    assert (found.lowest, found.highest, found.mean) == (1, 9, (3 + 1 + 2.5 + 7 + 8 + 9) / 6)
    assert found.strays == found.empties == [("-", 2), ("n/a", 1)]
    (guess,) = found.guesses
    assert (guess.kind, guess.reads.empty) == ("decimal", ["-", "n/a"])
    texts = profile(["1.5", "2.5", "-", "4"], "fee", NOW)
    assert [(one.kind, one.reads.empty) for one in texts.guesses] == [("decimal", ["-"])]
    assert "“-” 1 times" in texts.guesses[0].evidence
    assert profile(["-", "n/a"], "fee", NOW).guesses == []
    assert profile(["a", "b", "-"], "code", NOW).empties == [("-", 1)]


def test_texts_that_mean_nothing_are_read_as_empty_only_when_that_is_said():
    values = ["1.5", " - ", "n/a", "2", None]
    assert convert(values, "decimal", Reads(empty=["-", "n/a"])) == ([1.5, None, None, 2.0, None], 0)
    assert convert(values, "decimal") == ([1.5, " - ", "n/a", 2.0, None], 2)
    packed = Packed(values * 3000)
    made, unfit = convert(packed, "decimal", Reads(empty=["-", "n/a"]))
    assert (list(made)[:5], unfit) == ([1.5, None, None, 2.0, None], 0)
    take = Extraction(
        records="$[*]",
        columns=[{"place": "$.a", "name": "a", "reads": {"empty": ["-"]}}, {"place": "$.b", "name": "b"}],
    )
    document = [{"a": 1, "b": "-"}, {"a": "-", "b": "-"}]
    reader = Reader(take)
    reader.add(pick(document, take.records), document)
    table = reader.reading().table
    assert (table.data, [column.kind for column in table.columns]) == (
        [[1, None], ["-", "-"]],
        ["whole number", "text"],
    )
