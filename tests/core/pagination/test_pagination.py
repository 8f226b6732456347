"""Page paginators against APIs that a test plays: honest ones, and ones that say whatever comes to their mind."""

import base64
import json
from datetime import date
from urllib.parse import parse_qs, urlsplit

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from tin_bucket.core.formats.http import links
from tin_bucket.core.pagination.listing import LISTING_WAYS
from tin_bucket.core.pagination.protocol import Page, PaginationEnd, RowShape, join_ends, make_page
from tin_bucket.core.pagination.registry import Pagination, detect_pagination, paginate
from tin_bucket.core.pagination.ways.ids import IdPagination
from tin_bucket.core.pagination.ways.number import NumberPagination
from tin_bucket.core.pagination.ways.single import NoPagination
from tin_bucket.core.problem import Problem, ProblemError
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import put, sent_value

FIRST = Call("GET", "http://h/s?route=all")
POST = Call("POST", "http://h/s", (("Content-Type", "application/json"),), body=b'{"q":{"route":"all"}}')
ADAPTER = TypeAdapter(Pagination)


def pages(**document):
    return ADAPTER.validate_python(document)


def sent(call):
    """The address's parameters of a call, and the members of its body."""
    found = {k: v[0] for k, v in parse_qs(urlsplit(call.address).query, keep_blank_values=True).items()}
    return found | (json.loads(call.body) if call.body else {})


def drive(pages, serve, call=FIRST, most=400, base="http://h"):
    """Play an API: `serve` gets a call and gives a page. Pages go back in order, as many calls as are open wait."""
    paginator = paginate(call, pages, base)
    waiting = list(next(paginator))
    records, made = [], []
    while len(made) < most:
        assert waiting, "the paginator waits for a page and has asked for none"
        now = waiting.pop(0)
        made.append(now)
        page = serve(now)
        if now.stage == "pages":
            records += page.records
        try:
            waiting += paginator.send(page)
        except StopIteration as stopped:
            return stopped.value, records, made
    raise AssertionError("it looped")


def numbers(rows, cap, **stated):
    def serve(call):
        size = min(int(sent(call).get("per_page", 25)), cap)
        page = int(sent(call)["page"])
        got = list(range(rows))[(page - 1) * size : page * size]
        meta = {
            "pages": -(-rows // size) if stated.get("pages") else None,
            "total": rows if stated.get("total") else None,
        }
        return Page({"meta": meta, "data": got}, got)

    return serve


PATHS = {"last_page": "$.meta.pages", "total": "$.meta.total"}


# By number -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("stated", "paths", "reason"),
    [
        ({"pages": True, "total": True}, PATHS, "stated-pages"),
        ({"total": True}, {"total": "$.meta.total"}, "stated-total"),
        ({}, {}, "empty-page"),
        ({}, PATHS, "empty-page"),
    ],
)
def test_it_stops_for_the_right_reason_with_all_rows(stated, paths, reason):
    stop, records, _ = drive(
        NumberPagination(size_parameter="per_page", size=500, **paths), numbers(1284, 100, **stated)
    )
    assert stop.reason == reason
    assert records == list(range(1284))
    assert stop.complete
    assert stop.stated_total == (1284 if stated.get("total") else None)
    assert stop.page_size == (500, 100)


def test_a_last_page_that_is_full_ends_with_an_empty_one():
    stop, records, made = drive(NumberPagination(size_parameter="per_page", size=100), numbers(300, 100))
    assert (stop.reason, len(records), len(made), stop.page_size) == ("empty-page", 300, 4, None)


def test_the_same_page_again_and_again_is_noticed():
    stop, _, made = drive(NumberPagination(), lambda call: Page({"data": [1, 2], "at": sent(call)["page"]}, [1, 2]))
    assert (stop.reason, stop.state, len(made)) == ("repeated-page", "unverified", 2)
    assert "page 2 is the same as page 1: the API ignores the parameter, or it has no second page" in stop.evidence


def test_the_safety_limit_holds_and_is_not_whole():
    three = NumberPagination(most=3, size_parameter="per_page", size=10, last_page="$.meta.pages")
    stop, records, _ = drive(three, numbers(1000, 10, pages=True))
    assert (stop.reason, stop.complete, len(records)) == ("limit", False, 30)


def test_pages_may_be_counted_from_nought():
    def serve(call):
        number = int(sent(call)["page"])
        return Page({"pages": 3}, [number, -number][: 1 if number == 2 else 2])

    stop, _, made = drive(NumberPagination(first=0, last_page="$.pages"), serve)
    assert [sent(call)["page"] for call in made] == ["0", "1", "2"]
    assert (stop.reason, stop.state) == ("stated-pages", "complete")


def test_pages_that_are_stated_are_asked_for_together():
    paginator = paginate(FIRST, NumberPagination(last_page="$.pages"))
    next(paginator)
    assert [call.label for call in paginator.send(Page({"pages": 5}, [1]))] == ["page 2", "page 3", "page 4", "page 5"]
    assert paginator.send(Page({"pages": 5}, [2])) == []
    # One more is stated on the way: it is asked for too.
    assert [call.label for call in paginator.send(Page({"pages": 6}, [3]))] == ["page 6"]


def test_an_empty_page_before_the_stated_last_one_proves_nothing():
    stop, _, _ = drive(
        NumberPagination(last_page="$.pages"),
        lambda call: Page({"pages": 9}, [] if sent(call)["page"] == "4" else [int(sent(call)["page"])]),
    )
    assert (stop.reason, stop.state) == ("empty-page", "unverified")
    assert stop.evidence == "page 4 is empty, though the API states 9 pages"


def test_a_stated_last_page_that_is_empty_may_be_one_too_far():
    rows = {0: [1, -1], 1: [2, -2], 2: [3]}
    stop, records, _ = drive(
        NumberPagination(last_page="$.pages"), lambda call: Page({"pages": 3}, rows.get(int(sent(call)["page"]), []))
    )
    assert (records, stop.state) == ([2, -2, 3], "unverified")


def test_pages_that_are_counted_for_another_size_are_no_end():
    def serve(call):
        number = int(sent(call)["page"])
        return Page({"pages": 2}, [number, -number] if number < 5 else [9] if number == 5 else [])

    stop, records, _ = drive(NumberPagination(last_page="$.pages"), serve)
    assert (len(records), stop.reason, stop.state) == (9, "empty-page", "complete")


def test_a_page_that_failed_is_left_out_where_the_others_are_known():
    def serve(call):
        page = int(sent(call)["page"])
        if page == 3:
            return Page(None, [], failed=Problem("service-failed", "no"))
        return Page({"pages": 5}, [page, -page] if page < 5 else [page])

    stop, records, _ = drive(NumberPagination(last_page="$.pages"), serve)
    assert (records, stop.reason, stop.complete, stop.failed_pages) == (
        [1, -1, 2, -2, 4, -4, 5],
        "stated-pages",
        False,
        1,
    )
    assert "1 page has failed" in stop.evidence
    stop, records, _ = drive(NumberPagination(), serve)
    assert (records, stop.reason, stop.complete) == ([1, -1, 2, -2], "failed-page", False)


def test_status_404_after_the_last_page_is_its_end():
    def serve(call):
        page = int(sent(call)["page"])
        return Page(None, [], failed=Problem("not-found", "no")) if page == 3 else Page({}, [page])

    stop, records, _ = drive(NumberPagination(), serve)
    assert (records, stop.reason, stop.complete) == ([1, 2], "empty-page", True)


# By offset, cursor, address, last row --------------------------------------------------------------------------------


def offsets(rows, cap, total=False):
    def serve(call):
        at, size = int(sent(call)["offset"]), min(int(sent(call).get("limit", 40)), cap)
        got = list(range(rows))[at : at + size]
        return Page({"total": rows if total else None}, got)

    return serve


@pytest.mark.parametrize(("total", "reason"), [(True, "stated-total"), (False, "empty-page")])
@pytest.mark.parametrize("first", [0, 1])
def test_offsets_step_by_what_the_api_really_gives(total, reason, first):
    def serve(call):
        return offsets(118, 50, total)(put(call, "address", {"offset": int(sent(call)["offset"]) - first}))

    stop, records, made = drive(
        pages(by="offset", first=first, size_parameter="limit", size=500, total="$.total"), serve
    )
    assert (records, stop.reason, stop.complete) == (list(range(118)), reason, True)
    assert [int(sent(call)["offset"]) - first for call in made] == [0, 50, 100] + [118] * (not total)
    assert stop.page_size == (500, 50)


def test_offsets_that_are_known_are_asked_for_together():
    paginator = paginate(FIRST, pages(by="offset", total="$.total"))
    next(paginator)
    calls = paginator.send(Page({"total": 118}, list(range(25))))
    assert [sent(call)["offset"] for call in calls] == ["25", "50", "75", "100"]


@pytest.mark.parametrize("call", [FIRST, POST])
def test_a_cursor_is_absent_at_first_and_goes_where_it_belongs(call):
    place = "$.page.after" if call.body else "after"
    where = {"at": "body" if call.body else "address", "parameter": place}

    def serve(now):
        mark = sent_value(now, where["at"], place)
        at = int(base64.b64decode(mark)) if mark else 0
        got = list(range(70))[at : at + 30]
        following = base64.b64encode(str(at + 30).encode()).decode() if at + 30 < 70 else None
        return Page({"items": got, "next": following}, got)

    stop, records, made = drive(pages(by="cursor", cursor="$.next", **where), serve, call)
    assert (records, stop.reason, stop.complete) == (list(range(70)), "null-cursor", True)
    assert sent_value(made[0], where["at"], place) is None
    if call.body:
        assert json.loads(made[1].body) == {"q": {"route": "all"}, "page": {"after": "MzA="}}


@pytest.mark.parametrize("end", [None, "", False, "absent"])
def test_every_way_to_say_that_there_is_no_further_mark(end):
    def serve(call):
        if "cursor" in sent(call):
            return Page({} if end == "absent" else {"next": end}, [2])
        return Page({"next": 17}, [1])

    stop, records, made = drive(pages(by="cursor", cursor="$.next"), serve)
    assert (records, stop.reason, stop.complete) == ([1, 2], "null-cursor", True)
    assert sent(made[1])["cursor"] == "17"


def test_a_cursor_in_a_header_and_a_flag_that_ends_it():
    def serve(call):
        more = "cursor" not in sent(call)
        return Page({"more": more}, [1 if more else 2], {"x-next": "a b"})

    stop, records, made = drive(pages(by="cursor", cursor="header:X-Next", more="$.more"), serve)
    assert (records, stop.reason, sent(made[1])["cursor"]) == ([1, 2], "no-more", "a b")


def test_a_mark_that_came_before_and_one_that_is_missing_are_told():
    stop, _, made = drive(pages(by="cursor", cursor="$.n"), lambda call: Page({"n": "x"}, [len(sent(call))]))
    assert (stop.reason, stop.complete, len(made)) == ("repeated-cursor", False, 2)
    stop, _, _ = drive(pages(by="cursor", cursor="$.n", more="$.m"), lambda call: Page({"m": True}, [1]))
    assert (stop.reason, stop.complete) == ("cursor-missing", False)


@pytest.mark.parametrize(
    "following", ["http://h/s?page=2&x=1", "/s?page=2&x=1", "?page=2&x=1", "s?page=2&x=1", {"href": "/s?page=2&x=1"}]
)
def test_a_next_address_may_be_whole_or_relative(following):
    def serve(call):
        return Page({"links": {"next": None if "page" in sent(call) else following}}, [len(sent(call))])

    stop, records, made = drive(pages(by="next", next="$.links.next"), serve)
    assert (records, stop.reason, stop.complete) == ([1, 2], "no-next", True)
    assert made[1].address == "http://h/s?page=2&x=1"


@pytest.mark.parametrize(
    ("following", "reason"),
    [("http://elsewhere/s?page=2", "elsewhere"), ("ftp://h/s", "elsewhere"), (["x"], "elsewhere"),
     ("http://h/s?route=all", "repeated-cursor"), ("http://h:0/s", "elsewhere")],
)  # fmt: skip
def test_a_next_address_that_leads_astray_is_not_followed(following, reason):
    stop, _, made = drive(pages(by="next", next="$.n"), lambda call: Page({"n": following}, [1]))
    assert (stop.reason, stop.complete, len(made)) == (reason, False, 1)


def test_a_next_address_never_falls_back_from_https_to_http():
    def serve(call):
        return Page({"n": None if "p" in sent(call) else "http://h/s?p=2"}, [call.address])

    _, records, _ = drive(pages(by="next", next="$.n"), serve, Call("GET", "https://h/s"))
    assert records == ["https://h/s", "https://h/s?p=2"]


def test_the_link_header_leads_on():
    def serve(call):
        page = int(sent(call).get("page", 1))
        header = f'<http://h/s?page={page + 1}>; rel="next", <http://h/s?page=9>; rel=last' if page < 3 else ""
        return Page([], [page], {"link": header})

    stop, records, _ = drive(pages(by="link"), serve)
    assert (records, stop.reason, stop.complete) == ([1, 2, 3], "no-link", True)


@pytest.mark.parametrize(
    ("header", "found"),
    [
        ('<https://h/a?b=1,2>; rel="next"', {"next": "https://h/a?b=1,2"}),
        ('</b>; title="x, \\"y\\"; rel=no"; rel="prev start", <c>;rel=next', {"prev": "/b", "start": "/b", "next": "c"}),
        ("<d>; REL=Next; rel=last", {"next": "d"}),
        ("<e>", {}), ("not a link", {}), ("", {}), ("<f>; rel", {"": None}),
    ],
)  # fmt: skip
def test_link_headers_are_read_as_rfc_8288_says(header, found):
    assert links(header) == {k: v for k, v in found.items() if v is not None}


@given(st.text(max_size=60))
def test_any_text_for_a_link_header_is_read_without_fault(text):
    assert all(isinstance(target, str) for target in links(text).values())


def test_the_last_rows_value_leads_on():
    def serve(call):
        after = int(sent(call).get("after", -1))
        return Page({}, [{"id": one} for one in range(after + 1, min(after + 11, 24))])

    stop, records, made = drive(pages(by="last row", value="$.id", size_parameter="limit", size=10), serve)
    assert ([row["id"] for row in records], stop.reason, stop.complete) == (list(range(24)), "empty-page", True)
    assert [sent(call).get("after") for call in made] == [None, "9", "19", "23"]
    stop, _, _ = drive(pages(by="last row", value="$.key"), serve)
    assert (stop.reason, stop.complete) == ("cursor-missing", False)


# Dates and ids -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("start", "end", "step", "ends", "pieces"),
    [
        ("2026-01-01", "2026-01-20", "P7D", "included",
         [("2026-01-01", "2026-01-07"), ("2026-01-08", "2026-01-14"), ("2026-01-15", "2026-01-20")]),
        ("2026-01-31", "2026-04-02", "P1M", "excluded",
         [("2026-01-31", "2026-02-28"), ("2026-02-28", "2026-03-31"), ("2026-03-31", "2026-04-02")]),
        ("20260101", "20260101", "P1D", "included", [("20260101", "20260101")]),
        ("2026-01-01T00:00:00Z", "2026-01-01T05:00:00Z", "PT3H", "excluded",
         [("2026-01-01T00:00:00Z", "2026-01-01T03:00:00Z"), ("2026-01-01T03:00:00Z", "2026-01-01T05:00:00Z")]),
        ("1767225600", "1767229199", "PT30M", "included", [("1767225600", "1767227399"), ("1767227400", "1767229199")]),
        ("1767225600000", "1767229200000", "PT1H", "excluded", [("1767225600000", "1767229200000")]),
    ],
)  # fmt: skip
def test_a_range_of_dates_is_cut_into_pieces_of_its_own_form(start, end, step, ends, pieces):
    call = Call("GET", f"http://h/s?from={start}&to={end}&x=1")
    stop, records, _ = drive(
        ADAPTER.validate_python({"by": "dates", "step": step, "ends": ends}),
        lambda now: Page({}, [(sent(now)["from"], sent(now)["to"])]),
        call,
    )
    assert records == pieces
    assert (stop.reason, stop.complete) == ("last-window", True)


@given(st.dates(), st.integers(0, 400), st.integers(1, 40))
def test_every_day_of_a_range_is_asked_for_once(start, length, step):
    end = min(start.toordinal() + length, date.max.toordinal())
    call = Call("GET", f"http://h/s?from={start}&to={date.fromordinal(end)}")
    _, records, _ = drive(
        ADAPTER.validate_python({"by": "dates", "step": f"P{step}D"}),
        lambda now: Page({}, [(sent(now)["from"], sent(now)["to"])]),
        call,
        most=1000,
    )
    days = [
        day
        for first, last in records
        for day in range(date.fromisoformat(first).toordinal(), date.fromisoformat(last).toordinal() + 1)
    ]
    assert days == list(range(start.toordinal(), end + 1))


@pytest.mark.parametrize(
    "query", ["from=2026-01-01", "from=2026-01-05&to=2026-01-01", "from=2026-01-01&to=tomorrow", "from=2026-13-01&to=x"]
)
def test_a_range_that_is_none_is_said_before_a_call(query):
    with pytest.raises(ProblemError) as error:
        next(paginate(Call("GET", f"http://h/s?{query}"), pages(by="dates")))
    assert error.value.problem.kind == "pages-unfit"


def listed(call, path="/details"):
    if call.stage == "list":
        page = int(sent(call).get("page", 1))
        return Page({}, list(range(100 + 10 * page, 110 + 10 * page)) if page < 3 else [])
    body = json.loads(call.body) if call.body else None
    return Page({}, [{"method": call.method, "address": call.address, "body": body}])


def paginate_details(by, rows_an_id):
    def answer(call):
        page = listed(call)
        return page if call.stage == "list" else Page({}, rows_an_id * sent(call)["ids"].split(","))

    return drive(by, answer, base="http://h/v1")[0]


def test_ids_are_listed_page_by_page_and_asked_for_some_at_a_time():
    by = pages(by="ids", ids="$[*]", path="/details?ids={id}", batch=8, listing={"by": "number"})
    stop, records, made = drive(by, listed, base="http://h/v1")
    assert [call.stage for call in made] == ["list"] * 3 + ["pages"] * 3
    assert records[0]["address"] == "http://h/v1/details?ids=110,111,112,113,114,115,116,117"
    asked = [int(one) for call in made[3:] for one in sent(call)["ids"].split(",")]
    assert asked == list(range(110, 130))
    # One row came for each of the three calls.
    evidence = "the rows of 20 ids were asked for, and 17 of them brought no row"
    assert (stop.reason, stop.state, stop.evidence) == ("last-ids", "unverified", evidence)
    whole = paginate_details(by, rows_an_id=2)
    assert (whole.state, whole.evidence) == ("complete", "the rows of 20 ids were asked for")


@given(st.integers(1, 40), st.integers(1, 20), st.integers(1, 40))
def test_a_call_with_too_many_ids_is_made_again_with_fewer_and_no_id_is_lost(count, takes, batch):
    def serve(call):
        if call.stage == "list":
            return Page(list(range(count)), list(range(count)))
        ids = sent(call)["ids"].split(",")
        if len(ids) > takes:
            return Page(None, [], failed=Problem("call-refused", "Refused.", words=f"at most {takes} ids a call"))
        return Page({}, ids)

    stop, records, made = drive(IdPagination(ids="$[*]", path="/details?ids={id}", batch=batch), serve, base="http://h")
    assert sorted(map(int, records)) == list(range(count))
    assert (stop.complete, stop.failed_pages) == (True, 0)
    refused = sum(len(sent(call)["ids"].split(",")) > takes for call in made[1:])
    assert refused <= 6, "it is learnt from the first call on"
    if min(batch, count) > takes:
        assert stop.page_size is not None
        assert stop.page_size[0] == batch
        assert stop.page_size[1] <= takes
    else:
        assert stop.page_size is None


def test_one_id_alone_that_is_too_long_has_failed():
    def serve(call):
        if call.stage == "list":
            return Page(["a", "b"], ["a", "b"])
        return Page(None, [], failed=Problem("call-too-long", "Too long (status 414)."))

    stop, _, made = drive(IdPagination(ids="$[*]", path="/v?ids={id}", batch=2), serve, base="http://h")
    assert (stop.state, stop.failed_pages, len(made)) == ("incomplete", 2, 4)


def test_one_id_a_call_goes_into_the_path_and_many_may_go_into_a_body():
    _, records, _ = drive(pages(by="ids", ids="$[*]", path="/v/{id}", listing={"by": "number"}), listed)
    assert [one["address"] for one in records][:2] == ["http://h/v/110", "http://h/v/111"]
    by = pages(by="ids", ids="$[*]", path="/many", batch=50, place="$.filter.ids", listing={"by": "number"})
    _, records, _ = drive(by, listed)
    assert (records[0]["method"], records[0]["body"]) == ("POST", {"filter": {"ids": list(range(110, 130))}})


def test_a_list_without_ids_ends_at_once():
    stop, records, made = drive(pages(by="ids", ids="$[*]", path="/v/{id}"), lambda call: Page([], []))
    assert (stop.complete, records, len(made)) == (True, [], 1)


def test_ids_must_go_somewhere():
    with pytest.raises(ValidationError, match="does not hold"):
        pages(by="ids", ids="$[*]", path="/details")


# By first and last row ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("total", "reason"), [(True, "stated-total"), (False, "empty-page")])
@pytest.mark.parametrize("cap", [20, 7])
def test_rows_are_asked_for_by_the_first_and_the_last_of_them(total, reason, cap):
    def serve(call):
        low, high = int(sent(call)["lo"]), int(sent(call)["hi"])
        assert high - low == 19
        got = list(range(93))[low - 1 : min(high, low - 1 + cap)]
        return Page({"total": 93 if total else None, "data": got}, got)

    way = pages(by="row range", start="lo", end="hi", size=20, total="$.total")
    stop, records, made = drive(way, serve)
    assert (stop.reason, stop.complete, records) == (reason, True, list(range(93)))
    assert (made[0].label, sent(made[1])["lo"]) == ("from row 1", str(1 + cap))
    call = Call("GET", "http://h/s?first=1&last=20")
    found = detect_pagination(Page({"total": 93, "data": [*range(20)]}, [*range(20)]), call)
    assert (found[0].pages.by, found[0].pages.start, found[0].pages.size) == ("row range", "first", 20)


# What they have in common --------------------------------------------------------------------------------------------


def test_one_answer_is_all_when_the_brief_says_so():
    paginator = paginate(FIRST, NoPagination(total="header:X-Total"))
    assert next(paginator) == [FIRST]
    with pytest.raises(StopIteration) as stopped:
        paginator.send(Page({"total": 9}, [1], {"x-total": "7"}))
    assert stopped.value.value.stated_total == 7


LIES = st.one_of(
    st.none(), st.integers(-5, 10**12), st.text(max_size=3), st.just([1]), st.booleans(),
    st.sampled_from(["/s?page=2", "?a=1", "http://h/s?b=2", "//x", "http://[", {"href": "/q"}, 1.5, -0.0, "2026"]),
)  # fmt: skip
ALL = [
    *(
        {name: "$.meta.pages" if value == "" else value for name, value in way.defaults().items()}
        | {"total": "$.meta.total"}
        for way in LISTING_WAYS[1:]
    ),
    {"by": "number", **PATHS},
    {"by": "number", "first": 0, "total": "$.meta.total"},
    {"by": "offset", "total": "$.meta.total", "size_parameter": "limit", "size": 3},
    {"by": "offset"},
    {"by": "cursor", "cursor": "$.meta.pages", "more": "$.meta.total"},
    {"by": "next", "next": "$.meta.pages", "total": "$.meta.total"},
    {"by": "link"},
    {"by": "last row", "value": "$", "total": "$.meta.total"},
    {
        "by": "ids",
        "ids": "$[*]",
        "path": "/d?i={id}",
        "batch": 2,
        "listing": {"by": "cursor", "cursor": "$.meta.pages"},
    },
]


@settings(max_examples=300)
@given(
    st.sampled_from(ALL),
    st.lists(
        st.tuples(LIES, LIES, st.lists(st.integers(0, 3), max_size=4), st.sampled_from(["", '<?x={n}>; rel="next"'])),
        min_size=1, max_size=30,
    ),
    st.integers(1, 40),
)  # fmt: skip
def test_no_turner_ever_loops_whatever_the_api_says(how, answers, most):
    turn = iter(range(10_000))

    def serve(call):
        at = next(turn)
        last, total, got, link = answers[at % len(answers)]
        if at % 7 == 6 and how["by"] in ("number", "offset"):
            return Page(None, [], failed=Problem("service-failed", "no"))
        return Page({"meta": {"pages": last, "total": total}}, got, {"link": link.format(n=at)})

    document = {**how, "most": most}
    if how["by"] == "ids":
        document["listing"] = {**how["listing"], "most": most}
    stop, _, made = drive(ADAPTER.validate_python(document), serve, most=2 * most + 1)
    assert len(made) <= 2 * most
    assert stop.evidence


@settings(max_examples=150)
@given(st.integers(0, 300), st.integers(1, 60), st.integers(1, 60), st.booleans(), st.booleans())
def test_no_turner_drops_a_row_or_brings_one_twice(rows, cap, size, total, known):
    paths = {"total": "$.meta.total"} if total else {}
    by_number = NumberPagination(
        size_parameter="per_page", size=size, **paths, **({"last_page": "$.meta.pages"} if known else {})
    )
    stop, records, _ = drive(by_number, numbers(rows, cap, pages=known, total=total))
    assert (records, stop.complete) == (list(range(rows)), True)
    by_offset = pages(by="offset", size_parameter="limit", size=size, **({"total": "$.total"} if total else {}))
    stop, records, _ = drive(by_offset, offsets(rows, cap, total))
    assert (records, stop.complete) == (list(range(rows)), True)

    def marked(call):
        at = int(sent(call).get("cursor", 0))
        return Page({"n": at + cap if at + cap < rows else None}, list(range(at, min(at + cap, rows))))

    stop, records, _ = drive(pages(by="cursor", cursor="$.n"), marked)
    assert (records, stop.complete) == (list(range(rows)), True)


def test_a_total_that_moves_is_told():
    stop, _, _ = drive(
        NumberPagination(last_page="$.pages", total="$.total"),
        lambda call: Page(
            {"pages": 3, "total": 30 + int(sent(call)["page"])},
            [sent(call)["page"], 0][: 1 + (sent(call)["page"] != "3")],
        ),
    )
    assert (stop.moved, stop.first_total, stop.stated_total) == (True, 31, 33)


def test_rounds_join_what_their_turners_say():
    ended = PaginationEnd("stated-pages", "the API states 2 pages", True, 20, 2, 20)
    short = PaginationEnd("limit", "the brief allows 3 pages", False, 9, None, 9, 1)
    assert join_ends([ended], 1) is ended
    both = join_ends([ended, short], 2)
    assert (both.complete, both.stated_total, both.failed_pages, both.moved) == (False, 29, 1, False)
    assert "1 of them is incomplete, the first because the brief allows 3 pages" in both.evidence
    assert join_ends([ended], 2).stated_total is None


def test_a_condition_in_the_path_of_the_records_does_not_make_a_page_short():
    document = {"data": [{"open": True, "n": "[?"}, {"open": False}, {"open": True}]}
    page, found = make_page(
        NumberPagination(), RowShape("$.data[?@.open == true && @['n'] != ']']"), FIRST, document, {}
    )
    assert (page.size, len(found.values)) == (3, 2)
    page, _ = make_page(NumberPagination(), RowShape("$.data[*]"), FIRST, document, {})
    assert page.size == 3


def test_values_are_put_into_addresses_headers_forms_and_bodies():
    assert put(FIRST, "address", {"page": 2, "route": None}).address == "http://h/s?page=2"
    assert put(FIRST, "header", {"X-Page": 2}).headers == (("X-Page", "2"),)
    form = Call("POST", "http://h", (("Content-Type", "application/x-www-form-urlencoded"),), body=b"a=1&page=7")
    assert put(form, "body", {"page": 2}).body == b"a=1&page=2"
    assert sent_value(form, "body", "page") == "7"
    assert json.loads(put(POST, "body", {"$.q.page": 2, "$.x.y": "z"}).body) == {
        "q": {"route": "all", "page": 2}, "x": {"y": "z"},
    }  # fmt: skip
    with pytest.raises(ProblemError, match="no JSON object"):
        put(FIRST, "body", {"page": 2})


@pytest.mark.parametrize(
    "how", [{"by": "cursor", "cursor": "$.meta.nextt"}, {"by": "next", "next": "$.linkz.next"},
            {"by": "cursor", "cursor": "header:X-Nothing"}]
)  # fmt: skip
@pytest.mark.parametrize(
    ("rows", "stated", "doubt"), [(50, {}, True), (7, {}, False), (50, {"total": 50}, False)],
    ids=["as many as a page", "a short page", "the stated total"],
)  # fmt: skip
def test_a_place_that_is_nowhere_proves_no_end(how, rows, stated, doubt):
    def serve(call):
        return Page({"rows": list(range(rows)), **stated}, list(range(rows)))

    stop, _, made = drive(pages(**how, total="$.total" if stated else None), serve)
    assert (len(made), stop.complete, stop.doubt) == (1, True, doubt)
    assert ("where the brief looks for" in stop.evidence) is doubt


def test_a_null_in_its_place_is_an_end():
    stop, _, _ = drive(pages(by="cursor", cursor="$.next"), lambda _: Page({"next": None, "rows": []}, list(range(50))))
    assert (stop.complete, stop.doubt) == (True, False)


@pytest.mark.parametrize("ids", [["a", "b", "c"], [71, 72, 73]])
def test_ids_without_a_row_are_named(ids):
    def serve(call):
        if call.stage == "list":
            return Page(ids, ids)
        kept = [one for one in ids if str(one) != str(ids[1])]
        return Page({}, [{"id": one} for one in kept])

    stop, _, _ = drive(pages(by="ids", ids="$[*]", path="/d?ids={id}", batch=10), serve)
    assert stop.evidence.startswith(f"the rows of 3 ids were asked for, and 1 of them brought no row: {ids[1]};")
    assert stop.state == "unverified"
