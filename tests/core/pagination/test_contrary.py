"""An answer that says that there is more is never the end, whatever the way of turning pages has found."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.pagination.contrary import says_more
from tin_bucket.core.pagination.protocol import Page
from tin_bucket.core.pagination.registry import paginate
from tin_bucket.core.pagination.tracker import PageTracker
from tin_bucket.core.pagination.ways.number import NumberPagination
from tin_bucket.core.pagination.ways.offset import OffsetPagination
from tin_bucket.core.pagination.ways.single import NoPagination
from tin_bucket.core.request.call import Call

ROWS = [{"id": n} for n in range(10)]
CALL = Call("GET", "http://h/sailings?page=1")


def page_of(document, rows=ROWS, **headers):
    return Page(document, rows, headers)


def end_of(pages, *answers):
    """How the turning of pages ends when it is given these answers in turn."""
    paginator = paginate(CALL, pages)
    next(paginator)
    try:
        for answer in answers:
            paginator.send(answer)
    except StopIteration as done:
        return done.value
    raise AssertionError("it wants more answers")


MORE = [
    ({"data": ROWS, "has_more": True}, "$.has_more is true"),
    ({"data": ROWS, "hasMore": "true"}, "$.hasMore is true"),
    ({"data": ROWS, "page": {"hasNext": "yes"}}, "$.page.hasNext is yes"),
    ({"data": ROWS, "meta": {"paging": {"more": True}}}, "$.meta.paging.more is true"),
    ({"data": ROWS, "isTruncated": True}, "$.isTruncated is true"),
    ({"data": ROWS, "next": "http://h/sailings?page=2"}, "$.next is a next address"),
    ({"data": ROWS, "links": {"next": "/sailings?page=2"}}, "$.links.next is a next address"),
    ({"data": ROWS, "_links": {"next": {"href": "?page=2"}}}, "is a next address"),
    ({"data": ROWS, "next_cursor": "abc"}, "$.next_cursor holds “abc”"),
    ({"data": ROWS, "nextPageToken": 17}, "$.nextPageToken holds “17”"),
    ({"data": ROWS, "pagination": {"next_page": 2}}, "$.pagination.next_page holds “2”"),
]
NO_MORE = [
    {"data": ROWS}, {"data": ROWS, "has_more": False}, {"data": ROWS, "hasMore": "false"}, {"data": ROWS, "has_more": None},
    {"data": ROWS, "next": None}, {"data": ROWS, "next": ""}, {"data": ROWS, "links": {"next": None}}, ROWS,
    {"data": ROWS, "next_cursor": "0"}, {"data": ROWS, "next_cursor": 0}, {"data": ROWS, "next_page": -1},
    {"data": ROWS, "nextPageToken": "null"}, {"data": ROWS, "next_page": False}, {"data": ROWS, "more": 3},
    # A mark of this page, a date of the next sailing, a word: none of them says that rows follow.
    {"data": ROWS, "cursor": "abc"}, {"data": ROWS, "next": "2026-11-26"}, {"data": ROWS, "more": "see the docs"},
]  # fmt: skip


@pytest.mark.parametrize(("document", "words"), MORE)
def test_what_says_that_there_is_more(document, words):
    assert words in says_more(page_of(document))
    end = end_of(NoPagination(), page_of(document))
    assert (end.complete, end.reason) == (False, "more")
    assert words in end.evidence


def test_a_link_header_says_it_too():
    end = end_of(NoPagination(), page_of(ROWS, link='<http://h/sailings?page=2>; rel="next"'))
    assert (end.complete, "the Link header names a next page" in end.evidence) == (False, True)
    assert end_of(NoPagination(), page_of(ROWS, link='<http://h/sailings?page=1>; rel="first"')).complete


@pytest.mark.parametrize("document", NO_MORE)
def test_what_does_not(document):
    assert says_more(page_of(document)) is None
    assert end_of(NoPagination(), page_of(document)).complete


def test_the_members_of_a_record_are_data():
    record = {"id": 1, "has_more": True, "next": "/stops/2", "leg": {"next_cursor": "abc"}}
    assert says_more(page_of(record, [record])) is None
    assert says_more(page_of({"data": [record]}, [record])) is None
    assert says_more(page_of({"sailing": record}, [record])) is None


@pytest.mark.parametrize("pages", [
    NumberPagination(parameter="page"), OffsetPagination(parameter="offset"),
])  # fmt: skip
def test_a_short_page_alone_is_no_end(pages):
    first, short = page_of({"data": ROWS}), page_of({}, [{"id": 90 + n} for n in range(3)])
    with pytest.raises(AssertionError, match="wants more"):
        end_of(pages, first, short)
    end = end_of(pages, first, short, page_of({}, []))
    assert (end.state, end.reason) == ("complete", "empty-page")


@pytest.mark.parametrize("pages", [
    NumberPagination(parameter="page"), OffsetPagination(parameter="offset"),
])  # fmt: skip
def test_an_empty_page_is_the_end_whatever_it_says(pages):
    assert end_of(pages, page_of({"data": ROWS}), page_of({"data": [], "has_more": True}, [])).complete


@given(st.recursive(
    st.none() | st.booleans() | st.integers() | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(["next", "has_more", "a", "data", ""]), inner),
    max_leaves=12,
))  # fmt: skip
def test_any_document_gives_words_or_nothing(document):
    said = says_more(page_of(document, []))
    assert said is None or said.startswith("$")


def test_a_count_of_the_pages_own_rows_is_no_total():
    pages = NumberPagination(parameter="page", total="$.count")
    tracker = PageTracker(pages)
    for size in (10, 10, 4):
        rows = [{"id": (size, n)} for n in range(size)]
        tracker.saw(Page({"count": size, "at": tracker.asked}, rows))
    end = tracker.stop("no-next", "there is no further address", True)
    assert (end.complete, end.stated_total, end.moved) == (True, None, False)


def test_a_total_that_stays_or_falls_is_one():
    pages = NumberPagination(parameter="page", total="$.count")
    tracker = PageTracker(pages)
    for count, size in ((30, 10), (29, 10), (29, 9)):
        tracker.saw(Page({"count": count, "at": tracker.asked}, [{"id": (tracker.asked, n)} for n in range(size)]))
    end = tracker.stop("no-next", "there is no further address", True)
    assert (end.stated_total, end.moved) == (29, True)
