"""Answers nested however deep: a table, or words."""

import asyncio

import pytest

from tests.conftest import NOON
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine


def nested(kind, depth):
    inner = '"end"'
    for _ in range(depth):
        inner = f"[{inner}]" if kind == "lists" else f'{{"a": {inner}}}'
    return f'{{"data": [{{"id": 1, "deep": {inner}}}]}}'.encode()


@pytest.mark.parametrize("kind", ["lists", "objects"])
@pytest.mark.parametrize("depth", [100, 250, 256, 330, 450, 700, 990, 1020, 5000])
def test_a_deep_answer_is_a_table_or_said_in_words(workspace, awkward, ask_awkward, kind, depth):
    awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, nested(kind, depth))
    run = ask_awkward()
    assert (run.state, run.problem and run.problem.kind) in (
        ("unverified", None), ("failed", "too-deep"), ("failed", "not-json"),
    )  # fmt: skip

    async def once():
        engine = Engine(workspace, SetClock(NOON))
        query = workspace.queries.get(run.query_id)
        preview = engine.previews.get(await engine.ask_once(query.brief, {}, query.id))
        await engine.close()
        return preview

    preview = asyncio.run(once())
    assert preview.problem is None or preview.problem.kind in ("too-deep", "not-json")
