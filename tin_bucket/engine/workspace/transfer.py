"""Taking services and queries out of a workspace as a document, and bringing them in: all of it, or nothing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from datetime import datetime
from typing import Any

from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.references import queries_named
from tin_bucket.core.interchange.bundle import Bundle, ImportChoice, ImportPlan, load_bundle, make_bundle, plan_import
from tin_bucket.core.masking.looks import hidden
from tin_bucket.core.problem import ProblemError
from tin_bucket.store.workspace import Workspace


def export_bundle(workspace: Workspace, names: Sequence[str] | None, now: datetime) -> Bundle:
    """Put queries, those whose tables they read, and their services into a bundle; without names, everything.

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
    return make_bundle(services, briefs, now.isoformat(timespec="seconds"), secrets)


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
    return import_plan
