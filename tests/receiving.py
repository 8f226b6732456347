"""The stand-ins that notices go to, and a mail server's settings for them."""

import pytest

from tin_bucket.demo.services.receiver import USER, Receiver


@pytest.fixture(scope="module")
def receiving():
    with Receiver() as receiver:
        yield receiver


@pytest.fixture
def receiver(receiving):
    """A mail server and a web hook, as new."""
    receiving.came, receiving.status, receiving.refuses = [], 204, False
    return receiving


def server_of(receiver, **parts):
    """How mails go out by it."""
    return {
        "host": "127.0.0.1", "port": receiver.mail_port, "user": USER, "sender": "tin-bucket@skerrywick.example",
        "certificate": receiver.certificate, **parts,
    }  # fmt: skip
