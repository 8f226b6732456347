"""Keys on their way into the vault."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Literal

from tin_bucket.core.auth.tokens import stated_end
from tin_bucket.core.document.service import Service
from tin_bucket.store.workspace import Workspace


def beside_stored(
    workspace: Workspace, service: Service | None, secret: Mapping[str, str]
) -> Literal["none", "same", "other", "unfit"]:
    """How a key that was seen stands to the one that is stored for its service: ``none`` is stored, the ``same`` or
    an ``other`` one; ``unfit``: the service is not asked with what was seen."""
    if service is None:
        return "none"
    wants = service.key.required_fields() if service.key is not None and not service.key.source.pasted else []
    if not wants or not set(wants) <= set(secret):
        return "unfit"
    if workspace.vault.state(service.id) is None:
        return "none"
    if workspace.vault.wants_passphrase:
        return "other"
    stored = workspace.vault.open(service.id)
    return "same" if stored is not None and stored.secret == {name: secret[name] for name in wants} else "other"


def to_store(workspace: Workspace, service: Service, secret: Mapping[str, str], replace: bool) -> bool:
    """Whether a key goes into the vault: all of it is here, and it takes no other's place unasked."""
    if service.key is None or service.key.source.pasted or not set(service.key.required_fields()) <= set(secret):
        return False
    return replace or workspace.vault.state(service.id) is None


def store_secret(
    workspace: Workspace, service: Service, secret: Mapping[str, str], now: datetime, expires: datetime | None = None
) -> None:
    """Put a key into the vault, bound to where it may go; a token that states its own end is known to end then."""
    assert service.key is not None
    fields = {name: secret[name] for name in service.key.required_fields() if name in secret}
    learnt = next((end for text in fields.values() if (end := stated_end(text)) is not None), None)
    workspace.vault.store(service.id, service.key.bound_to(service.base), fields, now, expires or learnt)
