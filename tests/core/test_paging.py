from urllib.parse import parse_qs, urlsplit

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tin_bucket.core.brief import NoPages, NumberedPages
from tin_bucket.core.calls import Call
from tin_bucket.core.paging import Page, guess_pages, turn_pages

FIRST = Call("GET", "http://h/s?route=all")


def drive(pages, serve, most=200):
    """Play an API: `serve` gets the address's parameters and gives (document, records)."""
    turner = turn_pages(FIRST, pages)
    call = next(turner)
    records = []
    for made in range(1, most + 1):
        document, got = serve({k: v[0] for k, v in parse_qs(urlsplit(call.address).query).items()})
        records += got
        try:
            call = turner.send(Page(document, got))
        except StopIteration as stopped:
            return stopped.value, records, made
    raise AssertionError("it looped")


def api(rows, cap, **stated):
    def serve(sent):
        size = min(int(sent.get("per_page", 25)), cap)
        page = int(sent["page"])
        got = list(range(rows))[(page - 1) * size : page * size]
        meta = {
            "pages": -(-rows // size) if stated.get("pages") else None,
            "total": rows if stated.get("total") else None,
        }
        return {"meta": meta, "data": got}, got

    return serve


PATHS = {"last_page": "$.meta.pages", "total": "$.meta.total"}


@pytest.mark.parametrize(
    ("stated", "paths", "reason"),
    [
        ({"pages": True, "total": True}, PATHS, "stated-pages"),
        ({"total": True}, {"total": "$.meta.total"}, "stated-total"),
        ({}, {}, "short-page"),
        ({}, PATHS, "short-page"),
    ],
)
def test_it_stops_for_the_right_reason_with_all_rows(stated, paths, reason):
    pages = NumberedPages(size_parameter="per_page", size=500, **paths)
    stop, records, _ = drive(pages, api(1284, 100, **stated))
    assert stop.reason == reason
    assert records == list(range(1284))
    assert stop.whole
    assert stop.stated_total == (1284 if stated.get("total") else None)


def test_a_last_page_that_is_full_ends_with_an_empty_one():
    stop, records, calls = drive(NumberedPages(size_parameter="per_page", size=100), api(300, 100))
    assert (stop.reason, len(records), calls) == ("empty-page", 300, 4)


def test_the_same_page_again_and_again_is_noticed():
    stop, _, calls = drive(NumberedPages(), lambda sent: ({"data": [1, 2], "page": sent["page"]}, [1, 2]))
    assert (stop.reason, stop.whole, calls) == ("repeated-page", False, 2)


def test_the_safety_limit_holds_and_is_not_whole():
    stop, records, _ = drive(NumberedPages(most=3, size_parameter="per_page", size=10, last_page="$.meta.pages"),
                             api(1000, 10, pages=True))  # fmt: skip
    assert (stop.reason, stop.whole, len(records)) == ("limit", False, 30)


def test_pages_may_be_counted_from_nought():
    asked = []

    def serve(sent):
        asked.append(sent["page"])
        return {"pages": 3}, [int(sent["page"])]

    stop, _, _ = drive(NumberedPages(first=0, last_page="$.pages"), serve)
    assert asked == ["0", "1", "2"]
    assert stop.reason == "stated-pages"


def test_one_answer_is_all_when_the_brief_says_so():
    turner = turn_pages(FIRST, NoPages(total="$.total"))
    assert next(turner) == FIRST
    with pytest.raises(StopIteration) as stopped:
        turner.send(Page({"total": 7}, [1]))
    assert stopped.value.value.stated_total == 7


LIES = st.one_of(st.none(), st.integers(-5, 10**12), st.text(max_size=3), st.just([1]), st.booleans())


@settings(max_examples=200)
@given(
    st.lists(st.tuples(LIES, LIES, st.lists(st.integers(0, 3), max_size=4)), min_size=1, max_size=30),
    st.integers(1, 40),
)
def test_no_turner_ever_loops_whatever_the_api_says(answers, most):
    turn = iter(answers * 50)

    def serve(sent):
        pages, total, got = next(turn)
        return {"meta": {"pages": pages, "total": total}}, got

    _, _, calls = drive(NumberedPages(most=most, **PATHS), serve, most=most)
    assert calls <= most


def test_pages_are_guessed_from_one_answer_with_evidence():
    document = {"meta": {"page": 1, "total_pages": 14, "total": 1284}, "data": []}
    guess = guess_pages(document, Call("GET", "http://h/s?per_page=500"), 100)
    assert guess is not None
    assert guess.pages == NumberedPages(
        size_parameter="per_page", size=500, last_page="$.meta.total_pages", total="$.meta.total"
    )
    assert "$.meta.total_pages is 14" in guess.evidence
    assert "100 of 1,284 rows are here" in guess.evidence
    assert "asked for 500 a page, got 100" in guess.evidence
    assert guess_pages({"data": [1]}, FIRST, 1) is None
    assert guess_pages({"total": 1}, FIRST, 1) is None
