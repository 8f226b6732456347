"""Lines as documents: each is read, says itself in a sentence, and says what does not fit a table."""

import pytest
from pydantic import TypeAdapter, ValidationError

from tin_bucket.core.problem import ProblemError
from tin_bucket.core.work_out.line import Chip
from tin_bucket.core.work_out.lines.units import conversion
from tin_bucket.core.work_out.registry import LINES, WorkOutLine
from tin_bucket.core.work_out.shape import ColumnShape, Shape

LINE = TypeAdapter(WorkOutLine)
SHAPE = Shape(
    [
        ColumnShape("id", "text"),
        ColumnShape("delay", "whole number", "min", has_texts=lambda: False),
        ColumnShape("departs", "date and time"),
    ],
    values=lambda name: list(range(10_000)),
)
CASE = {"test": "above", "value": 10, "label": "late"}
SENTENCES = [
    ({"do": "column", "name": "h", "expression": "delay / 60"}, "h is delay / 60"),
    (
        {"do": "label", "name": "late", "column": "delay", "cases": [CASE], "otherwise": "on time"},
        "late is “late” when delay is above 10, otherwise “on time”",
    ),
    ({"do": "keep", "where": [{"column": "id", "test": "is not", "value": "x"}]}, "keep rows where id is not x"),
    (
        {"do": "count", "by": ["id", {"column": "departs", "period": "month"}]},
        "count and sum by id and month of departs: rows",
    ),
    (
        {
            "do": "bring",
            "table": {"query": "Fares"},
            "columns": [{"column": "price"}],
            "match": [{"theirs": "sailing", "ours": "id"}, {"theirs": "class", "value": "car"}],
        },
        "bring in price of Fares where sailing is id, class is “car”",
    ),
    ({"do": "order", "by": [{"column": "delay", "down": True}]}, "order by delay, highest first"),
    ({"do": "first", "rows": 5, "by": [{"column": "delay"}], "each": ["id"]}, "keep the first 5 by delay of each id"),
    ({"do": "replace", "column": "delay", "changes": [{"old": 0}]}, "in delay replace 0 by blank"),
    ({"do": "fill", "column": "delay", "by": "row before"}, "fill blanks of delay with the row before"),
    ({"do": "period", "name": "m", "column": "departs"}, "m is the month of departs"),
    ({"do": "split", "column": "id", "separator": "-", "names": ["a", "b"]}, "split id at “-” into a and b"),
    ({"do": "text", "name": "link", "text": "/x/{id}"}, "link is the text /x/{id}"),
    (
        {"do": "along", "name": "d", "what": "difference", "column": "delay", "each": ["id"]},
        "d is the difference to the row before of delay within id",
    ),
    ({"do": "repeats", "by": ["id"]}, "drop repeats by id, keep the first"),
    ({"do": "bands", "name": "b", "column": "delay", "bounds": [0, 10]}, "b is the class of delay, bounds at 0, 10"),
    ({"do": "units", "column": "delay", "unit": "hour"}, "delay to hour"),
    (
        {"do": "read", "column": "id", "kind": "decimal", "comma": True, "dates": "%d.%m.%Y", "empty": ["-", "n/a"]},
        "read id as decimal with a decimal comma, blank where “-” or “n/a”",
    ),
    ({"do": "zone", "column": "departs", "zone": "Asia/Tokyo"}, "departs in the time of Asia/Tokyo"),
    (
        {"do": "spread", "names": "id", "figure": {"of": "sum", "column": "delay"}, "by": ["departs"]},
        "make columns of id with sum of delay, a row for each departs",
    ),
    ({"do": "fold", "columns": ["id", "delay"]}, "make rows of id and delay: name and value"),
    (
        {"do": "below", "tables": [{"sheet": "Old"}], "whose": "from"},
        "add the rows of Old below, from says whose they are",
    ),
]


@pytest.mark.parametrize(("document", "sentence"), SENTENCES, ids=[one[0]["do"] for one in SENTENCES])
def test_a_line_says_itself_in_a_sentence_whose_words_are_fields_of_its_form(document, sentence):
    line = LINE.validate_python(document)
    words = line.words()
    assert "".join(word if isinstance(word, str) else word.text for word in words) == sentence
    kind = next(one for one in LINES if one.key == line.do)
    fields = {field.name for field in kind.fields}
    assert {word.field for word in words if isinstance(word, Chip)} <= fields
    assert LINE.validate_json(line.model_dump_json()) == line


def test_every_kind_has_a_sentence_here_and_begins_with_what_its_form_takes():
    assert {one[0]["do"] for one in SENTENCES} == {kind.key for kind in LINES}
    for kind in LINES:
        members = set(kind.model.model_fields)
        assert {field.name for field in kind.fields} <= members
        assert not kind.starts or kind.starts in members
        assert set(kind.defaults()) == members


@pytest.mark.parametrize(
    ("document", "kind", "words"),
    [
        ({"do": "column", "name": "id", "expression": "1"}, "column-twice", "a column “id” already"),
        ({"do": "order", "by": [{"column": "gone"}]}, "column-unknown", "no column “gone” here"),
        (
            {"do": "keep", "where": [{"column": "delay", "test": "above", "value": "ten"}]},
            "value-unreadable",
            "“ten” is not a number",
        ),
        (
            {"do": "keep", "where": [{"column": "departs", "test": "above", "value": "soon"}]},
            "value-unreadable",
            "“soon” is not a date",
        ),
        (
            {"do": "keep", "where": [{"column": "delay", "test": "above", "value": ""}]},
            "value-missing",
            "no value that delay is compared with",
        ),
        ({"do": "spread", "names": "id", "by": []}, "too-many-columns", "10,000 different values"),
        ({"do": "units", "column": "delay", "unit": "kg"}, "units-unlike", "measure different things"),
        ({"do": "units", "column": "delay", "unit": "blorp"}, "unit-unknown", "“blorp” is not a unit"),
        ({"do": "units", "column": "id", "unit": "kg"}, "unit-missing", "unit of id is not known"),
        ({"do": "text", "name": "t", "text": "same"}, "text-without-columns", "the same in every row"),
        ({"do": "text", "name": "t", "text": "{gone}"}, "column-unknown", "no column “gone”"),
        ({"do": "count", "by": ["id"], "figures": [{"of": "sum"}]}, "column-missing", "of no column"),
        ({"do": "count", "by": ["id"], "figures": [{}, {}]}, "column-twice", "Two columns would be named “rows”"),
        ({"do": "split", "column": "id", "names": ["a", "a"]}, "column-twice", "Two parts are named “a”"),
        ({"do": "bring", "table": {"query": "x"}, "match": [{"theirs": "a"}]}, "match-missing", "what “a” is equal to"),
    ],
)
def test_what_does_not_fit_the_table_is_said(document, kind, words):
    with pytest.raises(ProblemError) as raised:
        LINE.validate_python(document).plan(SHAPE)
    assert raised.value.problem.kind == kind
    assert words in raised.value.problem.what
    assert raised.value.problem.do


@pytest.mark.parametrize(
    "document",
    [
        {"do": "split", "column": "id", "by": "pattern", "pattern": "(", "names": ["a"]},
        {"do": "split", "column": "id", "names": []},
        {"do": "bands", "name": "b", "column": "delay", "bounds": [3, 1]},
        {"do": "keep"},
        {"do": "fill", "column": "id"},
        {"do": "zone", "column": "departs", "zone": "Mars/Olympus"},
        {"do": "read", "column": "id", "kind": "date", "zone": "Mars/Olympus"},
        {"do": "read", "column": "id", "kind": "date", "dates": "day.month"},
        {"do": "read", "column": "id", "kind": "json"},
        {"do": "bring", "table": {}, "match": [{"theirs": "a", "ours": "b"}]},
        {"do": "fold", "columns": ["a"], "name": "x", "value": "x"},
    ],
)
def test_what_no_table_could_fit_is_no_line(document):
    with pytest.raises(ValidationError):
        LINE.validate_python(document)


def test_units_are_turned_by_a_factor_and_an_offset():
    assert conversion("mile", "km") == (1.609344, 0.0)
    factor, offset = conversion("degF", "degC")
    assert factor * 212 + offset == pytest.approx(100)
