"""An answer as it came: status, headers, and a body that is held or kept elsewhere (RFC 9110)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Protocol

from tin_bucket.core.problem import Problem


class LargeBody(Protocol):
    """A body that is too large to hold, kept elsewhere and read part by part, as often as is wanted."""

    def parts(self) -> Iterator[bytes]:
        """Its bytes, from the start."""

    def close(self) -> None:
        """Let go of it."""


@dataclass(frozen=True, slots=True)
class Answer:
    """A response with its body, or the reason why there is none.

    Attributes:
        status: the HTTP status, 0 when there was no response.
        headers: header names in lower case → value.
        body: the body, already decompressed.
        seconds: from sending the call to the last byte.
        failure: what went wrong below HTTP, or ``None``.
        note: what people should know of how it came, such as that it was sent on to another host.
        spool: the body, where it is too large to hold; `body` is empty then, and `size` is its length.
    """

    status: int
    headers: dict[str, str] = field(default_factory=dict)
    body: bytes = b""
    seconds: float = 0.0
    failure: Problem | None = None
    note: str = ""
    spool: LargeBody | None = None
    size: int = -1

    @property
    def length(self) -> int:
        """The size of the body in bytes."""
        return len(self.body) if self.size < 0 else self.size


def charset_of(answer: Answer) -> str:
    """The charset that the answer's content type names (RFC 9110 §8.3.2); empty when it names none."""
    return answer.headers.get("content-type", "").partition("charset=")[2].split(";")[0]
