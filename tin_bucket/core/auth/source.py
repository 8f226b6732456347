"""Where the secret of a key comes from: what all sources have in common."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.base import Part
from tin_bucket.core.choice import Choice, FormField
from tin_bucket.core.request.call import Call

from .place import KeyPlaceModel, Secret


class KeySourceModel(Part):
    """A source of a secret. Each has a subclass with its own ``by``."""

    by: str

    @property
    def stored(self) -> bool:
        """Whether calls carry the stored secret itself."""
        return False

    @property
    def pasted(self) -> bool:
        """Whether a person pastes a token when asked."""
        return False

    @property
    def token_path(self) -> str | None:
        """The address of the call that gets a token, absolute or below the base; ``None`` when there is none."""
        return None

    @property
    def life_when_unknown(self) -> str | None:
        """How long a token lasts when the API does not say, as ISO 8601 duration; ``None`` when it then has no end."""
        return None

    def required_fields(self, places: Sequence[KeyPlaceModel]) -> list[str]:
        """The fields of the secret that a person puts in."""
        raise NotImplementedError

    def token_call(self, name: str, address: str, secret: Secret) -> Call:
        """The call that gets a token, with the secret on it.

        Raises:
            ProblemError: a template problem in its description.
        """
        raise NotImplementedError

    @property
    def token_place(self) -> str:
        """JSONPath to the token in the answer."""
        raise NotImplementedError

    @property
    def life_place(self) -> str | None:
        """JSONPath to the token's life in the answer."""
        return None


@dataclass(frozen=True, slots=True, kw_only=True)
class SecretSource(Choice[Any]):
    """An entry of the registry of sources. `placement` is where its secret usually goes."""

    placement: str = "bearer"


LASTS = FormField("lasts", "Token lifetime in minutes, when the API states none", "minutes", least=1)
SIGN_IN = "sign in"  # The stage of calls that get a token.
