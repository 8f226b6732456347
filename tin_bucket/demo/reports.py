"""The demo's reports: what the harbour desk sends round."""

from __future__ import annotations

from typing import Any

from tin_bucket.core.report.model import Report
from tin_bucket.store.workspace import Workspace

_ROUTES = ["Ormsey – Kittle Bay", "Skerrywick – Hesta Wick", "Harl Sound – Little Brae", "Skerrywick – Tarn Head"]


def demo_reports(workspace: Workspace) -> list[Report]:
    """The reports, of the demo's queries."""
    ids = {name: number for number, name in workspace.queries.names().items()}
    return [Report.model_validate(_harbour(ids)), Report.model_validate(_passengers(ids))]


def _harbour(ids: dict[str, int]) -> dict[str, Any]:
    sailings, bookings = ids["Sailings by route"], ids["Bookings, three days"]
    arrived = {"by": "empty", "column": "delay", "no": True}
    late = {"by": "between", "column": "delay", "low": "11"}
    return {
        "title": "The harbour this week",
        "against": "P7D",
        "choices": [{"name": "route", "column": "route"}],
        "figures": [
            {"tells": "amount", "name": "sailings", "query": sailings},
            {"tells": "share", "name": "late sailings, in %", "query": sailings, "where": [arrived], "meet": [late]},
            {
                "tells": "leading", "name": "worst port", "query": sailings, "by": "port", "figure": "mean",
                "column": "delay", "where": [arrived], "least": 10,
            },
            {
                "tells": "amount", "name": "car fare", "query": sailings, "figure": "mean", "column": "car fare",
                "decimals": 2,
            },
            {
                "tells": "moves", "name": "how fares moved", "query": sailings, "what": "rose and fell",
                "column": "car fare",
            },
            {
                "tells": "amount", "name": "cancelled sailings", "query": sailings,
                "where": [{"by": "one of", "column": "status", "values": ["cancelled"]}],
            },
            {"tells": "amount", "name": "bookings", "query": bookings},
            {
                "tells": "amount", "name": "people booked", "query": bookings, "figure": "sum", "column": "people",
            },
        ],
        "blocks": [
            {
                "block": "text",
                "text": (
                    "This week {sailings} sailings are on the timetable, {sailings: change} since {against}."
                    " Of those that arrived {late sailings, in %} were more than ten minutes late,"
                    " {late sailings, in %: change}; **{worst port}** is the worst with a mean of"
                    " {worst port: amount}. A car costs {car fare} on average, {car fare: change}: it"
                    " {how fares moved} sailings. For the next three days {bookings} bookings are in, for"
                    " {people booked} people.{when cancelled sailings above 0} {cancelled sailings} sailings are"
                    " cancelled.{end}"
                ),
            },
            {
                "block": "chart", "query": ids["Late sailings, each date"], "title": "Late sailings by route",
                "where": [{"by": "one of", "column": "route", "values": _ROUTES}],
                "chart": {
                    "draw": "line", "x": "as of", "y": ["late in %"], "series": "route", "figure": "mean",
                    "period": "day",
                },
            },
            {
                "block": "table", "query": ids["Cheapest fare a route"], "title": "Cheapest fare a route",
                "columns": ["route", "port", "departs", "vessel", "car fare", "delay"],
                "sort": [{"column": "car fare"}], "rows": 6,
                "marks": [{"column": "car fare", "test": "below", "value": "20"}],
            },
            {"block": "changes", "query": sailings, "title": "What changed"},
        ],
    }  # fmt: skip


def _passengers(ids: dict[str, int]) -> dict[str, Any]:
    passengers = ids["Passengers a month"]
    return {
        "title": "Passengers by month",
        "against": "",
        "choices": [{"name": "from", "column": "month", "how": "from"}, {"name": "series", "column": "series"}],
        "figures": [
            {
                "tells": "amount", "name": "passengers", "query": passengers, "figure": "sum", "column": "passengers",
            },
            {
                "tells": "leading", "name": "busiest line", "query": passengers, "by": "series", "figure": "sum",
                "column": "passengers",
            },
            {
                "tells": "leading", "name": "busiest month", "query": passengers, "by": "month", "figure": "sum",
                "column": "passengers",
            },
        ],
        "blocks": [
            {
                "block": "text",
                "text": (
                    "The statistics office counts {passengers} passengers. **{busiest line}** carries the most,"
                    " {busiest line: amount}; the busiest month was {busiest month} with"
                    " {busiest month: amount}.\n\nThe series are of unlike length: a line begins where its service"
                    " does."
                ),
            },
            {
                "block": "chart", "query": passengers, "title": "Passengers by line",
                "chart": {"draw": "line", "x": "month", "y": ["passengers"], "each": "series"},
            },
            {
                "block": "chart", "query": passengers, "title": "Passengers of each line",
                "chart": {
                    "draw": "bars", "x": "series", "y": ["passengers"], "figure": "sum", "order": "value",
                },
            },
        ],
    }  # fmt: skip
