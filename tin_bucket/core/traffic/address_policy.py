"""Which network addresses may be called: checked after name resolution, whatever the host's name says."""

from __future__ import annotations

from ipaddress import IPv4Address, IPv6Address, IPv6Network, ip_address, ip_network
from typing import Literal

# own machine: public, private and loopback addresses; public only: for a server that several people share.
Reach = Literal["own machine", "public only"]

# Addresses at which hosting machines serve their own credentials, besides the link-local ones.
_METADATA = {ip_address("fd00:ec2::254"), ip_address("100.100.100.200"), ip_address("192.0.0.192")}
_NAT64 = IPv6Network("64:ff9b::/96")  # RFC 6052 §2.1
_SHARED_SPACE = ip_network("100.64.0.0/10")  # RFC 6598


def refusal(address: str, reach: Reach) -> str | None:
    """Why a network address may not be called, as the end of a sentence; ``None`` when it may.

    Args:
        address: an IPv4 or IPv6 address, as name resolution gave it.
    """
    try:
        found = _inner(ip_address(address.partition("%")[0]))
    except ValueError:
        return "is not a network address"
    if found.is_link_local or found in _METADATA:
        return "is a link-local address, where machines keep their own credentials; it is never called"
    if found.is_unspecified or found.is_multicast:
        return "is not the address of one machine"
    if reach == "public only" and (not found.is_global or found in _SHARED_SPACE):
        return "is not a public address, and this server calls public addresses alone"
    return None


def _inner(address: IPv4Address | IPv6Address) -> IPv4Address | IPv6Address:
    """The IPv4 address that an IPv6 address stands for, where it does."""
    if isinstance(address, IPv4Address):
        return address
    if address in _NAT64:
        return IPv4Address(int(address) & 0xFFFFFFFF)
    inner = address.ipv4_mapped or address.sixtofour
    return inner or (address.teredo[1] if address.teredo else address)
