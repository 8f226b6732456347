"""A report as a page that stands alone: one HTML file (HTML Living Standard) with its data, style and script within. It
loads nothing from elsewhere, and says so to the browser (Content Security Policy, level 3)."""

from __future__ import annotations

import base64
import hashlib
from collections.abc import Callable
from dataclasses import asdict
from functools import cache
from importlib import resources
from typing import Any

import orjson

from tin_bucket.core.problem import fail
from tin_bucket.core.report.html import block_html
from tin_bucket.core.report.seen import ReportSeen
from tin_bucket.core.report.text import harmless


@cache
def _part(name: str) -> str:
    try:
        return resources.files("tin_bucket.feeds").joinpath("page_parts", name).read_text(encoding="utf-8")
    except FileNotFoundError as error:
        raise fail(
            "not-built", "The parts of report pages are not built.", where="page_parts", do="Run “make build”."
        ) from error


@cache
def _script() -> str:
    return _part("reader.js").replace("</script", "<\\/script")


def page_policy(answered: bool) -> str:
    """What a page may do (Content Security Policy, level 3): run its own script, and nothing else.

    Args:
        answered: whether there are choices that somebody answers.
    """
    digest = base64.b64encode(hashlib.sha256(_script().encode()).digest()).decode()
    return (
        f"default-src 'none'; style-src 'unsafe-inline'; script-src 'sha256-{digest}'; font-src data:; img-src data:;"
        " base-uri 'none'; form-action " + ("'self'" if answered else "'none'")
    )


def report_page(seen: ReportSeen, when: Callable[[str], str], controls: str = "") -> bytes:
    """The page of a report.

    Args:
        when: a moment, ISO 8601, in words.
        controls: HTML of what readers can choose, where somebody answers them; empty in a file.

    Raises:
        ProblemError: ``not-built``.
    """
    drawings: list[dict[str, Any]] = []
    pieces = []
    for block in seen.blocks:
        number = None
        if block.drawing is not None and block.chart is not None and block.drawing.draw != "figure":
            number = len(drawings)
            drawings.append({"made": asdict(block.drawing), "chart": block.chart.model_dump(mode="json")})
        pieces.append(block_html(block, when, number))
    # What stands in a script must not end it.
    data = orjson.dumps(drawings).decode().replace("<", "\\u003c")
    title = harmless(seen.title)
    dates = f"As of {harmless(when(seen.as_of))}"
    if seen.against:
        dates += f", against {harmless(when(seen.against))}"
    page = (
        '<!doctype html><html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width,initial-scale=1">'
        f'<meta http-equiv="Content-Security-Policy" content="{harmless(page_policy(bool(controls)))}">'
        f'<meta name="referrer" content="no-referrer"><link rel="icon" href="data:,">'
        f"<title>{title}</title><style>{_part('reader.css')}</style></head><body>"
        f'<header class="report-head"><h1>{title}</h1><p>{dates}.</p>{controls}</header>'
        f'<main class="report">{"".join(pieces)}</main>'
        '<footer class="report-foot">Each figure says in the margin from which table it is, as of when, and whether'
        " that is complete.</footer>"
        f'<script type="application/json" id="drawings">{data}</script><script>{_script()}</script></body></html>'
    )
    return page.encode("utf-8", "replace")
