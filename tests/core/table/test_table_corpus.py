"""A corpus of answers as APIs send them, each with the table that it must give."""

import pytest
from pydantic import ValidationError

from tin_bucket.core.detect.records import detect_records
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.table.reader import read_table
from tin_bucket.core.table.select import MOST_COLUMNS

# name: (answer, place of the rows as it must be guessed, what is made rows, headings, rows)
SHAPES = {
    "a bare list": ([{"a": 1}, {"a": 2}], "$[*]", None, ["a"], [(1,), (2,)]),
    "data and meta": ({"meta": {"total": 2}, "data": [{"a": 1}, {"a": 2}]}, "$.data[*]", None, ["a"], [(1,), (2,)]),
    "deep inside": ({"r": {"body": {"items": [{"a": 1}]}}}, "$.r.body.items[*]", None, ["a"], [(1,)]),
    "beside a longer list of texts": (
        {"tags": ["x"] * 9, "rows": [{"a": 1}, {"a": 2}]}, "$.rows[*]", None, ["a"], [(1,), (2,)],
    ),
    "a key with a space and a full stop": (
        {"the rows": [{"a.b": 1, "a": {"b": 2}}]}, "$['the rows'][*]", None, ["a.b", "a.b (2)"], [(1, 2)],
    ),
    "a single object": (
        {"name": "Oxnith", "pos": {"x": 1, "y": 2}}, "$", None, ["name", "pos.x", "pos.y"], [("Oxnith", 1, 2)],
    ),
    "an empty list": ({"data": []}, "$.data[*]", None, [], []),
    "a list of numbers": ({"values": [3, 4.5, None]}, "$.values[*]", None, ["value"], [(3,), (4.5,), (None,)]),
    "a list of lists": ([[1, "x"], [2, "y"]], "$[*]", None, ["value"], [('[1,"x"]',), ('[2,"y"]',)]),
    "fields that come and go": (
        {"d": [{"a": 1}, {"b": 2, "a": None}, {"c": {"x": True}}]}, "$.d[*]", None,
        ["a", "b", "c.x"], [(1, None, None), (None, 2, None), (None, None, True)],
    ),
    "an object that is sometimes null": (
        {"d": [{"v": None}, {"v": {"n": "MV"}}, {}]}, "$.d[*]", None, ["v.n"], [(None,), ("MV",), (None,)],
    ),
    "a value that is sometimes an object": (
        {"d": [{"v": "none"}, {"v": {"n": "MV"}}]}, "$.d[*]", None, ["v", "v.n"], [("none", None), (None, "MV")],
    ),
    "a list that is sometimes a single value": (
        {"d": [{"t": ["x", "y"]}, {"t": "z"}, {"t": None}]}, "$.d[*]", "$.t",
        ["t", "t (2)"], [("x", None), ("y", None), (None, "z"), (None, None)],
    ),
    "a list of objects made rows": (
        {"d": [{"id": 1, "f": [{"k": "a"}, {"k": "b"}], "z": 0}, {"id": 2, "f": []}]}, "$.d[*]", "$.f",
        ["id", "f.k", "z"], [(1, "a", 0), (1, "b", 0), (2, None, None)],
    ),
    "a list in an object made rows": (
        {"d": [{"v": {"f": [1, 2]}, "id": 7}]}, "$.d[*]", "$.v.f", ["v.f", "id"], [(1, 7), (2, 7)],
    ),
    "lists within the list that is made rows": (
        {"d": [{"f": [{"g": [1, 2]}, {"g": []}]}]}, "$.d[*]", "$.f", ["f.g"], [("[1,2]",), ("[]",)],
    ),
    "codes, long ids and numbers as text": (
        {"d": [{"code": "007", "id": 12345678901234567890, "n": "1.50"}]}, "$.d[*]", None,
        ["code", "id", "n"], [("007", 12345678901234567890, "1.50")],
    ),
    "empty text, nought and false are values": (
        {"d": [{"a": "", "b": 0, "c": False}]}, "$.d[*]", None, ["a", "b", "c"], [("", 0, False)],
    ),
    "an empty object leaves a trace": ({"d": [{"a": {}, "b": 1}]}, "$.d[*]", None, ["a", "b"], [("{}", 1)]),
    "markup and emoji are text": (
        {"d": [{"a": "<b>x</b>", "b": "🪣", "": "no name"}]}, "$.d[*]", None, ["a", "b", ""],
        [("<b>x</b>", "🪣", "no name")],
    ),
    "records of different kinds": ({"d": [{"a": 1}, "odd", None]}, "$.d[*]", None, ["value", "a"],
                                   [(None, 1), ("odd", None), (None, None)]),
}  # fmt: skip


@pytest.mark.parametrize("name", SHAPES)
def test_an_answer_gives_its_table(name):
    answer, path, rows_for, headings, rows = SHAPES[name]
    assert detect_records(answer)[0].path == path
    reading = read_table(Extraction(records=path, rows_for=rows_for), [pick(answer, path)])
    assert [column.name for column in reading.table.columns] == headings
    assert reading.table.rows(0, 99) == (rows if headings else [])


@pytest.mark.parametrize("name", SHAPES)
def test_two_pages_give_the_rows_of_both(name):
    answer, path, rows_for, headings, rows = SHAPES[name]
    reading = read_table(Extraction(records=path, rows_for=rows_for), [pick(answer, path)] * 2)
    assert [column.name for column in reading.table.columns] == headings
    assert reading.table.rows(0, 99) == (rows * 2 if headings else [])
    assert sorted(set(reading.table.page.tolist())) == ([0, 1] if rows else [])
    assert reading.table.record.tolist() == reading.table.record.tolist()[: len(rows)] * 2


def test_an_answer_nested_two_hundred_deep_is_read():
    answer = value = {}
    for _ in range(200):
        value["a"] = value = {}
    value["end"] = 1
    reading = read_table(Extraction(), [pick(answer, "$")])
    assert reading.table.columns[0].name == ".".join(["a"] * 200 + ["end"])
    assert reading.table.rows(0, 1) == [(1,)]


def test_an_object_with_very_many_keys_is_read_and_no_key_is_lost():
    answer = [{f"k{n}": n for n in range(20_000)}]
    reading = read_table(Extraction(records="$[*]"), [pick(answer, "$[*]")])
    assert len(reading.table.columns) == MOST_COLUMNS
    assert reading.table.rows(0, 1)[0][-1] == MOST_COLUMNS - 1
    assert [f"$.k{n}" for n in range(MOST_COLUMNS, 20_000)] == list(reading.fresh)


# name: (answer or answers of several pages, how it is read, headings, rows)
READ = {
    "an object keyed by id": (
        {"ports": {"007": {"name": "Oxnith"}, "010": {"name": "Harl"}}}, {"records": "$.ports[*]"},
        ["key", "name"], [("007", "Oxnith"), ("010", "Harl")],
    ),
    "an object of plain values by name": (
        {"rates": {"foot": 9.5, "car": 42}}, {"records": "$.rates.*"}, ["key", "value"], [("foot", 9.5), ("car", 42)],
    ),
    "a keyed object within each record": (
        {"d": [{"id": 1, "f": {"car": {"p": 5}, "van": {"p": 7}}}, {"id": 2}]},
        {"records": "$.d[*]", "rows_for": "$.f", "keyed": ["$.f"]},
        ["id", "f.key", "f.p"], [(1, "car", 5), (1, "van", 7), (2, None, None)],
    ),
    "only the names and one field of a keyed object": (
        {"d": [{"f": {"car": {"p": 5}, "van": {"p": 7}}}]},
        {"records": "$.d[*]", "rows_for": "$.f", "keyed": ["$.f"], "columns": [
            {"place": "$.f[*].p", "name": "price"}, {"place": "$.f[*]", "name": "class", "of": "key"}]},
        ["price", "class"], [(5, "car"), (7, "van")],
    ),
    "lists with their names in the first row": (
        [["month", "cars"], ["2026-01", 5], ["2026-02", 7]], {"records": "$[*]", "heads": {"by": "first row"}},
        ["month", "cars"], [("2026-01", 5), ("2026-02", 7)],
    ),
    "names in the first row of each page, in another order": (
        [[["a", "b"], [1, 2]], [["b", "a"], [4, 3]]], {"records": "$[*]", "heads": {"by": "first row"}},
        ["a", "b"], [(1, 2), (3, 4)],
    ),
    "names in the first row of the first page alone": (
        [[["a", "b"], [1, 2]], [[3, 4]]], {"records": "$[*]", "heads": {"by": "first row"}},
        ["a", "b"], [(1, 2), (3, 4)],
    ),
    "lists with names that are given": (
        {"r": [[1, "x"], [2, "y"]]}, {"records": "$.r[*]", "heads": {"by": "given", "names": ["n", "code"]}},
        ["n", "code"], [(1, "x"), (2, "y")],
    ),
    "a list of columns beside the rows": (
        {"columns": [{"name": "n"}, {"name": "code"}], "rows": [[1, "x"], [2, "y"]]},
        {"records": "$.rows[*]", "heads": {"by": "place", "place": "$.columns[*].name"}},
        ["n", "code"], [(1, "x"), (2, "y")],
    ),
    "rows longer and shorter than their names": (
        [["a", ""], [1], [1, 2, 3]], {"records": "$[*]", "heads": {"by": "first row"}},
        ["a", "column 2", "column 3"], [(1, None, None), (1, 2, 3)],
    ),
    "parallel lists": (
        {"hourly": {"time": ["t1", "t2", "t3"], "wind": [4, 5]}},
        {"records": "$.hourly", "rows_for": ["$.time", "$.wind"], "together": "side by side"},
        ["time", "wind"], [("t1", 4), ("t2", 5), ("t3", None)],
    ),
    "two lists as their product": (
        {"d": [{"id": 1, "a": [1, 2], "b": ["x", "y"]}, {"id": 2, "a": [], "b": ["z"]}]},
        {"records": "$.d[*]", "rows_for": ["$.a", "$.b"], "together": "product"},
        ["id", "a", "b"],
        [(1, 1, "x"), (1, 1, "y"), (1, 2, "x"), (1, 2, "y"), (2, None, "z")],
    ),
    "a list in a list": (
        {"d": [{"id": 1, "legs": [{"n": "A", "stops": [1, 2]}, {"n": "B", "stops": []}]}, {"id": 2, "legs": []}]},
        {"records": "$.d[*]", "rows_for": ["$.legs", "$.legs[*].stops"]},
        ["id", "legs.n", "legs.stops"], [(1, "A", 1), (1, "A", 2), (1, "B", None), (2, None, None)],
    ),
    "a price picked by its class": (
        {"d": [{"id": 1, "f": [{"c": "foot", "p": 9}, {"c": "car", "p": 42}]}, {"id": 2, "f": [{"c": "foot", "p": 8}]}]},
        {"records": "$.d[*]", "columns": [{"place": "$.id", "name": "id"}, {"place": "$.f[*].p", "name": "car",
         "reduction": {"by": "where", "place": "$.c", "equals": "car"}}]},
        ["id", "car"], [(1, 42), (2, None)],
    ),
    "a list joined, counted, first, last, third and second to last": (
        {"d": [{"t": ["x", "y", "z"]}, {"t": []}, {}]},
        {"records": "$.d[*]", "columns": [{"place": "$.t[*]", "name": name, "reduction": how} for name, how in {
            "joined": {"by": "joined", "separator": "/"}, "count": {"by": "count"}, "first": {"by": "first"},
            "last": {"by": "last"}, "third": {"by": "number", "number": 3}, "-2": {"by": "number", "number": -2}}.items()]},
        ["joined", "count", "first", "last", "third", "-2"],
        [("x/y/z", 3, "x", "z", "z", "y"), ("", 0, None, None, None, None), (None,) * 6],
    ),
    "figures of a list": (
        {"d": [{"f": [{"p": 0.1}, {"p": "0.2"}, {"p": None}]}, {"f": [{"p": "soon"}, {"p": 2}]}]},
        {"records": "$.d[*]", "columns": [{"place": "$.f[*].p", "name": by, "reduction": {"by": by}}
                                          for by in ("sum", "mean", "median", "lowest", "highest")]},
        ["sum", "mean", "median", "lowest", "highest"], [(0.3, 0.15, 0.15, 0.1, 0.2), ('["soon",2]',) * 5],
    ),
    "a list as JSON text, and its fields as a list": (
        {"d": [{"f": [{"p": 1}, {"q": 2}]}]},
        {"records": "$.d[*]", "columns": [{"place": "$.f", "name": "f"}, {"place": "$.f[*].p", "name": "ps"}]},
        ["f", "ps"], [('[{"p":1},{"q":2}]', "[1]")],
    ),
    "one item that is sent without its list": (
        {"d": [{"f": {"c": "car", "p": 42}}, {"f": [{"c": "car", "p": 43}]}]},
        {"records": "$.d[*]", "columns": [{"place": "$.f[*].p", "name": "p", "reduction": {"by": "first"}}]},
        ["p"], [(42,), (43,)],
    ),
    "a price picked of the list that became rows, repeated": (
        {"d": [{"id": 1, "f": [{"c": "foot", "p": 9}, {"c": "car", "p": 42}]}, {"id": 2, "f": []}]},
        {"records": "$.d[*]", "rows_for": ["$.f"], "columns": [{"place": "$.f[*].c", "name": "c"}, {"place": "$.f[*].p",
         "name": "car", "reduction": {"by": "where", "place": "$.c", "equals": "car"}}, {"place": "$.id", "name": "id"}]},
        ["c", "car", "id"], [("foot", 42, 1), ("car", 42, 1), (None, None, 2)],
    ),
    "a list within the list that became rows": (
        {"d": [{"f": [{"c": "car", "t": ["x", "y"]}, {"c": "van", "t": []}]}]},
        {"records": "$.d[*]", "rows_for": "$.f", "columns": [{"place": "$.f[*].c", "name": "c"},
         {"place": "$.f[*].t[*]", "name": "t", "reduction": {"by": "joined"}}]},
        ["c", "t"], [("car", "x, y"), ("van", "")],
    ),
    "fields of the whole answer, of the parent and the page": (
        [{"as_of": "2026-11-24", "routes": [{"code": "HO", "d": [{"n": 1}, {"n": 2}]}, {"code": "OX", "d": [{"n": 3}]}]},
         {"as_of": "2026-11-25", "routes": [{"code": "ZZ", "d": [{"n": 4}]}]}],
        {"records": "$.routes[*].d[*]", "columns": [
            {"place": "$.n", "name": "n"}, {"place": "$.routes[*].code", "name": "route", "of": "answer"},
            {"place": "$.as_of", "name": "as of", "of": "answer"}, {"place": "$", "name": "page", "of": "page"}]},
        ["n", "route", "as of", "page"],
        [(1, "HO", "2026-11-24", 1), (2, "HO", "2026-11-24", 1), (3, "OX", "2026-11-24", 1), (4, "ZZ", "2026-11-25", 2)],
    ),
    "a condition as path to the records": (
        {"d": [{"open": True, "n": 1}, {"open": False, "n": 2}]}, {"records": "$.d[?@.open == true]"},
        ["open", "n"], [(True, 1)],
    ),
    "columns that change places and one that is not sent": (
        [[{"a": 1, "b": 2}], [{"b": 4, "a": 3}], [{"b": 6}]],
        {"records": "$[*]", "columns": [{"place": "$.b", "name": "b"}, {"place": "$.a", "name": "a"}]},
        ["b", "a"], [(2, 1), (4, 3), (6, None)],
    ),
    "keys that look like paths": (
        [{"$.a": 1, "a[0]": 2, "a": [3], "..": 4}],
        {"records": "$[*]", "columns": [{"place": "$['$.a']", "name": "1"}, {"place": "$['a[0]']", "name": "2"},
                                        {"place": "$.a[0]", "name": "3"}, {"place": "$['..']", "name": "4"}]},
        ["1", "2", "3", "4"], [(1, 2, 3, 4)],
    ),
    "null, missing and an empty text": (
        [{"a": None, "b": 1}, {"b": 2}, {"a": "", "b": 3}], {"records": "$[*]"},
        ["a", "b"], [(None, 1), (None, 2), ("", 3)],
    ),
    "dates written in several ways": (
        [{"a": 1763962800, "b": 1763962800000, "c": "24.11.2025 06:40", "d": "24 Nov 2025", "e": "soon"}],
        {"records": "$[*]", "columns": [
            {"place": "$.a", "name": "a", "kind": "date and time", "reads": {"dates": "seconds"}},
            {"place": "$.b", "name": "b", "kind": "date", "reads": {"dates": "milliseconds"}},
            {"place": "$.c", "name": "c", "kind": "date and time", "reads": {"dates": "%d.%m.%Y %H:%M", "zone": "Europe/Berlin"}},
            {"place": "$.d", "name": "d", "kind": "date", "reads": {"dates": "%d %b %Y"}},
            {"place": "$.e", "name": "e", "kind": "date"}]},
        ["a", "b", "c", "d", "e"],
        [("2025-11-24T05:40:00Z", "2025-11-24", "2025-11-24T05:40:00Z", "2025-11-24", "soon")],
    ),
    "numbers as people write them": (
        [{"a": "1.234,5", "b": "1,234.5", "c": "12,5 %", "d": "12.5%", "e": "ja", "f": "007"}],
        {"records": "$[*]", "columns": [
            {"place": "$.a", "name": "a", "kind": "decimal", "reads": {"comma": True}},
            {"place": "$.b", "name": "b", "kind": "decimal"},
            {"place": "$.c", "name": "c", "kind": "decimal", "reads": {"comma": True}},
            {"place": "$.d", "name": "d", "kind": "decimal"},
            {"place": "$.e", "name": "e", "kind": "yes/no", "reads": {"yes": ["ja"], "no": ["nein"]}},
            {"place": "$.f", "name": "f"}]},
        ["a", "b", "c", "d", "e", "f"], [(1234.5, 1234.5, 12.5, 12.5, True, "007")],
    ),
}  # fmt: skip


def read_as(name):
    """Pages, how they are read, headings and rows of a shape."""
    answer, how, headings, rows = READ[name]
    several = isinstance(answer, list) and answer and all(isinstance(one, dict | list) for one in answer) and (
        "page" in name or "places" in name)  # fmt: skip
    return answer if several else [answer], Extraction.model_validate(how), headings, rows


@pytest.mark.parametrize("name", READ)
def test_an_answer_is_read_as_asked(name):
    pages, take, headings, rows = read_as(name)
    reading = read_table(take, [pick(page, take.records) for page in pages], pages)
    assert [column.name for column in reading.table.columns] == headings
    assert reading.table.rows(0, 99) == rows
    assert reading.problem is None


def test_what_is_not_taken_of_a_list_is_listed():
    take = Extraction.model_validate({"records": "$[*]", "columns": [
        {"place": "$.f[*].p", "name": "p", "reduction": {"by": "first"}}]})  # fmt: skip
    reading = read_table(take, [pick([{"id": 1, "f": [{"p": 1, "c": "car"}]}], "$[*]")])
    assert list(reading.fresh) == ["$.id", "$.f[*].c"]


def test_names_that_are_not_where_they_should_be_are_a_problem():
    take = Extraction.model_validate({"records": "$.rows[*]", "heads": {"by": "place", "place": "$.columns"}})
    answer = {"rows": [[1, 2]]}
    reading = read_table(take, [pick(answer, take.records)], [answer])
    assert reading.problem is not None
    assert "$.columns" in reading.problem.what
    assert reading.table.rows(0, 1) == [(1, 2)]


@pytest.mark.parametrize(
    ("how", "words"),
    [
        ({"rows_for": ["$.a", "$.b"]}, "product"),
        ({"rows_for": ["$.a[*].b"]}, "the outer list"),
        ({"rows_for": ["$.a", "$.a"]}, "twice"),
        ({"columns": [{"place": "$.a", "name": "a", "reduction": {"by": "count"}}]}, "names no list"),
        ({"columns": [{"place": "$.a[?@.b]", "name": "a"}]}, "not a plain place"),
        ({"columns": [{"place": "$.a[*]", "name": "a", "reduction": {"by": "number", "number": 0}}]}, "from 1"),
        ({"columns": [{"place": "$.a", "name": "a", "kind": "date", "reads": {"dates": "%d.%q.%Y"}}]}, "%q at character 4"),
        ({"columns": [{"place": "$.a", "name": "a", "kind": "date", "reads": {"dates": "%d"}}]}, "needs a year"),
        ({"columns": [{"place": "$.a", "name": "a", "kind": "date", "reads": {"zone": "Moon"}}]}, "not a time zone"),
    ],
)  # fmt: skip
def test_a_way_of_reading_that_cannot_be_is_refused_in_words(how, words):
    with pytest.raises(ValidationError) as caught:
        Extraction.model_validate({"records": "$[*]", **how})
    assert words in str(caught.value)


def test_lists_whose_product_is_too_large_are_refused():
    record = {"a": list(range(6000)), "b": list(range(6000))}
    take = Extraction.model_validate({"records": "$", "rows_for": ["$.a", "$.b"], "together": "product"})
    with pytest.raises(ProblemError) as caught:
        read_table(take, [pick(record, "$")])
    assert caught.value.problem.kind == "too-many-rows"
