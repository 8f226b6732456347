"""From one answer to the ways in which its API may turn pages."""

import json

import pytest

from tin_bucket.core.pagination.protocol import Page
from tin_bucket.core.pagination.registry import detect_pagination, total_gap
from tin_bucket.core.pagination.ways.cursor import CursorPagination
from tin_bucket.core.pagination.ways.last_row import LastRowPagination
from tin_bucket.core.pagination.ways.link import LinkPagination
from tin_bucket.core.pagination.ways.next_url import NextUrlPagination
from tin_bucket.core.pagination.ways.number import NumberPagination
from tin_bucket.core.pagination.ways.offset import OffsetPagination
from tin_bucket.core.request.call import Call

ROWS = [{"id": number} for number in range(25)]


def seen(document, address="http://h/s", headers=None, body=None, rows=ROWS):
    sent = (("Content-Type", "application/json"),) if body is not None else ()
    call = Call("POST" if body else "GET", address, sent, body=json.dumps(body).encode() if body is not None else None)
    return detect_pagination(Page({**document, "data": rows}, rows, headers or {}), call)


@pytest.mark.parametrize(
    ("document", "address", "pages", "evidence"),
    [
        ({"meta": {"page": 1, "total_pages": 14, "total": 1284}}, "http://h/s?per_page=500",
         NumberPagination(size_parameter="per_page", size=500, last_page="$.meta.total_pages", total="$.meta.total", total_proved=True),
         "asked for 500 a page, got 25"),
        ({"pageCount": 3, "page": 0}, "http://h/s", NumberPagination(first=0, last_page="$.pageCount"), "$.page is 0"),
        ({"total": 118}, "http://h/s?p=1", NumberPagination(parameter="p", total="$.total", total_proved=True), "25 of 118 rows are here"),
        ({"offset": 0, "total": 118}, "http://h/s?limit=25",
         OffsetPagination(size_parameter="limit", size=25, total="$.total", total_proved=True), "$.offset is 0"),
        ({"total": 118}, "http://h/s?skip=0&limit=25",
         OffsetPagination(parameter="skip", size_parameter="limit", size=25, total="$.total", total_proved=True), "the call sends skip = 0"),
        ({"next_cursor": "abc"}, "http://h/s", CursorPagination(cursor="$.next_cursor"), "$.next_cursor holds a mark, “abc”"),
        ({"paging": {"after": "x9", "has_more": True}}, "http://h/s",
         CursorPagination(parameter="after", cursor="$.paging.after", more="$.paging.has_more"), "$.paging.has_more is true"),
        ({"nextPageToken": "t"}, "http://h/s?pageToken=&maxResults=25",
         CursorPagination(parameter="pageToken", cursor="$.nextPageToken", size_parameter="maxResults", size=25),
         "$.nextPageToken holds a mark"),
        ({"links": {"next": "/s?page=2"}}, "http://h/s", NextUrlPagination(next="$.links.next"), "is the address /s?page=2"),
        ({"_links": {"next": {"href": "http://h/s?page=2"}}, "total": 40}, "http://h/s",
         NextUrlPagination(next="$._links.next.href", total="$.total", total_proved=True), "25 of 40 rows are here"),
        ({"has_more": True}, "http://h/s?limit=25",
         LastRowPagination(value="$.id", more="$.has_more", size_parameter="limit", size=25), "there is no cursor"),
        ({"total": 118}, "http://h/s", NumberPagination(total="$.total", total_proved=True), "nothing says how pages are turned"),
    ],
)  # fmt: skip
def test_the_likeliest_way_is_offered_first_with_its_evidence(document, address, pages, evidence):
    guess = seen(document, address)[0]
    assert guess.pages == pages
    assert evidence in "; ".join(guess.evidence)


def test_headers_are_evidence_too():
    guess = seen({}, headers={"link": '</s?page=2>; rel="next"', "x-total-count": "118"})[0]
    assert guess.pages == LinkPagination(total="header:x-total-count", total_proved=True)
    assert "header:x-total-count is 118" in guess.evidence
    guess = seen({}, "http://h/s?page=1", headers={"x-total-pages": "5"})[0]
    assert guess.pages == NumberPagination(last_page="header:x-total-pages")


def test_parameters_in_the_body_are_asked_for_there():
    guess = seen({"next_cursor": "abc"}, body={"q": 1, "cursor": None, "limit": 25})[0]
    assert guess.pages == CursorPagination(at="body", cursor="$.next_cursor", size_parameter="limit", size=25)
    guess = seen({"total": 99}, body={"page": {"number": 1, "size": 25, "page": 1}})[0]
    assert guess.pages == NumberPagination(
        at="body", parameter="$.page.page", size_parameter="$.page.size", size=25, total="$.total", total_proved=True
    )


@pytest.mark.parametrize(
    "document",
    [{}, {"total": 25}, {"next": None}, {"next_cursor": ""}, {"has_more": False},
     {"next_cursor": "abc", "has_more": False}, {"count": 3}, {"total": "many"}, {"total": True}],
)  # fmt: skip
def test_an_answer_that_is_all_suggests_nothing(document):
    assert seen(document) == []


def test_an_api_that_counts_its_pages_is_believed_even_where_there_is_one():
    assert [guess.pages.by for guess in seen({"total_pages": 1, "total": 25})] == ["number"]


@pytest.mark.parametrize(
    ("document", "first", "total"),
    [
        ({"number": 0, "totalPages": 5, "totalElements": 118}, 0, "$.totalElements"),
        ({"page": {"number": 1, "totalPages": 5}}, 1, None),
        ({"pages": 5, "hits": {"total": {"value": 118}}}, 1, "$.hits.total.value"),
    ],
)
def test_pages_are_counted_from_what_the_answer_says(document, first, total):
    pages = seen(document)[0].pages
    assert (pages.by, pages.first, pages.total) == ("number", first, total)


def test_several_ways_are_ranked():
    document = {"page": 1, "pages": 5, "total": 118, "links": {"next": "/s?page=2"}}
    assert [guess.pages.by for guess in seen(document)] == ["next", "number"]


def test_an_answer_that_is_short_of_its_total_says_so():
    found = total_gap(Page({"meta": {"total": 118}}, ROWS), Call("GET", "http://h/s"))
    assert (found.here, found.total, found.place) == (25, 118, "$.meta.total")
    assert total_gap(Page({"total": 25}, ROWS), Call("GET", "http://h/s")) is None
    assert total_gap(Page({}, ROWS), Call("GET", "http://h/s")) is None
    assert total_gap(Page([1], [1]), Call("GET", "http://h/s")) is None
