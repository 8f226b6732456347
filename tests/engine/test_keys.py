"""Keys in every placement, over real HTTP against the simulated services; tokens, redirects, refused keys."""

import asyncio
import json
from datetime import timedelta

import pytest
from aiohttp import web

from tests.conftest import NOON
from tests.waiting import async_until
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.demo.queries import fares_brief, inspections_brief, operations_briefs, passengers_brief
from tin_bucket.demo.running import Running
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine

SECRETS = ("skw-demo-4b7e21f09c5d", "fares-demo-71c0a9d4e2b8", "register-demo:5d3e", "stat0demo1e9b7c5a3d2f")


def add(workspace, brief):
    return workspace.queries.add(brief, NOON)


def table_of(workspace, run):
    snapshot = workspace.snapshots.get(run.snapshot_id)
    names = [column.name for column in snapshot.columns]
    return [dict(zip(names, row, strict=True)) for row in workspace.snapshots.all_rows(snapshot.id)]


def with_engine(workspace, work):
    async def go():
        engine = Engine(workspace, SetClock(NOON))
        try:
            return await asyncio.wait_for(work(engine), 30)
        finally:
            await engine.close()

    return asyncio.run(go())


@pytest.mark.parametrize(
    "brief",
    [operations_briefs()[3], fares_brief(), inspections_brief(), passengers_brief()],
    ids=["a header", "client credentials and a bearer token", "user and password", "a field of the body"],
)
def test_each_placement_opens_its_demo_service(workspace, company, refresh, brief):
    run = refresh(add(workspace, brief).id)
    assert (run.state in ("complete", "unverified"), run.problem) == (True, None)
    assert run.rows > 10
    assert workspace.vault.state(brief.ask.service).last_used


def test_a_key_in_the_address(workspace, company, refresh):
    brief = {
        "name": "p",
        "ask": {"service": "skerrywick-statistics", "path": "/passengers"},
        "take": {"records": "$[*]"},
    }
    run = refresh(add(workspace, load_brief(brief)).id)
    assert run.state == "unverified"
    (call,) = workspace.runs.calls(run.id)
    assert call.address == f"{company.bases['statistics']}/passengers"


def test_a_token_is_got_once_for_all_runs(workspace, company):
    briefs = [fares_brief(), fares_brief().model_copy(update={"name": "again"})]
    queries = [add(workspace, brief) for brief in briefs]

    async def both(engine):
        await asyncio.gather(*(engine.refresh(query.id, {}, "by hand") for query in queries))

    with_engine(workspace, both)
    assert company.fares.tokens == 1
    calls = [call for run in workspace.runs.latest() for call in workspace.runs.calls(run.id)]
    (sign_in,) = [call for call in calls if call.stage == "sign in"]
    assert (sign_in.used, sign_in.has_answer, sign_in.address) == (
        False,
        False,
        f"{company.bases['fares']}/oauth/token",
    )
    assert "Basic ••••" in dict(sign_in.headers).values()


def test_a_token_that_ends_in_the_middle_of_a_run_is_renewed(workspace, company, refresh):
    @web.middleware
    async def withdraw(request, handler):
        if company.fares.calls == 4:
            company.fares.withdraw()
        return await handler(request)

    app = company.fares.app()
    app.middlewares.append(withdraw)
    query = add(workspace, fares_brief())
    with Running(app) as running:
        service = workspace.services.get("skerrywick-fares")
        moved = service.model_copy(update={"base": running.base})
        workspace.services.save(moved)
        secret = {"client_id": "harbour-desk", "client_secret": company.fares.secret}
        workspace.vault.store(service.id, moved.key.bound_to(moved.base), secret, NOON)
        run = refresh(query.id)
    assert run.state == "complete"
    assert company.fares.tokens == 2
    days = {row["sailing day"] for row in table_of(workspace, run)}
    assert days == {(NOON + timedelta(days=n)).date().isoformat() for n in range(1, 8)}


def service_of(base, key, **more):
    return Service.model_validate({"id": "own", "name": "Own", "base": base, "key": key, **more})


def own_query(workspace, service, secret, **ask):
    workspace.services.save(service)
    if secret:
        workspace.vault.store("own", service.key.bound_to(service.base), secret, NOON)
    document = {"name": "own", "ask": {"service": "own", "path": "/data", **ask}, "take": {"records": "$.data[*]"}}
    return add(workspace, load_brief(document))


def test_a_sign_in_call_of_ones_own_and_its_renewal(workspace, awkward, refresh):
    given = []

    async def login(request):
        body = await request.json()
        assert body == {"who": "ann", "word": "pass-word-77"}
        given.append(f"session-{len(given)}-0123456789")
        return web.json_response({"session": {"id": given[-1], "seconds": 3600}})

    async def data(request):
        if len(given) == 1 or request.query.get("sid") != given[-1]:
            return web.json_response({"error": "signed out"}, status=401)
        return web.json_response({"data": [{"echo": request.query["sid"]}]})

    awkward.answers.update({"/login": login, "/data": data})
    source = {
        "by": "sign-in", "inputs": ["user", "word"], "address": "/login", "token": "$.session.id",
        "life": "$.session.seconds", "body": {"kind": "json", "value": {"who": "{user}", "word": "{word}"}},
    }  # fmt: skip
    key = {"name": "session", "source": source, "places": [{"at": "address", "name": "sid"}]}
    query = own_query(workspace, service_of(awkward.base, key), {"user": "ann", "word": "pass-word-77"})
    run = refresh(query.id)
    assert run.state == "unverified"
    assert len(given) == 2
    # What the service echoed of the token is blotted out.
    assert table_of(workspace, run) == [{"echo": "********"}]


def test_a_pasted_token_is_kept_in_memory_and_asked_for_when_it_ended(workspace, awkward):
    async def data(request):
        good = request.headers.get("Authorization") == "Bearer pasted-token-1234"
        return web.json_response({"data": [1]} if good else {"error": "who?"}, status=200 if good else 401)

    awkward.answers["/data"] = data
    key = {"name": "day token", "source": {"by": "asked", "lasts": "PT10M"}, "places": [{"at": "bearer"}]}
    service = service_of(awkward.base, key)
    query = own_query(workspace, service, None)

    async def go(engine):
        run = await engine.refresh(query.id, {}, "by hand")
        assert run.problem.kind == "token-wanted"
        ends = engine.credentials.take_token(service, " pasted-token-1234\n")
        assert ends - NOON < timedelta(minutes=10, seconds=10)
        assert (await engine.refresh(query.id, {}, "by hand")).state == "unverified"
        engine.clock.set(NOON + timedelta(minutes=11))
        assert (await engine.refresh(query.id, {}, "by hand")).problem.kind == "token-wanted"

    with_engine(workspace, go)
    assert workspace.vault.state("own") is None
    assert not any(b"pasted-token-1234" in path.read_bytes() for path in workspace.home.rglob("*") if path.is_file())


def test_a_redirect_elsewhere_goes_without_the_key_and_says_so(workspace, awkward, refresh):
    seen = []

    async def elsewhere(request):
        seen.append(dict(request.headers))
        return web.json_response({"data": [{"a": 1}]})

    other = web.Application()
    other.router.add_get("/moved", elsewhere)
    key = {"name": "k", "places": [{"at": "header", "name": "X-Key"}]}
    query = own_query(workspace, service_of(awkward.base, key), {"key": "secret-text-99"})
    with Running(other) as running:
        awkward.answers["/data"] = (302, {"Location": f"{running.base}/moved"}, b"")
        run = refresh(query.id)
    assert run.state == "unverified"
    assert awkward.seen[0][1]["X-Key"] == "secret-text-99"
    assert "X-Key" not in seen[0]
    (call,) = workspace.runs.calls(run.id)
    assert call.note == f"The service redirected the call to {running.base}, without the key."


def test_a_key_that_was_stored_for_another_origin_is_not_sent(workspace, awkward, refresh):
    key = {"name": "k", "places": [{"at": "header", "name": "X-Key"}]}
    query = own_query(workspace, service_of("http://127.0.0.1:9", key), {"key": "secret-text-99"})
    workspace.services.save(service_of(awkward.base, key))
    assert refresh(query.id).problem.kind == "key-bound-elsewhere"
    assert awkward.seen == []


def test_a_run_whose_key_is_refused_waits_and_goes_on_with_the_new_one(workspace, company):
    """The key is withdrawn in the middle: after three pages, before the lookups."""
    query = add(workspace, operations_briefs()[0])
    service = workspace.services.get("skerrywick-operations")
    good = company.operations.key

    async def go(engine):
        run_id = await engine.start(query.id, {}, "by hand")
        await async_until(lambda: company.operations.calls >= 2)
        company.operations.key = "a-new-key-for-the-desk"
        await async_until(lambda: engine.waiting())
        waiting = engine.waiting()[query.id]
        assert (waiting.service_id, waiting.problem.kind) == (service.id, "key-refused")
        assert engine.progress(run_id).summary(0).waiting.what == "key"
        made = company.operations.calls
        # A wrong one is refused again, and the run waits on.
        workspace.vault.store(service.id, service.key.bound_to(service.base), "still-a-wrong-key", NOON)
        engine.credentials.tell(service.id)
        await async_until(lambda: company.operations.calls > made and engine.waiting())
        workspace.vault.store(service.id, service.key.bound_to(service.base), company.operations.key, NOON)
        engine.credentials.tell(service.id)
        await engine.wait(run_id)
        return workspace.runs.get(run_id)

    run = with_engine(workspace, go)
    assert (run.state, run.problem) == ("complete", None)
    calls = workspace.runs.calls(run.id)
    refused = [call for call in calls if not call.used]
    assert {call.status for call in refused} == {401}
    assert len({call.address for call in calls if call.used}) == len([call for call in calls if call.used])
    assert good not in json.dumps([call.headers for call in calls])
    # The table is the same as one that was fetched at once, and its cells know their calls.
    again = with_engine(workspace, lambda engine: engine.refresh(query.id, {}, "by hand"))
    assert table_of(workspace, again) == table_of(workspace, run)


def test_a_key_that_is_replaced_while_it_is_opened_is_opened_anew(workspace, company, monkeypatch):
    service = workspace.services.get("skerrywick-operations")
    bound = service.key.bound_to(service.base)
    plain, opened = workspace.vault.open, []

    async def go(engine):
        loop = asyncio.get_running_loop()

        def opening(service_id):
            found = plain(service_id)
            opened.append(found.secret["key"])
            if len(opened) == 1:
                # The new one comes in between reading the old one and taking it.
                workspace.vault.store(service.id, bound, "a-new-key", NOON)
                loop.call_soon_threadsafe(engine.credentials.tell, service_id)
            return found

        monkeypatch.setattr(workspace.vault, "open", opening)
        return [await engine.credentials.secret(service) for _ in range(2)]

    assert with_engine(workspace, go) == [{"key": "a-new-key"}] * 2
    assert opened == [SECRETS[0], "a-new-key"]


def test_a_waiting_run_can_be_stopped(workspace, company):
    query = add(workspace, operations_briefs()[3])
    company.operations.key = "another-one"

    async def go(engine):
        run_id = await engine.start(query.id, {}, "by hand")
        await async_until(lambda: engine.waiting())
        assert engine.cancel(run_id)
        await engine.wait(run_id)
        assert engine.waiting() == {}
        return workspace.runs.get(run_id)

    assert with_engine(workspace, go).state == "cancelled"


@pytest.mark.parametrize("name", ["client_secret", "password"])
def test_a_wrong_secret_is_told_in_the_apis_words(workspace, company, refresh, name):
    brief = fares_brief() if name == "client_secret" else inspections_brief()
    service = workspace.services.get(brief.ask.service)
    fields = (
        {"client_id": "harbour-desk", "client_secret": "wrong"}
        if name == "client_secret"
        else {"user": "harbour", "password": "wrong"}
    )
    workspace.vault.store(service.id, service.key.bound_to(service.base), fields, NOON)
    run = refresh(add(workspace, brief).id)
    assert run.problem.kind == "key-refused"
    assert run.problem.words in ("The client id or its secret is not right.", "User or password is not right.")
    assert "wrong" not in run.problem.sentence()


def test_no_key_is_anywhere_in_the_workspace(workspace, company, refresh):
    for brief in (operations_briefs()[3], fares_brief(), inspections_brief(), passengers_brief()):
        assert refresh(add(workspace, brief).id).state in ("complete", "unverified")
    workspace.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    data = b"".join(path.read_bytes() for path in workspace.home.rglob("*") if path.is_file())
    dump = "\n".join(workspace.db.iterdump())
    for secret in SECRETS:
        assert secret.encode() not in data
        assert secret not in dump
    assert "ft-" not in dump.replace("X'", "")


def test_a_head_call_is_read_by_its_headers(workspace, awkward, refresh):
    awkward.answers["/data"] = (200, {"X-Rows": "12"}, b"")
    service = Service(id="own", name="Own", base=awkward.base)
    workspace.services.save(service)
    document = {"name": "own", "ask": {"service": "own", "path": "/data", "method": "HEAD"}, "take": {"records": "$"}}
    run = refresh(add(workspace, load_brief(document)).id)
    (row,) = table_of(workspace, run)
    assert (row["status"], row["headers.x-rows"]) == (200, "12")


def test_a_vault_under_a_passphrase(workspace, company, refresh):
    query = add(workspace, operations_briefs()[3])
    workspace.vault.set_passphrase("four made up words")
    assert not (workspace.home / "vault.key").exists()
    assert refresh(query.id).state == "complete"
    workspace.vault.lock()
    assert workspace.vault.wants_passphrase
    assert refresh(query.id).problem.kind == "vault-closed"
    with pytest.raises(ProblemError) as caught:
        workspace.vault.unlock("four wrong words")
    assert caught.value.problem.kind == "passphrase-wrong"
    workspace.vault.unlock("four made up words")
    assert refresh(query.id).state == "complete"
    workspace.vault.set_passphrase(None)
    assert (workspace.home / "vault.key").stat().st_mode & 0o077 == 0
    assert refresh(query.id).state == "complete"
    with pytest.raises(ProblemError, match="8 characters"):
        workspace.vault.set_passphrase("short")
