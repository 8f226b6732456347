"""Every cell leads back to its place: what stands there gives the cell again."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.analysis.provenance import (
    Excerpt,
    at_place,
    excerpt_around,
    heads_of,
    place_of_pointer,
    trace_cell,
    trace_in,
)
from tin_bucket.core.document.extraction import ColumnSpec, Extraction
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import format_pointer, pick
from tin_bucket.core.table.reader import read_table

ANSWER = {
    "as_of": "2026-11-25",
    "routes": [
        {"code": "HO", "d": [
            {"id": "007", "at": 1763962800, "f": [{"c": "foot", "p": 9.5}, {"c": "car", "p": 42}], "x": None, "e": ""},
            {"id": "010", "at": "soon", "f": []},
        ]},
        {"code": "OX", "d": [{"id": "021", "at": 1763966400, "f": [{"c": "car", "p": 7}]}]},
    ],
}  # fmt: skip
COLUMNS = [
    {"place": "$.id", "name": "id"},
    {"place": "$.at", "name": "at", "kind": "date and time", "reads": {"dates": "seconds"}},
    {"place": "$.f[*].p", "name": "car", "reduction": {"by": "where", "place": "$.c", "equals": "car"}},
    {"place": "$.f[*].p", "name": "top", "reduction": {"by": "highest"}},
    {"place": "$.f[*].p", "name": "sum", "reduction": {"by": "sum"}},
    {"place": "$.f[*].c", "name": "last", "reduction": {"by": "last"}},
    {"place": "$.routes[*].code", "name": "route", "of": "answer"},
    {"place": "$.as_of", "name": "as of", "of": "answer"},
    {"place": "$", "name": "page", "of": "page"},
    {"place": "$.x", "name": "x"},
    {"place": "$.e", "name": "e"},
]


def trace(take, answer, row, name, first=None):
    made = Extraction.model_validate(take)
    picked = pick(answer, made.records)
    reading = read_table(made, [picked], [answer])
    table = reading.table
    at = [column.name for column in table.columns].index(name)
    column = next((one for one in made.columns or [] if one.name == name), None)
    heading = table.columns[at]
    column = column or ColumnSpec(place=heading.place, name=name, of=heading.of)
    items = [int(numbers[row]) for numbers in table.items]
    heads = heads_of(made, [(picked, answer)])
    value = table.data[at][row]
    return value, trace_cell(made, column, answer, picked, int(table.record[row]), items, value, heads)


@pytest.mark.parametrize(
    ("row", "name", "value", "pointer", "state", "step"),
    [
        (0, "id", "007", "/routes/0/d/0/id", "there", ""),
        (2, "id", "021", "/routes/1/d/0/id", "there", ""),
        (0, "at", "2025-11-24T05:40:00Z", "/routes/0/d/0/at", "there", "read as date and time (seconds since 1970)"),
        (1, "at", "soon", "/routes/0/d/1/at", "there", "does not fit date and time"),
        (0, "car", 42, "/routes/0/d/0/f/1/p", "there", "where c is car, of 2 values"),
        (1, "car", None, "/routes/0/d/1/f", "there", "of 0 values"),
        (0, "top", 42, "/routes/0/d/0/f/1/p", "there", "highest, of 2"),
        (0, "sum", 51.5, "/routes/0/d/0/f", "there", "sum of, of 2"),
        (0, "last", "car", "/routes/0/d/0/f/1/c", "there", "last, of 2"),
        (2, "route", "OX", "/routes/1/code", "there", ""),
        (1, "as of", "2026-11-25", "/as_of", "there", ""),
        (1, "page", 1, None, "outside", "the number of the page"),
        (0, "x", None, "/routes/0/d/0/x", "null", ""),
        (1, "x", None, "/routes/0/d/1/x", "missing", ""),
        (0, "e", "", "/routes/0/d/0/e", "empty text", ""),
    ],
)
def test_a_cell_is_traced(row, name, value, pointer, state, step):
    found, source = trace({"records": "$.routes[*].d[*]", "columns": COLUMNS}, ANSWER, row, name)
    assert (found, source.pointer, source.state) == (value, pointer, state)
    assert step in " ".join(source.steps)
    if state == "there" and source.pointer is not None:
        assert source.excerpt is not None
        where = place_of_pointer(ANSWER, source.pointer)
        assert source.excerpt.lit == json_text(at_place(ANSWER, where))


def test_rows_made_of_lists_and_what_is_repeated_in_them_are_traced():
    take = {"records": "$.routes[*].d[*]", "rows_for": "$.f", "columns": [
        {"place": "$.f[*].p", "name": "p"}, *COLUMNS[:1],
        {"place": "$.f[*].p", "name": "car", "reduction": {"by": "where", "place": "$.c", "equals": "car"}}]}  # fmt: skip
    assert [trace(take, ANSWER, row, "p")[1].pointer for row in range(4)] == [
        "/routes/0/d/0/f/0/p", "/routes/0/d/0/f/1/p", "/routes/0/d/1/f", "/routes/1/d/0/f/0/p",
    ]  # fmt: skip
    assert trace(take, ANSWER, 2, "p")[1].state == "missing"
    assert [trace(take, ANSWER, row, "car")[1].pointer for row in (0, 1)] == ["/routes/0/d/0/f/1/p"] * 2
    assert trace(take, ANSWER, 3, "id")[1].pointer == "/routes/1/d/0/id"


def test_keyed_objects_and_lists_with_names_are_traced():
    keyed = {"ports": {"007": {"n": "Oxnith"}, "a/b": {"n": "Harl"}}}
    assert trace({"records": "$.ports[*]"}, keyed, 1, "n")[1].pointer == "/ports/a~1b/n"
    value, source = trace({"records": "$.ports[*]"}, keyed, 1, "key")
    assert (value, source.pointer, source.steps) == ("a/b", "/ports/a~1b", ["the name a/b itself"])
    inner = {"d": [{"f": {"car": {"p": 5}, "van": {"p": 7}}}]}
    take = {"records": "$.d[*]", "rows_for": "$.f", "keyed": ["$.f"]}
    assert trace(take, inner, 1, "f.p")[1].pointer == "/d/0/f/van/p"
    rows = [["month", "cars"], ["2026-01", 5], ["2026-02", 7]]
    assert trace({"records": "$[*]", "heads": {"by": "first row"}}, rows, 1, "cars")[1].pointer == "/2/1"


def test_a_looked_up_cell_is_traced_in_its_own_answer():
    column = ColumnSpec(place="$.zones[*].n", name="n", reduction={"by": "first"})
    assert trace_in({"zones": [{"n": 3}]}, column, 3).pointer == "/zones/0/n"


def test_a_piece_shows_the_value_between_its_neighbours_and_stays_short():
    assert excerpt_around({"a": 1, "b": 2}, ("b",)) == Excerpt('{"a":1, "b":', "2", "}")
    assert excerpt_around([1, 2, 3], (0,)) == Excerpt("[", "1", ", 2, 3]")
    assert excerpt_around({"a": {"b": 1}}, ("a", "x")) == Excerpt('{"b":1}', "", "")
    long = excerpt_around({f"k{n}": "x" * 5000 for n in range(100)}, ("k50",))
    assert long is not None
    assert sum(map(len, (long.before, long.lit, long.after))) < 900
    assert long.before.startswith("{… ")
    assert long.after.endswith(", …}")


LEAF = st.integers(-9, 9) | st.text(max_size=3)
RECORD = st.fixed_dictionaries(
    {"id": st.integers()},
    optional={"a": LEAF | st.none(), "o": st.dictionaries(st.sampled_from(["x", "y"]), LEAF),
              "l": st.lists(st.fixed_dictionaries({}, optional={"k": LEAF}), max_size=3)},
)  # fmt: skip


@given(st.lists(RECORD, min_size=1, max_size=5), st.booleans())
def test_what_stands_at_a_cells_place_gives_the_cell(records, rows):
    answer = {"data": records}
    take = Extraction.model_validate({"records": "$.data[*]", "rows_for": ["$.l"] if rows else []})
    picked = pick(answer, take.records)
    table = read_table(take, [picked], [answer]).table
    for heading, values in zip(table.columns, table.data, strict=True):
        column = ColumnSpec(place=heading.place, name=heading.name)
        for row, value in enumerate(values):
            items = [int(numbers[row]) for numbers in table.items]
            source = trace_cell(take, column, answer, picked, int(table.record[row]), items, value)
            if value is None:
                assert source.state in ("missing", "null", "there")
                continue
            where = place_of_pointer(answer, source.pointer or "")
            found = at_place(answer, where)
            assert (json_text(found) if isinstance(found, dict | list) else found) == value


@given(st.recursive(LEAF, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=3), inner)))
def test_every_node_of_an_answer_has_a_pointer_that_leads_to_it(document):
    def walk(value, where=()):
        yield where, value
        inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
        for step, item in inner:
            yield from walk(item, (*where, step))

    for where, value in walk(document):
        again = place_of_pointer(document, format_pointer(where))
        assert again is not None
        assert at_place(document, again) == value


def test_an_index_from_the_end_is_traced_by_the_index_that_a_pointer_has():
    take = {"records": "$[*]", "columns": [{"place": "$.legs[-1].to", "name": "last"}]}
    answer = [{"legs": [{"to": "a"}, {"to": "b"}]}, {"legs": []}]
    value, source = trace(take, answer, 0, "last")
    assert (value, source.pointer, source.excerpt.lit) == ("b", "/0/legs/1/to", '"b"')
    assert trace(take, answer, 1, "last")[1].state == "missing"
