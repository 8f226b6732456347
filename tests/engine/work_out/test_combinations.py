"""Rows that read the same are worked out once, and that makes no difference."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.engine.work_out.conftest import AS_OF, LINES, Bench, table
from tin_bucket.engine.work_out import combinations as room
from tin_bucket.engine.work_out.combinations import combinations

VALUES = [st.sampled_from([None, 0, 5, 12]), st.sampled_from([None, "a", "b"]), st.sampled_from([0.5, -0.0, 0.0])]


@pytest.fixture(autouse=True, scope="module")
def few_rows():
    """Tables of a few rows are long enough."""
    before, room.FEWEST_ROWS = room.FEWEST_ROWS, 1
    yield
    room.FEWEST_ROWS = before


@given(st.lists(st.tuples(*VALUES), min_size=1, max_size=30))
def test_every_row_finds_its_own_combination(rows):
    rows = rows * 100
    columns = [list(values) for values in zip(*rows, strict=True)]
    distinct, numbers = combinations(columns, len(rows))
    made = list(zip(*distinct, strict=True))
    assert [made[at] for at in numbers] == rows
    assert len(made) == len(set(rows))


@given(st.lists(st.tuples(*VALUES), min_size=1, max_size=20))
def test_a_line_makes_the_same_of_many_rows_as_of_each(rows):
    line = {"do": "column", "name": "made", "expression": "coalesce(text, 'none') || delay / (delay - 5) + share"}

    def worked(some):
        columns = dict(zip(("delay", "text", "share"), map(list, zip(*some, strict=True)), strict=True))
        return Bench().do(table(**columns), line)[-1].stage

    whole = worked(rows * 100)
    assert whole.window(0, whole.height) == [row for one in rows for row in worked([one]).window(0, 1)] * 100


@given(st.lists(st.tuples(*VALUES), min_size=1, max_size=20))
def test_a_condition_keeps_the_same_of_many_rows_as_of_each(rows):
    line = {"do": "keep", "expression": "delay > 3 or text = 'a' and share < 1"}

    def kept(some):
        columns = dict(zip(("delay", "text", "share"), map(list, zip(*some, strict=True)), strict=True))
        stage = Bench().do(table(**columns), line)[-1].stage
        return stage.before.tolist()

    whole = [at for at, one in enumerate(rows) if kept([one])]
    assert kept(rows * 100) == [at + again * len(rows) for again in range(100) for at in whole]


def test_a_row_that_fails_fails_wherever_it_is():
    texts = ['{"a": 1}', "no document", None] * 50
    line = {"do": "column", "name": "made", "expression": "json_extract(text, '$.a')"}
    stage = Bench().work.lines(table(text=texts), AS_OF, LINES.validate_python([line]))[1][-1].stage
    assert stage.window(0, 3) == [('{"a": 1}', 1), ("no document", None), (None, None)]
    assert stage.looks["odd"].tolist() == list(range(1, 150, 3))
    assert "50 not worked out" in stage.notes[0].text


@pytest.mark.parametrize("values", [[1, 1.0] * 20, [1, True] * 20, [[1]] * 40, list(range(40)), ["a", 1] * 20])
def test_nothing_is_shared_where_equal_values_differ_or_there_are_too_many(values):
    assert combinations([values], len(values)) is None
