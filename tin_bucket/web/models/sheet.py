"""Sheets and files."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field


class SheetPreview(BaseModel):
    name: str
    headings: list[str]
    rows: list[list[Any]]
    count: int
    found: dict[str, str]
    tabs: list[str]


class SheetSettingsIn(BaseModel):
    separator: str | None = None
    encoding: str | None = None
    header: bool = True
    skip: int = Field(default=0, ge=0, le=10_000)
    tab: str | None = None


class SheetInfo(BaseModel):
    name: str
    file: str
    headings: list[str]
    rows: int
    added: str
    settings: SheetSettingsIn
    used_by: list[str]


class FilesInfo(BaseModel):
    folder: str
    files: list[str]
