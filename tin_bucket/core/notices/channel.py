"""An entry of the registry of channels."""

from __future__ import annotations

from dataclasses import dataclass

from tin_bucket.core.base import Part
from tin_bucket.core.choice import Choice


class Channel(Part):
    """Where a notice goes to."""

    def place(self) -> str:
        """Where that is, in short."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True, kw_only=True)
class ChannelKind(Choice[Channel]):
    """A kind of channel."""
