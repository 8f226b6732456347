from dataclasses import replace

import pytest

from tin_bucket.core.analysis.completeness import completeness_gaps, may_go_on
from tin_bucket.core.document.report import RunReport
from tin_bucket.core.pagination.protocol import PaginationEnd

ENDED = PaginationEnd("stated-pages", "the API states 2 pages", True)
LIMIT = PaginationEnd("limit", "the brief allows 3 pages", False)


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
    assert completeness_gaps(records, replace(stop, stated_total=total, first_total=total), failed) == words


@pytest.mark.parametrize(
    ("state", "records", "report", "may"),
    [
        ("interrupted", 5, {}, True), ("failed", 5, {}, True), ("cancelled", 0, {}, False), ("complete", 5, {}, False),
        ("incomplete", 5, {}, False), ("incomplete", 5, {"failed_pages": [{"label": "page 3", "kind": "time-out", "what": "slow"}]}, True), ("incomplete", 5, {"iterations_failed": 1}, True),
        ("incomplete", 5, {"lookups": {"port": {"failed": 1}}}, True), ("incomplete", 5, {"lookups": {"port": {"failed": 0}}}, False),
    ],
)  # fmt: skip
def test_a_run_may_go_on_where_calls_made_again_may_bring_what_it_lacks(state, records, report, may):
    assert may_go_on(state, records, RunReport.model_validate(report)) is may
