"""What to try on the simulated services: example calls as their docs give them, and rows to look up."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from tin_bucket.demo.services import operations, register, statistics

from .company import Company


@dataclass(frozen=True, slots=True)
class Example:
    """Something to begin a query with.

    Attributes:
        name: what it gives.
        shows: what there is to learn by it.
        text: what is pasted.
        docs: where its service's docs are.
    """

    name: str
    shows: str
    text: str
    docs: str


def examples(company: Company) -> list[Example]:
    """What to try on a company that runs."""
    today = company.calendar.today
    first, last = today - timedelta(days=14), today + timedelta(days=14)
    ops, fleet, figures = (company.bases[name] for name in ("operations", "register", "statistics"))
    return [
        Example(
            "Sailings of four weeks",
            "many pages, a key in a header, lists in each record",
            f"curl '{ops}/sailings?route=all&from={first}&to={last}&per_page=100' "
            f"-H '{operations.KEY_HEADER}: {operations.KEY}'",
            f"{ops}/",
        ),
        Example(
            "Passengers of a year",
            "rows that are lists, with their names in the first one, and a key in the address",
            f"{figures}/passengers?year={today.year}&key={statistics.KEY}",
            f"{figures}/",
        ),
        Example(
            "Vessels in the register",
            "a list of ids alone: their details are looked up, row by row",
            f"curl -u '{register.USER}:{register.PASSWORD}' '{fleet}/v1/vessels?size=50'",
            f"{fleet}/",
        ),
    ]
