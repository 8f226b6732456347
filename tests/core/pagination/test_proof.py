"""What proves that a table is whole: one answer, and the end of pages that were turned."""

from datetime import date

import pytest

from tin_bucket.core.pagination.proof import end_of_one
from tin_bucket.core.pagination.protocol import Page, PaginationEnd, RowShape, join_ends, make_page
from tin_bucket.core.pagination.registry import paginate
from tin_bucket.core.pagination.tracker import past_the_end, usual_size
from tin_bucket.core.pagination.ways.cursor import CursorPagination
from tin_bucket.core.pagination.ways.number import NumberPagination
from tin_bucket.core.pagination.ways.offset import OffsetPagination
from tin_bucket.core.pagination.ways.single import NoPagination, OnlyAnswer
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call

ROWS = [{"id": n} for n in range(25)]
CALL = Call("GET", "http://h/sailings")


def one(around, rows=ROWS, address="http://h/sailings", headers=None, pages=None, **options):
    page = Page({**around, "data": rows}, rows, headers or {}, **options)
    return end_of_one(page, Call("GET", address), pages or NoPagination())


def turned(pages, *answers):
    """How the turning of pages ends: answers are lists of rows, pages or problems."""
    paginator = paginate(CALL, pages)
    waiting, given = list(next(paginator)), list(answers)
    try:
        while True:
            waiting.pop(0)
            answer = given.pop(0)
            page = answer if isinstance(answer, Page) else Page({"data": answer}, answer)
            waiting += paginator.send(page)
    except StopIteration as done:
        assert not given, "it ended early"
        return done.value


# One answer ------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("around", "words"),
    [
        ({"has_more": False}, "$.has_more is false"),
        ({"paging": {"isTruncated": "false"}}, "$.paging.isTruncated is false"),
        ({"next": None}, "no further page at $.next"),
        ({"meta": {"next_cursor": ""}}, "no further page at $.meta.next_cursor"),
        ({"cursor": None}, "no further page at $.cursor"),
        ({"total_pages": 1}, "the API states 1 page"),
        ({"next_cursor": "x9", "has_more": False}, "$.has_more is false"),
    ],
)
def test_an_answer_that_says_that_nothing_follows_is_complete(around, words):
    end = one(around)
    assert (end.state, words in end.evidence) == ("complete", True)


@pytest.mark.parametrize(
    ("around", "rows", "address", "words"),
    [
        ({}, ROWS, "http://h/s", "25 rows, as many as a page often has"),
        ({}, ROWS[:7], "http://h/s?limit=7", "7 rows were asked for and came"),
        ({}, ROWS[:7], "http://h/s", "nothing in the answer tells"),
        ({"count": 25}, ROWS, "http://h/s", "$.count is 25, which may be the number of this answer's own rows"),
        ({"total": 7}, ROWS[:7], "http://h/s", "$.total is 7, which may be"),
        ({"total_pages": 1}, ROWS[:7], "http://h/s?limit=7", "7 rows were asked for"),
        ({"count": 3}, ROWS, "http://h/s", "as many as a page often has"),
    ],
)
def test_an_answer_of_which_nothing_tells_is_unverified(around, rows, address, words):
    end = one(around, rows, address)
    assert (end.state, words in end.evidence) == ("unverified", True), end.evidence


def test_what_speaks_against_it_always_wins():
    assert one({"total": 116, "has_more": False}).stated_total == 116
    paginator = paginate(CALL, NoPagination(said=OnlyAnswer(on=date(2026, 11, 2), rows=25)))
    next(paginator)
    with pytest.raises(StopIteration) as stopped:
        paginator.send(Page({"data": ROWS, "has_more": True}, ROWS))
    assert stopped.value.value.state == "incomplete"


def test_a_link_header_without_a_next_page_is_an_end():
    assert one({}, headers={"link": '</s?page=1>; rel="first"'}).state == "complete"
    assert one({}, headers={"link": '</docs>; rel="help"'}).state == "unverified"


def test_one_record_and_an_empty_list_are_all():
    assert one({}, rows=[]).evidence == "the answer is empty"
    record = {"id": 1, "name": "Harl Sound", "berths": {"long": 2}}
    assert end_of_one(Page(record, [record], one=True), CALL, NoPagination()).state == "complete"
    holder = {"id": 1, "legs": [{"n": 1}, {"n": 2}]}
    assert end_of_one(Page(holder, [holder], one=True), CALL, NoPagination()).state == "unverified"


def test_what_a_person_said_once_holds_until_it_grows_to_a_page():
    said = NoPagination(said=OnlyAnswer(on=date(2026, 11, 2), rows=7))
    assert one({}, ROWS[:7], pages=said).evidence == "one answer is all there is, as was said on 02 Nov 2026"
    assert one({}, ROWS[:9], pages=said).state == "complete"
    grown = one({}, ROWS, pages=said)
    assert (grown.state, "has grown to 25 rows" in grown.evidence) == ("unverified", True)
    assert one({}, ROWS, pages=NoPagination(said=OnlyAnswer(on=date(2026, 11, 2), rows=25))).state == "complete"


def test_a_number_that_is_no_total_can_be_left_out_of_account():
    said = OnlyAnswer(on=date(2026, 11, 2), rows=7, apart=["$.count"])
    assert one({"count": 900}, ROWS[:7]).stated_total == 900
    assert one({"count": 900}, ROWS[:7], pages=NoPagination(said=said)).state == "complete"


def test_a_total_that_was_proved_is_believed():
    pages = NoPagination(total="$.count", total_proved=True)
    assert one({"count": 25}, pages=pages).evidence == "all 25 stated rows are here"
    assert one({"count": 25}, pages=NoPagination(total="$.count")).state == "unverified"


# Pages that were turned ------------------------------------------------------------------------------------------------


def test_a_total_of_as_many_rows_as_the_first_page_has_is_looked_at_with_one_more_call():
    pages = OffsetPagination(total="$.count")
    first = Page({"count": 25}, ROWS)
    assert turned(pages, first, []).evidence == "there is no row from row 25 on"
    more = [{"id": 90 + n} for n in range(25)]
    end = turned(pages, first, Page({"count": 25}, more), Page({"count": 0}, []))
    assert (end.state, end.stated_total) == ("complete", None)


def test_a_total_that_is_met_ends_it_at_once_where_it_was_proved_and_the_page_is_not_full():
    pages = NumberPagination(total="$.total", total_proved=True)
    short = [{"id": 90 + n} for n in range(3)]
    end = turned(pages, Page({"total": 28}, ROWS), Page({"total": 28}, short))
    assert (end.reason, end.state) == ("stated-total", "complete")


@pytest.mark.parametrize(
    ("kind", "words", "short", "ends"),
    [
        ("not-found", "", False, True),
        ("call-refused", "There is no such page.", False, True),
        ("call-refused", "page out of range", False, True),
        ("call-refused", "bad value", True, True),
        ("call-refused", "bad value", False, False),
        ("call-refused", "offset must not exceed 1000", True, False),
        ("call-refused", "page is too deep, 10000 at most", False, False),
        ("service-failed", "no such page", False, False),
    ],
)
def test_a_refusal_behind_the_last_page_is_told_from_one_of_depth(kind, words, short, ends):
    last = [{"id": 90 + n} for n in range(3 if short else 25)]
    failed = Page(None, [], failed=Problem(kind, "no", words=words))
    end = turned(NumberPagination(), ROWS, last, failed)
    assert (end.state == "complete") is ends, end


def test_where_rows_are_missing_two_refusals_in_a_row_are_the_end_but_no_proof():
    failed = Page(None, [], failed=Problem("not-found", "no"))
    pages = OffsetPagination(total="$.total")
    end = turned(pages, Page({"total": 525}, ROWS), failed, failed)
    assert (end.state, end.stated_total, end.failed_pages) == ("incomplete", 525, 1)
    assert past_the_end(failed, _asked(0)) is None


def _asked(rows):
    from tin_bucket.core.pagination.tracker import PageTracker

    tracker = PageTracker(NumberPagination())
    if rows:
        tracker.saw(Page({}, ROWS[:rows]))
    return tracker


def test_the_last_page_again_is_an_end_where_it_was_short_and_a_doubt_where_it_was_full():
    short = [{"id": 90}]
    assert turned(NumberPagination(), ROWS, short, short).state == "complete"
    full = [{"id": 90 + n} for n in range(25)]
    end = turned(NumberPagination(), ROWS, full, full)
    assert (end.state, "goes no further" in end.evidence) == ("unverified", True)
    known = NumberPagination(total="$.total", total_proved=True)
    end = turned(known, Page({"total": 50}, ROWS), Page({"total": 50}, full), Page({"total": 50}, full))
    assert (end.state, end.evidence) == ("complete", "all 50 stated rows are here")


def test_pages_that_bring_nothing_new_end_it():
    end = turned(NumberPagination(), ROWS, ROWS[::-1])
    assert (end.reason, end.state) == ("repeated-page", "incomplete")
    assert end.evidence == "page 2 has no row that is not here already"


def test_a_total_that_lies_pages_below_what_came_counts_something_else():
    pages = NumberPagination(total="$.total")
    following = [[{"id": 100 * page + n} for n in range(25)] for page in range(1, 4)]
    answers = [Page({"total": 4}, rows) for rows in (ROWS, *following)]
    end = turned(pages, *answers, Page({"total": 4}, []))
    assert (end.state, end.stated_total) == ("complete", None)


def test_an_empty_page_whose_mark_leads_nowhere_is_the_end():
    pages = CursorPagination(cursor="$.mark")
    end = turned(pages, Page({"mark": "a"}, ROWS), Page({"mark": "a"}, []))
    assert (end.reason, end.state) == ("empty-page", "complete")


def test_iterations_are_as_sure_as_the_least_sure_of_them():
    sure = PaginationEnd("empty-page", "page 2 is empty", True)
    doubtful = PaginationEnd("single", "nothing tells", True, doubt=True)
    missing = PaginationEnd("limit", "the brief allows 3 pages", False)
    assert join_ends([sure, sure], 2).state == "complete"
    found = join_ends([sure, doubtful], 2)
    assert (found.state, "1 of them is unverified, the first because nothing tells" in found.evidence) == (
        "unverified", True,
    )  # fmt: skip
    assert join_ends([missing, doubtful], 2).state == "incomplete"


# How rows are written --------------------------------------------------------------------------------------------------


def test_names_in_the_first_row_are_no_row_and_lists_side_by_side_are_many():
    headed = {"data": [["id", "name"], [1, "a"], [2, "b"]]}
    page, found = make_page(NumberPagination(), RowShape("$.data[*]", headed=True), CALL, headed, {})
    assert (page.size, page.records, len(found.values)) == (2, [[1, "a"], [2, "b"]], 3)
    beside = {"data": {"id": [1, 2, 3], "name": ["a", "b"]}}
    page, found = make_page(NumberPagination(), RowShape("$.data", lists=("$.id", "$.name")), CALL, beside, {})
    assert (page.size, page.records[2], len(found.values)) == (3, {"id": 3, "name": None}, 1)
    empty = {"data": {"id": [], "name": []}}
    assert make_page(NumberPagination(), RowShape("$.data", lists=("$.id",)), CALL, empty, {})[0].size == 0


def test_sizes_that_pages_have():
    assert [n for n in (1, 3, 7, 10, 24, 25, 50, 73, 100, 116, 150, 500, 1284) if usual_size(n)] == [
        10, 24, 25, 50, 100, 150, 500,
    ]  # fmt: skip
