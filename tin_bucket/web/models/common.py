"""What routes of all subjects give."""

from __future__ import annotations

from pydantic import BaseModel


class ProblemInfo(BaseModel):
    kind: str
    what: str
    where: str
    do: str
    words: str


class HeaderInfo(BaseModel):
    name: str
    value: str


class HintInfo(BaseModel):
    where: str
    what: str
    do: str
