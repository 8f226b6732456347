"""What counts as the same: each rule, and rules together."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from tin_bucket.core.alike.judge import Judge, same_value, text_form
from tin_bucket.core.alike.registry import ALIKE, Alike

RULES = TypeAdapter(list[Alike])


def judge(*rules, reconciled=()):
    return Judge(RULES.validate_python(list(rules)), reconciled)


@pytest.mark.parametrize(
    ("rule", "old", "new", "alike"),
    [
        ({"by": "amount", "amount": 0.1}, 0.2, 0.3, True),
        ({"by": "amount", "amount": 0.1}, 0.3, 0.41, False),
        ({"by": "amount", "amount": 5}, 10, "10", False),
        ({"by": "amount", "amount": 5}, 1, True, False),
        ({"by": "amount", "amount": 5}, None, 3, False),
        ({"by": "amount", "amount": 5}, 10**400, 10**400 + 1, False),
        ({"by": "percent", "percent": 10}, 100, 110, True),
        ({"by": "percent", "percent": 10}, 100, 110.5, False),
        ({"by": "percent", "percent": 10}, -100, -91, True),
        ({"by": "percent", "percent": 10}, 0, 0.001, False),
        ({"by": "text"}, " On  Time", "on time", True),
        ({"by": "text"}, "Straße", "STRASSE", True),
        ({"by": "text"}, "on time", "late", False),
        ({"by": "text"}, "1", 1, False),
        ({"by": "zeros"}, "007", "7", True),
        ({"by": "zeros"}, "007", 7, True),
        ({"by": "zeros"}, "000", "0", True),
        ({"by": "zeros"}, "0a", "a", False),
        ({"by": "zeros"}, "70", "7", False),
        ({"by": "zeros"}, True, "1", False),
        ({"by": "seconds", "seconds": 60}, "2026-11-27T10:00:00Z", "2026-11-27T11:01:00+01:00", True),
        ({"by": "seconds", "seconds": 60}, "2026-11-27T10:00:00Z", "2026-11-27T10:01:01Z", False),
        ({"by": "seconds", "seconds": 60}, "2026-11-27T10:00:00", "2026-11-27T10:00:01Z", False),
        ({"by": "seconds", "seconds": 1e9}, "2026-11-27", "2026-11-28", False),
        ({"by": "seconds", "seconds": 60}, "soon", "2026-11-28T10:00:00", False),
        ({"by": "empty"}, None, 0, True),
        ({"by": "empty"}, "", 0.0, True),
        ({"by": "empty"}, None, False, False),
        ({"by": "empty"}, None, "0", False),
        ({"by": "ignored", "columns": ["x"]}, "anything", None, True),
    ],
)
def test_a_rule(rule, old, new, alike):
    same = judge(rule).alike("x")
    assert same(old, new) is alike
    # Being alike has no direction but where a share is of what it was.
    assert rule["by"] == "percent" or same(new, old) is alike


def test_rules_are_for_their_columns_and_hold_together():
    told = judge(
        {"by": "percent", "percent": 1, "columns": ["fare"]}, {"by": "text"}, {"by": "ignored", "columns": ["seen"]}
    )
    assert told.alike("fare")(100, 101)
    assert not told.alike("weight")(100, 101)
    assert told.alike("fare")("A", "a")
    assert told.ignores("seen")
    assert not told.ignores("fare")
    assert judge().alike("fare") is None
    # A tolerance is measured on the values themselves, whatever other rules make of them.
    assert judge({"by": "empty"}, {"by": "amount", "amount": 1}).alike("fare")(0, 0.5)
    # A tolerance is no equivalence, so no form comes of it.
    assert told.form_of("fare")(" A ") == "a"
    assert judge({"by": "percent", "percent": 1}).form_of("fare") is None


@given(st.sampled_from(["text", "zeros", "empty"]), *[st.one_of(st.text("0aA 7"), st.integers(0, 9), st.none())] * 2)
def test_values_are_alike_by_a_rule_with_a_form_just_when_their_forms_are_equal(by, old, new):
    told = judge({"by": by})
    form = told.form_of("x")
    assert told.alike("x")(old, new) is same_value(form(old), form(new))
    assert same_value(form(form(old)), form(old))


def test_a_number_and_its_text_are_one_where_a_column_is_of_another_kind():
    assert [text_form(one) for one in (7, 7.0, "7", " 7.00 ", "7e0", -0.5, "-0.50")] == ["7"] * 5 + ["-0.5"] * 2
    assert [text_form(one) for one in ("007", True, None, "7 km", "1e999")] == ["007", True, None, "7 km", "inf"]
    assert judge(reconciled=["x"]).form_of("x")(7.0) == "7"


def test_a_rule_that_cannot_be_is_refused():
    for rule in (
        {"by": "ignored"}, {"by": "amount", "amount": -1}, {"by": "percent", "percent": float("inf")}, {"by": "luck"},
    ):  # fmt: skip
        with pytest.raises(ValidationError):
            judge(rule)


def test_every_rule_says_what_it_makes_alike():
    starts = {"columns": ["x"], "amount": 0.5, "percent": 2, "seconds": 60}
    for entry in ALIKE:
        names = entry.model.model_fields
        assert entry.model(**{name: value for name, value in starts.items() if name in names}).words()
        assert {field.name for field in entry.fields} == set(names) - {"by", "columns"}
