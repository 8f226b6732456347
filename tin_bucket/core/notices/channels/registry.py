"""The registry of channels. A further kind is a file here and a line, and a sender in the engine."""

from __future__ import annotations

from typing import TYPE_CHECKING

from tin_bucket.core.choice import union_of
from tin_bucket.core.notices.channel import Channel, ChannelKind

from . import hook, mail

CHANNELS: tuple[ChannelKind, ...] = (mail.KIND, hook.KIND)

if TYPE_CHECKING:
    AnyChannel = Channel
else:
    AnyChannel = union_of("by", CHANNELS)
