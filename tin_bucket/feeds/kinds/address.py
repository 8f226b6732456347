"""Live addresses: nothing is written; readers come and take the table."""

from __future__ import annotations

from tin_bucket.core.hand_over.kinds.address import AddressFeed
from tin_bucket.feeds.delivery import Delivery, Handed, counted


class AddressCode:
    """Says how an address is read."""

    def ahead(self, feed: AddressFeed, delivery: Delivery) -> Handed:
        """Where the table can be read."""
        made = Handed(places=[feed.place()], rows=delivery.table.rows.height)
        made.told = [
            f"{counted(made.rows, 'row')} can be read at {feed.place()}.csv, .json, .jsonl, .xlsx, .parquet and .html.",
            f"As an OData service they are at /odata/{feed.name}.",
            "Only readers with a key get in: the page Feeds makes one.",
        ]
        return made

    def deliver(self, feed: AddressFeed, delivery: Delivery) -> Handed:
        """Nothing has to be handed over."""
        made = self.ahead(feed, delivery)
        made.nothing = True
        return made


CODE = AddressCode()
