"""Places of a brief that are nowhere in the answers are told."""

import numpy as np
import pytest

from tin_bucket.core.analysis.nowhere import places_nowhere
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.table.table import Table, TableColumn

NONE = np.zeros(2, dtype=np.int64)
TABLE = Table([TableColumn("id", "whole number")], [[1, 2]], NONE, NONE)


def told(total=None, rows_for=(), match=("id",), work_out=(), stated=None, records=2, empty=0, last=None, pages=None):
    document = {
        "name": "asked", "ask": {"service": "own", "path": "/data"}, "pages": {"by": "number", "total": total, "last_page": last},
        "take": {"records": "$.rows[*]", "rows_for": list(rows_for), "together": "product" if rows_for[1:] else None}, "keep": {"match": list(match)},
        "work_out": list(work_out),
    }  # fmt: skip
    return list(places_nowhere(load_brief(document), TABLE, stated, records, empty, pages))


def test_what_is_there_is_not_told():
    assert told(total="$.total", rows_for=["$.legs"], stated=2, empty=1) == []
    assert told(last="$.pages", pages=3) == []
    assert told() == []


@pytest.mark.parametrize(
    ("options", "words"),
    [
        ({"total": "$.nope"}, "No answer has a total at $.nope"),
        ({"last": "$.nope"}, "No answer has the number of the last page at $.nope"),
        ({"rows_for": ["$.legs"], "empty": 2}, "No record has an item at $.legs"),
        ({"rows_for": ["$.legs", "$.fares"], "empty": 2}, "No record has an item at the places"),
        ({"match": ["id", "gone", "lost"]}, "There is no column “gone” and “lost”"),
    ],
)
def test_what_is_nowhere_is_told(options, words):
    assert [one[: len(words)] for one in told(**options)] == [words]


def test_of_no_record_and_of_what_a_line_makes_nothing_is_said():
    assert told(total="$.nope", match=["gone"], records=0) == []
    assert told(match=["gone"], work_out=[{"do": "column", "name": "gone", "expression": "id + 1"}]) == []
