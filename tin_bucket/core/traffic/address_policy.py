"""Which network addresses may be called: checked after name resolution, whatever the host's name says."""

from __future__ import annotations

from ipaddress import IPv4Address, IPv6Address, IPv6Network, ip_address, ip_network
from typing import Literal

# own machine: public, private and loopback addresses; public only: for a server that several people share.
Reach = Literal["own machine", "public only"]

# Addresses at which hosting machines serve their own credentials, besides the link-local ones.
_METADATA = {
    ip_address(text) for text in ("fd00:ec2::254", "fd20:ce::254", "100.100.100.200", "192.0.0.192", "168.63.129.16")
}
# Networks whose addresses end in an IPv4 address.
_ENDING = tuple(
    map(
        IPv6Network,
        (
            "::/96",  # IPv4-compatible (RFC 4291 §2.5.5.1)
            "::ffff:0:0/96",  # IPv4-mapped (RFC 4291 §2.5.5.2)
            "::ffff:0:0:0/96",  # IPv4-translated (RFC 2765 §2.1)
            "64:ff9b::/96",  # NAT64 (RFC 6052 §2.1)
        ),
    )
)
_LOCAL_NAT64 = IPv6Network("64:ff9b:1::/48")  # RFC 8215
_ISATAP = (0x0000_5EFE, 0x0200_5EFE)  # RFC 5214 §6.1
_SHARED_SPACE = ip_network("100.64.0.0/10")  # RFC 6598


def refusal(address: str, reach: Reach) -> str | None:
    """Why a network address may not be called, as the end of a sentence; ``None`` when it may.

    Args:
        address: an IPv4 or IPv6 address, as name resolution gave it.
    """
    try:
        found = ip_address(address.partition("%")[0])
    except ValueError:
        return "is not a network address"
    return next((why for one in (found, *_inside(found)) if (why := _refusal(one, reach)) is not None), None)


def _refusal(found: IPv4Address | IPv6Address, reach: Reach) -> str | None:
    if found.is_link_local or found in _METADATA:
        return "is a link-local address, where machines keep their own credentials; it is never called"
    if found.is_unspecified or found.is_multicast:
        return "is not the address of one machine"
    if reach == "public only" and (not found.is_global or found in _SHARED_SPACE) and not _only_wraps(found):
        return "is not a public address, and this server calls public addresses alone"
    return None


def _only_wraps(address: IPv4Address | IPv6Address) -> bool:
    """Whether an address is another way to write an IPv4 address, which alone decides then."""
    return isinstance(address, IPv6Address) and any(address in network for network in _ENDING) and int(address) > 1


def _inside(address: IPv4Address | IPv6Address) -> list[IPv4Address]:
    """The IPv4 addresses that an IPv6 address may lead to."""
    if isinstance(address, IPv4Address):
        return []
    number = int(address)
    last = IPv4Address(number & 0xFFFF_FFFF)
    out = []
    if number > 1 and any(address in network for network in _ENDING):
        out.append(last)
    if address in _LOCAL_NAT64:
        # Where the IPv4 address stands depends on the length of the prefix, which is not known here (RFC 6052 §2.2):
        # bits 64 to 71 are left out.
        out += [last, IPv4Address((number >> 64 & 0xFFFF) << 16 | number >> 40 & 0xFFFF)]
        out += [
            IPv4Address((number >> 64 & 0xFF) << 24 | number >> 32 & 0xFF_FFFF),
            IPv4Address(number >> 24 & 0xFFFF_FFFF),
        ]
    if number >> 32 & 0xFFFF_FFFF in _ISATAP:
        out.append(last)
    if address.sixtofour is not None:
        out.append(address.sixtofour)
    if address.teredo is not None:
        out += address.teredo
    return out
