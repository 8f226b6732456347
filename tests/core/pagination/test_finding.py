"""“Is there more?”: few calls tell how an API wants to be asked, and what cannot be told is left unverified."""

import json
import random
from datetime import date
from urllib.parse import parse_qsl, urlsplit

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.pagination.finding.finder import MOST_CALLS, find_more, may_find_out, most_calls
from tin_bucket.core.pagination.finding.finding import Tried
from tin_bucket.core.pagination.finding.refusal import learn
from tin_bucket.core.pagination.finding.rows import FirstRows
from tin_bucket.core.pagination.names import LAST, NUMBER, OFFSET, SIZE, names_of_mark
from tin_bucket.core.pagination.protocol import Page
from tin_bucket.core.pagination.registry import detect_pagination, paginate
from tin_bucket.core.pagination.ways.single import NoPagination
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call

TODAY = date(2026, 11, 26)
ROWS = [{"id": 700 + n, "name": f"sailing {n}"} for n in range(116)]


def sent_of(call):
    return dict(parse_qsl(urlsplit(call.address).query)) | (json.loads(call.body) if call.body else {})


def refused(words, kind="call-refused"):
    return Tried(None, Problem(kind, "refused", words=words))


def page_of(rows, **around):
    return Page({"data": rows, **around}, rows)


def api(*, start=lambda sent: 0, size="per_page", usual=10, cap=50, rows=ROWS, around=lambda at, part: {}):
    """An API that ignores what it does not know; `start` says where a call's rows begin."""

    def answer(call):
        sent = sent_of(call)
        count = min(int(sent.get(size, usual)), cap) if size else usual
        at = start({**sent, "count": count})
        part = rows[at : at + count]
        return Tried(page_of(part, **around(at, part)))

    return answer


def find(answer, address="http://h/sailings", call=None):
    """Ask the first answer of an API, then let it be found out; gives the finding and the number of calls."""
    call = call or Call("GET", address)
    finder = find_more(call, answer(call).page, TODAY)
    asked = 0
    try:
        trial = next(finder)
        while True:
            asked += 1
            trial = finder.send(answer(trial.call))
    except StopIteration as done:
        return done.value, asked


def all_rows(answer, pages, address="http://h/sailings", call=None):
    """The rows that a way of turning pages brings."""
    paginator = paginate(call or Call("GET", address), pages)
    waiting, found = list(next(paginator)), []
    for _ in range(300):
        tried = answer(waiting.pop(0))
        page = tried.page or Page(None, [], failed=tried.problem)
        found += page.records
        try:
            waiting += paginator.send(page)
        except StopIteration as done:
            return found, done.value
    raise AssertionError("it looped")


@pytest.mark.parametrize("name", sorted(NUMBER))
@pytest.mark.parametrize("first", [0, 1])
def test_every_name_of_a_page_number_is_found(name, first):
    answer = api(start=lambda sent: (int(sent.get(name, first)) - first) * sent["count"])
    finding, asked = find(answer)
    assert (finding.state, finding.pages.parameter, finding.pages.first) == ("incomplete", name, first)
    assert asked <= MOST_CALLS
    assert len(finding.trials) == asked
    assert all_rows(answer, finding.pages)[0] == ROWS


@pytest.mark.parametrize("name", sorted(OFFSET))
@pytest.mark.parametrize("first", [0, 1])
def test_every_name_of_an_offset_is_found(name, first):
    answer = api(start=lambda sent: int(sent.get(name, first)) - first, size=None)
    finding, asked = find(answer)
    assert (finding.pages.by, finding.pages.parameter, finding.pages.first) == ("offset", name, first)
    assert asked <= MOST_CALLS
    assert all_rows(answer, finding.pages)[0] == ROWS


@pytest.mark.parametrize("name", sorted(LAST))
def test_every_name_of_a_last_rows_value_is_found(name):
    answer = api(start=lambda sent: int(sent.get(name, 699)) - 699)
    finding, asked = find(answer)
    assert (finding.pages.by, finding.pages.parameter, finding.pages.value) == ("last row", name, "$.id")
    assert asked <= MOST_CALLS
    assert all_rows(answer, finding.pages)[0] == ROWS


@pytest.mark.parametrize("place", ["next_cursor", "nextPageToken", "continuation_token", "next", "endCursor", "cursor"])
@pytest.mark.parametrize("name", sorted(names_of_mark("$.next_cursor")))
def test_every_name_of_a_mark_is_found_wherever_the_mark_stands(place, name):
    answer = api(
        start=lambda sent: int(sent.get(name, "m0")[1:]),
        around=lambda at, part: {place: f"m{at + len(part)}" if at + len(part) < len(ROWS) else None},
    )
    finding, asked = find(answer)
    assert (finding.pages.by, finding.pages.parameter, finding.pages.cursor) == ("cursor", name, f"$.{place}")
    assert asked <= MOST_CALLS
    rows, end = all_rows(answer, finding.pages)
    assert (rows, end.state) == (ROWS, "complete")


@pytest.mark.parametrize("size", sorted(SIZE))
def test_the_largest_page_is_found_and_what_it_saves_is_said(size):
    answer = api(
        start=lambda sent: (int(sent.get("page", 1)) - 1) * sent["count"],
        size=size,
        usual=25,
        cap=100,
        around=lambda at, part: {"total": 1284},
        rows=[{"id": n} for n in range(1284)],
    )
    finding, asked = find(answer)
    assert (finding.pages.size_parameter, finding.pages.size) == (size, 100)
    assert finding.saves == "25 rows a page, 52 calls; the API gives up to 100: 13 calls"
    assert asked <= MOST_CALLS


def test_a_size_that_is_refused_in_words_is_taken_from_them():
    inner = api(start=lambda sent: (int(sent.get("page", 1)) - 1) * sent["count"], cap=10**6)

    def answer(call):
        size = int(sent_of(call).get("per_page", 10))
        return refused("per_page must not exceed 40") if size > 40 else inner(call)

    finding, _ = find(answer)
    assert finding.pages.size == 40
    assert all_rows(answer, finding.pages)[0] == ROWS


@pytest.mark.parametrize("rows", [1, 2, 3, 10, 25])
def test_a_list_that_heeds_nothing_is_unverified_unless_no_page_is_so_short(rows):
    finding, asked = find(api(size=None, usual=1000, rows=ROWS[:rows]))
    assert finding.state == ("complete" if rows < 5 else "unverified")
    assert asked <= MOST_CALLS
    if rows < 5:
        assert finding.pages == NoPagination(said={"on": TODAY, "rows": rows})
    else:
        assert "none of them is heeded" in finding.what


@pytest.mark.parametrize("rows", [7, 10, 25])
def test_a_page_behind_the_first_that_is_empty_proves_that_it_was_all(rows):
    answer = api(
        start=lambda sent: (int(sent.get("page", 1)) - 1) * sent["count"], size=None, usual=25, rows=ROWS[:rows]
    )
    finding, _ = find(answer)
    assert (finding.state, finding.what) == ("complete", f"all {rows} rows are here, proved by an empty page")
    assert all_rows(answer, finding.pages)[1].state == "complete"


def test_a_count_of_the_pages_own_rows_is_no_total_and_one_that_stays_is():
    def own(at, part):
        return {"count": len(part)}

    answer = api(start=lambda sent: int(sent.get("skip", 0)), around=own)
    finding, _ = find(answer)
    assert (finding.state, finding.pages.by, finding.pages.total) == ("incomplete", "offset", None)
    finding, _ = find(api(around=lambda at, part: {"count": 24}, rows=ROWS[:24], usual=24))
    assert (finding.state, finding.pages.total, finding.pages.total_proved) == ("complete", "$.count", True)


def test_refusals_teach_the_names():
    def answer(call):
        sent = sent_of(call)
        unknown = sorted(set(sent) - {"leaf", "rows"})
        if unknown:
            return refused(f"Unknown parameter: {unknown[0]}. Allowed parameters: leaf, rows.")
        return api(start=lambda sent: (int(sent.get("leaf", 1)) - 1) * sent["count"], size="rows")(call)

    finding, asked = find(answer)
    assert (finding.pages.parameter, finding.pages.size_parameter) == ("leaf", "rows")
    assert asked <= MOST_CALLS
    assert all_rows(answer, finding.pages)[0] == ROWS


def test_what_is_sent_in_a_body_is_tried_beside_it():
    call = Call(
        "POST", "http://h/s", (("Content-Type", "application/json"),), body=b'{"q": {"limit": 10, "route": "a"}}'
    )

    def answer(made):
        query = json.loads(made.body)["q"]
        at, size = int(query.get("offset", 0)), int(query["limit"])
        return Tried(page_of(ROWS[at : at + size]))

    assert not may_find_out(call, False)
    assert may_find_out(call, True)
    finding, _ = find(answer, call=call)
    assert (finding.pages.at, finding.pages.parameter) == ("body", "$.q.offset")
    assert all_rows(answer, finding.pages, call=call)[0] == ROWS


def test_what_a_query_language_calls_its_variables_is_found():
    body = b'{"query": "{ sailings }", "variables": {"first": 10}}'
    call = Call("POST", "http://h/graph", (("Content-Type", "application/json"),), body=body)

    def answer(made):
        variables = json.loads(made.body)["variables"]
        at, size = int(variables.get("after", "m0")[1:]), min(int(variables["first"]), 50)
        part = ROWS[at : at + size]
        info = {"hasNextPage": at + size < len(ROWS), "endCursor": f"m{at + len(part)}"}
        return Tried(page_of(part, pageInfo=info))

    finding, asked = find(answer, call=call)
    assert (finding.pages.parameter, finding.pages.cursor) == ("$.variables.after", "$.pageInfo.endCursor")
    assert asked <= MOST_CALLS
    rows, end = all_rows(answer, finding.pages, call=call)
    assert (rows, end.state) == (ROWS, "complete")


def test_an_api_that_answers_each_call_otherwise_is_unverified_with_its_reason():
    chance = random.Random(3)

    def shuffled(call):
        return Tried(page_of(chance.sample(ROWS, 10)))

    finding, _ = find(shuffled)
    assert finding.state != "complete"
    assert finding.pages is None
    assert "differ" in finding.what or "not certain" in finding.what


def test_a_refusal_of_further_calls_ends_it_with_what_is_known():
    asked = []

    def answer(call):
        asked.append(call)
        return refused("Three calls a day.", "too-many-calls") if len(asked) > 2 else api()(call)

    finding, _ = find(answer)
    assert finding.state == "unverified"
    assert finding.what.endswith("a call failed: refused")


def test_what_the_call_itself_names_is_tried_once():
    answer = api(start=lambda sent: max(0, int(sent.get("pg", 1)) - 1) * sent["count"], size=None)
    finding, asked = find(answer, "http://h/sailings?pg=1")
    assert (finding.pages.parameter, finding.pages.first, asked) == ("pg", 1, 2)
    assert finding.trials[0].showed == "10 other rows"
    finding, asked = find(api(size=None), "http://h/sailings?pg=1")
    assert (finding.state, finding.pages, asked) == ("unverified", None, 1)


def test_an_example_of_the_second_page_does_not_lose_the_first():
    answer = api(start=lambda sent: int(sent.get("page", 0)) * sent["count"], size=None)
    finding, _ = find(answer, "http://h/sailings?page=1")
    assert (finding.state, finding.pages.first) == ("incomplete", 0)
    assert finding.what == "there is a page before this one, number 0"
    assert all_rows(answer, finding.pages, "http://h/sailings?page=1")[0] == ROWS


@pytest.mark.parametrize(("address", "heeds"), [
    ("http://h/s?page=1&per_page=10", True), ("http://h/s?offset=0", True), ("http://h/s?page=1&per_page=10", False),
])  # fmt: skip
def test_a_last_page_that_comes_again_is_told_from_a_parameter_without_effect(address, heeds):
    def answer(call):
        sent = sent_of(call)
        size = int(sent.get("per_page", 10))
        at = int(sent["offset"]) if "offset" in sent else (int(sent["page"]) - 1) * size
        at = 0 if not heeds or at >= 10 else at
        return Tried(page_of(ROWS[at : min(at + size, 10)]))

    finding, asked = find(answer, address)
    assert (finding.state, asked) == ("complete" if heeds else "unverified", 2)


@given(st.integers(0, 2**32), st.integers(1, 40), st.booleans())
def test_no_answers_whatever_lead_to_more_than_six_calls_or_to_a_false_proof(seed, count, refuses):
    chance = random.Random(seed)
    rows = [{"id": n} for n in range(200)]

    def answer(call):
        if asked and refuses and chance.random() < 0.4:
            return refused(chance.choice(["no", "Unknown parameter: page", "limit must be at most 7", "not found"]))
        asked.append(call)
        at = chance.randrange(0, 150) if len(asked) > 1 else 0
        return Tried(page_of(rows[at : at + chance.randrange(1, 40)] if len(asked) > 1 else rows[:count]))

    asked = []
    finding, made = find(answer)
    assert made <= MOST_CALLS
    assert finding.state in ("complete", "unverified", "incomplete")
    assert len(finding.trials) == made


# Words -----------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("words", "unknown", "known", "offered", "most", "least"),
    [
        ("Unknown parameter: limit", {"limit"}, set(), [], None, None),
        ("unexpected query parameters limit, page", {"limit", "page"}, set(), [], None, None),
        ("Unknown parameters limit. Allowed parameters: leaf, rows.", {"limit"}, set(), ["leaf", "rows"], None, None),
        ("limit must not exceed 50", set(), {"limit"}, [], 50, None),
        ("limit must be between 5 and 200", set(), {"limit"}, [], 200, 5),
        ("“page” must be at least 1", set(), {"page"}, [], None, 1),
        ("Bad request", set(), set(), [], None, None),
    ],
)
def test_what_a_refusal_teaches(words, unknown, known, offered, most, least):
    found = learn(words, ["limit", "page", "per_page"])
    assert (found.unknown, found.known, found.offered, found.most, found.least) == (
        unknown,
        known,
        offered,
        most,
        least,
    )


@given(st.text(max_size=200), st.lists(st.sampled_from(["limit", "page", "$skip", "page[size]"])))
def test_any_words_are_read_without_fault(words, sent):
    found = learn(words, sent)
    assert found.unknown | found.known <= set(sent)


@pytest.mark.parametrize(
    ("place", "first"),
    [("$.next_cursor", "cursor"), ("$.meta.nextPageToken", "pageToken"), ("$.continuation", "continuation"),
     ("header:x-next-cursor", "cursor"), ("$.next", "cursor")],
)  # fmt: skip
def test_the_name_of_a_mark_is_made_of_its_place(place, first):
    named = names_of_mark(place)
    assert max(named, key=named.get) == first


def test_rows_are_told_apart_by_their_ids_and_by_all_they_hold_where_they_have_none():
    first = FirstRows([{"id": 1, "at": "x"}, {"id": 2, "at": "x"}, {"id": 3, "at": "x"}])
    assert first.key == "id"
    sight = first.sight([{"id": 2, "at": "later"}, {"id": 3, "at": "later"}, {"id": 4, "at": "x"}], 3)
    assert (sight.start, sight.known, sight.in_order) == (1, 2, True)
    assert first.sight([{"id": 3}, {"id": 1}], 2).in_order is False
    assert FirstRows([["a", 1], ["b", 1]]).key == 0
    assert FirstRows([{"a": 1}, {"a": 1}]).distinct is False


def test_the_cost_that_is_shown_is_never_exceeded():
    # A parameter that the call sends is known, but a mark that is likelier is looked for first.
    answer = api(
        start=lambda sent: int(sent.get("bookmark", "m0")[1:]),
        around=lambda at, part: {"next_cursor": f"m{at + len(part)}", "has_more": True},
    )
    call = Call("GET", "http://h/sailings?offset=0&per_page=10")
    shown = most_calls(detect_pagination(answer(call).page, call))
    finding, asked = find(answer, call=call)
    assert (finding.pages.parameter, asked <= shown) == ("bookmark", True)
