import json

import pytest

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.report import LookupReport, ReadingReport
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.lookup import plan_lookup
from tin_bucket.core.table.lookup_join import find, lookup_report
from tin_bucket.core.table.pipeline import reading_report
from tin_bucket.core.table.rebuild import SavedPage, replay
from tin_bucket.core.table.table import count_filled

SERVICE = Service(id="s", name="S", base="http://h")


def brief(**parts):
    return load_brief({"name": "q", "ask": {"service": "s", "path": "/d"}, "take": {"records": "$.d[*]"}, **parts})


def read(brief, pages, looked_up, iterations=({},), of_page=None):
    saved = [SavedPage(page, at) for page, at in zip(pages, of_page or [0] * len(pages), strict=True)]
    return replay(brief, {"s": SERVICE}, {}, saved, iterations, looked_up)


def answer(document, status=200):
    return Answer(status, {}, json.dumps(document).encode())


PAGES = [
    answer({"d": [{"p": "1", "l": [{"x": 1}, {"x": 2}]}]}),
    answer({"d": [{"p": "2", "l": []}, {"p": "1", "l": [{"x": 3}]}]}),
]
LOOK_UP = [{"name": "port", "path": "/p/{p}", "with": {"p": "p"}, "take": [{"place": "$.n", "name": "n"}]}]


def test_saved_answers_give_the_table_lookups_and_all():
    made = read(brief(look_up=LOOK_UP), PAGES, {"http://h/p/1": answer({"n": "one"})})
    assert [column.name for column in made.table.columns] == ["p", "l", "n"]
    assert made.table.column("n") == ["one", Miss("unasked", "not asked yet"), "one"]
    assert made.sizes == [1, 2]
    assert made.problem is None
    filled = {column.name: column.filled for column in count_filled(made.table)}
    assert filled == {"p": 3, "l": 3, "n": 2}


def test_a_lookup_on_rows_that_a_list_was_made_of():
    one = brief(take={"records": "$.d[*]", "rows_for": "$.l"}, look_up=LOOK_UP)
    made = read(one, PAGES, {"http://h/p/1": answer({"n": "one"})})
    assert made.table.rows(0, 9) == [
        ("1", 1, "one"),
        ("1", 2, "one"),
        ("2", None, Miss("unasked", "not asked yet")),
        ("1", 3, "one"),
    ]
    assert {column.name: column.filled for column in count_filled(made.table)} == {"p": 4, "l.x": 3, "n": 3}
    assert reading_report(one, made.reading) == ReadingReport(rows_for=["$.l"], empty=1)


def test_one_lookup_may_use_what_another_brought():
    second = {"name": "zone", "path": "/z/{n}", "with": {"n": "n"}, "take": [{"place": "$.z", "name": "z"}]}
    looked = {"http://h/p/1": answer({"n": "one"}), "http://h/p/2": answer({}, 404), "http://h/z/one": answer({"z": 9})}
    made = read(brief(look_up=[*LOOK_UP, second]), PAGES, looked)
    assert made.table.column("z") == [9, None, 9]


def test_an_answer_that_is_none_ends_the_reading_and_is_said():
    made = read(brief(), [PAGES[0], answer({"error": "no"}, 500), PAGES[1]], {})
    assert made.table.height == 1
    assert made.problem.kind == "service-failed"
    assert made.problem.words == "no"


def test_a_place_without_rows_is_said():
    made = read(brief(take={"records": "$.rows[*]"}), PAGES, {})
    assert made.table.height == 0
    assert made.problem.kind == "no-rows-there"


def test_a_lookup_by_a_column_that_was_left_out_is_said():
    with pytest.raises(ProblemError) as caught:
        read(
            brief(take={"records": "$.d[*]", "columns": [{"place": "$.l", "name": "l"}]}, look_up=LOOK_UP),
            PAGES,
            {},
        )
    assert caught.value.problem.kind == "lookup-column-unknown"


def test_notes_count_what_a_lookup_found():
    made = read(brief(), PAGES, {})
    one = brief(look_up=LOOK_UP)
    plan = plan_lookup(one.look_up[0], made.table, {}, SERVICE.base)
    answers = [answer({"n": 1}), answer({}, 404)]
    report = lookup_report(one.look_up[0], plan, answers, find(one.look_up[0], plan, answers))
    assert report == LookupReport(calls=2, rows=3, none=1, values=2, missing=["2"])


def test_notes_say_which_fields_are_missing_new_or_unfit():
    columns = [{"place": "$.p", "name": "p", "kind": "date"}, {"place": "$.q", "name": "q"}]
    one = brief(take={"records": "$.d[*]", "columns": columns})
    made = read(one, PAGES, {})
    assert reading_report(one, made.reading) == ReadingReport(absent=["$.q"], not_taken=1, unfit={"p": 3})


def test_the_values_that_were_asked_for_are_columns_of_their_rows():
    parameters = [{"name": "day", "kind": "date", "label": "asked on"}, {"name": "p", "kind": "whole number"}]
    each = [{"by": "list", "parameter": "day", "values": ["2026-11-24"]}, {"by": "parameter", "parameter": "p"}]
    one = brief(parameters=parameters, each=each)
    iterations = [{"day": "2026-11-24", "p": "1"}, {"day": "2026-11-24", "p": "2"}]
    made = read(one, PAGES, {}, iterations, [0, 1])
    # The answers have a column p themselves, so the value has another name.
    assert [(c.name, c.kind) for c in made.table.columns[:2]] == [("asked on", "date"), ("p asked for", "whole number")]
    assert made.table.column("p asked for") == [1, 2, 2]
    # Answers from before the question was asked for each value have no such column.
    assert [c.name for c in read(one, PAGES, {}).table.columns] == ["p", "l"]


def test_a_lookup_may_use_a_value_that_was_asked_for():
    look_up = [{"name": "o", "path": "/o/{day}/{p}", "with": {"p": "p"}, "take": [{"place": "$.n", "name": "n"}]}]
    each = [{"by": "list", "parameter": "day", "values": ["1", "2"]}]
    one = brief(parameters=[{"name": "day", "kind": "text"}], each=each, look_up=look_up)
    looked = {"http://h/o/1/1": answer({"n": "a"}), "http://h/o/2/1": answer({"n": "b"})}
    made = read(one, PAGES, looked, [{"day": "1"}, {"day": "2"}], [0, 1])
    assert made.table.column("n")[0] == "a"
    assert made.table.column("n")[2] == "b"
