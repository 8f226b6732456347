"""The one place where real HTTP happens: addresses, headers, redirects, bodies."""

import asyncio
import gzip

import pytest
from aiohttp import web

from tin_bucket.core.request.call import Call
from tin_bucket.engine.network import http
from tin_bucket.engine.network.http import Fetcher
from tin_bucket.engine.tuning import EngineTuning

JSON = {"Content-Type": "application/json"}


@pytest.fixture
def fetch(awkward):
    def go(path, headers=(), seconds=5.0, method="GET", body=None, tuning=EngineTuning()):
        async def once():
            fetcher = Fetcher(tuning=tuning)
            try:
                return await fetcher.fetch(Call(method, awkward.base + path, tuple(headers), body=body), seconds)
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


def test_a_redirect_is_an_answer_like_others_and_cookies_are_not_kept(awkward, fetch):
    awkward.answers["/x"] = (302, {"Location": "/y", "Set-Cookie": "a=1"}, b"")
    assert (fetch("/x").status, len(awkward.seen)) == (302, 1)
    fetch("/x")
    assert "Cookie" not in awkward.seen[1][1]


def test_a_body_is_sent_with_its_media_type(awkward, fetch):
    seen = []

    async def echo(request):
        seen.append((request.method, request.content_type, await request.text()))
        return web.json_response({})

    awkward.answers["/x"] = echo
    fetch("/x", [("Content-Type", "application/json")], method="PUT", body=b'{"a":1}')
    assert seen == [("PUT", "application/json", '{"a":1}')]


@pytest.mark.parametrize(
    ("base", "reach", "kind"),
    [
        ("http://127.0.0.1:9", "public only", "address-not-allowed"),
        ("http://localhost:9", "public only", "address-not-allowed"),
        ("http://[::ffff:127.0.0.1]:9", "public only", "address-not-allowed"),
        ("http://169.254.169.254", "own machine", "address-not-allowed"),
        ("http://[fe80::1]", "own machine", "address-not-allowed"),
        ("http://127.0.0.1:9", "own machine", "refused"),
        ("http://localhost:9", "own machine", "refused"),
        ("http://2130706433:9", "own machine", "address-not-allowed"),
    ],
)
def test_a_network_address_that_may_not_be_called_is_refused_after_its_name_was_looked_up(base, reach, kind):
    async def go():
        fetcher = Fetcher(reach)
        answer = await fetcher.fetch(Call("GET", f"{base}/x"), 5)
        await fetcher.close()
        return answer

    assert asyncio.run(go()).failure.kind == kind


def test_a_name_that_leads_to_a_link_local_address_is_refused(awkward, fetch, monkeypatch):
    async def lies(self, host, port=0, family=0):
        return [{"hostname": host, "host": "169.254.169.254", "port": port, "family": 2, "proto": 0, "flags": 0}]

    monkeypatch.setattr(http.ThreadedResolver, "resolve", lies)
    monkeypatch.setattr(awkward, "base", "http://innocent.example:8000")
    answer = fetch("/x")
    assert answer.failure.kind == "address-not-allowed"
    assert "169.254.169.254" in answer.failure.what


def test_an_answer_that_is_too_large_is_given_up(awkward, fetch):
    small = EngineTuning(most_body=1000)
    awkward.answers["/x"] = (200, JSON, b"x" * 2000)
    assert fetch("/x", tuning=small).failure.kind == "too-large"

    async def unsaid(request):
        response = web.StreamResponse()
        await response.prepare(request)
        for _ in range(20):
            await response.write(b"y" * 100)
        return response

    awkward.answers["/x"] = unsaid
    assert fetch("/x", tuning=small).failure.kind == "too-large"
    awkward.answers["/x"] = (200, JSON, b"x" * 900)
    assert len(fetch("/x", tuning=small).body) == 900


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


def test_a_host_that_speaks_plain_http_is_said_in_those_words(awkward):
    """An address with https for a host without it: no word about certificates."""

    async def once():
        fetcher = Fetcher()
        try:
            return await fetcher.fetch(Call("GET", awkward.base.replace("http:", "https:") + "/x"), 5.0)
        finally:
            await fetcher.close()

    failure = asyncio.run(once()).failure
    assert (failure.kind, "does not speak https" in failure.what) == ("not-secure", True)
    assert "http://" in failure.do
    assert "certificate" not in failure.sentence()
