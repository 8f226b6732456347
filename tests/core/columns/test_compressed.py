"""Long columns are kept packed, and read as if they were not."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.columns.compressed import Packed, TableTuning
from tin_bucket.core.columns.kind_registry import convert, guess_kind
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.table.reader import Reader, read_table
from tin_bucket.core.table.table import count_filled

VALUES = st.one_of(st.none(), st.booleans(), st.integers(), st.floats(allow_nan=False), st.text())


@given(st.lists(VALUES, max_size=20), st.integers(-25, 25), st.integers(-25, 25))
def test_it_reads_like_a_list(values, start, stop):
    made = Packed(values[:7], stretch=3)
    made.extend(values[7:])
    assert list(made) == values
    assert len(made) == len(values)
    assert made[start:stop] == values[start:stop]
    assert made[start:stop:2] == values[start:stop:2]
    assert made.count(None) == values.count(None)
    assert [made[at] for at in range(len(values))] == values
    assert made.all_types() == set(map(type, values))
    assert guess_kind(made) == guess_kind(values)
    numbers, unfit = convert(made, "whole number")
    assert (list(numbers), unfit) == convert(values, "whole number")
    with pytest.raises(IndexError):
        made[len(values)]


RECORDS = st.lists(
    st.fixed_dictionaries(
        {}, optional={"a": VALUES, "b": st.fixed_dictionaries({}, optional={"c": VALUES}),
                      "l": st.lists(st.fixed_dictionaries({"n": st.integers(0, 9)}), max_size=3)},
    ),
    max_size=14,
)  # fmt: skip


@given(RECORDS, st.sampled_from([None, "$.l"]), st.integers(1, 5))
def test_a_long_table_is_the_same_as_a_short_one(records, rows_for, size):
    take = Extraction(records="$[*]", rows_for=rows_for)
    pages = [records[at : at + size] for at in range(0, len(records), size)]
    short = read_table(take, [pick(page, "$[*]") for page in pages], tuning=TableTuning(together=2))
    reader = Reader(take, tuning=TableTuning(together=2, packed_from=4, stretch=3))
    for page in pages:
        reader.add(pick(page, "$[*]"))
    long = reader.reading()
    assert count_filled(long.table) == count_filled(short.table)
    assert [list(values) for values in long.table.data] == [list(values) for values in short.table.data]
    assert long.table.page.tolist() == short.table.page.tolist()
    assert long.table.record.tolist() == short.table.record.tolist()
    assert [numbers.tolist() for numbers in long.table.items] == [numbers.tolist() for numbers in short.table.items]
    assert (long.lists, long.records) == (short.lists, short.records)


def test_chosen_columns_of_a_long_table_are_converted():
    take = Extraction.model_validate(
        {"records": "$[*]", "columns": [{"place": "$.n", "name": "n", "kind": "text"}, {"place": "$.x", "name": "x"}]}
    )
    made = read_table(
        take, [pick([{"n": at} for at in range(10)], "$[*]")], tuning=TableTuning(packed_from=4, stretch=3)
    )
    assert list(made.table.data[0]) == [str(at) for at in range(10)]
    assert made.absent == ["$.x"]
