"""What all charts have in a brief."""

from __future__ import annotations

from pydantic import Field

from tin_bucket.core.base import Part

MOST_NAME = 500


class Reference(Part):
    """A line that values are held against."""

    value: float = Field(allow_inf_nan=False)
    label: str = Field(default="", max_length=200)


class ChartModel(Part):
    """A chart.

    Attributes:
        title: what stands above it; it is named after its columns where there is none.
        each: a column, for each of whose values there is a small chart.
    """

    title: str = Field(default="", max_length=300, description="what stands above it; what is drawn when empty")
    each: str = Field(
        default="", max_length=MOST_NAME, description="a column, for each of whose values there is a small chart"
    )

    def columns(self) -> list[str]:
        """The columns that it reads, each once."""
        raise NotImplementedError


class ScaledChart(ChartModel):
    """A chart with a scale of numbers.

    Attributes:
        logarithmic: whether the scale is, where all that is drawn is above 0.
        references: lines across it.
    """

    logarithmic: bool = False
    references: list[Reference] = Field(default=[], max_length=5)
