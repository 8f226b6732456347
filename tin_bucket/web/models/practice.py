"""The practice services."""

from __future__ import annotations

from pydantic import BaseModel, Field


class ExampleInfo(BaseModel):
    name: str
    shows: str = Field(description="what there is to learn by it")
    text: str = Field(description="what is pasted")
    docs: str = Field(description="where its service's docs are")


class PracticeInfo(BaseModel):
    offered: bool = Field(description="whether services on this machine may be called")
    examples: list[ExampleInfo] = Field(description="what there is to try; none while the services do not run")
