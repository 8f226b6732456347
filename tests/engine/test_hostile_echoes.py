"""Services that repeat the key wherever they can: nothing of it is stored, shown or logged."""

import asyncio
import json
from urllib.parse import quote

import pytest
from aiohttp import web
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.conftest import NOON
from tests.waiting import LeapingClock
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.masking.scrub import holds_secret
from tin_bucket.core.masking.spellings import SPELLINGS
from tin_bucket.engine.engine import Engine
from tin_bucket.store.archive import unpack

SECRET = "kf8-Lq2/vZ71 <m>&0"
PASSWORD = "tide+table=55%"
TOKEN = "tk-93ac61e2d7f8b0"


def everything_kept(workspace):
    """All that the workspace holds, answers unpacked."""
    parts = ["\n".join(workspace.db.iterdump()).encode()]
    parts += [unpack(row["body"]) for row in workspace.db.execute("SELECT body FROM answer")]
    parts += [bytes(row["content"]) for row in workspace.db.execute("SELECT content FROM row")]
    return b"\n".join(parts)


def asked(workspace, refresh, service, secret):
    workspace.services.save(service)
    workspace.vault.store("own", service.key.bound_to(service.base), secret, NOON)
    document = {"name": "own", "ask": {"service": "own", "path": "/data"}, "take": {"records": "$.data[*]"}}
    return refresh(workspace.queries.add(load_brief(document), NOON).id)


def nothing_told(workspace, run, caplog, *secrets):
    kept = everything_kept(workspace) + (run.problem.sentence() if run.problem else "").encode()
    kept += caplog.text.encode() + run.report.model_dump_json().encode()
    for secret in secrets:
        assert not holds_secret(kept, [secret])


@pytest.mark.parametrize("spelling", [None, *SPELLINGS], ids=lambda one: one.name if one else "plain")
def test_whatever_an_answer_repeats_and_where(spelling, workspace, awkward, refresh, caplog):
    data = SECRET.encode() if spelling is None else spelling.write(b"user:" + SECRET.encode())
    echo = data.decode("latin-1")

    async def answer(request):
        body = {"data": [{"id": 1, "echo": echo, "deep": {"list": [echo, {echo: echo}]}}], echo: {"name": echo}}
        headers = {"Content-Type": "application/json"}
        if echo.isprintable() and echo.isascii():
            headers["X-Echo"] = echo
        return web.Response(body=json.dumps(body).encode() + b" " + data.replace(b"\0", b""), headers=headers)

    async def plain(request):
        made = await answer(request)
        return web.Response(body=made.body.rpartition(b" ")[0], headers=made.headers)

    key = {"name": "k", "places": [{"at": "header", "name": "X-Key"}]}
    service = Service.model_validate({"id": "own", "name": "Own", "base": awkward.base, "key": key, "tries": 1})
    # Once as JSON, and once as something that is not read and said in words.
    awkward.answers["/data"] = plain
    run = asked(workspace, refresh, service, {"key": SECRET})
    nothing_told(workspace, run, caplog, SECRET)
    awkward.answers["/data"] = answer
    run = refresh(run.query_id)
    assert run.state == "failed"
    nothing_told(workspace, run, caplog, SECRET)


def _sign_in(base, address="/login"):
    key = {
        "name": "k", "places": [{"at": "bearer"}],
        "source": {"by": "sign-in", "inputs": ["user", "password"], "address": address},
    }  # fmt: skip
    return Service.model_validate({"id": "own", "name": "Own", "base": base, "key": key, "tries": 1})


ECHOES = {
    "in words": (401, {}, {"error": {"message": f"no {PASSWORD} here"}}),
    "in the title of a problem": (
        400,
        {"Content-Type": "application/problem+json"},
        {"title": PASSWORD, "status": 400},
    ),
    "in the names of members": (200, {}, {PASSWORD: 1, f"x{PASSWORD}": 2}),
    "in a header": (200, {"X-Echo": PASSWORD, "X-Token": TOKEN}, {"token": TOKEN}),
    "in an error page": (500, {"Content-Type": "text/html"}, f"<title>{PASSWORD}</title>"),
    "in a redirect": (302, {"Location": f"/again/{PASSWORD}"}, {}),
}


@pytest.mark.parametrize("where", ECHOES)
@pytest.mark.parametrize("address", ["/login", "/login/{user}/{password}", "/login?who={user}&word={password}"])
def test_what_a_sign_in_repeats_is_masked(where, address, workspace, awkward, refresh, caplog):
    status, headers, body = ECHOES[where]
    text = (body if isinstance(body, str) else json.dumps(body)).encode()

    async def login(request):
        return web.Response(status=status, headers={"Content-Type": "application/json", **headers}, body=text)

    async def data(request):
        return web.json_response({"data": [{"id": 1, "token": request.headers["Authorization"]}]})

    for path in ("/login", f"/login/ann/{PASSWORD}", f"/again/{PASSWORD}"):
        awkward.answers[path] = login
    awkward.answers["/data"] = data
    run = asked(workspace, refresh, _sign_in(awkward.base, address), {"user": "ann", "password": PASSWORD})
    assert (run.state == "unverified") is (where == "in a header"), run.problem
    nothing_told(workspace, run, caplog, PASSWORD, TOKEN)


def test_a_redirect_to_a_path_with_the_key_tells_nothing_of_it(workspace, awkward, refresh, caplog):
    async def turn(request):
        raise web.HTTPFound(f"/k/{SECRET.replace('/', '%2F')}/{len(awkward.seen)}")

    awkward.answers["/data"] = turn
    key = {"name": "k", "places": [{"at": "header", "name": "X-Key"}]}
    service = Service.model_validate({"id": "own", "name": "Own", "base": awkward.base, "key": key, "tries": 1})
    for at in range(9):
        awkward.answers[f"/k/{SECRET}/{at}"] = turn
    run = asked(workspace, refresh, service, {"key": SECRET})
    assert (run.state, run.problem.kind) == ("failed", "redirect-loop")
    nothing_told(workspace, run, caplog, SECRET)


WRITERS = [lambda data: data, *(spelling.write for spelling in SPELLINGS)]
# With ends of their own, so that none stands by chance in what is kept.
SECRETS = st.text(st.characters(min_codepoint=33, max_codepoint=126), min_size=4, max_size=40).map("qZ{}~7W".format)
PARTS = ("value", "name", "deep", "header", "title", "error", "page", "redirect", "broken", "number of a page")


@settings(max_examples=80, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(secret=SECRETS, outer=st.sampled_from(WRITERS), inner=st.sampled_from(WRITERS), part=st.sampled_from(PARTS))
def test_no_secret_in_any_nesting_in_any_part_is_kept_anywhere(workspace, awkward, caplog, secret, outer, inner, part):
    """A refresh over real HTTP, then all that is stored, logged and shown of it."""
    told = outer(inner(b"ann:" + secret.encode())).decode("latin-1")
    header = told if told.isprintable() and told.isascii() else "none"

    async def answer(request):
        json_type = {"Content-Type": "application/json"}
        if part == "redirect" and request.path == "/data":
            return web.Response(status=302, headers={"Location": f"/other?seen={quote(told, safe='%')}"})
        if part == "page":
            return web.Response(status=500, text=f"<html><title>{told}</title>{told}</html>", content_type="text/html")
        if part == "broken":
            return web.Response(text=json.dumps({"data": [told]})[:-2], headers=json_type)
        if part in ("title", "error"):
            body = {"title": told} if part == "title" else {"errors": [{"message": told, told: told}]}
            return web.Response(status=400, text=json.dumps(body), headers=json_type)
        row = {
            "value": {"a": told}, "name": {told: 1}, "deep": {"a": [{"b": {told: [told]}}]},
            "number of a page": {"total": told}, "header": {}, "redirect": {"a": told},
        }[part]  # fmt: skip
        headers = {**json_type, "X-Echo": header} if part == "header" else json_type
        return web.Response(text=json.dumps({"data": [{"id": 1, **row}], "total": told}), headers=headers)

    awkward.answers["/data"] = awkward.answers["/other"] = answer
    key = {"name": "k", "places": [{"at": "header", "name": "X-Key"}]}
    service = Service.model_validate({"id": "own", "name": "Own", "base": awkward.base, "key": key, "tries": 1})
    workspace.services.save(service)
    workspace.vault.store("own", service.key.bound_to(service.base), {"key": secret}, NOON)
    document = {"name": "own", "ask": {"service": "own", "path": "/data"}, "take": {"records": "$.data[*]"}}
    # Each example begins with nothing, so that it shows what it has found itself.
    for known in workspace.queries.all():
        workspace.queries.delete(known.id)
    caplog.clear()
    query = workspace.queries.add(load_brief(document), NOON)

    async def once():
        engine = Engine(workspace, LeapingClock(NOON))
        try:
            return await engine.refresh(query.id, {}, "by hand")
        finally:
            await engine.close()

    run = asyncio.run(once())
    assert run.state in ("unverified", "failed"), run.state
    nothing_told(workspace, run, caplog, secret)
