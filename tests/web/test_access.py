"""Who may ask a served workspace: nobody without its access token, on any address."""

import re
import stat

import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import NOON
from tin_bucket.engine.clock import SetClock
from tin_bucket.store.access import TOKEN_FILE, Access
from tin_bucket.store.workspace import Workspace
from tin_bucket.web.app import create_app


@pytest.fixture
def stranger(workspace):
    """A browser of another account of this machine."""
    with TestClient(create_app(workspace, clock=SetClock(NOON)), base_url="http://127.0.0.1") as made:
        yield made


def addresses(app):
    """Every route of the application, each with the methods that it takes."""
    for path, methods in app.openapi()["paths"].items():
        for method in methods:
            yield method.upper(), re.sub(r"\{[^}]*\}", "1", path)


def test_no_address_answers_without_the_token(workspace, stranger):
    asked = 0
    for method, path in addresses(stranger.app):
        answer = stranger.request(method, path, json={})
        assert answer.status_code == 401, (method, path)
        assert answer.json()["kind"] == "access-missing"
        assert "tin-bucket address" in answer.json()["do"]
        asked += 1
    assert asked > 60
    for path in ("/assets/index.js", "/openapi.json", "/nowhere", "//example.org/", "/api/desk?access=x"):
        assert stranger.get(path).status_code == 401, path


def test_the_printed_address_gives_a_cookie_and_leaves_the_address_bar(workspace, stranger):
    answer = stranger.get(f"/?access={workspace.access.token}", follow_redirects=False)
    assert (answer.status_code, answer.headers["location"]) == (303, "/")
    cookie = answer.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=lax" in cookie
    assert "Max-Age=34560000" in cookie
    assert workspace.access.token not in cookie
    assert stranger.get("/api/desk").status_code == 200


def test_the_cookie_stays_good_after_a_restart(workspace, stranger):
    stranger.get(f"/?access={workspace.access.token}")
    with TestClient(create_app(workspace), base_url="http://127.0.0.1", cookies=stranger.cookies) as later:
        assert later.get("/api/desk").status_code == 200


def test_a_new_token_takes_access_from_every_browser(workspace, stranger):
    old = workspace.access.token
    stranger.get(f"/?access={old}")
    assert stranger.get("/api/desk").status_code == 200
    new = workspace.access.renew()
    assert stranger.get("/api/desk").status_code == 401
    assert stranger.get("/", params={"access": old}).status_code == 401
    stranger.get("/", params={"access": new})
    assert stranger.get("/api/desk").status_code == 200


@pytest.mark.parametrize("pasted", ["{token}", " {token}\n", "http://127.0.0.1:8610/?access={token}"])
def test_the_page_takes_the_token_or_the_whole_address(workspace, stranger, pasted):
    page = stranger.get("/")
    assert page.status_code == 401
    assert 'name="access" type="password"' in page.text
    stranger.get("/", params={"access": pasted.format(token=workspace.access.token)})
    assert stranger.get("/api/desk").status_code == 200


@pytest.fixture(scope="module")
def application(tmp_path_factory):
    workspace = Workspace(tmp_path_factory.mktemp("locked") / "home", create=True)
    yield create_app(workspace)
    workspace.close()


@given(wrong=st.text(min_size=1, max_size=50))
def test_nothing_else_is_a_token(application, wrong):
    client = TestClient(application, base_url="http://127.0.0.1")
    page = client.get("/", params={"access": wrong})
    assert page.status_code == 401
    assert "not the workspace" in page.text
    assert "set-cookie" not in page.headers
    header = f"Bearer {wrong}".encode()
    assert client.get("/api/desk", headers={"Authorization": header}).status_code == 401


def test_another_workspaces_cookie_opens_nothing(workspace, stranger, tmp_path):
    other = Access(tmp_path)
    name, value = other.cookie()
    mine, _ = workspace.access.cookie()
    assert name != mine
    stranger.cookies.set(mine, value)
    assert stranger.get("/api/desk").status_code == 401


@pytest.mark.parametrize("left", [b"", b"short", b"\xff" * 43, b"x" * 1000])
def test_a_damaged_token_file_is_made_anew(workspace, left):
    (workspace.home / TOKEN_FILE).write_bytes(left)
    assert re.fullmatch(r"[\w-]{43}", workspace.access.token)
    assert workspace.access.token == workspace.access.token


def test_the_token_is_for_its_owner_alone(workspace):
    assert workspace.access.token
    assert stat.S_IMODE((workspace.home / TOKEN_FILE).stat().st_mode) == 0o600
