"""Records that were flattened once give any other table as if they had been read for it."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.table.test_table_corpus import READ, read_as
from tin_bucket.core.columns.compressed import TableTuning
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.table.reader import Reader, read_table

LEAF = st.none() | st.booleans() | st.integers(-3, 3) | st.text("xy[]", max_size=2) | st.just("2026-11-25")
ITEM = st.dictionaries(st.sampled_from(["p", "q"]), LEAF | st.lists(LEAF, max_size=2), max_size=2) | LEAF
RECORD = st.fixed_dictionaries(
    {},
    optional={
        "a": LEAF,
        "o": st.dictionaries(st.sampled_from(["x", "y"]), LEAF | st.lists(ITEM, max_size=2), max_size=2),
        "l": st.lists(ITEM, max_size=3) | LEAF | st.dictionaries(st.sampled_from(["x", "y"]), ITEM, max_size=2),
        "m": st.lists(ITEM, max_size=3) | st.none(),
    },
)
PAGES = st.lists(st.lists(RECORD, max_size=5), min_size=1, max_size=3)
COLUMNS = [
    {"place": "$.a"},
    {"place": "$.a", "kind": "whole number"},
    {"place": "$.o.x"},
    {"place": "$.l"},
    {"place": "$.m"},
    {"place": "$.l[0].p"},
    {"place": "$.l[*].p"},
    {"place": "$.l[*].p", "reduction": {"by": "where", "place": "$.q", "equals": "x"}},
    {"place": "$.m[*]", "reduction": {"by": "count"}},
    {"place": "$.m[*].q[*]", "reduction": {"by": "joined", "separator": "+"}},
    {"place": "$", "of": "page"},
    {"place": "$", "of": "key"},
    {"place": "$.nowhere"},
]
TAKES = st.builds(
    lambda columns, rows, together, keyed: Extraction.model_validate({
        "records": "$[*]",
        "columns": columns and [{**column, "name": f"c{at}"} for at, column in enumerate(columns)],
        "rows_for": rows,
        "together": together,
        "keyed": keyed,
    }),
    st.none() | st.lists(st.sampled_from(COLUMNS), min_size=1, max_size=6),
    st.sampled_from([[], ["$.l"], ["$.m"], ["$.l", "$.m"], ["$.m", "$.m[*].q"]]),
    st.sampled_from(["product", "side by side"]),
    st.sampled_from([[], [], ["$.l"]]),
)  # fmt: skip


def told(reading):
    """All that a reading says. Where a list and an object share a place, the order in which their columns stand is the
    only thing that may differ."""
    table = reading.table
    columns = {heading: list(values) for heading, values in zip(table.columns, table.data, strict=True)}
    return (
        columns, table.page.tolist(), table.record.tolist(), [some.tolist() for some in table.items], reading.records,
        reading.absent, sorted(reading.fresh), reading.lists, reading.unfit, reading.fields, reading.empty,
    )  # fmt: skip


def reader_of(take, pages, tuning=TableTuning()):
    reader = Reader(take, keep=True, tuning=tuning)
    for page in pages:
        reader.add(pick(page, "$[*]"), page)
    return reader


@settings(max_examples=300)
@given(PAGES, TAKES, TAKES)
def test_another_table_of_kept_records_is_the_one_of_the_answers(pages, first, other):
    few = TableTuning(together=3)
    reader = reader_of(first, pages, few)
    made = reader.again(other)
    if made is None:
        # The answers are asked for only where an object stands for a list, or is read like one in the one and not in
        # the other.
        objects = any(type(record.get("l")) is dict for page in pages for record in page)
        assert first.keyed != other.keyed or objects
        return
    whole = read_table(other, [pick(page, "$[*]") for page in pages], pages, few)
    assert told(made) == told(whole)
    again = reader.again(first)
    assert again is None or told(again) == told(read_table(first, [pick(page, "$[*]") for page in pages], pages, few))


@pytest.mark.parametrize("name", READ)
def test_every_shape_is_read_again_as_it_was_read(name):
    pages, take, headings, rows = read_as(name)
    reader = Reader(take, {}, keep=True)
    for page in pages:
        reader.add(pick(page, take.records), page)
    for _ in range(2):
        made = reader.again(take)
        if name == "one item that is sent without its list":
            assert made is None
            return
        assert made is not None
        assert [column.name for column in made.table.columns] == headings
        assert made.table.rows(0, 99) == rows


def test_columns_of_kept_records_stand_in_the_order_of_the_answer():
    pages = [[{"a": 1, "l": [{"p": 1}], "z": "x"}], [{"a": 2, "b": 3, "l": [], "m": [1], "z": "y"}]]
    for rows in ([], ["$.l"]):
        take = Extraction(records="$[*]", rows_for=rows)
        made, whole = (
            reader_of(Extraction(records="$[*]"), pages).again(take),
            read_table(take, [pick(p, "$[*]") for p in pages]),
        )
        assert [one.name for one in made.table.columns] == [one.name for one in whole.table.columns]
        assert made.fields == whole.fields


def test_what_the_kept_records_do_not_tell_is_said_to_need_the_answers():
    pages = [[{"a": 1}]]
    reader = reader_of(Extraction(records="$[*]"), pages)
    for other in (
        Extraction(records="$[0]"),
        Extraction(records="$[*]", keyed=["$.a"]),
        Extraction.model_validate(
            {"records": "$[*]", "columns": [{"place": "$[0].a", "name": "first", "of": "answer"}]}
        ),
        Extraction.model_validate({"records": "$[*]", "heads": {"by": "first row"}}),
    ):
        assert reader.again(other) is None
    assert reader.again(Extraction(records="$[*]")) is not None
