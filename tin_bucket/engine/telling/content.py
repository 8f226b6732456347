"""What a message says: a line, plain text, HTML, and JSON for programs."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Any

from tin_bucket.core.notices.facts import Finding
from tin_bucket.core.notices.model import Notice
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.report.html import block_html
from tin_bucket.core.report.text import harmless
from tin_bucket.engine.reports.reader import Asked, ReportReader
from tin_bucket.engine.reports.words import moments_of
from tin_bucket.engine.tables.comparison_words import sentences
from tin_bucket.engine.tables.sides import two_dates
from tin_bucket.store.notices import Content
from tin_bucket.store.workspace import Workspace

_STYLE = (
    "body{font:15px/1.5 system-ui,sans-serif;color:#1e242b;max-width:900px;margin:16px}"
    "h1{font-size:19px}h2{font-size:15px;margin:18px 0 4px}p{margin:4px 0}"
    "table{border-collapse:collapse;font-size:13px}"
    "th,td{padding:3px 9px;border-bottom:1px solid #e3e6ea;text-align:left}"
    ".number{text-align:right}.margin,.quiet,small{color:#5f6975;font-size:12px}.fig{color:#6b2a5f;font-weight:700}"
    ".chg,.changed{background:#fff8d9}.doubt,.odd,.lacking,.missing{color:#7a5c00}s{color:#5f6975}"
    ".sr-only{display:none}"
)


class Writer:
    """Writes messages."""

    def __init__(self, workspace: Workspace, reports: ReportReader) -> None:
        self._workspace, self._reports = workspace, reports

    def content(self, notice: Notice, finding: Finding | None, now: datetime) -> Content:
        """What a message says.

        Args:
            finding: what was found; nothing for a trial.
        """
        lines = list(finding.sentences) if finding is not None else ["This is a trial. Nothing has happened."]
        title = finding.title if finding is not None else f"A trial of “{notice.name}”"
        html = [f"<p>{harmless(line)}</p>" for line in lines]
        facts: dict[str, Any] = {"notice": notice.name, "at": now.isoformat(), "trial": finding is None}
        if finding is not None:
            facts |= {"cause": notice.cause.model_dump(mode="json").get("why"), **finding.facts}
        try:
            if notice.sends == "report" and notice.report is not None:
                own, text, made = self._report(notice.report, facts)
                title = title or own
            elif notice.sends == "changes" and notice.query is not None:
                own, text, made = self._changes(notice.query, facts)
                title = title or own
            else:
                text, made = [], ""
        except ProblemError as error:
            text = [error.problem.what]
            made = f"<p>{harmless(error.problem.what)}</p>"
        title = " ".join((title or notice.name).split())[:250]
        lines += text
        html.append(made)
        facts |= {"title": title, "sentences": lines}
        page = (
            f'<!doctype html><html lang="en"><head><meta charset="utf-8"><style>{_STYLE}</style></head><body>'
            f"<h1>{harmless(title)}</h1>{''.join(html)}</body></html>"
        )
        return Content(title, "\n\n".join([title, *lines]), page, json.dumps(facts, ensure_ascii=False, default=str))

    def _report(self, report_id: int, facts: dict[str, Any]) -> tuple[str, list[str], str]:
        kept = self._workspace.reports.get(report_id)
        seen = self._reports.read(kept.report, Asked(links=False))
        when = moments_of(self._reports.parts.clock)
        dates = f"As of {when(seen.as_of)}" + (f", against {when(seen.against)}" if seen.against else "") + "."
        text = [dates]
        for block in seen.blocks:
            text += [block.text] if block.block == "text" else [f"{block.number} · {block.title}", block.text]
            text += block.odd
        facts |= {
            "report": seen.title,
            "as_of": seen.as_of,
            "against": seen.against,
            "figures": {one.name: one.words or None for one in seen.facts},
        }
        html = f"<p>{harmless(dates)}</p>" + "".join(block_html(block, when) for block in seen.blocks)
        return seen.title, [one for one in text if one], html

    def _changes(self, query_id: int, facts: dict[str, Any]) -> tuple[str, list[str], str]:
        parts = self._reports.parts
        query = self._workspace.queries.get(query_id)
        dates = parts.tables.work_out.timeline(query)
        title = f"Changes of “{query.name}”"
        if len(dates) < 2:
            return title, ["There is no other date to compare with yet."], "<p>There is no other date yet.</p>"
        laid = parts.comparisons.compare(two_dates(dates[-2].id, dates[-1].id, "today", query.id))
        when = moments_of(parts.clock)
        text = [f"From {when(dates[-2].taken)} to {when(dates[-1].taken)}.", *sentences(laid)]
        facts |= {"query": query.name, "from": dates[-2].taken, "to": dates[-1].taken, "counts": laid.found.counts()}
        return title, text, "".join(f"<p>{harmless(line)}</p>" for line in text)
