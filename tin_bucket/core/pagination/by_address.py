"""Following the addresses that answers hold: what the ways by a next address have in common."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any
from urllib.parse import urljoin, urlsplit

from tin_bucket.core.request.call import Call

from .base import PagedModel
from .protocol import Page, Paginator
from .tracker import PageTracker


def follow_addresses(
    call: Call, pages: PagedModel, follow: Callable[[Page], Any], end: str, where: str, source: str | None = None
) -> Paginator:
    """Pages by the address that each answer holds, until there is none.

    Args:
        follow: gives what a page has for the next address.
        end: the reason of the stop where there is none.
        where: what people call the place of the address.
        source: the place itself, where the brief names it.
    """
    tracker = PageTracker(pages)
    seen = {call.address}
    home = urlsplit(call.address)
    while True:
        page = yield [replace(call, label=f"page {tracker.asked + 1}")]
        stop = tracker.saw(page)
        if stop is not None:
            return stop
        if page.failed is not None:
            return tracker.stop("failed-page", f"page {tracker.asked} could not be fetched", False)
        target = follow(page)
        if target is None or target is False or target == "":
            if source is not None:
                return tracker.ends_at(page, source, "address")
            return tracker.stop(end, f"there is no further address at {where}", True)
        address = next_address(call.address, target)
        if address is None:
            return tracker.stop("elsewhere", f"what stands at {where} is no address", False)
        parts = urlsplit(address)
        if (parts.hostname, parts.port) != (home.hostname, home.port) and parts.hostname != home.hostname:
            return tracker.stop("elsewhere", f"the next address leads to another host, {parts.hostname}", False)
        if address in seen:
            return tracker.stop("repeated-cursor", f"the next address of page {tracker.asked} came before", False)
        seen.add(address)
        if (stop := tracker.enough()) is not None:
            return stop
        call = replace(call, address=address)


def next_address(now: str, target: Any) -> str | None:
    """A next address, whole or relative (RFC 3986 §5), from what an answer holds."""
    if isinstance(target, dict):
        target = target.get("href")
    if not isinstance(target, str):
        return None
    try:
        address = urljoin(now, target.strip()).partition("#")[0]
        parts, here = urlsplit(address), urlsplit(now)
        if parts.scheme not in ("http", "https") or not parts.hostname or parts.port == 0:
            return None
    except ValueError:
        return None
    if parts.hostname == here.hostname and parts.scheme == "http" and here.scheme == "https":
        # Behind a proxy many APIs write http; the key never goes there.
        address = "https" + address[4:]
    return address.replace(" ", "%20")
