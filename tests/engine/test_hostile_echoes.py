"""Services that repeat the key wherever they can: nothing of it is stored, shown or logged."""

import json

import pytest
from aiohttp import web

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.masking.scrub import holds_secret
from tin_bucket.core.masking.spellings import SPELLINGS
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
    assert (run.state == "complete") is (where == "in a header"), run.problem
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
