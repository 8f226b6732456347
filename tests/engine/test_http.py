"""The one place where real HTTP happens: addresses, headers, redirects, bodies."""

import asyncio
import gzip

import pytest
from aiohttp import web

from tin_bucket.core.calls import Call
from tin_bucket.engine import http
from tin_bucket.engine.http import Fetcher

JSON = {"Content-Type": "application/json"}


@pytest.fixture
def fetch(awkward):
    def go(path, headers=(), seconds=5.0):
        async def once():
            fetcher = Fetcher()
            try:
                return await fetcher.fetch(Call("GET", awkward.base + path, tuple(headers)), seconds)
            finally:
                await fetcher.close()

        return asyncio.run(once())

    return go


def test_the_address_goes_out_exactly_as_it_was_made(awkward, fetch):
    awkward.answers["/a b/ü"] = (200, JSON, b"{}")
    fetch("/a%20b/%C3%BC?q=%26%2B%20x&empty=&x=a%2Fb")
    assert awkward.seen[0][0] == "/a%20b/%C3%BC?q=%26%2B%20x&empty=&x=a%2Fb"


def test_headers_are_sent_and_answers_headers_come_back_in_lower_case(awkward, fetch):
    awkward.answers["/x"] = (200, {**JSON, "X-Odd-Case": "Yes"}, b"{}")
    answer = fetch("/x", [("X-Mine", "1"), ("User-Agent", "harbour-desk")])
    sent = awkward.seen[0][1]
    assert (sent["X-Mine"], sent["User-Agent"]) == ("1", "harbour-desk")
    assert sent["Accept"].startswith("application/json")
    assert answer.headers["x-odd-case"] == "Yes"
    assert answer.seconds > 0
    fetch("/x")
    assert awkward.seen[1][1]["User-Agent"].startswith("TinBucket/")


def test_compressed_answers_are_read(awkward, fetch):
    awkward.answers["/x"] = (200, {**JSON, "Content-Encoding": "gzip"}, gzip.compress(b'{"a": 1}'))
    assert fetch("/x").body == b'{"a": 1}'


def test_a_redirect_loop_ends(awkward, fetch):
    awkward.answers["/x"] = (302, {"Location": "/x"}, b"")
    answer = fetch("/x")
    assert answer.status == 302
    assert len(awkward.seen) == http.MOST_HOPS + 1


@pytest.mark.parametrize("target", ["http://localhost:{port}/y", "https://127.0.0.1:{port}/y", "http://127.0.0.1:1/y"])
def test_a_redirect_to_another_origin_is_not_followed(awkward, fetch, target):
    port = awkward.base.rsplit(":", 1)[1]
    awkward.answers["/x"] = (302, {"Location": target.format(port=port)}, b"")
    assert fetch("/x", [("X-Key", "secret-text-1")]).status == 302
    assert len(awkward.seen) == 1


def test_cookies_are_neither_kept_nor_sent(awkward, fetch):
    awkward.answers["/x"] = (302, {"Location": "/y", "Set-Cookie": "a=1"}, b"")
    awkward.answers["/y"] = (200, JSON, b"{}")
    fetch("/x")
    assert "Cookie" not in awkward.seen[1][1]


def test_an_answer_that_is_too_large_is_given_up(awkward, fetch, monkeypatch):
    monkeypatch.setattr(http, "MOST_BODY", 1000)
    awkward.answers["/x"] = (200, JSON, b"x" * 2000)
    assert fetch("/x").failure.kind == "too-large"

    async def unsaid(request):
        response = web.StreamResponse()
        await response.prepare(request)
        for _ in range(20):
            await response.write(b"y" * 100)
        return response

    awkward.answers["/x"] = unsaid
    assert fetch("/x").failure.kind == "too-large"
    awkward.answers["/x"] = (200, JSON, b"x" * 900)
    assert len(fetch("/x").body) == 900


def test_what_is_not_http_is_said(tmp_path):
    async def go():
        async def rude(reader, writer):
            await reader.readline()
            writer.write(b"SSH-2.0-nothing of the kind\r\n\r\n")
            await writer.drain()
            writer.close()

        server = await asyncio.start_server(rude, "127.0.0.1", 0)
        port = server.sockets[0].getsockname()[1]
        fetcher = Fetcher()
        answer = await fetcher.fetch(Call("GET", f"http://127.0.0.1:{port}/x?key=abc"), 5)
        await fetcher.close()
        server.close()
        return answer

    answer = asyncio.run(go())
    assert answer.status == 0
    assert answer.failure.kind == "not-http"
    assert "abc" not in answer.failure.sentence()


@pytest.mark.parametrize("address", ["http://", "http://:80/x", "nothing"])
def test_an_address_that_is_none_is_a_failure_and_no_crash(address):
    async def go():
        fetcher = Fetcher()
        answer = await fetcher.fetch(Call("GET", address), 5)
        await fetcher.close()
        return answer

    assert asyncio.run(go()).failure.kind in ("address-unfit", "not-sent", "host-unknown", "refused")
