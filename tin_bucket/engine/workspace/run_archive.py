"""The calls of a run with the keys that they went with, for showing and exporting them; no key's text is here."""

from __future__ import annotations

import json
from contextlib import suppress
from typing import Any

from tin_bucket import __version__
from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.interchange.har import Entry, http_archive
from tin_bucket.core.pagination.protocol import LISTING
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.lookup import lookup_service
from tin_bucket.store.workspace import Workspace


def keys_of_stages(workspace: Workspace, run_id: int) -> dict[str, Key | None]:
    """Stage of a run's calls → the key that its service needs.

    Raises:
        ProblemError: ``run-unknown``.
    """
    brief = load_brief(json.loads(workspace.runs.brief_of(workspace.runs.get(run_id).id)))
    keys: dict[str, Key | None] = {}
    for service_id in brief.services():
        with suppress(ProblemError):
            keys[service_id] = workspace.services.get(service_id).key
    of_stage = {f"look up {one.name}": keys.get(lookup_service(brief, one)) for one in brief.look_up}
    if brief.ask is not None:
        of_stage["pages"] = of_stage[LISTING] = keys.get(brief.ask.service)
    return of_stage


def run_archive(workspace: Workspace, run_id: int) -> dict[str, Any]:
    """The calls of a run as an HTTP Archive.

    Raises:
        ProblemError: ``run-unknown``.
    """
    of_stage = keys_of_stages(workspace, run_id)
    entries = []
    for record in workspace.runs.calls(run_id):
        body = b""
        if record.has_answer:
            with suppress(ProblemError):
                body = workspace.archive.body(run_id, record.number)
        answer = Answer(record.came_as, record.answer_headers, body, record.seconds)
        comments = [record.note, record.problem.what if record.problem is not None else ""]
        comments.append("an earlier run had this answer; no call was made" if record.saved else "")
        comments.append("the saved answer was up to date; its body is shown" if record.came_as == 304 else "")
        comment = " ".join(filter(None, comments))
        call = record.call()
        entries.append(Entry(call, of_stage.get(record.stage), answer, record.sent, comment, record.size))
    return http_archive(entries, __version__)
