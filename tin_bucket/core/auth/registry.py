"""The registries of key placements and of key sources. A further one is a file and a line here."""

from __future__ import annotations

from typing import TYPE_CHECKING

from tin_bucket.core.choice import union_of

from .place import KeyPlaceModel, Placement
from .placements import basic, bearer, body, header, path, query
from .source import KeySourceModel, SecretSource
from .sources import asked, client_credentials, sign_in, stored

PLACEMENTS: tuple[Placement, ...] = (
    header.PLACEMENT,
    bearer.PLACEMENT,
    query.PLACEMENT,
    path.PLACEMENT,
    body.PLACEMENT,
    basic.PLACEMENT,
)
SOURCES: tuple[SecretSource, ...] = (
    stored.SOURCE,
    client_credentials.SOURCE,
    sign_in.SOURCE,
    asked.SOURCE,
)

if TYPE_CHECKING:
    KeyPlace = KeyPlaceModel
    KeySource = KeySourceModel
else:
    KeyPlace = union_of("at", PLACEMENTS)
    KeySource = union_of("by", SOURCES)
