"""Make, ask, refresh, look, compare, rebuild and delete in every order: no query ever shows another's rows."""

import asyncio
import json
import tempfile
from pathlib import Path

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import Bundle, RuleBasedStateMachine, consumes, rule

from tests.conftest import NOON, Awkward
from tests.waiting import LeapingClock
from tin_bucket.core.analysis.view import View
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.demo.running import Running
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tables.row_choice import RowChoice
from tin_bucket.engine.tables.sides import two_dates
from tin_bucket.engine.work_out.source import KeptTable, MemoryTable
from tin_bucket.store.workspace import Workspace

SORTED = View.model_validate({"sort": [{"column": "text", "down": True}]})


class Queries(RuleBasedStateMachine):
    """Each query asks an address of its own, whose rows all bear its mark."""

    queries = Bundle("queries")

    def __init__(self):
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.workspace = Workspace(Path(self.folder.name) / "w", create=True)
        self.service = Awkward()
        self.running = Running(self.service.app())
        self.running.__enter__()
        self.loop = asyncio.new_event_loop()
        self.workspace.services.save(Service(id="own", name="Own", base=self.running.base))
        self.engine = self.loop.run_until_complete(self._made())
        self.marks = {}
        self.made = 0

    async def _made(self):
        return Engine(self.workspace, LeapingClock(NOON))

    def teardown(self):
        self.loop.run_until_complete(self.engine.close())
        self.loop.close()
        self.running.__exit__()
        self.workspace.close()
        self.folder.cleanup()

    def own(self, query_id, rows):
        """All texts of some rows bear the query's mark."""
        mark = self.marks[query_id]
        for row in rows:
            for cell in row:
                assert not isinstance(cell, str) or cell.startswith(mark), (mark, row)

    def serve(self, query_id, count):
        mark = self.marks[query_id]
        rows = [{"id": n, "text": f"{mark} {n} of {count}"} for n in range(count)]
        body = json.dumps({"rows": rows}).encode()
        self.service.answers[f"/{mark}"] = (200, {"Content-Type": "application/json"}, body)

    @rule(target=queries, count=st.integers(1, 4))
    def make(self, count):
        self.made += 1
        mark = f"mark-{self.made:03}"
        document = {
            "name": mark, "ask": {"service": "own", "path": f"/{mark}"}, "take": {"records": "$.rows[*]"},
            "keep": {"match": ["id"]},
        }  # fmt: skip
        query_id = self.workspace.queries.add(load_brief(document), NOON).id
        assert query_id not in self.marks
        self.marks[query_id] = mark
        self.serve(query_id, count)
        return query_id

    @rule(query_id=queries, count=st.integers(1, 4))
    def refresh(self, query_id, count):
        self.serve(query_id, count)
        run = self.loop.run_until_complete(self.engine.refresh(query_id, {}, "by hand"))
        assert (run.state, run.rows) == ("unverified", count)

    @rule(query_id=queries)
    def look(self, query_id):
        snapshot = self.workspace.snapshots.latest(query_id)
        if snapshot is None:
            return
        source = KeptTable(self.workspace.snapshots, snapshot.id)
        for view in (View(), SORTED):
            self.own(query_id, self.engine.tables.rows(source, view, 0, 50)[0])
        profile = self.engine.tables.profile(source, "text")
        assert profile.rows == snapshot.rows
        self.own(query_id, [(profile.lowest, profile.highest)])
        assert self.engine.tables.find(source, View(), self.marks[query_id])

    @rule(query_id=queries)
    def compare(self, query_id):
        snapshots = self.workspace.snapshots.of_query(query_id)
        if len(snapshots) < 2:
            return
        asked = two_dates(snapshots[0].id, snapshots[-1].id)
        laid = self.engine.comparisons.compare(asked)
        assert {laid.then.snapshot.query_id, laid.now.snapshot.query_id} == {query_id}
        shown, _ = self.engine.comparisons.window(asked, RowChoice("all"), 0, 50)
        self.own(query_id, [cells for row in shown for cells in (row.now, row.then) if cells])

    @rule(query_id=queries)
    def reread(self, query_id):
        query = self.workspace.queries.get(query_id)
        number = self.engine.reread(query_id, query.brief)
        if number is None:
            return
        preview = self.engine.previews.get(number)
        self.own(
            query_id,
            self.engine.tables.rows(MemoryTable.of(("preview", number), preview.replay.table), View(), 0, 50)[0],
        )

    @rule(query_id=consumes(queries))
    def delete(self, query_id):
        self.workspace.queries.delete(query_id)
        self.engine.rereader.forget(query_id)


Queries.TestCase.settings = settings(max_examples=25, stateful_step_count=20, deadline=None)
TestQueries = Queries.TestCase
