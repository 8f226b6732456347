"""Lookups of many values in one call, of several records in one answer, and with answers that are kept."""

import itertools
import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.look_up import LookUp
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.lookup import Kept, kept_answer, plan_lookup, question_of, read_kept
from tin_bucket.core.table.lookup_join import find, join_lookup, lookup_report
from tin_bucket.core.table.table import Table, TableColumn

BASE = "http://h/api"


def look_up(**more):
    document = {
        "name": "port", "path": "/ports", "query": [{"name": "ids", "value": "{code}"}], "with": {"code": "code"},
        "take": [{"place": "$.name", "name": "port"}], **more,
    }  # fmt: skip
    return LookUp.model_validate(document)


def batch(most=200, **more):
    return look_up(batch={"most": most, "match": "$.code", **more})


def table(*codes, **more):
    columns = [TableColumn("code", "text"), *(TableColumn(name, "text") for name in more)]
    count = np.arange(len(codes))
    return Table(columns, [list(codes), *map(list, more.values())], count, count)


def answer(records, status=200):
    return Answer(status, {"content-type": "application/json"}, json.dumps(records).encode())


def column(joined, name="port"):
    return [one.words if isinstance(one, Miss) else one for one in joined.column(name)]


def test_many_values_go_in_one_call_and_come_back_in_any_order():
    own = batch()
    plan = plan_lookup(own, table("007", "015", "007", "099", None), {}, BASE)
    assert [call.address for call in plan.calls] == ["http://h/api/ports?ids=007,015,099"]
    assert plan.calls[0].label == "007 and 2 more"
    answers = [answer([{"code": "099", "name": "Tarn"}, {"code": "007", "name": "Oxnith"}])]
    joined = join_lookup(own, table("007", "015", "007", "099", None), plan, answers)
    assert column(joined) == ["Oxnith", "not found", "Oxnith", "Tarn", None]
    report = lookup_report(own, plan, answers, find(own, plan, answers))
    assert (report.calls, report.values, report.none, report.missing) == (1, 3, 1, ["015"])


def test_a_batch_that_fails_does_not_lose_the_others():
    own = batch(2)
    source = table("1", "2", "3", "4")
    plan = plan_lookup(own, source, {}, BASE)
    answers = [answer("", 500), answer([{"code": 3, "name": "C"}])]
    assert column(join_lookup(own, source, plan, answers)) == ["failed: status 500"] * 2 + ["C", "not found"]
    assert column(join_lookup(own, source, plan, [None, answers[1]]))[:2] == ["not asked yet"] * 2


def test_values_that_several_records_are_of_are_told():
    own = batch()
    plan = plan_lookup(own, table("1"), {}, BASE)
    answers = [answer([{"code": "1", "name": "a"}, {"code": "1", "name": "b"}])]
    assert column(join_lookup(own, table("1"), plan, answers)) == ["a"]
    assert lookup_report(own, plan, answers, find(own, plan, answers)).several == 1


def test_values_go_into_a_body_as_a_list():
    own = look_up(
        query=[], method="POST", path="/ports/search", batch={"match": "$.code", "place": "$.filter.codes", "most": 2}
    )
    plan = plan_lookup(own, table("1", "2", "3"), {}, BASE)
    assert [json.loads(call.body) for call in plan.calls] == [
        {"filter": {"codes": ["1", "2"]}},
        {"filter": {"codes": ["3"]}},
    ]
    assert {call.method for call in plan.calls} == {"POST"}
    assert len({call.asked_as for call in plan.calls}) == 2


def test_other_columns_part_the_batches():
    own = look_up(
        path="/{zone}/ports", **{"with": {"code": "code", "zone": "zone"}}, batch={"of": "code", "match": "$.code"}
    )
    plan = plan_lookup(own, table("1", "2", "3", zone=["n", "s", "n"]), {}, BASE)
    assert [call.address for call in plan.calls] == ["http://h/api/n/ports?ids=1,3", "http://h/api/s/ports?ids=2"]


@given(
    st.lists(st.text(alphabet="ab7ü /", min_size=1, max_size=30), min_size=1, max_size=60, unique=True),
    st.integers(1, 20),
    st.integers(150, 400),
)
def test_no_call_has_too_many_values_or_too_long_an_address_and_every_value_is_asked_for_once(codes, most, characters):
    own = batch(most, characters=characters)
    plan = plan_lookup(own, table(*codes), {}, BASE)
    counts = np.bincount(plan.call_of_key, minlength=len(plan.calls))
    assert counts.max() <= most
    assert counts.min() >= 1
    for call, count in zip(plan.calls, counts, strict=True):
        assert count == 1 or len(call.address) <= characters


def test_a_thousand_ids_with_at_most_200_and_2000_characters_a_call_are_the_fewest_calls():
    codes = [f"{at:04}" for at in range(1000)]
    own = batch(200, characters=2_000)
    plan = plan_lookup(own, table(*codes), {}, BASE)
    bare = len("http://h/api/ports?ids=")
    room = (2_000 - bare + 1) // 5
    assert len(plan.calls) == -(-1000 // min(200, room)) == 5
    assert max(len(call.address) for call in plan.calls) <= 2_000


def test_of_several_records_the_first_a_chosen_one_a_count_or_a_row_each():
    records = [{"name": "a", "class": "foot"}, {"name": "b", "class": "car"}]
    source = table("1", None)
    one = {"path": "/ports/{code}", "query": [], "records": "$.items[*]"}

    def joined(**more):
        own = look_up(**one, **more)
        plan = plan_lookup(own, source, {}, BASE)
        return join_lookup(own, source, plan, [answer({"items": records})])

    assert column(joined()) == ["a", None]
    assert column(joined(where={"place": "$.class", "value": "car"})) == ["b", None]
    assert column(joined(where={"place": "$.class", "value": "bus"})) == ["not found", None]
    assert column(joined(count="fares"), "fares") == [2, None]
    each = joined(several="each")
    assert column(each) == ["a", "b", None]
    assert each.column("code") == ["1", "1", None]
    assert each.record.tolist() == [0, 0, 1]


def test_an_answer_without_a_record_is_not_found():
    own = look_up(path="/ports/{code}", query=[], records="$.items[*]", count="fares")
    plan = plan_lookup(own, table("1"), {}, BASE)
    joined = join_lookup(own, table("1"), plan, [answer({"items": []})])
    assert column(joined) == ["not found"]
    assert column(joined, "fares") == ["not found"]


def test_only_what_is_not_kept_is_asked_for_and_the_column_says_how_old_it_is():
    own = batch()
    source = table("1", "2", "3")
    kept = {
        ("1",): Kept([{"code": "1", "name": "one"}], "2026-11-20T12:00:00+00:00"),
        ("2",): Kept(None, "2026-11-21T12:00:00+00:00"),
    }
    plan = plan_lookup(own, source, {}, BASE, kept=kept)
    assert [call.address for call in plan.calls] == ["http://h/api/ports?ids=3"]
    answers = [answer([{"code": "3", "name": "three"}])]
    found = find(own, plan, answers)
    joined = join_lookup(own, source, plan, answers, found=found)
    assert column(joined) == ["one", "not found", "three"]
    assert joined.columns[-1].asked == "2026-11-20T12:00:00+00:00"
    assert found.fresh == {("3",): [{"code": "3", "name": "three"}]}
    report = lookup_report(own, plan, answers, found)
    assert (report.calls, report.kept, report.oldest) == (1, 2, "2026-11-20T12:00:00+00:00")
    address, body = kept_answer(own, kept, list(kept))
    assert address == "kept:port"
    assert read_kept(json.loads(body)) == kept


def test_what_failed_is_never_kept():
    own = batch(1)
    plan = plan_lookup(own, table("1", "2"), {}, BASE)
    assert find(own, plan, [answer("", 503), answer("", 404)]).fresh == {("2",): None}


def test_answers_of_another_question_are_others():
    question = question_of(batch(), "s", {})
    assert question == question_of(batch(7), "s", {})
    assert question_of(batch(), "other", {}) != question
    assert question_of(look_up(path="/other", batch={"match": "$.code"}), "s", {}) != question


@pytest.mark.parametrize(
    "more",
    [
        {"batch": {"match": "$.code"}, "query": []},
        {"batch": {"match": "code["}},
        {"batch": {"match": "$.code", "of": "other"}},
        {"batch": {"match": "$.code"}, "with": {"code": "code", "zone": "zone"}},
        {"keep_for": "P"},
        {"keep_for": "P0D"},
        {"headers": [{"name": "Authorization", "value": "x"}]},
        {"several": "all"},
    ],
)
def test_what_is_no_lookup(more):
    with pytest.raises(ValidationError):
        look_up(**more)


@given(st.integers(1, 9), st.integers(1, 40), st.data())
def test_a_plan_that_is_halved_anywhere_is_found_again_by_what_was_asked(most, count, data):
    own, source = batch(most), table(*(f"{at:03}" for at in range(count)))
    plan = plan_lookup(own, source, {}, BASE)
    for _ in range(data.draw(st.integers(0, 12))):
        can = [at for at in range(len(plan.calls)) if plan.can_halve(at)]
        if can:
            plan.halve(data.draw(st.sampled_from(can)))
    asked_for = [call.address.rpartition("=")[2].split(",") for call in plan.calls]
    assert sorted(itertools.chain.from_iterable(asked_for)) == [key[0] for key in plan.keys]
    for at, key in enumerate(plan.keys):
        assert key[0] in asked_for[plan.call_of_key[at]]
    again = plan_lookup(own, source, {}, BASE)
    again.fit({call.asked_as for call in plan.calls})
    assert {call.asked_as for call in again.calls} == {call.asked_as for call in plan.calls}


def test_a_plan_of_which_nothing_was_asked_stays_as_it_is():
    own, source = batch(4), table(*(f"{at:03}" for at in range(10)))
    plan = plan_lookup(own, source, {}, BASE)
    plan.fit({"http://h/api/ports?ids=other"})
    assert [call.asked_as for call in plan.calls] == [
        call.asked_as for call in plan_lookup(own, source, {}, BASE).calls
    ]
