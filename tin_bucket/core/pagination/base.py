"""What the models of all ways of paging have in common, and the fields that their forms share."""

from __future__ import annotations

from typing import Any

from pydantic import Field, field_validator

from tin_bucket.core.base import Part
from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.formats.jsonpath import Wildcard, known_source, parse_place
from tin_bucket.core.request.edit import ParameterLocation

MAX_PAGES = 100_000
AT_ONCE = 2_000  # Calls that are announced together, at most.
STATED = "JSONPath in the answer, or header:NAME: "


class PaginationModel(Part):
    """How a question turns pages. Each way has a subclass with its own ``by``."""

    by: str
    total: str | None = Field(default=None, description=STATED + "the number of rows that the API states")
    total_proved: bool | None = Field(
        default=None, description="whether that number was seen beside fewer rows, so that it is no page's own count"
    )

    _total = field_validator("total")(known_source)

    @property
    def listed(self) -> str | None:
        """JSONPath to ids in the answers of a listing, where rows come from further calls; else ``None``."""
        return None


class PagedModel(PaginationModel):
    """What all ways have that ask for more than one page."""

    most: int = Field(default=1000, ge=1, le=MAX_PAGES, description="safety limit on the number of pages")


class PlacedModel(PagedModel):
    """What ways have that ask with a parameter of their own."""

    at: ParameterLocation = Field(default="address", description="where the parameter goes")
    parameter: str = Field(min_length=1, description="its name; in a JSON body its place, such as $.page.number")
    size_parameter: str | None = Field(default=None, description="the parameter with the size, at the same place")
    size: int | None = Field(default=None, ge=1, description="rows a page to ask for")

    @field_validator("parameter", "size_parameter")
    @classmethod
    def _names_a_place(cls, value: str | None) -> str | None:
        if value is not None and value.startswith(("$.", "$[")):
            place = parse_place(value)
            if not place or any(isinstance(step, Wildcard | int) for step in place):
                raise ValueError(f"“{value}” is not a place of one member, such as $.page.number")
        return value

    def sizing(self) -> dict[str, Any]:
        """The size parameter with its value, where one is asked for."""
        return {self.size_parameter: self.size} if self.size_parameter and self.size is not None else {}


# Fields ------------------------------------------------------------------------------------------------------------

AT = FormField(
    "at",
    "It goes into the",
    options=(
        Option("address", "address"),
        Option("header", "headers", " in a header"),
        Option("body", "body", " in the body"),
    ),
)
SIZE = (
    FormField("size_parameter", "Parameter with the size", placeholder="none"),
    FormField("size", "Rows a page to ask for", "number", "as it comes", least=1),
)
MORE = FormField("more", "Place that says whether there is more", placeholder="$.has_more")


def parameter_field(label: str, placeholder: str) -> FormField:
    """The field for the parameter that a way asks with."""
    return FormField("parameter", label, placeholder=placeholder, required=True)


# What ends a table where nothing better is stated: the first of these that the model sets, the last one else.
UNTIL_TOTAL = (("total", "all stated rows are here"), ("", "a page is empty"))
