"""The simulated service that repeats keys, over real HTTP: nothing of a key is stored, shown, logged or exported."""

import json

import pytest

from tests.conftest import DAY, NOON
from tests.engine.test_hostile_echoes import everything_kept
from tests.web.conftest import client_of
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.masking.scrub import holds_secret
from tin_bucket.demo.running import Running
from tin_bucket.demo.services.awkward import Awkward
from tin_bucket.demo.services.echoes import ECHOES, spelled

SECRETS = ["k9f3a2b1c9d4e5f60718", "tide+table=55%/<&>\"'", "pä55-wörd-ÿ", "a1B2c3D4"]
PLACES = {
    "header": [{"at": "header", "name": "X-Key"}],
    "bearer": [{"at": "bearer"}],
    "address": [{"at": "address", "name": "key"}],
    "basic": [{"at": "user and password"}],
}


@pytest.fixture(scope="module")
def repeating():
    with Running(Awkward(DAY).app()) as service:
        yield service


def refreshed(workspace, refresh, base, key, secret, path):
    """A run of a query on the service with a key; gives it with its query."""
    service = Service.model_validate({"id": "own", "name": "Own", "base": base, "key": key, "tries": 1})
    workspace.services.save(service)
    workspace.vault.store("own", service.key.bound_to(base), secret, NOON)
    document = {"name": "own", "ask": {"service": "own", "path": path}, "take": {"records": "$.rows[*]"}}
    query = workspace.queries.add(load_brief(document), NOON)
    return query, refresh(query.id)


def handed_out(workspace, query, run):
    """All that the interface gives of a run: pages, calls, answers, exports."""
    paths = ["/api/desk", "/api/runs", "/api/services", f"/api/runs/{run.id}", f"/api/runs/{run.id}/calls",
             f"/api/runs/{run.id}/har", f"/api/queries/{query.id}", "/api/bundle"]  # fmt: skip
    if run.snapshot_id is not None:
        table = f"/api/snapshots/{run.snapshot_id}"
        paths += [f"{table}/rows", f"{table}/columns", f"{table}/table.csv", f"{table}/table.xlsx"]
    with client_of(workspace) as client:
        found = [client.get(path) for path in paths]
        found += [client.get(f"/api/runs/{run.id}/calls/{number}") for number in range(1, 4)]
        plan = {"brief": json.loads(query.brief.model_dump_json(by_alias=True)), "values": {}}
        found.append(client.post("/api/plan", json=plan))
    return b"\n".join(answer.content + str(answer.headers).encode() for answer in found)


def check(workspace, query, run, caplog, *secrets):
    whole = everything_kept(workspace) + handed_out(workspace, query, run) + caplog.text.encode()
    for secret in secrets:
        assert not holds_secret(whole, [secret])
        # Told by the service's own spellings as well, which know nothing of ours.
        assert [name for name, text in spelled(secret).items() if text.encode() in whole and text != "harmless"] == []


# Every secret in every place, in every way, and every place in every way: each two of them meet.
MEET = [
    (way, place, secret)
    for one, way in enumerate(ECHOES)
    for other, place in enumerate(PLACES)
    for third, secret in enumerate(SECRETS)
    if (one + other + third) % 2 == 0
]


@pytest.mark.parametrize(("way", "place", "secret"), MEET)
def test_a_repeated_key_is_nowhere(way, place, secret, workspace, repeating, refresh, caplog):
    if not secret.isascii() and place in ("header", "bearer"):
        pytest.skip("a header takes no such key, and says so before it is sent")
    given = {"user": "ann", "password": secret} if place == "basic" else {"key": secret}
    key = {"name": "k", "places": PLACES[place]}
    query, run = refreshed(workspace, refresh, repeating.base, key, given, f"/ways/{way}")
    assert run.state in ("unverified", "failed"), run.problem
    assert (run.state == "unverified") is (way in ("repeats-key", "repeats-key-in-utf16", "redirects-with-key"))
    if run.state == "unverified":
        assert run.rows > 10
    check(workspace, query, run, caplog, secret)


@pytest.mark.parametrize("secret", SECRETS)
@pytest.mark.parametrize("user", ["ann", "nobody", "wanderer"])
@pytest.mark.parametrize("address", ["/login", "/login?user={user}&password={password}"])
def test_a_sign_in_that_repeats_is_nowhere(address, user, secret, workspace, repeating, refresh, caplog):
    source = {"by": "sign-in", "inputs": ["user", "password"], "address": address, "token": "$.token"}
    if "?" not in address:
        source |= {"method": "POST", "body": {"kind": "form", "fields": [
            {"name": "user", "value": "{user}"}, {"name": "password", "value": "{password}"}]}}  # fmt: skip
    key = {"name": "k", "places": [{"at": "bearer"}], "source": source}
    query, run = refreshed(
        workspace, refresh, repeating.base, key, {"user": user, "password": secret}, "/ways/repeats-key"
    )
    token = f"tk-{secret[::-1]}-9e41d2"
    if user == "ann" and secret.isascii():
        assert run.state == "unverified", run.problem
    else:
        assert run.state in ("unverified", "failed")
    check(workspace, query, run, caplog, secret, token)
