"""Meets a made-up API as somebody would: the docs' example is pasted, the first proposals are accepted, the query is
refreshed; then the table is held against the truth."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from .style import Style


@dataclass(frozen=True, slots=True)
class Verdict:
    """How a table compares with the truth.

    Attributes:
        kind: ``right``; ``told`` short, and said to be; ``false alarm`` when all of it is here and said not to be;
            ``silent`` when it is short or too long, and said to be complete; ``failed`` when there is no table.
    """

    seed: int
    way: str
    kind: str
    rows: int
    truth: int
    words: str


def judge(client: Any, base: str, style: Style) -> Verdict:
    """Meet one API.

    Args:
        client: of the application, with access.
        base: where the APIs are served.
    """
    address = f"{base}/{style.seed}/sailings" + (f"?{urlencode(style.example)}" if style.example else "")
    pasted = client.post("/api/paste", json={"text": address}).json()
    pasted["brief"]["name"] = f"stranger {style.seed}"
    service = {"id": "new", "name": f"Stranger {style.seed}", "base": f"{base}/{style.seed}", "key": None}
    pasted["brief"]["ask"]["path"] = "/sailings"
    begun = client.post("/api/begin", json={"brief": pasted["brief"], "service": service, "held": None})
    assert begun.status_code == 201, begun.text
    detail = begun.json()
    brief = detail["brief"]
    preview = client.post("/api/ask-once", json={"brief": brief}).json()
    if preview["records_guesses"] and preview["records_guesses"][0]["path"] != "$":
        brief["take"]["records"] = preview["records_guesses"][0]["path"]
        preview = client.post("/api/ask-once", json={"brief": brief}).json()
    if preview["pagination_guesses"]:
        brief["pages"] = preview["pagination_guesses"][0]["pages"]
    saved = client.put(f"/api/queries/{detail['id']}", json={"brief": brief, "based_on": detail["brief_id"]})
    assert saved.status_code == 200, saved.text
    run_id = client.post(f"/api/queries/{detail['id']}/refresh", json={"values": {}}).json()["run_id"]
    with client.stream("GET", f"/api/runs/{run_id}/events") as events:
        list(events.iter_lines())
    run = client.get(f"/api/runs/{run_id}").json()
    return _verdict(client, style, run)


def _verdict(client: Any, style: Style, run: dict[str, Any]) -> Verdict:
    if run["snapshot_id"] is None:
        words = run["problem"]["what"] if run["problem"] else run["state"]
        return Verdict(style.seed, style.name, "failed", 0, style.rows, words)
    table = client.get(f"/api/snapshots/{run['snapshot_id']}/rows?count=2000").json()["rows"]
    truth = {json.dumps(row["id"]) for row in style.all_rows()}
    columns = [one["name"] for one in client.get(f"/api/snapshots/{run['snapshot_id']}/columns").json()]
    at = columns.index("id") if "id" in columns else None
    here = [json.dumps(row[at]) for row in table] if at is not None else []
    whole = set(here) == truth and len(here) == len(truth)
    complete = run["state"] == "complete"
    kind = "right" if whole and complete else "false alarm" if whole else "silent" if complete else "told"
    words = "; ".join(run["report"]["gaps"]) or (run["stop"] or "")
    return Verdict(style.seed, style.name, kind, len(here), style.rows, words)
