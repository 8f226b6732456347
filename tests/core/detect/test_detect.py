"""What looks like rows is pointed out with the reason; answers are told node by node."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.detect.records import detect_records
from tin_bucket.core.detect.tree import children, node, search
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.formats.json import json_text, parse_lines
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.reader import read_table

PORTS = {code: {"name": code, "zone": 1} for code in ("007", "010", "021")}
TABLE = [["month", "route", "cars"], ["2026-01", "HO", 5], ["2026-02", "HO", 7]]


@pytest.mark.parametrize(
    ("answer", "path", "count", "words", "heads", "rows_for"),
    [
        ({"ports": PORTS}, "$.ports[*]", 3, "3 members are alike", None, []),
        (PORTS, "$[*]", 3, "members are alike", None, []),
        (TABLE, "$[*]", 2, "first row looks like names", "first row", []),
        ({"data": TABLE}, "$.data[*]", 2, "first row looks like names", "first row", []),
        ({"columns": ["m", "r", "n"], "rows": TABLE[1:]}, "$.rows[*]", 2, "their names at $.columns", "place", []),
        ({"cols": [{"name": "m"}, {"name": "r"}, {"name": "n"}], "rows": TABLE[1:]}, "$.rows[*]", 2,
         "names at $.cols[*].name", "place", []),
        ([[1, 2], [3, 4]], "$[*]", 2, "2 lists", None, []),
        ([["a", "b"], ["b", "c"]], "$[*]", 2, "2 lists", None, []),
        ({"hourly": {"t": ["x", "y"], "w": [1, 2]}}, "$.hourly", 2, "2 lists of the same length", None,
         ["$.t", "$.w"]),
        ({"a": {"x": 1}, "b": {"x": 2}}, "$", 1, "single object", None, []),
    ],
)  # fmt: skip
def test_what_looks_like_rows(answer, path, count, words, heads, rows_for):
    guess = detect_records(answer)[0]
    assert (guess.path, guess.count, guess.rows_for) == (path, count, rows_for)
    assert words in guess.why
    assert (guess.heads.by if guess.heads else None) == heads
    # The guess gives as many rows as it says.
    take = Extraction(
        records=guess.path, heads=guess.heads, rows_for=guess.rows_for,
        together="side by side" if len(guess.rows_for) > 1 else None,
    )  # fmt: skip
    assert read_table(take, [pick(answer, take.records)], [answer]).table.height == count


def test_a_list_of_objects_goes_before_what_is_only_alike():
    paths = [guess.path for guess in detect_records({"by_id": PORTS, "data": [{"a": 1}] * 5})]
    assert paths[0] == "$.data[*]"
    assert "$.by_id[*]" in paths


def test_json_lines_are_one_list_and_said_so():
    verdict = classify(Answer(200, {}, b'{"a":1}\n\n{"a":2}\r\n{"a":12345678901234567890123}\n'))
    assert verdict.document == [{"a": 1}, {"a": 2}, {"a": 12345678901234567890123}]
    assert "JSON Lines: a value a line" in verdict.note
    assert parse_lines(b'{"a":1}') is None
    assert classify(Answer(200, {}, b'{"a":1}\n{"a":')).problem.kind in ("not-json", "cut-off")


def test_nodes_tell_kind_size_and_a_sample():
    value = {"t": "x" * 3000, "n": 2**70, "y": True, "z": None, "l": [1, {}], "o": PORTS}
    told = {one.name: (one.kind, one.size, one.text) for one in children(value, 0, 10)}
    assert told["t"] == ("text", 3000, "x" * 2000)
    assert told["n"] == ("number", 0, str(2**70))
    assert (told["y"], told["z"]) == (("yes/no", 0, "true"), ("null", 0, "null"))
    assert (told["l"], told["o"]) == (("list", 2, "mixed items"), ("object", 3, "alike"))
    assert [one.name for one in children(list(range(500)), 498, 10)] == [498, 499]
    assert children("plain", 0, 5) == []
    assert node(None, []).text == "nothing"


def test_a_search_finds_names_and_values_however_deep():
    deep = value = {}
    for _ in range(2000):
        value["a"] = value = {}
    value["Needle"] = "hay"
    value["x"] = ["a needle", 7, True]
    found, total = search(deep, "needle", 10)
    assert total == 2
    assert [(where[-1], what) for where, what in found] == [("Needle", "name"), (0, "value")]
    assert search([{"n": 1}] * 50, "1", 5)[1] == 50
    assert len(search([{"n": 1}] * 50, "1", 5)[0]) == 5
    assert search({"a": 1}, "", 5) == ([], 0)
    assert search([deep] * 50, "needle", 10)[1] == 100


TEXT = st.text('aAbÉé"\\\n1.0', max_size=4)
TREE = st.recursive(
    TEXT | st.none() | st.booleans() | st.integers(-20, 20) | st.floats(allow_nan=False, allow_infinity=False),
    lambda inner: st.lists(inner, max_size=5) | st.dictionaries(TEXT, inner, max_size=5),
    max_leaves=30,
)


def walked(value, wanted, where=()):
    """The places that have a text in them, found by looking everywhere."""
    if where and isinstance(where[-1], str) and wanted in where[-1].casefold():
        yield where
    elif not isinstance(value, dict | list):
        plain = value.casefold() if isinstance(value, str) else json_text(value)
        if wanted in plain:
            yield where
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for step, item in inner:
        yield from walked(item, wanted, (*where, step))


@given(TREE, st.text('aAbÉé"\\\n1.0', min_size=1, max_size=2))
def test_a_search_finds_what_looking_everywhere_finds(tree, text):
    found, total = search(tree, text, 10_000, many=2)
    assert [where for where, _ in found] == list(walked(tree, text.casefold()))
    assert total == len(found)
