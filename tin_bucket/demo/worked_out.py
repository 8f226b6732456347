"""The demo's queries that start from other tables: what people make of the tables that were sent."""

from __future__ import annotations

from tin_bucket.core.document.query import Brief, load_brief


def late_brief() -> Brief:
    """How many sailings were late, by route and month."""
    return load_brief(
        {
            "name": "Late sailings by route and month",
            "note": "A sailing is late above 10 minutes. Cancelled and planned ones are left out.",
            "start": {"tables": [{"query": "Sailings by route"}]},
            "work_out": [
                {"do": "keep", "where": [{"column": "status", "test": "is", "value": "arrived"}]},
                {
                    "do": "label",
                    "name": "late",
                    "column": "delay",
                    "cases": [{"test": "above", "value": 10, "label": "late"}],
                    "otherwise": "on time",
                },
                {
                    "do": "column",
                    "name": "late share",
                    "expression": "CASE late WHEN 'late' THEN 100.0 ELSE 0 END",
                    "unit": "%",
                },
                {
                    "do": "count",
                    "by": [{"column": "route"}, {"column": "departs", "period": "month"}],
                    "figures": [
                        {"of": "rows", "name": "sailings"},
                        {"of": "mean", "column": "late share", "name": "late in %"},
                        {"of": "mean", "column": "delay", "name": "mean delay"},
                    ],
                    "totals": True,
                },
            ],
            "show": [
                {
                    "draw": "bars",
                    "title": "Late sailings by route",
                    "x": "route",
                    "y": ["late in %"],
                    "figure": "mean",
                    "references": [{"value": 25, "label": "agreed"}],
                }
            ],
        }
    )


def cheapest_brief() -> Brief:
    """The cheapest car fare of each route, with the name of its port."""
    return load_brief(
        {
            "name": "Cheapest fare a route",
            "note": "With the name of the port, which is brought in by its code.",
            "start": {"tables": [{"query": "Sailings by route"}]},
            "work_out": [
                {
                    "do": "bring",
                    "table": {"query": "Ports"},
                    "columns": [{"column": "name", "name": "port name"}],
                    "match": [{"theirs": "code", "ours": "port_code"}],
                },
                {"do": "first", "rows": 1, "by": [{"column": "car fare"}], "each": ["route"]},
                {"do": "order", "by": [{"column": "car fare"}]},
            ],
            "keep": {"match": ["route"]},
        }
    )


def inspected_brief() -> Brief:
    """Each vessel with its inspections, a row each."""
    return load_brief(
        {
            "name": "Vessels with their inspections",
            "note": "The register lists ids, its details come fifty a call, and the inspections are brought in.",
            "start": {"tables": [{"query": "Vessel register"}]},
            "work_out": [
                {
                    "do": "bring",
                    "table": {"query": "Inspections this year"},
                    "columns": [{"column": "day", "name": "inspected"}, {"column": "verdict"}],
                    "match": [{"theirs": "hull_id", "ours": "hull_id"}],
                    "several": "each",
                },
                {"do": "order", "by": [{"column": "name"}, {"column": "inspected"}]},
            ],
            "keep": {"match": ["hull_id", "inspected"]},
        }
    )


def latest_routes_brief() -> Brief:
    """The five routes with the largest share of late sailings: a chain of two."""
    return load_brief(
        {
            "name": "Five routes that run late",
            "note": "It starts from a table that is itself worked out.",
            "start": {"tables": [{"query": "Late sailings by route and month"}]},
            "work_out": [
                {"do": "first", "rows": 5, "by": [{"column": "late in %", "down": True}]},
            ],
        }
    )


def late_dates_brief() -> Brief:
    """How many sailings of each route were late, as it was known on each date."""
    return load_brief(
        {
            "name": "Late sailings, each date",
            "note": "A figure of every snapshot: it stores nothing of its own.",
            "start": {
                "tables": [{"query": "Late sailings by route and month"}],
                "every_date": {"days": 30, "column": "as of", "rows": "all"},
            },
            "show": [
                {
                    "draw": "line",
                    "title": "Late sailings by route",
                    "x": "as of",
                    "y": ["late in %"],
                    "series": "route",
                    "figure": "mean",
                    "period": "day",
                }
            ],
        }
    )


def worked_out_briefs() -> list[Brief]:
    """The demo's queries that start from other tables, each behind those."""
    return [late_brief(), cheapest_brief(), inspected_brief(), latest_routes_brief(), late_dates_brief()]
