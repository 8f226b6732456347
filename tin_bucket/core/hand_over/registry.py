"""The registry of feeds. A further one is a file in ``kinds``, its code in ``feeds/kinds``, and a line in both
registries."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from tin_bucket.core.choice import union_of

from .feed import FeedKind, FeedModel
from .kinds import address, database, file, history, sheet

# In the order in which they are offered.
FEEDS: tuple[FeedKind[Any], ...] = (sheet.KIND, file.KIND, address.KIND, database.KIND, history.KIND)

if TYPE_CHECKING:
    Feed = FeedModel
else:
    Feed = union_of("to", FEEDS)
