"""Numbers in another unit."""

from __future__ import annotations

import functools
from typing import TYPE_CHECKING, Any, Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.problem import fail
from tin_bucket.core.work_out.expression.compile import number_of
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Word, maybe
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step

if TYPE_CHECKING:
    import pint


class Units(LineModel):
    """The numbers of a column in another unit."""

    do: Literal["units"] = "units"
    column: ColumnName
    given: str = Field(default="", max_length=100, description="the unit they are in; that of the heading when empty")
    unit: str = Field(min_length=1, max_length=100)
    digits: int | None = Field(default=None, ge=0, le=12, description="decimals; as many as there are when absent")

    def words(self) -> list[Word]:
        """distance from nmi to km."""
        given = maybe(self.given, " from ", Chip(self.given, "given"))
        return [Chip(self.column, "column"), *given, " to ", Chip(self.unit, "unit")]

    def plan(self, shape: Shape) -> Step:
        """The column, with other numbers and another unit in its heading."""
        column = shape.column(self.column)
        given = self.given or column.unit
        if not given:
            raise fail(
                "unit-missing",
                f"The unit of {column.name[:100]} is not known.",
                where="units",
                do="Say what its numbers are in, such as km.",
            )
        factor, offset = conversion(given, self.unit)
        cell = number_of(column.name) if column.texts else sql(Col(column.name))
        made = sql(cell, f" * {factor!r}" + (f" + {offset!r}" if offset else ""))
        if self.digits is not None:
            made = sql("round(", made, f", {self.digits})")
        numbers = frozenset({column.name}) if column.texts else frozenset()
        return Columns([Made(column.name, made, "decimal", self.unit, numbers=numbers)])


@functools.cache
def _registry() -> pint.UnitRegistry[Any]:
    import pint  # It takes a while, and few tables need it.

    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


@functools.lru_cache(maxsize=500)
def conversion(given: str, wanted: str) -> tuple[float, float]:
    """Factor and offset by which a number in one unit becomes one in another.

    Raises:
        ProblemError: ``unit-unknown``, or ``units-unlike`` where they measure different things.
    """
    units = [_unit(given), _unit(wanted)]
    if units[0].dimensionality != units[1].dimensionality:
        raise fail(
            "units-unlike",
            f"“{given}” and “{wanted}” measure different things.",
            where="units",
            do=f"Choose a unit that “{given}” can be turned into.",
        )
    registry = _registry()
    nought, one = (registry.Quantity(number, units[0]).to(units[1]).magnitude for number in (0.0, 1.0))
    # A factor such as 0.3048 is said with the digits that it has.
    return float(f"{one - nought:.15g}"), float(f"{nought:.12g}")


def _unit(name: str) -> Any:
    try:
        return _registry().Unit(name)
    except Exception as error:  # The package raises errors of several parsers.
        raise fail(
            "unit-unknown",
            f"“{name[:60]}” is not a unit.",
            where="units",
            do="Write one such as km, nautical_mile, knot, kg, degC or minute.",
        ) from error


LINE = LineKind(
    key="units",
    model=Units,
    label="numbers in another unit",
    hint="Miles to kilometres, minutes to hours, °F to °C.",
    finds=("convert", "unit", "km", "miles", "hours", "minutes", "kg", "temperature", "celsius", "knots"),
    heading="Change the unit…",
    of="numbers",
    starts="column",
    fields=(
        FormField("column", "Numbers of", "column", required=True),
        FormField("given", "They are in", "unit", placeholder="the unit of the heading"),
        FormField("unit", "Wanted in", "unit", required=True, placeholder="km"),
        FormField("digits", "Decimals", "number", placeholder="as many as there are", least=0),
    ),
)
