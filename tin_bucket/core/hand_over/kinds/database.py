"""A table of a PostgreSQL database."""

from __future__ import annotations

import re
from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.hand_over.feed import COMMON, FeedKind, FeedModel
from tin_bucket.core.work_out.line import Chip, Word

_WAYS = {"replace": "replacing its rows", "add": "adding rows", "update": "updating matching rows"}
_NAME = re.compile(r"[^\x00]{1,63}")


class DatabaseFeed(FeedModel):
    """A table that is written in one transaction. The password is a key of the vault, and not part of the brief."""

    to: Literal["database"] = "database"
    host: str = Field(default="localhost", min_length=1, max_length=255, description="a host, or a socket's folder")
    port: int = Field(default=5432, ge=1, le=65_535)
    database: str = Field(min_length=1, max_length=63)
    user: str = Field(min_length=1, max_length=63)
    table: str = Field(min_length=1, max_length=127, description="with its schema unless it is public: desk.sailings")
    way: Literal["replace", "add", "update"] = "replace"
    gone: Literal["keep", "remove"] = Field(
        default="keep", description="what becomes of rows that the table has no more, where rows are updated"
    )
    new_columns: Literal["add", "leave out"] = "add"
    encrypted: Literal["prefer", "require", "verify-full"] = Field(
        default="prefer", description="whether the connection is encrypted (TLS)"
    )

    @field_validator("table")
    @classmethod
    def _named(cls, value: str) -> str:
        parts = value.split(".")
        if len(parts) > 2 or not all(_NAME.fullmatch(part) for part in parts):
            raise ValueError(f"“{value[:40]}” names no table; one is named as sailings or desk.sailings")
        return value

    def place(self) -> str:
        """desk.sailings in harbour at db.example"""
        return f"{self.table} in {self.database} at {self.host}"

    def account(self) -> str:
        """postgresql://desk@localhost:5432/harbour"""
        return f"postgresql://{self.user}@{self.host}:{self.port}/{self.database}"

    def destination(self) -> list[Word]:
        """to the table desk.sailings of the database harbour, replacing its rows"""
        return [
            "to the table ",
            Chip(self.table, "table"),
            " of the database ",
            Chip(self.database, "database"),
            ", ",
            Chip(_WAYS[self.way], "way"),
        ]


KIND = FeedKind(
    key="database",
    model=DatabaseFeed,
    label="a table of a database",
    hint="Writes a table of PostgreSQL in one transaction, so that nobody ever reads half of it.",
    fields=(
        FormField("database", "Database", "code", placeholder="harbour", required=True),
        FormField("table", "Table", "code", placeholder="desk.sailings", required=True),
        FormField("host", "Host", "code", placeholder="localhost", required=True),
        FormField("port", "Port", "number", placeholder="5432", least=1),
        FormField("user", "User", "code", required=True),
        FormField("way", "How", "text", options=(
            Option("replace", "replace the rows"), Option("update", "update matching rows"),
            Option("add", "add rows, with the date"))),
        FormField("gone", "Rows that are gone", "text", with_field="way", with_values=("update",), options=(
            Option("keep", "stay"), Option("remove", "are deleted"))),
        FormField("new_columns", "New columns", "text", more=True, options=(
            Option("add", "are added"), Option("leave out", "are left out"))),
        FormField("encrypted", "Encryption", "text", more=True, options=(
            Option("prefer", "if the server has it"), Option("require", "always"),
            Option("verify-full", "always, and its certificate is checked"))),
        *COMMON,
    ),
)  # fmt: skip
