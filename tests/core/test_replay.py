import json

import pytest

from tin_bucket.core.brief import load_brief
from tin_bucket.core.kinds import Miss
from tin_bucket.core.lookup import plan_lookup
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.replay import lookup_notes, reading_notes, replay
from tin_bucket.core.service import Service
from tin_bucket.core.table import count_filled
from tin_bucket.core.verdict import Answer

SERVICE = Service(id="s", name="S", base="http://h")


def brief(**parts):
    return load_brief({"name": "q", "ask": {"service": "s", "path": "/d"}, "take": {"records": "$.d[*]"}, **parts})


def answer(document, status=200):
    return Answer(status, {}, json.dumps(document).encode())


PAGES = [
    answer({"d": [{"p": "1", "l": [{"x": 1}, {"x": 2}]}]}),
    answer({"d": [{"p": "2", "l": []}, {"p": "1", "l": [{"x": 3}]}]}),
]
LOOK_UP = [{"name": "port", "path": "/p/{p}", "with": {"p": "p"}, "take": [{"place": "$.n", "name": "n"}]}]


def test_saved_answers_give_the_table_lookups_and_all():
    made = replay(brief(look_up=LOOK_UP), SERVICE, {}, PAGES, {"http://h/p/1": answer({"n": "one"})})
    assert [column.name for column in made.table.columns] == ["p", "l", "n"]
    assert made.table.column("n") == ["one", Miss("unasked", "not asked yet"), "one"]
    assert [len(page.values) for page in made.picked] == [1, 2]
    assert made.problem is None
    filled = {column.name: column.filled for column in count_filled(made.table)}
    assert filled == {"p": 3, "l": 3, "n": 2}


def test_a_lookup_on_rows_that_a_list_was_made_of():
    document = {"records": "$.d[*]", "rows_for": "$.l"}
    made = replay(brief(take=document, look_up=LOOK_UP), SERVICE, {}, PAGES, {"http://h/p/1": answer({"n": "one"})})
    assert made.table.rows(0, 9) == [
        ("1", 1, "one"),
        ("1", 2, "one"),
        ("2", None, Miss("unasked", "not asked yet")),
        ("1", 3, "one"),
    ]
    assert {column.name: column.filled for column in count_filled(made.table)} == {"p": 4, "l.x": 3, "n": 3}
    assert reading_notes(made.reading) == {"records": 3}


def test_one_lookup_may_use_what_another_brought():
    second = {"name": "zone", "path": "/z/{n}", "with": {"n": "n"}, "take": [{"place": "$.z", "name": "z"}]}
    looked = {"http://h/p/1": answer({"n": "one"}), "http://h/p/2": answer({}, 404), "http://h/z/one": answer({"z": 9})}
    made = replay(brief(look_up=[*LOOK_UP, second]), SERVICE, {}, PAGES, looked)
    assert made.table.column("z") == [9, None, 9]


def test_an_answer_that_is_none_ends_the_reading_and_is_said():
    made = replay(brief(), SERVICE, {}, [PAGES[0], answer({"error": "no"}, 500), PAGES[1]], {})
    assert made.table.height == 1
    assert made.problem.kind == "service-failed"
    assert made.problem.words == "no"


def test_a_place_without_rows_is_said():
    made = replay(brief(take={"records": "$.rows[*]"}), SERVICE, {}, PAGES, {})
    assert made.table.height == 0
    assert made.problem.kind == "no-rows-there"


def test_a_lookup_by_a_column_that_was_left_out_is_said():
    with pytest.raises(ProblemError) as caught:
        replay(
            brief(take={"records": "$.d[*]", "columns": [{"place": "$.l", "name": "l"}]}, look_up=LOOK_UP),
            SERVICE,
            {},
            PAGES,
            {},
        )
    assert caught.value.problem.kind == "lookup-column-unknown"


def test_notes_count_what_a_lookup_found():
    made = replay(brief(), SERVICE, {}, PAGES, {})
    one = brief(look_up=LOOK_UP)
    plan = plan_lookup(one.look_up[0], made.table, {}, SERVICE.base)
    notes = lookup_notes({"port": plan}, {"port": [answer({"n": 1}), answer({}, 404)]}, one)
    assert notes == {"port": {"calls": 2, "rows": 3, "none": 1, "failed": 0}}


def test_notes_say_which_fields_are_missing_new_or_unfit():
    columns = [{"place": "$.p", "name": "p", "kind": "date"}, {"place": "$.q", "name": "q"}]
    made = replay(brief(take={"records": "$.d[*]", "columns": columns}), SERVICE, {}, PAGES, {})
    assert reading_notes(made.reading) == {"absent": ["$.q"], "not_taken": 1, "unfit": {"p": 3}}
