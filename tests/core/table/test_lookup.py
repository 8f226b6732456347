import json

import pytest

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.document.query import LookUp
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.problem import Problem, ProblemError
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.lookup import plan_lookup
from tin_bucket.core.table.lookup_join import join_lookup
from tin_bucket.core.table.reader import read_table

PORT = LookUp.model_validate(
    {
        "name": "port",
        "path": "/ports/{code}",
        "with": {"code": "port"},
        "take": [{"place": "$.name", "name": "name"}, {"place": "$.berths", "name": "port"}],
    }
)


def table(*codes):
    records = [{"port": code} for code in codes]
    return read_table(Extraction(records="$[*]"), [pick(records, "$[*]")]).table


def answer(document, status=200):
    return Answer(status, {}, json.dumps(document).encode())


def test_equal_values_are_asked_once_and_empty_ones_not_at_all():
    plan = plan_lookup(PORT, table("007", "000", "007", None, "", "7"), {}, "http://h/api")
    assert [call.address for call in plan.calls] == [
        "http://h/api/ports/007",
        "http://h/api/ports/000",
        "http://h/api/ports/7",
    ]
    assert [call.label for call in plan.calls] == ["007", "000", "7"]
    assert plan.call_of_row.tolist() == [0, 1, 0, -1, -1, 2]


def test_one_and_true_are_different_values():
    plan = plan_lookup(PORT, table(1, True, 1.0), {}, "http://h")
    assert [call.label for call in plan.calls] == ["1", "true", "1.0"]


def test_misses_failures_and_unasked_are_told_apart_and_nothing_else_is_lost():
    source = table("007", "999", "000", "033", None, "007")
    plan = plan_lookup(PORT, source, {}, "http://h")
    answers = [
        answer({"name": "Oxnith", "berths": 2}),
        answer({"error": "no"}, 404),
        Answer(0, failure=Problem("time-out", "x")),
        None,
    ]
    joined = join_lookup(PORT, source, plan, answers)
    assert [column.name for column in joined.columns] == ["port", "name", "port.port"]
    assert joined.column("name") == [
        "Oxnith",
        Miss("none", "not found"),
        Miss("failed", "failed: time out"),
        Miss("unasked", "not asked yet"),
        None,
        "Oxnith",
    ]
    assert joined.column("port.port")[0] == 2
    assert [column.name for column in source.columns] == ["port"]


def test_nested_values_come_as_text_and_absent_ones_stay_empty():
    source = table("1", "2")
    plan = plan_lookup(PORT, source, {}, "http://h")
    joined = join_lookup(PORT, source, plan, [answer({"name": {"en": "x"}}), answer({"other": 1})])
    assert joined.column("name") == ['{"en":"x"}', None]


def test_a_column_that_is_not_there_is_said():
    look_up = PORT.model_copy(update={"with_": {"code": "harbour"}})
    with pytest.raises(ProblemError, match="harbour"):
        plan_lookup(look_up, table("1"), {}, "http://h")
