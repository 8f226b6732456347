"""Bundles: export and import."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from tin_bucket.core.interchange.bundle import RequiredKey


class ItemInfo(BaseModel):
    kind: str
    name: str
    state: str
    choice: str


class LeftFile(BaseModel):
    """A file that a report is written to where it comes from."""

    title: str
    path: str


class ImportPlanInfo(BaseModel):
    items: list[ItemInfo]
    required_keys: list[RequiredKey]
    required_sheets: list[str]
    left_files: list[LeftFile]


class BundleIn(BaseModel):
    document: Any
    choices: dict[str, str] = {}
