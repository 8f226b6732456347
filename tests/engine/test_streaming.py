"""Answers that are too large to hold are read piece by piece, over real HTTP."""

import asyncio
import io
import json

import pytest
from aiohttp import web
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import NOON
from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.json_stream import outside_of_records, streamed_records
from tin_bucket.core.problem import ProblemError
from tin_bucket.engine.tuning import EngineTuning

JSON = {"Content-Type": "application/json"}
VALUES = st.recursive(
    st.one_of(
        st.none(),
        st.booleans(),
        st.integers(-(2**53), 2**53),
        st.text(),
        st.floats(allow_nan=False, allow_infinity=False),
    ),
    lambda inner: st.one_of(st.lists(inner, max_size=3), st.dictionaries(st.text(max_size=5), inner, max_size=3)),
    max_leaves=8,
)


@given(st.lists(VALUES, max_size=12), VALUES)
def test_what_is_streamed_is_what_the_document_holds(records, other):
    document = {"first": other, "meta": {"data": records, "n": 1}, "last": other}
    text = json.dumps(document).encode()
    got = [one for batch in streamed_records(io.BytesIO(text), "$.meta.data[*]") for one in batch]
    assert got == records
    assert outside_of_records(io.BytesIO(text), "$.meta.data[*]") == document | {"meta": {"data": [], "n": 1}}
    bare = json.dumps(records).encode()
    assert [one for batch in streamed_records(io.BytesIO(bare), "$[*]") for one in batch] == records


@pytest.mark.parametrize("path", ["$", "$.data", "$.data[?@.x]", "$['a.b'][*]", "$.data[0][*]"])
def test_a_place_that_is_no_plain_list_cannot_be_streamed(path):
    with pytest.raises(ProblemError, match="too large to hold"):
        list(streamed_records(io.BytesIO(b"{}"), path))


@pytest.fixture
def tuning():
    return EngineTuning(spooled_from=2_000, most_spooled=1_000_000)


@pytest.fixture
def query(workspace, awkward):
    key = Key.model_validate({"name": "k", "places": [{"at": "header", "name": "X-Key"}]})
    workspace.services.save(Service(id="own", name="Own", base=awkward.base, key=key, tries=1))
    workspace.vault.store("own", key.bound_to(awkward.base), {"key": "a-secret-of-some-length"}, NOON)
    document = {
        "name": "large", "ask": {"service": "own", "path": "/d"},
        "pages": {"by": "number", "last_page": "$.pages", "total": "$.total"},
        "take": {"records": "$.rows[*]"}, "keep": {"match": ["id"]},
    }  # fmt: skip
    return workspace.queries.add(load_brief(document), NOON)


def pages_of(size):
    async def pages(request):
        page = int(request.query["page"])
        rows = [{"id": (page - 1) * size + n, "name": f"crate {n}"} for n in range(size if page <= 3 else 0)]
        return web.json_response({"pages": 3, "rows": rows, "total": 3 * size})

    return pages


def test_pages_that_are_too_large_to_hold_make_a_whole_table(workspace, awkward, refresh, query):
    awkward.answers["/d"] = pages_of(700)
    run = refresh(query.id)
    assert (run.state, run.rows, run.stated_total) == ("complete", 2100, 2100), run.problem
    rows = workspace.snapshots.window(run.snapshot_id, 0, 3000)
    assert [row[0] for row in rows] == list(range(2100))
    calls = workspace.runs.calls(run.id)
    assert [call.records for call in calls] == [700] * 3
    assert all("read piece by piece" in call.note and not call.has_answer and call.size > 2_000 for call in calls)
    assert workspace.snapshots.origin(run.snapshot_id, 701)[:2] == (1, 1)


def test_a_large_answer_that_breaks_off_or_repeats_the_key_is_refused_in_words(workspace, awkward, refresh, query):
    awkward.answers["/d"] = (200, JSON, b'{"rows": [' + b'{"id": 1},' * 1000)
    run = refresh(query.id)
    assert (run.state, run.problem.kind) == ("failed", "cut-off")
    awkward.answers["/d"] = (200, JSON, b'{"rows": [' + b'{"id": 1},' * 1000 + b'{"id": "a-secret-of-some-length"}]}')
    run = refresh(query.id)
    assert (run.state, run.problem.kind) == ("failed", "too-large")
    assert "repeats the key" in run.problem.what
    awkward.answers["/d"] = (200, JSON, b'{"others": [' + b'{"id": 1},' * 1000 + b"1]}")
    run = refresh(query.id)
    assert (run.state, run.problem.kind) == ("failed", "no-rows-there")
    awkward.answers["/d"] = (200, JSON, b"x" * 1_000_001)
    assert refresh(query.id).problem.kind == "too-large"


def test_rounds_whose_answers_are_too_large_stay_in_order(workspace, awkward, refresh, query):
    async def by_name(request):
        await asyncio.sleep(0.05 if request.query["v"] == "a" else 0)
        rows = [{"id": f"{request.query['v']}{n}"} for n in range(400)]
        return web.json_response({"pages": 1, "rows": rows})

    awkward.answers["/d"] = by_name
    document = query.brief.model_dump(mode="json", by_alias=True) | {
        "parameters": [{"name": "v", "kind": "text"}],
        "each": [{"by": "list", "parameter": "v", "values": ["a", "b", "c"]}],
    }
    document["ask"]["query"] = [{"name": "v", "value": "{v}"}]
    document["pages"]["total"] = None
    workspace.queries.save(query.id, load_brief(document), NOON)
    run = refresh(query.id)
    assert (run.state, run.rows) == ("unverified", 1200), run.report
    rows = workspace.snapshots.window(run.snapshot_id, 0, 2000)
    assert [row[0] for row in rows] == ["a"] * 400 + ["b"] * 400 + ["c"] * 400
