"""What is new, gone and changed, with the sentence."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.report.exhibit import Exhibit, ExhibitKind


class ChangesExhibit(Exhibit):
    """What differs from the other date."""

    block: Literal["changes"] = "changes"
    rows: int = Field(default=0, ge=0, le=100, description="so many of the rows that differ are listed")


KIND = ExhibitKind(
    key="changes", model=ChangesExhibit, label="What changed", phrase="what changed",
    fields=(FormField("rows", "Rows that are listed", "number", required=True, least=0),),
)  # fmt: skip
