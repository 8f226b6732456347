"""Text that is put together of the cells of a row, such as a link. It needs no call."""

from __future__ import annotations

import re
from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.problem import fail
from tin_bucket.core.work_out.line import Chip, LineKind, LineModel, NewName, Word
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, Sql, joined, literal, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step

_HOLE = re.compile(r"\{([^{}]*)\}")


class PutTogether(LineModel):
    """A text with the values of columns in it. Where one of them is blank, so is the text."""

    do: Literal["text"] = "text"
    name: NewName
    text: str = Field(min_length=1, max_length=20_000, description="columns stand in it as {name}")

    def words(self) -> list[Word]:
        """link is “https://…/{sailing_id}”."""
        return [Chip(self.name, "name"), " is the text ", Chip(self.text, "text")]

    def plan(self, shape: Shape) -> Step:
        """One column."""
        shape.check_new(self.name)
        pieces: list[Sql] = []
        at = 0
        for found in _HOLE.finditer(self.text):
            if found.start() > at:
                pieces.append(sql(literal(self.text[at : found.start()])))
            pieces.append(sql("nullif(", Col(shape.column(found.group(1)).name), ", '')"))
            at = found.end()
        if at < len(self.text):
            pieces.append(sql(literal(self.text[at:])))
        if at == 0:
            raise fail(
                "text-without-columns",
                "This text is the same in every row.",
                where="the text",
                do="Put the name of a column in it, in braces: {" + (shape.names or ["name"])[0] + "}.",
            )
        # Alone, a number would stay a number.
        return Columns([Made(self.name, joined(" || ", [sql("''"), *pieces]), "text", chooses=True)])


LINE = LineKind(
    key="text",
    model=PutTogether,
    label="a text put together",
    hint="A link or a sentence with the row's values in it; no call is made.",
    finds=("link", "address", "url", "concatenate", "join", "combine", "sentence", "full name"),
    heading="Put a text together…",
    starts="text",
    fields=(
        FormField("name", "Name", "text", required=True, placeholder="link"),
        FormField("text", "Text, with columns in braces", "code", required=True, wide=True,
                  placeholder="{from} to {to}"),
    ),
)  # fmt: skip
