"""A secret that is stored and sent as it is."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from tin_bucket.core.auth.place import KeyPlaceModel
from tin_bucket.core.auth.source import KeySourceModel, SecretSource


class Stored(KeySourceModel):
    """The secret is stored, and sent unchanged."""

    by: Literal["stored"] = "stored"

    @property
    def stored(self) -> bool:
        """It is."""
        return True

    def required_fields(self, places: Sequence[KeyPlaceModel]) -> list[str]:
        """What the places name."""
        return list(dict.fromkeys(name for place in places for name in place.secret_fields()))


SOURCE = SecretSource(key="stored", model=Stored, label="a stored key", placement="header")
