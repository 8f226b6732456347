"""Where a call carries its key: what all placements have in common."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

from pydantic import Field

from tin_bucket.core.base import Name, Part
from tin_bucket.core.choice import Choice, FormField, Option
from tin_bucket.core.problem import fail
from tin_bucket.core.request.call import Call

# Field of a secret → its text: the fields that the places name, ``user`` and ``password`` for RFC 7617.
Secret = Mapping[str, str]
Which = Annotated[
    Literal["all", "with body", "without body"],
    Field(description="the calls that carry the key here; a key can go elsewhere when there is a body"),
]


FieldName = Annotated[Name, Field(description="which field of the secret goes here")]


class KeyPlaceModel(Part):
    """A place of a key on calls. Each placement has a subclass with its own ``at``."""

    at: str
    calls: Which = "all"

    def secret_fields(self) -> list[str]:
        """The fields of the secret that go here."""
        return [getattr(self, "field", "key")]

    def put(self, call: Call, secret: Secret, key: str) -> Call:
        """A copy of the call that carries the key here.

        Args:
            key: what people call the key, for a problem.

        Raises:
            ProblemError: ``key-unfit`` when the key cannot stand where it should go.
        """
        raise NotImplementedError


@dataclass(frozen=True, slots=True, kw_only=True)
class Placement(Choice[Any]):
    """An entry of the registry of placements.

    Attributes:
        way: what it is called where a service's key is set up as a whole.
        shown: how it stands on the call, with dots for the key.
        for_tokens: whether a token can go there.
    """

    way: str
    shown: str
    for_tokens: bool = True


CALLS = FormField(
    "calls",
    "On",
    options=(
        Option("all", "all calls"),
        Option("with body", "calls with a body", ", calls with a body"),
        Option("without body", "calls without one", ", calls without a body"),
    ),
    many=True,
)
SECRET_FIELD = FormField("field", "Field", "code", required=True, many=True)


def set_header(call: Call, name: str, value: str, key: str) -> Call:
    """The call with a header in the place of the one of that name.

    Raises:
        ProblemError: ``key-unfit`` for a character that no header takes.
    """
    if any(ord(char) < 0x20 or ord(char) > 0x7E for char in value):
        raise unfit(key, "it holds a character that cannot stand in a header", "Paste the key alone, on one line.")
    others = tuple(pair for pair in call.headers if pair[0].lower() != name.lower())
    return replace(call, headers=(*others, (name, value)))


def unfit(key: str, what: str, do: str) -> Exception:
    """The problem of a key that cannot stand where it should go."""
    return fail("key-unfit", f"The key “{key}” cannot be put on the call: {what}.", where=f"key {key}", do=do)
