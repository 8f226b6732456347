"""Fixtures: a workspace in a fresh folder, the simulated service on loopback, a service that misbehaves."""

from __future__ import annotations

import asyncio
import shutil
from datetime import UTC, date, datetime

import pytest
from aiohttp import web
from hypothesis import HealthCheck, settings

from tests.postgres import postgres_server  # noqa: F401 a fixture
from tests.receiving import receiver, receiving  # noqa: F401 fixtures
from tests.waiting import LeapingClock
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.http import origin
from tin_bucket.demo.company import Company
from tin_bucket.demo.queries import operations_briefs
from tin_bucket.demo.running import Running
from tin_bucket.demo.services.operations import KEY, Operations
from tin_bucket.demo.setting import operations_service, set_up
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tuning import EngineTuning
from tin_bucket.store import vault
from tin_bucket.store.workspace import Workspace

# A busy machine is no fault of the code: nothing here is classified by how long it takes.
settings.register_profile("untimed", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("untimed")

DAY = date(2026, 11, 25)
NOON = datetime(2026, 11, 25, 12, tzinfo=UTC)


@pytest.fixture(scope="session", autouse=True)
def quick_passphrases():
    """Passphrases that are derived in a moment; what is stored says how each was."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(vault, "_COST", 2**8)
        yield


@pytest.fixture(scope="session")
def empty_home(tmp_path_factory):
    """Copies an empty workspace to a folder: quicker than all steps of the schema each time."""
    made = tmp_path_factory.mktemp("empty") / "workspace"
    Workspace(made, create=True).close()
    return lambda home: shutil.copytree(made, home)


@pytest.fixture
def workspace(tmp_path, empty_home):
    made = Workspace(empty_home(tmp_path / "workspace"))
    yield made
    made.close()


@pytest.fixture
def operations():
    return Operations(DAY)


@pytest.fixture
def running(operations):
    with Running(operations.app()) as service:
        yield service


@pytest.fixture
def desk(workspace, running):
    """The workspace with the operations service, its key, and the demo's queries by name."""
    service = operations_service(running.base)
    workspace.services.save(service)
    workspace.vault.store(service.id, origin(service.base), KEY, NOON)
    return {brief.name: workspace.queries.add(brief, NOON) for brief in operations_briefs()}


@pytest.fixture
def company(workspace):
    """All the simulated services, and the workspace with their keys."""
    with Company(DAY) as running:
        set_up(workspace, running.bases, NOON)
        yield running


@pytest.fixture
def tuning():
    """The sizes that the engine of :func:`refresh` works with; a test module may have its own."""
    return EngineTuning()


@pytest.fixture
def refresh(workspace, tuning):
    """Refresh a query, as at noon of the simulated day; gives the run."""

    def go(query_id, moment=NOON, **given):
        async def once():
            engine = Engine(workspace, LeapingClock(moment), tuning=tuning)
            try:
                return await engine.refresh(query_id, given, "by hand")
            finally:
                await engine.close()

        return asyncio.run(once())

    return go


class Awkward:
    """A service whose answers a test sets: path → (status, headers, body), or a function of the request."""

    def __init__(self):
        self.answers = {}
        self.seen = []

    async def handle(self, request):
        self.seen.append((request.path_qs, dict(request.headers)))
        answer = self.answers[request.path]
        if callable(answer):
            return await answer(request)
        status, headers, body = answer
        return web.Response(status=status, headers=headers, body=body)

    def app(self):
        app = web.Application()
        app.router.add_route("*", "/{rest:.*}", self.handle)
        return app


@pytest.fixture
def awkward():
    service = Awkward()
    with Running(service.app()) as running:
        service.base = running.base
        yield service


@pytest.fixture
def ask_awkward(workspace, awkward, refresh):
    """Refresh a query on the awkward service; gives the run. Changes to the brief go by keyword."""

    def go(base=None, timeout=5, moment=NOON, **parts):
        service = Service(id="awkward", name="Awkward", base=base or awkward.base, timeout=timeout)
        workspace.services.save(service)
        document = {
            "name": "awkward", "ask": {"service": "awkward", "path": "/data"}, "take": {"records": "$.data[*]"}, **parts
        }  # fmt: skip
        brief = load_brief(document)
        known = [query for query in workspace.queries.all() if query.name == "awkward"]
        query = workspace.queries.save(known[0].id, brief, NOON) if known else workspace.queries.add(brief, NOON)
        return refresh(query.id, moment)

    return go
