"""The demo's queries: one for each way in which the simulated services are asked."""

from __future__ import annotations

from typing import Any

from tin_bucket.core.document.query import Brief, load_brief

from .timetable import CLASSES, ROUTES
from .worked_out import worked_out_briefs

OPERATIONS, FARES = "skerrywick-operations", "skerrywick-fares"
REGISTER, STATISTICS = "skerrywick-register", "skerrywick-statistics"
BOOKINGS, AWKWARD = "skerrywick-bookings", "skerrywick-awkward"


def _only_answer(rows: int) -> dict[str, Any]:
    """What somebody said of an API that states nothing: one answer is all there is."""
    return {"by": "none", "said": {"on": "2026-11-02", "rows": rows}}


def _pages() -> dict[str, Any]:
    return {
        "by": "number",
        "parameter": "page",
        "size_parameter": "per_page",
        "size": 100,
        "last_page": "$.meta.total_pages",
        "total": "$.meta.total",
    }


def _route(default: str) -> dict[str, Any]:
    choices = [{"code": "all", "label": "all routes"}, *({"code": r.code, "label": r.name} for r in ROUTES)]
    return {"name": "route", "kind": "choice", "choices": choices, "default": default}


def _day(name: str, offset: str) -> dict[str, Any]:
    return {"name": name, "kind": "date", "default": {"anchor": "today", "offset": offset}}


_QUESTION = [{"name": name, "value": f"{{{name}}}"} for name in ("route", "from", "to")]


_SAILINGS: dict[str, Any] = {
    "name": "Sailings by route",
    "note": "Every sailing of the week behind us and the week ahead.",
    "parameters": [_route("all"), _day("from", "-P7D"), _day("to", "P7D")],
    "ask": {"service": OPERATIONS, "path": "/sailings", "query": _QUESTION},
    "pages": _pages(),
    "take": {
        "records": "$.data[*]",
        "columns": [
            {"place": "$.sailing_id", "name": "sailing_id"},
            {"place": "$.departs", "name": "departs", "kind": "date and time"},
            {"place": "$.route.name", "name": "route"},
            {"place": "$.port_code", "name": "port_code"},
            {"place": "$.vessel.name", "name": "vessel"},
            {"place": "$.status", "name": "status"},
            {"place": "$.delay_min", "name": "delay", "unit": "min"},
            {"place": "$.fares[1].amount", "name": "car fare", "unit": "SKC"},
            {"place": "$.vessel.hull_id", "name": "hull_id"},
            {"place": "$.legs", "name": "legs"},
        ],
    },
    "look_up": [
        {
            "name": "port",
            "path": "/ports/{port_code}",
            "with": {"port_code": "port_code"},
            "take": [{"place": "$.name", "name": "port"}, {"place": "$.zone", "name": "zone"}],
        }
    ],
    "show": [
        {
            "draw": "line",
            "x": "departs",
            "y": ["delay"],
            "figure": "mean",
            "period": "day",
            "series": "route",
            "title": "Mean delay by day and route",
        },
        {
            "draw": "bars",
            "x": "route",
            "figure": "rows",
            "series": "status",
            "how": "shares",
            "title": "How sailings went",
        },
    ],
    "keep": {"match": ["sailing_id"], "schedule": {"kind": "at", "at": "07:30", "days": [1, 2, 3, 4, 5, 6, 7]}},
}

_WEEK_AHEAD: dict[str, Any] = {
    "name": "Fares, week ahead",
    "note": "A row for each fare of each coming sailing.",
    "parameters": [_route("harl-oxnith"), _day("from", "P0D"), _day("to", "P7D")],
    "ask": {"service": OPERATIONS, "path": "/sailings", "query": _QUESTION},
    "pages": _pages(),
    "take": {
        "records": "$.data[*]",
        "rows_for": "$.fares",
        "columns": [
            {"place": "$.sailing_id", "name": "sailing_id"},
            {"place": "$.departs", "name": "departs", "kind": "date and time"},
            {"place": "$.fares[*].class", "name": "class"},
            {"place": "$.fares[*].amount", "name": "fare", "unit": "SKC"},
            {"place": "$.route.name", "name": "route"},
            {"place": "$.vessel.name", "name": "vessel"},
        ],
    },
    "keep": {"match": ["sailing_id", "class"], "schedule": {"kind": "every", "every": "PT6H"}},
}

_FLEET: dict[str, Any] = {
    "name": "Fleet today",
    "ask": {"service": OPERATIONS, "path": "/vessels"},
    "pages": _only_answer(6),
    "take": {"records": "$.data[*]"},
    "look_up": [
        {
            "name": "berth",
            "path": "/ports/{at}",
            "with": {"at": "at"},
            "take": [{"place": "$.name", "name": "berthed at"}],
        }
    ],
    "keep": {"match": ["hull_id"], "schedule": {"kind": "at", "at": "06:00", "days": [1, 2, 3, 4, 5]}},
}

_PORTS: dict[str, Any] = {
    "name": "Ports",
    "ask": {"service": OPERATIONS, "path": "/ports"},
    "pages": {"by": "none", "total": "$.meta.total", "total_proved": True},
    "take": {"records": "$.data[*]"},
    "keep": {"match": ["code"]},
}


def operations_briefs() -> list[Brief]:
    """The queries on the operations service."""
    return [load_brief(document) for document in (_SAILINGS, _WEEK_AHEAD, _FLEET, _PORTS)]


def fares_brief() -> Brief:
    """A search by POST, asked for each day of the week ahead."""
    classes = [{"code": name, "label": name} for name in CLASSES]
    return load_brief(
        {
            "name": "Fares by day ahead",
            "note": "One question for each day of the week ahead; the token is requested automatically.",
            "parameters": [
                {"name": "day", "kind": "date", "label": "sailing day"},
                _route("all"),
                {
                    "name": "classes",
                    "kind": "choice",
                    "many": True,
                    "send": "json",
                    "choices": classes,
                    "default": ["foot", "car"],
                },
            ],
            "ask": {
                "service": FARES,
                "method": "POST",
                "path": "/fares/search",
                "body": {"kind": "json", "value": {"day": "{day}", "route": "{route}", "classes": "{classes}"}},
            },
            "each": [
                {
                    "by": "range",
                    "parameter": "day",
                    "step": "day",
                    "start": {"anchor": "today", "offset": "P1D"},
                    "end": {"anchor": "today", "offset": "P7D"},
                }
            ],
            "pages": {
                "by": "cursor",
                "at": "body",
                "parameter": "cursor",
                "cursor": "$.next_cursor",
                "size_parameter": "limit",
                "size": 100,
                "total": "$.result.count",
            },
            "take": {
                "records": "$.result.items[*]",
                "columns": [
                    {"place": "$.fareId", "name": "fare_id"},
                    {"place": "$.route", "name": "route"},
                    {"place": "$.departs", "name": "departs", "kind": "date and time"},
                    {"place": "$.class", "name": "class"},
                    {"place": "$.price.amount", "name": "price", "kind": "decimal", "unit": "SKC"},
                    {"place": "$.sailing", "name": "sailing"},
                ],
            },
            "keep": {"match": ["fare_id"], "schedule": {"kind": "at", "at": "07:45", "days": [1, 2, 3, 4, 5, 6, 7]}},
        }
    )


def inspections_brief() -> Brief:
    """A month in the path, asked for each month of the year, with the vessel looked up."""
    return load_brief(
        {
            "name": "Inspections this year",
            "note": "The month stands in the path; the vessel's name is looked up by its nineteen digits.",
            "parameters": [{"name": "month", "kind": "month"}],
            "ask": {"service": REGISTER, "path": "/inspections/{month.year}/{month.month}"},
            "pages": _only_answer(10),
            "each": [
                {
                    "by": "range",
                    "parameter": "month",
                    "step": "month",
                    "start": {"anchor": "start of year"},
                    "end": {"anchor": "today"},
                }
            ],
            "take": {
                "records": "$.inspections[*]",
                "columns": [
                    {"place": "$.hull_id", "name": "hull_id"},
                    {"place": "$.day", "name": "day", "kind": "date"},
                    {"place": "$.verdict", "name": "verdict"},
                ],
            },
            "look_up": [
                {
                    "name": "vessel",
                    "path": "/vessels/{hull_id}",
                    "with": {"hull_id": "hull_id"},
                    "take": [
                        {"place": "$.name", "name": "vessel"},
                        {"place": "$.tonnage.gross", "name": "gross tonnage", "unit": "t"},
                    ],
                }
            ],
            "keep": {"match": ["hull_id", "day"], "schedule": {"kind": "at", "at": "06:15"}},
        }
    )


def passengers_brief() -> Brief:
    """Several series in one POST, with the key in its body."""
    choices = [{"code": f"PAX.{route.code}", "label": route.name} for route in ROUTES]
    return load_brief(
        {
            "name": "Passengers a month",
            "note": "Series of different lengths: routes were opened one after the other.",
            "parameters": [
                {
                    "name": "series",
                    "kind": "choice",
                    "many": True,
                    "send": "json",
                    "choices": choices,
                    "default": [choice["code"] for choice in choices[:4]],
                },
                {"name": "from", "kind": "month", "default": {"anchor": "start of year", "offset": "-P2Y"}},
                {"name": "to", "kind": "month", "default": {"anchor": "today"}},
            ],
            "ask": {
                "service": STATISTICS,
                "method": "POST",
                "path": "/series",
                "body": {"kind": "json", "value": {"series": "{series}", "from": "{from}", "to": "{to}"}},
            },
            "pages": _only_answer(10),
            "take": {
                "records": "$.series[*]",
                "rows_for": "$.points",
                "columns": [
                    {"place": "$.code", "name": "series"},
                    {"place": "$.points[*].month", "name": "month"},
                    {"place": "$.points[*].value", "name": "passengers"},
                ],
            },
            "show": [
                {"draw": "line", "x": "month", "y": ["passengers"], "series": "series", "title": "Passengers by route"},
                {"draw": "line", "x": "month", "y": ["passengers"], "each": "series", "title": "Each route for itself"},
            ],
            "keep": {"match": ["series", "month"]},
        }
    )


def bookings_brief() -> Brief:
    """The address of the next page stands in the answer, and calls are limited."""
    return load_brief(
        {
            "name": "Bookings, three days",
            "note": "Twelve calls a second and ninety in ten seconds are allowed.",
            "parameters": [_day("from", "P0D"), _day("to", "P2D")],
            "ask": {
                "service": BOOKINGS,
                "path": "/bookings",
                "query": [
                    {"name": "from", "value": "{from}"},
                    {"name": "to", "value": "{to}"},
                    {"name": "size", "value": "10"},
                ],
            },
            "pages": {"by": "next", "next": "$.next"},
            "take": {
                "records": "$.bookings[*]",
                "columns": [
                    {"place": "$.booking", "name": "booking"},
                    {"place": "$.sailing", "name": "sailing"},
                    {"place": "$.departs", "name": "departs", "kind": "date and time"},
                    {"place": "$.route", "name": "route"},
                    {"place": "$.party.name", "name": "party"},
                    {"place": "$.party.people", "name": "people"},
                    {"place": "$.car", "name": "car"},
                    {"place": "$.paid", "name": "paid", "unit": "SKC"},
                ],
            },
            "keep": {"match": ["booking"], "schedule": {"kind": "every", "every": "PT6H"}},
        }
    )


def vessels_brief() -> Brief:
    """A list of ids in pages by the Link header, and their details for up to fifty ids a call."""
    return load_brief(
        {
            "name": "Vessel register",
            "note": "The ids are listed in pages; the details are asked for fifty at a time.",
            "ask": {"service": REGISTER, "path": "/vessels"},
            "pages": {
                "by": "ids",
                "ids": "$[*].hull_id",
                "path": "/details?ids={id}",
                "batch": 50,
                "listing": {"by": "link"},
            },
            "take": {
                "records": "$[*]",
                "columns": [
                    {"place": "$.hull_id", "name": "hull_id"},
                    {"place": "$.name", "name": "name"},
                    {"place": "$.built", "name": "built"},
                    {"place": "$.tonnage.gross", "name": "gross", "unit": "t"},
                    {"place": "$.certificate.number", "name": "certificate"},
                    {"place": "$.certificate.until", "name": "valid until", "kind": "date"},
                ],
            },
            "keep": {"match": ["hull_id"], "schedule": {"kind": "at", "at": "06:20"}},
        }
    )


def crates_brief() -> Brief:
    """A query on the service that misbehaves."""
    return load_brief(
        {
            "name": "Crates",
            "note": "Put another way of misbehaving into the path to see what is made of it.",
            "parameters": [{"name": "way", "kind": "text", "default": "well"}],
            "ask": {"service": AWKWARD, "path": "/ways/{way}"},
            "pages": {"by": "number", "last_page": "$.pages", "total": "$.total"},
            "take": {"records": "$.rows[*]"},
            "keep": {"match": ["id"]},
        }
    )


def briefs() -> list[Brief]:
    """The demo's queries, on all of its services."""
    return [
        *operations_briefs(),
        fares_brief(),
        inspections_brief(),
        passengers_brief(),
        bookings_brief(),
        vessels_brief(),
        crates_brief(),
        *worked_out_briefs(),
    ]
