from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.columns.compressed import TableTuning
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import WILDCARD, format_place
from tin_bucket.core.table.flatten import Repeated, column_names
from tin_bucket.core.table.flatten import flatten as whole_flatten

NAMES = st.sampled_from(["a", "b", "c", "a.b", ""])
LEAF = st.booleans() | st.integers(-5, 5) | st.text(max_size=3) | st.floats(allow_nan=False, allow_infinity=False)
VALUE = st.recursive(
    LEAF | st.none(),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(NAMES, inner, max_size=4),
    max_leaves=12,
)
RECORDS = st.lists(st.dictionaries(NAMES, VALUE, max_size=4), max_size=6)


def leaves(value, place=()):
    """Every leaf with its place; lists are leaves as JSON text, as they are in a table."""
    if isinstance(value, dict):
        for name, inner in value.items():
            yield from leaves(inner, (*place, name))
    elif isinstance(value, list):
        yield place, json_text(value)
    elif value is not None:
        yield place, value


def by_place(flat):
    return {column.place: list(column.values) for column in flat.columns}


def flatten(records, rows_for=()):
    """Records are flattened some at a time; few together make every test cross the bounds."""
    return whole_flatten(records, rows_for, TableTuning(together=3))


@given(RECORDS)
def test_no_leaf_is_lost_and_none_is_made_up(records):
    flat = flatten(records)
    found = by_place(flat)
    for row, record in enumerate(records):
        told = {place: values[row] for place, values in found.items() if values[row] not in (None, "{}")}
        assert told == {place: value for place, value in leaves(record) if value != "{}"}
    assert all(len(values) == len(records) for values in found.values())


@given(RECORDS, st.integers(1, 4))
def test_how_many_records_are_flattened_together_changes_no_value(records, together):
    def told(flat):
        return {
            column.place: (list(column.values), column.types - {type(None)}, column.nulls) for column in flat.columns
        }

    assert told(whole_flatten(records, (), TableTuning(together=together))) == told(whole_flatten(records))


@given(RECORDS, st.randoms())
def test_the_order_of_keys_changes_no_value(records, random):
    shuffled = []
    for record in records:
        items = list(record.items())
        random.shuffle(items)
        shuffled.append(dict(items))
    assert by_place(flatten(records)) == by_place(flatten(shuffled))


@given(st.lists(st.fixed_dictionaries({"id": st.integers()}, optional={"l": st.lists(VALUE, max_size=4)}), max_size=8))
def test_each_item_of_the_chosen_list_is_a_row_and_no_record_is_lost(records):
    flat = flatten(records, [("l",)])
    expected = [(index, at) for index, record in enumerate(records)
                for at in (range(len(record.get("l") or [])) or [-1])]  # fmt: skip
    assert list(zip(flat.record.tolist(), flat.items[0].tolist(), strict=True)) == expected
    found = by_place(flat)
    assert found.get(("id",), []) == [records[index]["id"] for index, _ in expected]
    for row, (index, at) in enumerate(expected):
        told = {place: values[row] for place, values in found.items()
                if place[:2] == ("l", WILDCARD) and values[row] not in (None, "{}")}  # fmt: skip
        item = records[index]["l"][at] if at >= 0 else None
        assert told == {place: value for place, value in leaves(item, ("l", WILDCARD)) if value != "{}"}


def test_columns_stand_in_the_order_of_the_first_record_and_newcomers_behind_their_neighbour():
    flat = flatten([{"a": 1, "c": {"x": 1, "z": 2}, "d": 4}, {"a": 1, "b": 2, "c": {"x": 1, "y": 5}}])
    assert [format_place(column.place) for column in flat.columns] == ["$.a", "$.b", "$.c.x", "$.c.y", "$.c.z", "$.d"]


def test_a_field_that_is_now_an_object_and_now_a_value_keeps_both():
    found = by_place(flatten([{"v": "none"}, {"v": {"name": "Tystie"}}, {"v": None}]))
    assert found == {("v",): ["none", None, None], ("v", "name"): [None, "Tystie", None]}


def test_records_that_are_no_objects_become_one_column():
    assert by_place(flatten([1, "x", None, [1, 2]])) == {(): [1, "x", None, "[1,2]"]}
    assert flatten([]).columns == []


def test_values_of_repeated_records_are_not_copied():
    flat = flatten([{"id": "x", "l": [1, 2, 3]}], [("l",)])
    column = flat.columns[0].values
    assert isinstance(column, Repeated)
    assert column.values == ["x"]
    assert (len(column), column[1], column[1:], list(column)) == (3, "x", ["x", "x"], ["x"] * 3)


def test_a_list_in_an_object_can_be_made_rows():
    found = by_place(flatten([{"v": {"l": [{"k": 1}, {"k": 2}]}, "z": 9}], [("v", "l")]))
    assert found == {("v", "l", WILDCARD, "k"): [1, 2], ("z",): [9, 9]}


def test_many_records_of_changing_shape_stay_aligned():
    records = [
        {"id": n, **({"x": n} if n % 600 > 300 else {}), **({"y": {"z": n}} if n > 1100 else {})} for n in range(1500)
    ]
    found = by_place(flatten(records))
    assert found.get(("id",), []) == list(range(1500))
    assert found[("x",)] == [n if n % 600 > 300 else None for n in range(1500)]
    assert found[("y", "z")] == [n if n > 1100 else None for n in range(1500)]


def test_names_are_distinct_and_readable():
    places = [("vessel", "name"), ("vessel.name",), ("fares", WILDCARD, "class"), ()]
    assert column_names(places) == ["vessel.name", "vessel.name (2)", "fares.class", "value"]
