"""Services, queries and reports out of a workspace as a document, and in: all of it, or nothing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from datetime import datetime
from typing import Any

from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.references import queries_named
from tin_bucket.core.interchange.bundle import (
    Bundle,
    BundledReport,
    ImportChoice,
    ImportPlan,
    load_bundle,
    make_bundle,
    plan_import,
)
from tin_bucket.core.masking.looks import hidden
from tin_bucket.core.problem import ProblemError
from tin_bucket.store.reports import KeptReport
from tin_bucket.store.workspace import Workspace


def export_bundle(workspace: Workspace, names: Sequence[str] | None, now: datetime) -> Bundle:
    """Put queries, those whose tables they read, and their services into a bundle; without names everything, reports
    too.

    Raises:
        ProblemError: ``query-unknown``, or ``secret-inside``.
    """
    if names is None:
        briefs = [query.brief for query in workspace.queries.all()]
    else:
        briefs = _with_those_read(workspace, [workspace.queries.find(name).brief for name in names])
    wanted = {service_id for brief in briefs for service_id in brief.services()}
    services = [service for service in workspace.services.all() if names is None or service.id in wanted]
    secrets: list[str] = []
    for service in workspace.services.all():
        # A closed vault cannot be asked; what is in it was kept out of briefs and services when they were made.
        with suppress(ProblemError):
            opened = workspace.vault.open(service.id)
            if opened is not None:
                secrets += hidden(opened.secret)
    reports = _reports(workspace) if names is None else []
    return make_bundle(services, briefs, now.isoformat(timespec="seconds"), secrets, reports)


def _reports(workspace: Workspace) -> list[BundledReport]:
    names = workspace.queries.names()
    return [
        BundledReport(report=kept.report, queries={one: names[one] for one in kept.report.queries() if one in names})
        for kept in workspace.reports.all()
    ]


def _with_those_read(workspace: Workspace, briefs: list[Brief]) -> list[Brief]:
    """Queries with those whose tables they read, each before its readers: without them they would make no table."""
    by_name = {query.name.lower(): query.brief for query in workspace.queries.all()}
    out: dict[str, Brief] = {}

    def take(brief: Brief, readers: tuple[str, ...]) -> None:
        for name in map(str.lower, queries_named(brief)):
            if name in by_name and name not in out and name not in readers:
                take(by_name[name], (*readers, brief.name.lower()))
        out.setdefault(brief.name.lower(), brief)

    for brief in briefs:
        take(brief, ())
    return list(out.values())


def preview_import(
    workspace: Workspace, document: Any, choices: Mapping[str, ImportChoice], where: str = "the file"
) -> ImportPlan:
    """What bringing a document in would do; nothing is changed.

    Raises:
        ProblemError: as :func:`core.transfer.load_bundle`.
    """
    return plan_import(
        load_bundle(document, where),
        workspace.services.all(),
        [query.brief for query in workspace.queries.all()],
        [sheet.name for sheet in workspace.sheets.all()],
        choices,
        _reports(workspace),
    )


def import_bundle(
    workspace: Workspace, document: Any, choices: Mapping[str, ImportChoice], now: datetime, where: str = "the file"
) -> ImportPlan:
    """Bring a document in.

    Raises:
        ProblemError: as :func:`preview_import`; nothing is changed then.
    """
    with workspace.write():
        import_plan = preview_import(workspace, document, choices, where)
        for service in import_plan.services:
            workspace.services.save(service)
        for incoming, replaces in import_plan.queries:
            # What somebody else wrote hands nothing on before it is looked at.
            feeds = [feed.model_copy(update={"off": True}) for feed in incoming.hand_over]
            brief = incoming.model_copy(update={"hand_over": feeds})
            for service_id in brief.services():
                workspace.services.get(service_id)
            if replaces is None:
                workspace.queries.add(brief, now)
            else:
                workspace.save_brief(workspace.queries.find(replaces).id, brief, now)
        numbers = {name.lower(): number for number, name in workspace.queries.names().items()}
        kept = workspace.reports.all()
        for bundled, place in import_plan.reports:
            _save_report(workspace, bundled, numbers, kept[place] if place is not None else None, now)
    return import_plan


def _save_report(
    workspace: Workspace, bundled: BundledReport, numbers: Mapping[str, int], replaces: KeptReport | None, now: datetime
) -> None:
    """Save a report that was brought in. It is written to no file of somebody else's choice; one that replaces another
    one has its files and its address."""
    report = bundled.report.renumbered(
        {number: numbers.get(name.lower(), 0) for number, name in bundled.queries.items()}
    )
    if replaces is None:
        free = workspace.reports.at(report.address) is None
        workspace.reports.add(report.model_copy(update={"files": [], "address": report.address if free else ""}), now)
        return
    old = replaces.report
    own = {"title": old.title, "files": old.files, "address": old.address}
    workspace.reports.save(replaces.id, report.model_copy(update=own), now, replaces.version)
