"""Answers as trees."""

from __future__ import annotations

from pydantic import BaseModel


class NodeInfo(BaseModel):
    """A node of an answer's tree."""

    name: str | int | None
    kind: str
    size: int
    text: str


class NodesOut(BaseModel):
    node: NodeInfo
    start: int
    children: list[NodeInfo]


class FoundNode(BaseModel):
    steps: list[str | int]
    what: str
    text: str


class SearchOut(BaseModel):
    total: int
    found: list[FoundNode]


class AnswerText(BaseModel):
    text: str
    size: int
    more: bool
