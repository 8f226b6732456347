"""Network addresses that may be called, however they are written."""

from ipaddress import IPv4Address, IPv6Address

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.traffic.address_policy import refusal


@pytest.mark.parametrize(
    ("address", "own", "public"),
    [
        ("93.184.216.34", True, True), ("2606:2800:220:1::1", True, True),
        ("127.0.0.1", True, False), ("::1", True, False), ("10.1.2.3", True, False), ("192.168.1.1", True, False),
        ("fd12::1", True, False), ("100.64.1.1", True, False), ("::ffff:127.0.0.1", True, False),
        ("169.254.169.254", False, False), ("fe80::1", False, False), ("fe80::1%eth0", False, False),
        ("::ffff:169.254.169.254", False, False), ("64:ff9b::a9fe:a9fe", False, False),
        ("2002:a9fe:a9fe::1", False, False), ("fd00:ec2::254", False, False), ("100.100.100.200", False, False),
        ("0.0.0.0", False, False), ("::", False, False), ("224.0.0.1", False, False), ("no address", False, False),
    ],
)  # fmt: skip
def test_which_network_addresses_may_be_called(address, own, public):
    assert (refusal(address, "own machine") is None) is own
    assert (refusal(address, "public only") is None) is public


LINK_LOCAL = st.integers(0, 2**16 - 1).map(lambda n: int(IPv4Address("169.254.0.0")) + n)
METADATA = st.sampled_from(["100.100.100.200", "192.0.0.192", "168.63.129.16"]).map(lambda text: int(IPv4Address(text)))
NEVER = LINK_LOCAL | METADATA

# Each way to write an IPv4 address in an IPv6 one.
WRAPPED = {
    "compatible": lambda inner: inner,
    "mapped": lambda inner: 0xFFFF << 32 | inner,
    "translated": lambda inner: 0xFFFF << 48 | inner,
    "NAT64": lambda inner: 0x64FF9B << 96 | inner,
    "local NAT64, 96": lambda inner: 0x64FF9B0001 << 80 | inner,
    "local NAT64, 48": lambda inner: 0x64FF9B0001 << 80 | (inner >> 16) << 64 | (inner & 0xFFFF) << 40,
    "local NAT64, 56": lambda inner: 0x64FF9B0001 << 80 | (inner >> 24) << 64 | (inner & 0xFFFFFF) << 32,
    "local NAT64, 64": lambda inner: 0x64FF9B0001 << 80 | inner << 24,
    "6to4": lambda inner: 0x2002 << 112 | inner << 80 | 1,
    "Teredo server": lambda inner: 0x20010000 << 96 | inner << 64 | 0xFFFFFFFF ^ int(IPv4Address("93.184.216.34")),
    "Teredo client": lambda inner: 0x20010000 << 96 | int(IPv4Address("93.184.216.34")) << 64 | inner ^ 0xFFFFFFFF,
    "ISATAP": lambda inner: 0x20010DB8 << 96 | 0x00005EFE << 32 | inner,
    "ISATAP, global": lambda inner: 0x20010DB8 << 96 | 0x02005EFE << 32 | inner,
}  # fmt: skip


@pytest.mark.parametrize("way", WRAPPED)
@given(NEVER)
def test_what_is_never_called_is_never_called_in_another_form(way, inner):
    address = str(IPv6Address(WRAPPED[way](inner)))
    for text in (str(IPv4Address(inner)), address, f"{address}%eth0"):
        assert refusal(text, "own machine") is not None
        assert refusal(text, "public only") is not None


@pytest.mark.parametrize("way", ["mapped", "NAT64"])
def test_a_public_address_stays_public_in_another_form(way):
    assert refusal(str(IPv6Address(WRAPPED[way](int(IPv4Address("93.184.216.34"))))), "public only") is None
    assert refusal(str(IPv6Address(WRAPPED[way](int(IPv4Address("127.0.0.1"))))), "public only") is not None
