"""What a query asks and what its names stand for → calls. A call never holds a key."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Call:
    """One request, without its key.

    Attributes:
        method: the HTTP method.
        address: the absolute address.
        headers: pairs of name and value, in the order in which they are sent.
        stage: ``pages``, ``look up NAME`` or ``sign in``: what the call is for.
        label: what distinguishes this call from its neighbours, such as ``page 3`` or ``007``.
        body: the body's bytes; their media type is in the headers.
        iteration: which of the values that the question is asked for, counted from 0.
        turn: its place among the calls of its iteration, counted from 0.
    """

    method: str
    address: str
    headers: tuple[tuple[str, str], ...] = ()
    stage: str = "pages"
    label: str = ""
    body: bytes | None = None
    iteration: int = 0
    turn: int = 0

    @property
    def asked_as(self) -> str:
        """What tells the call from others of its stage: its address, and a digest of its body where it has one."""
        if not self.body:
            return self.address
        return f"{self.address} {hashlib.blake2b(self.body, digest_size=16).hexdigest()}"

    def media_type(self) -> str:
        """The media type of the body, without its parameters, in lower case."""
        given = next((value for name, value in self.headers if name.lower() == "content-type"), "")
        return given.split(";")[0].strip().lower()
