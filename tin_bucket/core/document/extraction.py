"""What is taken of an answer: where the records are, what becomes a row, and which fields become columns."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from tin_bucket.core.base import Part
from tin_bucket.core.columns.kind_registry import Kind
from tin_bucket.core.columns.reads import Reads
from tin_bucket.core.columns.reduction_registry import ListReduction
from tin_bucket.core.formats.jsonpath import WILDCARD, known_path, parse_place, plain_place
from tin_bucket.core.pagination.protocol import RowShape

ValueSource = Literal["record", "answer", "key", "page", "parameter"]


class ColumnSpec(Part):
    """A column that is taken from the records, or from around them."""

    place: str = Field(
        description="plain JSONPath from the record, such as $.vessel.name; from the whole answer with `of` answer, "
        "where [*] stands for the item that the record lies in; $.name of a parameter",
        max_length=100_000,
    )
    name: str = Field(min_length=1, max_length=10_000)
    kind: Kind | None = Field(default=None, description="what the values are turned into; as they come when absent")
    unit: str = ""
    of: ValueSource = Field(
        default="record",
        description="where it comes from: the record, the whole answer, the key of the record or item in its object, "
        "the number of the page, a parameter's value",
    )
    reduction: ListReduction | None = Field(
        default=None, description="how values of a list become one cell; JSON text when absent"
    )
    reads: Reads | None = Field(default=None, description="how values are read as the kind")
    note: str = Field(default="", max_length=10_000)
    hidden: bool = Field(default=False, description="kept, but neither shown nor exported")
    _place = field_validator("place")(plain_place)

    @model_validator(mode="after")
    def _list_is_there(self) -> ColumnSpec:
        if self.reduction is not None and WILDCARD not in (parse_place(self.place) or ()):
            raise ValueError(f"{self.place} names no list; a place in one has [*], such as $.fares[*].amount")
        return self


# Records -----------------------------------------------------------------------------------------------------------


class HeadsInFirstRow(Part):
    """The first row holds the names."""

    by: Literal["first row"] = "first row"


class HeadsGiven(Part):
    """The names are given here."""

    by: Literal["given"] = "given"
    names: list[str] = Field(min_length=1, max_length=10_000)


class HeadsBeside(Part):
    """The names stand elsewhere in the answer."""

    by: Literal["place"] = "place"
    place: str = Field(description="JSONPath to the names, such as $.columns[*].name")

    _place = field_validator("place")(known_path)


Heads = Annotated[HeadsInFirstRow | HeadsGiven | HeadsBeside, Field(discriminator="by")]


class Extraction(Part):
    """Where the records are, what becomes a row, and which of their fields become columns."""

    records: str = Field(default="$", description="JSONPath to the records")
    heads: Heads | None = Field(
        default=None, description="where the names of the columns are, when the records are lists of values"
    )
    rows_for: list[str] = Field(
        default=[],
        max_length=20,
        description="places of lists in the record; each of their items is a row, and the record's other values are "
        "repeated. A list in a list is $.legs[*].stops",
    )
    keyed: list[str] = Field(
        default=[], max_length=200, description="places of objects in the record whose members are read like a list"
    )
    together: Literal["product", "side by side"] | None = Field(
        default=None,
        description="how several lists of one record stand together: every item with every other, or by their numbers",
    )
    without_items: Literal["keep", "leave out"] = Field(
        default="keep",
        description="what becomes of a record without an item in the lists that are made rows: one row, or none",
    )
    columns: list[ColumnSpec] | None = Field(default=None, description="the columns in order; all when absent")
    most_rows: int | None = Field(
        default=None, ge=1, description="only so many rows, from the first on; what follows is not asked for"
    )

    _records = field_validator("records")(known_path)

    @field_validator("rows_for", mode="before")
    @classmethod
    def _one_or_several(cls, value: Any) -> Any:
        if value is None:
            return []
        return [value] if isinstance(value, str) else value

    @field_validator("rows_for", "keyed")
    @classmethod
    def _places_are_plain(cls, value: list[str]) -> list[str]:
        return [plain_place(place) for place in value]

    @model_validator(mode="after")
    def _names_differ(self) -> Extraction:
        seen: set[str] = set()
        for column in self.columns or []:
            if column.name in seen:
                raise ValueError(f"two columns are named “{column.name[:200]}”")
            seen.add(column.name)
        return self

    @model_validator(mode="after")
    def _lists_stand_together(self) -> Extraction:
        places = [parse_place(place) or () for place in self.rows_for]
        if len(set(places)) < len(places):
            raise ValueError("a list is named twice")
        for place in places:
            outer = [place[:at] for at, segment in enumerate(place) if segment is WILDCARD]
            missing = next((one for one in outer if one not in places), None)
            if missing is not None:
                raise ValueError("a list in a list becomes rows only when the outer list does too")
        inner_most = [place[: _last_each(place)] for place in places]
        if self.together is None and len(set(inner_most)) < len(inner_most):
            raise ValueError(
                "several lists of one record become rows: say whether every item stands with every other (product) "
                "or by their numbers (side by side)"
            )
        return self


def _last_each(place: tuple[Any, ...]) -> int:
    return max((at for at, segment in enumerate(place) if segment is WILDCARD), default=0)


def row_shape(take: Extraction) -> RowShape:
    """How the rows of the answers are written, for what turns their pages."""
    side_by_side = take.rows_for if take.together == "side by side" else []
    lists = tuple(place for place in side_by_side if "[*]" not in place)
    return RowShape(take.records, isinstance(take.heads, HeadsInFirstRow), lists)
