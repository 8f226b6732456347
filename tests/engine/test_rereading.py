"""Answers that are saved are read in other ways, at no call: for a look, for good, and as a table of their own."""

import asyncio
from datetime import timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.conftest import NOON
from tin_bucket.core.analysis.view import View
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.report import ChangedField, SchemaDrift
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.response.classify import classify
from tin_bucket.core.table.reader import read_table
from tin_bucket.engine.child_table import child_table
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tables.browse import TableAt
from tin_bucket.engine.tables.provenance import trace_preview, trace_snapshot
from tin_bucket.engine.tuning import EngineTuning

JSON = {"Content-Type": "application/json"}


def save(workspace, query_id, **parts):
    """Save another version of a query's brief."""
    query = workspace.queries.get(query_id)
    document = query.brief.model_dump(mode="json", by_alias=True)
    for name, part in parts.items():
        document[name] = {**document[name], **part} if isinstance(part, dict) else part
    workspace.queries.save(query_id, load_brief(document), NOON, query.brief_id)
    return workspace.queries.get(query_id)


def rows_of(workspace, run):
    return list(workspace.snapshots.all_rows(run.snapshot_id))


TAKES = st.fixed_dictionaries(
    {"columns": st.none() | st.lists(st.sampled_from([
        {"place": "$.sailing_id", "name": "id"},
        {"place": "$.departs", "name": "at", "kind": "date and time", "reads": {"dates": "seconds"}},
        {"place": "$.fares[*].amount", "name": "car", "reduction": {"by": "where", "place": "$.class", "equals": "car"}},
        {"place": "$.fares[*].amount", "name": "sum", "reduction": {"by": "sum"}},
        {"place": "$.legs[*].to", "name": "ends", "reduction": {"by": "last"}},
        {"place": "$.meta.page", "name": "page stated", "of": "answer"},
        {"place": "$", "name": "page", "of": "page"},
        {"place": "$.route", "name": "asked", "of": "parameter"},
        {"place": "$.vessel", "name": "gone"},
    ]), unique_by=lambda column: column["name"], min_size=1)},
    optional={"rows_for": st.sampled_from([[], ["$.fares"], ["$.legs"]])},
)  # fmt: skip


@pytest.mark.parametrize("cached_from", [0, 10**9])
def test_reading_from_the_archive_is_reading_from_the_network(cached_from, workspace, desk, refresh, operations):
    """Whatever the way of reading: read from saved answers it gives what a refresh that reads so has kept."""
    query = save(workspace, desk["Sailings by route"].id, look_up=[])
    first = refresh(query.id, route="hesta-quern")
    engine = Engine(workspace, SetClock(NOON), tuning=EngineTuning(cached_from=cached_from))

    @settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
    @given(TAKES)
    def same(take):
        wanted = save(workspace, query.id, take={"rows_for": [], **take}, keep={"match": []}).brief
        calls = operations.calls
        preview = engine.previews.get(engine.reread(query.id, wanted))
        assert operations.calls == calls
        run = refresh(query.id, route="hesta-quern")
        assert run.records == first.records
        assert preview.replay.table.rows(0, 99_999) == rows_of(workspace, run)
        headings = workspace.snapshots.get(run.snapshot_id).columns
        assert [(one.name, one.kind) for one in preview.replay.table.columns] == [
            (one.name, one.kind) for one in headings
        ]
        row = preview.replay.table.height // 2
        for at in range(len(headings)):
            kept = trace_snapshot(workspace, run.snapshot_id, row, at).source
            tried = trace_preview(engine.rereader, workspace, preview, row, at).source
            assert kept == tried

    same()


def test_the_first_records_are_read_at_once_and_the_rest_when_asked(workspace, desk, refresh):
    query = desk["Sailings by route"]
    refresh(query.id)
    engine = Engine(workspace, SetClock(NOON))
    part = engine.previews.get(engine.reread(query.id, query.brief, most=150))
    assert (part.partial, part.pages_read, part.replay.table.height) == (True, 2, 200)
    few = engine.previews.get(engine.reread(query.id, query.brief, most=10))
    assert (few.partial, few.pages_read, few.replay.table.height) == (True, 1, 10)
    whole = engine.previews.get(engine.reread(query.id, query.brief))
    assert (whole.partial, whole.pages_read) == (False, 13)
    assert whole.replay.table.rows(0, 200) == part.replay.table.rows(0, 200)


def test_a_snapshot_of_the_past_is_read_anew_and_marked(workspace, desk, refresh, operations):
    query = desk["Ports"]
    runs = [refresh(query.id, NOON + timedelta(hours=hour)) for hour in range(3)]
    before = [rows_of(workspace, run) for run in runs]
    columns = [{"place": "$.code", "name": "code"}, {"place": "$.name", "name": "harbour", "note": "as painted"}]
    save(workspace, query.id, take={"columns": columns}, keep={"match": ["code"]})
    engine = Engine(workspace, SetClock(NOON + timedelta(days=1)))
    made = operations.calls
    rebuilt = engine.rereader.rebuild(runs[1].id)
    assert operations.calls == made
    assert rebuilt.snapshot.id == runs[1].snapshot_id
    assert (rebuilt.snapshot.rebuilt, rebuilt.snapshot.taken) == (
        "2026-11-26T12:00:00+00:00", workspace.snapshots.get(runs[1].snapshot_id).taken,
    )  # fmt: skip
    codes = [row[:2] for row in before[1]]
    assert rows_of(workspace, runs[1]) == codes
    # The others are as they were; what differs from one to the next is the reading, not the data.
    assert [rows_of(workspace, run) for run in (runs[0], runs[2])] == [before[0], before[2]]
    assert [workspace.snapshots.get(run.snapshot_id).since for run in runs] == [{}, {"reads": 1}, {"reads": 1}]
    # A cell is traced by the brief that it was read by.
    origin = trace_snapshot(workspace, runs[1].snapshot_id, 3, 1)
    assert (origin.heading.name, origin.source.pointer) == ("harbour", "/data/3/name")
    assert origin.heading.note == "as painted"
    # What was noted of the reading is that of the new one.
    assert workspace.runs.get(runs[1].id).report.reading.not_taken == 2
    assert workspace.runs.get(runs[0].id).report.reading.not_taken == 0
    with pytest.raises(ProblemError, match="There is no run"):
        engine.rereader.rebuild(999)


def test_a_snapshot_whose_answers_are_gone_stays_as_it_is(workspace, desk, refresh):
    query = desk["Ports"]
    run = refresh(query.id)
    engine = Engine(workspace, SetClock(NOON))
    assert engine.reread(query.id, query.brief) is not None
    number = engine.reread(query.id, query.brief)
    answers = engine.previews.get(number).answers
    assert workspace.archive.prune(query.id, 0) == 1
    # Answers that somebody still holds are not taken for empty ones.
    with pytest.raises(ProblemError, match="no longer kept"):
        list(answers)
    engine.rereader.forget(query.id)
    assert engine.reread(query.id, query.brief) is None
    with pytest.raises(ProblemError, match="no longer kept"):
        engine.rereader.rebuild(run.id)
    assert workspace.archive.kept(query.id) == []
    assert workspace.archive.size(query.id) == 0
    assert trace_snapshot(workspace, run.snapshot_id, 0, 0).source is None


def test_as_many_answers_are_kept_as_the_brief_says(workspace, desk, refresh):
    query = save(workspace, desk["Ports"].id, keep={"answers": {"runs": 2}})
    runs = [refresh(query.id, NOON + timedelta(days=day)) for day in range(3)]
    assert [one.run_id for one in workspace.archive.kept(query.id)] == [runs[2].id, runs[1].id]
    save(workspace, query.id, keep={"answers": {"runs": 50, "days": 1}})
    last = refresh(query.id, NOON + timedelta(days=2, hours=12))
    kept = workspace.archive.kept(query.id)
    assert [one.run_id for one in kept] == [last.id, runs[2].id]
    assert all(one.calls == 1 and 0 < one.packed < one.size for one in kept)
    # One answer that both had is stored once.
    assert workspace.archive.size(query.id) <= kept[0].packed + kept[1].packed


def test_a_list_becomes_a_table_of_its_own_at_no_call(workspace, desk, refresh, operations):
    query = desk["Sailings by route"]
    run = refresh(query.id, route="hesta-quern")
    made = operations.calls

    async def go():
        engine = Engine(workspace, SetClock(NOON + timedelta(hours=1)))
        number = await child_table(engine, query.id, query.brief, "$.fares", None)
        again = await child_table(engine, query.id, query.brief, "$.fares", None)
        await engine.close()
        return workspace.queries.get(number), workspace.queries.get(again)

    own, other = asyncio.run(go())
    assert operations.calls == made
    assert (own.name, other.name) == ("Sailings by route, fares", "Sailings by route, fares 2")
    snapshot = workspace.snapshots.latest(own.id)
    assert [column.name for column in snapshot.columns] == [
        "sailing_id", "fares.class", "fares.amount", "fares.currency",
    ]  # fmt: skip
    assert snapshot.rows == 3 * run.records
    kept = workspace.runs.get(snapshot.run_id)
    assert (kept.state, kept.calls, kept.report.from_saved) == ("complete", 0, run.started)
    ids = [row[0] for row in rows_of(workspace, run)]
    assert [row[0] for row in workspace.snapshots.all_rows(snapshot.id)] == [one for one in ids for _ in range(3)]


def test_what_the_api_sends_otherwise_is_told_once(workspace, awkward, ask_awkward, refresh):
    def serve(*records):
        import json

        awkward.answers["/data"] = (200, JSON, json.dumps({"data": records}).encode())

    serve({"id": 1, "n": 5, "old": "x"})
    columns = [{"place": "$.id", "name": "id"}, {"place": "$.n", "name": "n"}]
    run = ask_awkward(take={"records": "$.data[*]", "columns": columns})
    assert run.report.drift is None
    serve({"id": 1, "n": "five", "fresh": {"a": 1}})
    again = refresh(run.query_id)
    assert again.state == "unverified"
    assert again.report.drift == SchemaDrift(
        new=["$.fresh.a"],
        missing=["$.old"],
        changed=[ChangedField(place="$.n", was="whole number", now="text")],
        columns=1,
        words="1 new field (fresh.a); 1 field no longer there (old); 1 field of another kind (n)",
    )
    assert refresh(run.query_id).report.drift is None
    # An answer without records says nothing about fields.
    serve()
    assert refresh(run.query_id).report.drift is None
    serve({"id": 1, "n": "five", "fresh": {"a": 1}})
    assert refresh(run.query_id).report.drift is None


def test_a_cell_tells_what_it_was_in_earlier_snapshots(workspace, awkward, ask_awkward, refresh):
    import json

    def serve(day, *records):
        awkward.answers["/data"] = (200, JSON, json.dumps({"data": records}).encode())
        return NOON + timedelta(days=day)

    serve(0, {"id": 1, "n": 5}, {"id": 2, "n": 6})
    run = ask_awkward(take={"records": "$.data[*]"}, keep={"match": ["id"]})
    refresh(run.query_id, serve(1, {"id": 2, "n": 6}, {"id": 1, "n": 7}))
    refresh(run.query_id, serve(2, {"id": 1, "n": 7}))
    last = refresh(run.query_id, serve(3, {"id": 3, "n": 0}, {"id": 1, "n": 9}))
    told = trace_snapshot(workspace, last.snapshot_id, 1, 1)
    assert [value for _, value in told.history] == [7, 7, 5]
    assert [one.taken[:10] for one, _ in told.history] == ["2026-11-27", "2026-11-26", "2026-11-25"]
    # Row 3 is new: it has no past.
    assert trace_snapshot(workspace, last.snapshot_id, 0, 1).history == []


def test_a_kept_table_is_looked_at_like_a_tried_one(workspace, desk, refresh):
    query = desk["Sailings by route"]
    run = refresh(query.id)
    engine = Engine(workspace, SetClock(NOON))
    number = engine.reread(query.id, query.brief)
    view = View.model_validate({
        "sort": [{"column": "delay", "down": True}, {"column": "sailing_id"}],
        "where": [{"by": "one of", "column": "status", "values": ["arrived"]}],
    })  # fmt: skip
    kept, tried = engine.tables.source(TableAt(run.snapshot_id)), engine.tables.source(TableAt(preview=number))
    mine, theirs = (engine.tables.rows(source, view, 20, 30) for source in (kept, tried))
    assert mine[0] == theirs[0]
    assert mine[1].tolist() == theirs[1].tolist()
    assert mine[2] == theirs[2] < kept.height
    names = [column.name for column in kept.columns]
    delays = [row[names.index("delay")] for row in engine.tables.rows(kept, view, 0, 5000)[0]]
    filled = [one for one in delays if one is not None]
    assert filled == sorted(filled, reverse=True)
    assert engine.tables.rows(kept, View(), 5, 3)[0] == rows_of(workspace, run)[5:8]
    assert engine.tables.find(kept, view, "tystie") == engine.tables.find(tried, view, "tystie")
    assert engine.tables.find(kept, View(), " ") == ([], 0)
    assert engine.tables.profile(kept, "status") == engine.tables.profile(tried, "status")
    with pytest.raises(ProblemError, match="no column"):
        engine.tables.profile(kept, "nothing")
    with pytest.raises(ProblemError, match="no longer kept"):
        engine.tables.source(TableAt(preview=999))


def test_saved_answers_give_the_table_of_the_answers_as_they_came(workspace, desk, refresh):
    """The archive holds the very answers: reading each of them by hand gives the snapshot's records."""
    query = save(workspace, desk["Ports"].id, take={"columns": None}, look_up=[])
    run = refresh(query.id)
    pages = workspace.archive.answers(run.id, "pages")
    documents = [classify(page.answer).document for page in pages]
    take = query.brief.take
    reading = read_table(take, [pick(document, take.records) for document in documents], documents)
    assert reading.table.rows(0, 999) == rows_of(workspace, run)
    assert [len(page.answer.body) for page in pages] == pages.sizes()
    assert pages.head(0).answer.length == pages.sizes()[0]


def test_records_that_are_at_hand_are_not_read_again(monkeypatch, workspace, desk, refresh):
    query = save(workspace, desk["Sailings by route"].id, look_up=[])
    run = refresh(query.id)
    engine = Engine(workspace, SetClock(NOON), tuning=EngineTuning(cached_from=0))
    read = []
    plain = engine.rereader.classified
    monkeypatch.setattr(
        engine.rereader, "classified", lambda preview, at, *more: read.append(at) or plain(preview, at, *more)
    )
    engine.rereader.prepare(query.id, query.brief)
    pages = len(workspace.archive.answers(run.id, "pages"))
    assert len(read) == pages > 2
    engine.rereader.prepare(query.id, query.brief)
    read.clear()

    def rows(**take):
        changed = load_brief({**query.brief.model_dump(mode="json", by_alias=True), "take": take})
        return engine.previews.get(engine.reread(query.id, changed)).replay.table.height

    sailings, records = run.records, query.brief.take.records
    column = {"place": "$.sailing_id", "name": "id"}
    # The first answer is looked at for its hints; no other is.
    assert rows(records=records, columns=[column]) == sailings
    assert rows(records=records, rows_for=["$.fares"]) > sailings
    assert rows(records=records) == sailings
    assert set(read) == {0}
    # What lies around the records, and records elsewhere, are read from the answers, once.
    for take in ({"columns": [{**column, "place": "$.meta.page", "of": "answer"}]}, {"records": "$.data[0]"}):
        read.clear()
        for _ in range(2):
            rows(**{"records": records, **take})
        assert sorted(set(read)) == list(range(pages))
        assert read.count(1) == 1
    # Answers that were cleared are at hand no more.
    workspace.archive.prune(query.id, 0)
    engine.rereader.forget(query.id)
    assert engine.reread(query.id, query.brief) is None
