"""Real HTTP for the core's calls (aiohttp). Every fault becomes a :class:`Problem`; no fault carries a header."""

from __future__ import annotations

import asyncio
import time
from dataclasses import replace
from urllib.parse import urljoin, urlsplit

import aiohttp
from yarl import URL

from tin_bucket import __version__
from tin_bucket.core.calls import Call, origin
from tin_bucket.core.problem import Problem
from tin_bucket.core.verdict import Answer

MOST_BODY = 256 * 2**20  # bytes; a larger answer is not held in memory
MOST_HOPS = 5
_CALLER = f"TinBucket/{__version__}"


class Fetcher:
    """One HTTP session for all calls of the engine."""

    def __init__(self) -> None:
        self._session: aiohttp.ClientSession | None = None

    async def close(self) -> None:
        """Close the session's connections."""
        if self._session is not None:
            await self._session.close()
            self._session = None

    async def fetch(self, call: Call, seconds: float) -> Answer:
        """Make a call and wait for the whole answer.

        A redirect within the same origin is followed; one that leads elsewhere is not, because the call carries a key.

        Args:
            call: the call as it is sent, key and all.
            seconds: how long to wait until the answer is here.

        Returns:
            The answer; where there is none, one with status 0 and the failure.
        """
        started = time.perf_counter()
        answer = Answer(0)
        for _ in range(MOST_HOPS + 1):
            answer = await self._once(call, seconds)
            target = answer.headers.get("location")
            if not 300 <= answer.status < 400 or not target:
                break
            address = urljoin(call.address, target)
            if origin(address) != origin(call.address):
                break
            call = replace(call, address=address)
        return replace(answer, seconds=time.perf_counter() - started)

    async def _once(self, call: Call, seconds: float) -> Answer:
        if self._session is None:
            self._session = aiohttp.ClientSession(
                connector=aiohttp.TCPConnector(limit=64, limit_per_host=16, ttl_dns_cache=60),
                cookie_jar=aiohttp.DummyCookieJar(),
                auto_decompress=True,
            )
        headers = {"User-Agent": _CALLER, "Accept": "application/json, */*;q=0.5", **dict(call.headers)}
        where = call.address.split("?")[0]
        try:
            async with self._session.request(
                call.method,
                URL(call.address, encoded=True),
                headers=headers,
                allow_redirects=False,
                timeout=aiohttp.ClientTimeout(total=seconds),
            ) as response:
                body = await _read(response)
                if body is None:
                    return _failed(
                        "too-large",
                        f"The answer is larger than {MOST_BODY // 2**20} MB.",
                        where,
                        "Ask for fewer rows a page.",
                    )
                return Answer(response.status, {name.lower(): value for name, value in response.headers.items()}, body)
        except TimeoutError:
            return _failed(
                "time-out",
                f"No answer came within {seconds:g} seconds.",
                where,
                "Ask again, ask for fewer rows a page, or give the service a longer time-out.",
            )
        except aiohttp.ClientError as error:
            return _client_error(error, call, where)
        except (ValueError, OSError, asyncio.IncompleteReadError) as error:
            return _failed(
                "not-sent", f"The call could not be sent: {type(error).__name__}.", where, "Check the address."
            )


async def _read(response: aiohttp.ClientResponse) -> bytes | None:
    if (response.content_length or 0) > MOST_BODY:
        return None
    parts, size = [], 0
    async for part in response.content.iter_any():
        size += len(part)
        if size > MOST_BODY:
            return None
        parts.append(part)
    return parts[0] if len(parts) == 1 else b"".join(parts)


def _client_error(error: aiohttp.ClientError, call: Call, where: str) -> Answer:
    host = urlsplit(call.address).hostname or ""
    port = urlsplit(call.address).port
    if isinstance(error, aiohttp.ClientConnectorDNSError):
        return _failed(
            "host-unknown",
            f"There is no host “{host}”, or it cannot be found from here.",
            where,
            "Check the spelling of the service's base address, and that this machine is on the network.",
        )
    if isinstance(error, aiohttp.ClientConnectorCertificateError | aiohttp.ClientSSLError):
        return _failed(
            "not-secure",
            f"“{host}” does not prove that it is who it says (its certificate is not valid).",
            where,
            "Check the base address. Nothing was sent.",
        )
    if isinstance(error, aiohttp.ClientConnectorError):
        at = f"“{host}”, port {port}" if port else f"“{host}”"
        return _failed(
            "refused",
            f"The connection to {at} was refused.",
            where,
            "Check the base address, and whether the service is up.",
        )
    if isinstance(error, aiohttp.InvalidURL):
        return _failed(
            "address-unfit", "This is not an address.", where, "Check the service's base address and the path."
        )
    if isinstance(error, aiohttp.ClientPayloadError | aiohttp.ServerDisconnectedError):
        return _failed(
            "broken-connection",
            "The connection broke off before the answer was whole.",
            where,
            "Ask again; if it happens each time, ask for fewer rows a page.",
        )
    if isinstance(error, aiohttp.ClientOSError):
        return _failed("broken-connection", "The connection broke off.", where, "Ask again.")
    return _failed(
        "not-http",
        f"What came back is not proper HTTP ({type(error).__name__}).",
        where,
        "Check the base address and its port.",
    )


def _failed(kind: str, what: str, where: str, do: str) -> Answer:
    return Answer(0, failure=Problem(kind, what, where, do))
