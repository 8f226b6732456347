"""A corpus of answers as APIs send them, each with the table that it must give."""

import pytest

from tin_bucket.core.brief import Take
from tin_bucket.core.picking import guess_rows, pick
from tin_bucket.core.reading import read_table

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
    assert guess_rows(answer)[0].path == path
    reading = read_table(Take(records=path, rows_for=rows_for), [pick(answer, path)])
    assert [column.name for column in reading.table.columns] == headings
    assert reading.table.rows(0, 99) == (rows if headings else [])


@pytest.mark.parametrize("name", SHAPES)
def test_two_pages_give_the_rows_of_both(name):
    answer, path, rows_for, headings, rows = SHAPES[name]
    reading = read_table(Take(records=path, rows_for=rows_for), [pick(answer, path)] * 2)
    assert [column.name for column in reading.table.columns] == headings
    assert reading.table.rows(0, 99) == (rows * 2 if headings else [])
    assert sorted(set(reading.table.page.tolist())) == ([0, 1] if rows else [])
    assert reading.table.record.tolist() == reading.table.record.tolist()[: len(rows)] * 2


def test_an_answer_nested_two_hundred_deep_is_read():
    answer = value = {}
    for _ in range(200):
        value["a"] = value = {}
    value["end"] = 1
    reading = read_table(Take(), [pick(answer, "$")])
    assert reading.table.columns[0].name == ".".join(["a"] * 200 + ["end"])
    assert reading.table.rows(0, 1) == [(1,)]


def test_an_object_with_very_many_keys_is_read():
    answer = [{f"k{n}": n for n in range(20_000)}]
    reading = read_table(Take(records="$[*]"), [pick(answer, "$[*]")])
    assert len(reading.table.columns) == 20_000
    assert reading.table.rows(0, 1)[0][-1] == 19_999
