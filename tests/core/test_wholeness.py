from dataclasses import replace

import pytest

from tin_bucket.core.paging import Stop
from tin_bucket.core.wholeness import missing_words

ENDED = Stop("stated-pages", "the API states 2 pages", True)
LIMIT = Stop("limit", "the brief allows 3 pages", False)


@pytest.mark.parametrize(
    ("records", "total", "failed", "stop", "words"),
    [
        (118, 118, 0, ENDED, []),
        (118, None, 0, ENDED, []),
        (0, 0, 0, ENDED, []),
        (25, 118, 0, ENDED, ["25 of 118 stated rows are here"]),
        (119, 118, 0, ENDED, ["119 of 118 stated rows are here"]),
        (30, None, 0, LIMIT, ["the brief allows 3 pages"]),
        (118, 118, 1, ENDED, ["1 lookup has failed"]),
        (25, 1180, 2, LIMIT, ["25 of 1,180 stated rows are here", "the brief allows 3 pages", "2 lookups have failed"]),
    ],
)
def test_what_a_table_lacks_is_said_and_a_whole_one_lacks_nothing(records, total, failed, stop, words):
    assert missing_words(records, replace(stop, stated_total=total, first_total=total), failed) == words
