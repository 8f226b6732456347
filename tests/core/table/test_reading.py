import pytest

from tin_bucket.core.columns.kind_registry import KINDS, convert, guess_kind
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.table.reader import no_rows_problem, read_table

PAGES = [
    {"data": [{"id": "007", "hull": 4611686018427387905, "at": 1763962800,
               "legs": [{"from": "000"}], "f": [{"a": 1.5}, {"a": 2}]}]},
    {"data": [{"id": "010", "hull": 2, "at": 1763966400, "legs": [], "f": [], "extra": True}]},
]  # fmt: skip


def read(**take):
    made = Extraction(records="$.data[*]", **take)
    return read_table(made, [pick(page, made.records) for page in PAGES])


def column(reading, name):
    values = reading.table.column(name)
    assert values is not None
    return list(values)


def test_all_columns_with_their_kinds_and_nothing_harmed():
    reading = read()
    kinds = {heading.name: heading.kind for heading in reading.table.columns}
    assert kinds == {
        "id": "text",
        "hull": "whole number",
        "at": "whole number",
        "legs": "json",
        "f": "json",
        "extra": "yes/no",
    }
    assert column(reading, "id") == ["007", "010"]
    assert column(reading, "hull") == [4611686018427387905, 2]
    assert column(reading, "legs") == ['[{"from":"000"}]', "[]"]
    assert reading.lists == {"$.legs": 1, "$.f": 2}


def test_chosen_columns_in_their_order_with_names_kinds_and_units():
    reading = read(columns=[
        {"place": "$.at", "name": "departs", "kind": "date and time"},
        {"place": "$.legs[0].from", "name": "from"},
        {"place": "$.nowhere", "name": "gone"},
    ])  # fmt: skip
    assert [heading.name for heading in reading.table.columns] == ["departs", "from", "gone"]
    assert column(reading, "departs") == ["2025-11-24T05:40:00Z", "2025-11-24T06:40:00Z"]
    assert column(reading, "from") == ["000", None]
    assert column(reading, "gone") == [None, None]
    assert reading.absent == ["$.nowhere"]
    assert set(reading.fresh) == {"$.id", "$.hull", "$.legs", "$.f", "$.extra"}


def test_an_index_reads_one_item_of_a_list_and_nothing_of_what_is_none():
    legs = [[{"to": "a", "stops": [{"n": 1}, {"n": 2}]}, {"to": "b"}], [], "[1]", "not a list", None, {"to": "x"}]
    columns = [
        {"place": "$.legs[0].to", "name": "first"},
        {"place": "$.legs[-1].to", "name": "last"},
        {"place": "$.legs[0].stops[*].n", "name": "sum", "reduction": {"by": "sum"}},
        {"place": "$.legs[0].stops[*].n", "name": "all"},
        {"place": "$.legs[0].stops[1]", "name": "second"},
        {"place": "$.legs", "name": "legs"},
    ]
    answer = [{"legs": one} for one in legs]
    take = Extraction.model_validate({"records": "$[*]", "columns": columns})
    reading = read_table(take, [pick(answer, "$[*]")])
    none = (None,) * 5
    assert reading.table.rows(0, 9) == [
        ("a", "b", 3, "[1,2]", '{"n":2}',
         '[{"to":"a","stops":[{"n":1},{"n":2}]},{"to":"b"}]'),
        (*none, "[]"), (*none, "[1]"), (*none, "not a list"), (*none, None), (*none, None),
    ]  # fmt: skip
    assert reading.absent == []
    # Beside rows of the same list each row has the value of the record.
    rows = Extraction.model_validate({"records": "$[*]", "columns": [*columns[:1], {"place": "$.legs[*].to", "name": "to"}],
                                "rows_for": "$.legs"})  # fmt: skip
    assert read_table(rows, [pick(answer[:2], "$[*]")]).table.rows(0, 9) == [("a", "a"), ("a", "b"), (None, None)]


def test_nulls_are_counted_apart_from_what_is_absent():
    records = [
        {"a": None, "o": {"x": 1, "y": None}, "l": [{"p": None}, {"p": 2}], "m": 1},
        {"a": 1, "o": {"x": None}, "l": [], "m": [1]},
        {"o": None, "l": [{"p": None}, {}], "m": None},
        {"a": None},
    ]

    def nulls(**take):
        made = Extraction.model_validate({"records": "$[*]", **take})
        table = read_table(made, [pick(records, "$[*]")]).table
        return {one.place: one.nulls for one in table.columns}

    # Of a place that is also a list it cannot be told by a count alone.
    assert nulls() == {"$.a": 2, "$.o.x": 1, "$.o.y": 1, "$.l": None, "$.m": None}
    # Rows that repeat a null are counted where all that is empty is null.
    rows = nulls(rows_for="$.l")
    assert (rows["$.a"], rows["$.l[*].p"], rows["$.o.x"]) == (None, 2, None)
    all_null = [{"a": None, "l": [1, 2]}, {"a": None, "l": [3]}, {"a": 1, "l": []}]
    take = Extraction(records="$[*]", rows_for=["$.l"])
    assert read_table(take, [pick(all_null, "$[*]")]).table.columns[0].nulls == 3
    chosen = nulls(columns=[{"place": "$.nowhere", "name": "n"}, {"place": "$.a", "name": "a"}])
    assert chosen == {"$.nowhere": 0, "$.a": 2}


def test_a_list_made_rows_keeps_where_each_row_came_from():
    reading = read(rows_for="$.f", columns=[{"place": "$.id", "name": "id"}, {"place": "$.f[*].a", "name": "a"}])
    assert reading.table.rows(0, 9) == [("007", 1.5), ("007", 2), ("010", None)]
    assert reading.table.page.tolist() == [0, 0, 1]
    assert reading.table.record.tolist() == [0, 0, 0]
    assert reading.table.items[0].tolist() == [0, 1, -1]
    assert reading.records == 2


def test_no_rows_at_the_place_is_told_from_an_empty_list():
    assert no_rows_problem({"data": []}, "$.data[*]") is None
    problem = no_rows_problem({"meta": {}, "rows": []}, "$.data[*]")
    assert problem is not None
    assert problem.kind == "no-rows-there"
    assert "meta, rows" in problem.do


@pytest.mark.parametrize(
    ("kind", "values", "expected", "unfit"),
    [
        ("whole number", ["12", 3.0, "x", None, True], [12, 3, "x", None, True], 2),
        ("decimal", ["1.5", "1e400", 2], [1.5, "1e400", 2], 1),
        ("yes/no", ["yes", 0, False, "maybe"], [True, False, False, "maybe"], 1),
        ("date", ["2026-11-24", 1763962800, "24/11"], ["2026-11-24", "2025-11-24", "24/11"], 1),
        (
            "date and time",
            ["2026-11-24T07:30:00+01:00", 1763962800000],
            ["2026-11-24T06:30:00Z", "2025-11-24T05:40:00Z"],
            0,
        ),
        ("text", [7, "007", True, 1.5], ["7", "007", "true", "1.5"], 0),
    ],
)
def test_a_value_that_does_not_fit_stays_and_is_counted(kind, values, expected, unfit):
    assert convert(values, kind) == (expected, unfit)


def test_a_missed_lookup_passes_every_conversion():
    miss = Miss("none", "not found")
    assert all(convert([miss], kind.name) == ([miss], 0) for kind in KINDS)


def test_kinds_are_guessed_over_all_values_and_texts_stay_text():
    assert guess_kind(["1", "2"]) == "text"
    assert guess_kind([None, 1, 2.5]) == "decimal"
    assert guess_kind([1, "x"]) == "text"
    assert guess_kind([None]) == "text"
