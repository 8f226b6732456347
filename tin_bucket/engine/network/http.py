"""Real HTTP for the core's calls (aiohttp). Every fault becomes a :class:`Problem`; no fault carries a header."""

from __future__ import annotations

import asyncio
import re
import socket
import time
from dataclasses import replace
from urllib.parse import urlsplit

import aiohttp
from aiohttp.abc import AbstractResolver, ResolveResult
from aiohttp.resolver import ThreadedResolver
from multidict import CIMultiDict
from yarl import URL

from tin_bucket import __version__
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.response import Answer
from tin_bucket.core.traffic.address_policy import Reach, refusal
from tin_bucket.engine.tuning import USUAL, EngineTuning

from .spool import Spool

CALLER = f"TinBucket/{__version__}"


class _NotAllowedError(OSError):
    """A host whose network address may not be called."""


class _GuardedResolver(AbstractResolver):
    """Looks a host up, and keeps only the network addresses that may be called."""

    def __init__(self, reach: Reach) -> None:
        self._reach = reach
        self._inner = ThreadedResolver()

    async def resolve(
        self, host: str, port: int = 0, family: socket.AddressFamily = socket.AF_INET
    ) -> list[ResolveResult]:
        found = await self._inner.resolve(host, port, family)
        refused = [refusal(one["host"], self._reach) for one in found]
        allowed = [one for one, why in zip(found, refused, strict=True) if why is None]
        if found and not allowed:
            raise _NotAllowedError(f"{found[0]['host']} {refused[0]}")
        return allowed

    async def close(self) -> None:
        await self._inner.close()


class Fetcher:
    """One HTTP session for all calls of the engine."""

    def __init__(self, reach: Reach = "own machine", tuning: EngineTuning = USUAL) -> None:
        """
        Args:
            reach: which network addresses may be called.
        """
        self.reach: Reach = reach
        self._tuning = tuning
        self._session: aiohttp.ClientSession | None = None

    async def close(self) -> None:
        """Close the session's connections."""
        if self._session is not None:
            await self._session.close()
            self._session = None

    async def fetch(self, call: Call, seconds: float, connect: float = 10, spools: bool = False) -> Answer:
        """Make one call and wait for the whole answer. Redirects are answers like others here.

        Args:
            call: the call as it is sent, key and all.
            seconds: how long to wait until the answer is here.
            connect: how long to wait until the service takes the connection.
            spools: whether an answer that is too large to hold may come as a file.

        Returns:
            The answer; where there is none, one with status 0 and the failure.
        """
        started = time.perf_counter()
        answer = await self._once(call, seconds, connect, spools)
        return replace(answer, seconds=time.perf_counter() - started)

    def _open(self) -> aiohttp.ClientSession:
        if self._session is None:
            self._session = aiohttp.ClientSession(
                connector=aiohttp.TCPConnector(
                    limit=64, limit_per_host=16, ttl_dns_cache=60, resolver=_GuardedResolver(self.reach)
                ),
                cookie_jar=aiohttp.DummyCookieJar(),
                auto_decompress=True,
            )
        return self._session

    async def _once(self, call: Call, seconds: float, connect: float, spools: bool) -> Answer:
        where = call.address.split("?")[0]
        headers = CIMultiDict([("User-Agent", CALLER), ("Accept", "application/json, */*;q=0.5")])
        own = CIMultiDict(call.headers)
        for name in set(own):
            headers.popall(name, None)
        headers.extend(own)
        began = False
        try:
            host = urlsplit(call.address).hostname or ""
            # A host that is a network address by itself is not looked up.
            if re.fullmatch(r"[\d.]+|.*:.*", host) and (why := refusal(host, self.reach)):
                return _not_allowed(host, why, where)
            async with self._open().request(
                call.method,
                URL(call.address, encoded=True),
                headers=headers,
                data=call.body,
                allow_redirects=False,
                timeout=aiohttp.ClientTimeout(total=seconds, sock_connect=connect),
            ) as response:
                began = True
                told = {name.lower(): value for name, value in response.headers.items()}
                # What is compressed may swell to anything; only what comes as it is goes to disk.
                spools = spools and response.status == 200 and "content-encoding" not in told
                most = self._tuning.most_spooled if spools else self._tuning.most_body
                body = await _read(response, most, self._tuning.spooled_from if spools else None)
                if body is None:
                    return _failed(
                        "too-large",
                        f"The answer is larger than {most // 2**20:,} MB.",
                        where,
                        "Ask for fewer rows a page.",
                    )
                if isinstance(body, bytes):
                    return Answer(response.status, told, body)
                return Answer(response.status, told, spool=body, size=body.size)
        except aiohttp.ConnectionTimeoutError:
            return _failed(
                "time-out",
                f"The service did not take the connection within {connect:g} seconds.",
                where,
                "Check the base address, and whether the service is up.",
            )
        except TimeoutError:
            if began:
                return _failed(
                    "slow-answer",
                    f"The answer began, and did not end within {seconds:g} seconds.",
                    where,
                    "Ask for fewer rows a page, or give the service a longer time-out.",
                )
            return _failed(
                "time-out",
                f"No answer came within {seconds:g} seconds.",
                where,
                "Ask again, ask for fewer rows a page, or give the service a longer time-out.",
            )
        except aiohttp.ClientError as error:
            return _client_error(error, call, where)
        except (ValueError, OSError, asyncio.IncompleteReadError):
            return _failed(
                "not-sent",
                "The call could not be sent.",
                where,
                "Check the address: its host, its port and every character.",
            )


def _not_allowed(host: str, why: str, where: str) -> Answer:
    return _failed(
        "address-not-allowed",
        f"“{host}” may not be called: its network address {why}.",
        where,
        "Check the base address of the service.",
    )


async def _read(response: aiohttp.ClientResponse, most: int, held: int | None) -> bytes | Spool | None:
    """The body; as a file from `held` bytes on, ``None`` when it is larger than `most`."""
    if (response.content_length or 0) > most:
        return None
    parts: list[bytes] = []
    size = 0
    spool: Spool | None = None
    async for part in response.content.iter_any():
        size += len(part)
        if size > most:
            if spool is not None:
                spool.close()
            return None
        if spool is None and held is not None and size > held:
            spool = Spool(parts)
            parts = []
        if spool is not None:
            await asyncio.to_thread(spool.write, part)
        else:
            parts.append(part)
    if spool is not None:
        return spool
    return parts[0] if len(parts) == 1 else b"".join(parts)


def _client_error(error: aiohttp.ClientError, call: Call, where: str) -> Answer:
    host = urlsplit(call.address).hostname or ""
    port = urlsplit(call.address).port
    if isinstance(error, aiohttp.ClientConnectorDNSError):
        if isinstance(error.os_error, _NotAllowedError):
            return _not_allowed(host, str(error.os_error), where)
        return _failed(
            "host-unknown",
            f"There is no host “{host}”, or it cannot be found from here.",
            where,
            "Check the spelling of the service's base address, and that this machine is on the network.",
        )
    if isinstance(error, aiohttp.ClientConnectorSSLError):
        return _failed(
            "not-secure",
            f"“{host}” does not speak https there.",
            where,
            "If the API is asked by plain http, let the service's base address begin with http://. Nothing was sent.",
        )
    if isinstance(error, aiohttp.ClientConnectorCertificateError | aiohttp.ClientSSLError):
        return _failed(
            "not-secure",
            f"“{host}” cannot prove its identity: its certificate is not valid.",
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
    if isinstance(error, aiohttp.ClientPayloadError) and "content-encoding" in str(error):
        return _failed(
            "not-unpacked",
            "The answer says that it is compressed, and cannot be unpacked.",
            where,
            "Ask the service's owner; or set the header Accept-Encoding of the service to identity.",
        )
    if isinstance(error, aiohttp.ClientPayloadError | aiohttp.ServerDisconnectedError):
        return _failed(
            "broken-connection",
            "The connection was lost before the answer was complete.",
            where,
            "Ask again; if it happens each time, ask for fewer rows a page.",
        )
    if isinstance(error, aiohttp.ClientOSError):
        return _failed("broken-connection", "The connection was lost.", where, "Ask again.")
    return _failed(
        "not-http",
        "The answer is not valid HTTP.",
        where,
        "Check the base address and its port.",
    )


def _failed(kind: str, what: str, where: str, do: str) -> Answer:
    return Answer(0, failure=Problem(kind, what, where, do))
