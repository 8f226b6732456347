import json
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from tin_bucket.core.document.lint import lint_brief
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.references import queries_named, sheets_named
from tin_bucket.core.document.service import Service
from tin_bucket.core.interchange.bundle import bundle_text, load_bundle, make_bundle, plan_import
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.fan_out import FanOut
from tin_bucket.core.request.iterations import MAX_ITERATIONS, plan_iterations
from tin_bucket.core.request.parameters.models import Parameter
from tin_bucket.core.request.parameters.moment import Moment

MOMENT = Moment(datetime(2026, 11, 25, 12, tzinfo=UTC))
EACH, PARAMETER = TypeAdapter(FanOut), TypeAdapter(Parameter)


def iterations(*each, parameters=(("a", "text"), ("b", "text")), bindings=None, read=None):
    known = [PARAMETER.validate_python({"name": name, "kind": kind}) for name, kind in parameters]
    return plan_iterations([EACH.validate_python(one) for one in each], known, bindings or {}, MOMENT, read or {})


def test_without_values_there_is_one_round():
    assert iterations() == [{}]


def test_combinations_are_asked_in_order_and_each_once():
    found = iterations(
        {"by": "list", "parameter": "a", "values": ["1", "2", "1"]},
        {"by": "list", "parameter": "b", "values": ["x", "y"]},
    )
    assert found == [{"a": "1", "b": "x"}, {"a": "1", "b": "y"}, {"a": "2", "b": "x"}, {"a": "2", "b": "y"}]


@given(
    st.lists(st.text("abc", min_size=1), min_size=1, max_size=6),
    st.lists(st.text("xy", min_size=1), min_size=1, max_size=6),
)
def test_every_combination_is_there_and_none_twice(one, other):
    found = iterations(
        {"by": "list", "parameter": "a", "values": one}, {"by": "list", "parameter": "b", "values": other}
    )
    pairs = [(each["a"], each["b"]) for each in found]
    assert len(pairs) == len(set(pairs))
    assert set(pairs) == {(a, b) for a in one for b in other}


def test_a_range_ends_at_the_values_of_parameters():
    one = {"by": "range", "parameter": "a", "start": {"parameter": "from"}, "end": {"parameter": "to"}}
    parameters = (("a", "date"), ("from", "date"), ("to", "text"))
    days = [{"a": f"2026-11-{day}"} for day in (23, 24, 25)]
    assert iterations(one, parameters=parameters, bindings={"from": "2026-11-23", "to": "2026-11-25"}) == days
    moments = {"from": "2026-11-23T22:00:00+01:00", "to": "2026-11-25T01:00"}
    assert iterations(one, parameters=parameters, bindings=moments) == days
    months = {**one, "step": "month"}
    found = iterations(months, parameters=parameters, bindings={"from": "2026-10", "to": "2026-11"})
    assert found == [{"a": "2026-10-01"}, {"a": "2026-11-01"}]
    for bindings, words in (
        ({"from": "2026-11-23"}, "needs a value of “to”"),
        ({"from": "2026-11-23", "to": "soon"}, "“soon”, the value of “to”, is no date"),
        ({"from": "2026-11-23", "to": "2026-11-22"}, "before it starts"),
    ):
        with pytest.raises(ProblemError, match=words):
            iterations(one, parameters=parameters, bindings=bindings)
    with pytest.raises(ProblemError, match="not a parameter"):
        iterations(one, parameters=(("a", "date"),))


@pytest.mark.parametrize(
    ("step", "kind", "start", "end", "values"),
    [
        ("day", "date", "2026-11-28", "2026-12-01", ["2026-11-28", "2026-11-29", "2026-11-30", "2026-12-01"]),
        ("day", "date", {"offset": "-P1D"}, {"anchor": "today"}, ["2026-11-24", "2026-11-25"]),
        ("week", "date", "2026-11-18", "2026-11-25", ["2026-11-16", "2026-11-23"]),
        ("month", "month", "2026-01-31", "2026-03-01", ["2026-01", "2026-02", "2026-03"]),
        ("month", "date", "2026-01-31", "2026-02-01", ["2026-01-01", "2026-02-01"]),
        ("day", "text", "2026-11-25", "2026-11-25", ["2026-11-25"]),
    ],
)
def test_ranges(step, kind, start, end, values):
    one = {"by": "range", "parameter": "a", "step": step, "start": start, "end": end}
    assert [each["a"] for each in iterations(one, parameters=[("a", kind)])] == values


def test_values_fit_the_kind_of_their_parameter():
    with pytest.raises(ProblemError, match="not a whole number"):
        iterations({"by": "list", "parameter": "a", "values": ["1", "x"]}, parameters=[("a", "whole number")])
    with pytest.raises(ProblemError, match="values are dates"):
        iterations({"by": "range", "parameter": "a"}, parameters=[("a", "whole number")])


def test_too_many_rounds_are_refused_before_they_are_made():
    values = [str(number) for number in range(1000)]
    with pytest.raises(ProblemError, match=f"{MAX_ITERATIONS:,}"):
        iterations(
            {"by": "list", "parameter": "a", "values": values}, {"by": "list", "parameter": "b", "values": values}
        )


def test_rows_of_a_sheet_with_an_empty_value_are_left_out():
    one = {"by": "sheet", "sheet": "s", "with": {"a": "x", "b": "y"}}
    read = {0: [{"a": "1", "b": "2"}, {"a": "", "b": "3"}]}
    assert iterations(one, read=read) == [{"a": "1", "b": "2"}]


def brief(**parts):
    ask = {"service": "s", "path": "/x", **parts.pop("ask", {})}
    return load_brief({"name": "q", "ask": ask, **parts})


@pytest.mark.parametrize(
    ("parts", "where", "word"),
    [
        ({"ask": {"query": [{"name": "from", "value": "a,to=b"}]}}, "address parameter from", "& was probably intended"),
        ({"ask": {"query": [{"name": "a", "value": " x"}]}}, "address parameter a", "space"),
        ({"ask": {"query": [{"name": "api_key", "value": "abc"}]}}, "address parameter api_key", "looks like a key"),
        ({"ask": {"path": "/x?a=1"}}, "path", "holds address parameters"),
        ({"ask": {"path": "/x//y"}}, "path", "two slashes"),
        ({"ask": {"body": {"kind": "json", "value": {}}}}, "body", "GET call has a body"),
        (
            {"ask": {"method": "POST", "query": [{"name": "a", "value": "1"}],
                     "body": {"kind": "json", "value": {"a": 1}}}},
            "address parameter a", "in the address and in the body",
        ),
        ({"ask": {"method": "DELETE"}}, "method", "deletes things"),
        ({"parameters": [{"name": "p", "kind": "text"}]}, "parameter p", "used nowhere"),
        (
            {"parameters": [{"name": "p", "kind": "text", "default": "x"}],
             "each": [{"by": "list", "parameter": "p", "values": ["1"]}]},
            "for each", "same call",
        ),
    ],
)  # fmt: skip
def test_slips_are_pointed_out(parts, where, word):
    hints = lint_brief(brief(**parts))
    assert any(hint.where == where and word in hint.what and hint.do for hint in hints)


def test_a_question_without_slips_has_no_hints():
    fine = brief(
        ask={"path": "/{day.year}/{day.month}", "method": "POST", "query": [{"name": "a", "value": "{b}"}],
             "headers": [{"name": "X-C", "value": "{c}"}], "body": {"kind": "json", "value": {"d": "{d}"}}},
        parameters=[{"name": name, "kind": "date" if name == "day" else "text"} for name in ("day", "b", "c", "d")],
    )  # fmt: skip
    assert lint_brief(fine) == []


KEY = {"name": "Desk", "places": [{"at": "header", "name": "X-Key"}]}
SERVICE = Service.model_validate({"id": "ops", "name": "Ops", "base": "http://h", "key": KEY})
PORTS = load_brief({"name": "Ports", "ask": {"service": "ops", "path": "/ports"}})
EACH_PORT = load_brief(
    {
        "name": "Each port",
        "parameters": [{"name": "p", "kind": "text"}],
        "ask": {"service": "ops", "path": "/ports/{p}"},
        "each": [{"by": "column", "parameter": "p", "query": "Ports", "column": "code"}],
    }
)
SHEET = load_brief({"name": "Rows", "sheet": {"sheet": "rows"}, "take": {"records": "$[*]"}})


def carried(services=(SERVICE,), queries=(PORTS, EACH_PORT, SHEET)):
    return load_bundle(json.loads(bundle_text(make_bundle(services, queries, "2026-11-25"))))


def test_what_is_taken_out_comes_in_as_it_was_and_says_what_is_wanted():
    import_plan = plan_import(carried(), [], [])
    assert import_plan.services == [SERVICE]
    assert import_plan.queries == [(PORTS, None), (EACH_PORT, None), (SHEET, None)]
    assert [(one.service, one.key, one.fields) for one in import_plan.required_keys] == [("Ops", "Desk", ["key"])]
    assert import_plan.required_sheets == ["rows"]
    assert (queries_named(EACH_PORT), sheets_named(SHEET)) == (["Ports"], ["rows"])


def test_what_is_here_already_is_kept_unless_it_is_chosen_otherwise():
    same = plan_import(carried(), [SERVICE], [PORTS, EACH_PORT, SHEET], ["rows"])
    assert {item.state for item in same.items} == {"same"}
    assert (same.services, same.queries, same.required_keys, same.required_sheets) == ([], [], [], [])
    other = SERVICE.model_copy(update={"base": "http://other"})
    mine = PORTS.model_copy(update={"note": "mine"})
    kept = plan_import(carried(), [other], [mine])
    assert [(item.name, item.state, item.choice) for item in kept.items][:2] == [
        ("Ops", "clash", "keep"), ("Ports", "clash", "keep"),
    ]  # fmt: skip
    replaced = plan_import(carried(), [other], [mine], [], {"service Ops": "replace", "query Ports": "replace"})
    assert (replaced.services, replaced.queries[0]) == ([SERVICE], (PORTS, "Ports"))


def test_what_is_put_beside_is_named_anew_wherever_it_is_named():
    other = SERVICE.model_copy(update={"base": "http://other"})
    choices = {"service Ops": "beside", "query Ports": "beside"}
    import_plan = plan_import(carried(), [other], [PORTS.model_copy(update={"note": "mine"})], [], choices)
    (service,) = import_plan.services
    assert (service.id, service.name) == ("ops-2", "Ops 2")
    ports, each_port, _ = (query for query, _ in import_plan.queries)
    assert (ports.name, ports.ask.service) == ("Ports 2", "ops-2")
    assert (each_port.each[0].query, each_port.ask.service) == ("Ports 2", "ops-2")


def test_a_key_that_stands_in_a_query_stops_the_taking_out():
    leaky = load_brief({"name": "L", "ask": {"service": "ops", "query": [{"name": "k", "value": "s3cret-text"}]}})
    with pytest.raises(ProblemError) as caught:
        make_bundle([SERVICE], [leaky], "", ["s3cret-text"])
    assert caught.value.problem.kind == "secret-inside"
    assert "s3cret" not in caught.value.problem.sentence()


@pytest.mark.parametrize(
    ("document", "kind"),
    [
        ([], "bundle-unreadable"), ({"a": 1}, "bundle-unreadable"), ({"tin_bucket_bundle": 9}, "bundle-newer"),
        ({"tin_bucket_bundle": 1, "services": [{"id": "x"}]}, "bundle-unreadable"),
        ({"tin_bucket_bundle": 1, "queries": [{"name": "q", "tin_bucket": 9}]}, "brief-newer"),
        ({"tin_bucket_bundle": 1, "queries": [{"name": "q"}]}, "brief-unreadable"),
    ],
)  # fmt: skip
def test_a_newer_or_damaged_file_is_refused(document, kind):
    with pytest.raises(ProblemError) as caught:
        load_bundle(document)
    assert caught.value.problem.kind == kind
