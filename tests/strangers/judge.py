"""Meets a made-up API as somebody would: the docs' example is pasted, the first proposals are accepted, it is found out
whether there is more where nothing tells, the query is refreshed; then the table is held against the truth."""

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
        kind: ``right``: all of it is here, and proved; ``unsure``: all of it is here, and nothing tells; ``told``:
            rows are missing, and that is said or called unverified; ``false alarm``: all of it is here and said not to
            be; ``silent``: it is short or too long, and said to be complete; ``failed``: there is no table.
        asked: how many calls were made to find out.
    """

    seed: int
    way: str
    kind: str
    rows: int
    truth: int
    words: str
    asked: int = 0


def judge(client: Any, base: str, style: Style, find_out: bool = True) -> Verdict:
    """Meet one API.

    Args:
        client: of the application, with access.
        base: where the APIs are served.
        find_out: whether “Is there more?” is used where it is offered.
    """
    begun = _begin(client, base, style)
    assert begun.status_code == 201, begun.text
    detail = begun.json()
    brief, query = detail["brief"], detail["id"]
    preview = client.post("/api/ask-once", json={"brief": brief, "query_id": query}).json()
    rows = next(iter(preview["records_guesses"]), None)
    if rows is not None and rows["path"] != brief["take"]["records"]:
        brief["take"] |= {"records": rows["path"], "heads": rows["heads"], "rows_for": rows["rows_for"]}
        brief["take"]["together"] = "side by side" if len(rows["rows_for"]) > 1 else None
        reread = client.post(f"/api/queries/{query}/reread", json={"brief": brief, "preview": preview["id"]})
        assert reread.status_code == 200, reread.text
        preview = reread.json()
    asked = 0
    guess = next(iter(preview["pagination_guesses"]), None)
    proof = preview["proof"]
    # What is proved to be whole is taken as it is: no way of turning pages is put forward then.
    if guess is not None and (proof is None or proof["state"] != "complete"):
        brief["pages"] = guess["pages"]
    if find_out and proof is not None and proof["state"] != "complete":
        told = client.post(f"/api/previews/{preview['id']}/more", json={"query_id": query, "reads": True})
        assert told.status_code == 200, told.text
        found = told.json()
        asked = len(found["calls"])
        brief["pages"] = found["pages"] or {"by": "none"}
    saved = client.put(f"/api/queries/{query}", json={"brief": brief, "based_on": detail["brief_id"]})
    assert saved.status_code == 200, saved.text
    run_id = client.post(f"/api/queries/{query}/refresh", json={"values": {}}).json()["run_id"]
    with client.stream("GET", f"/api/runs/{run_id}/events") as events:
        list(events.iter_lines())
    return _verdict(client, style, client.get(f"/api/runs/{run_id}").json(), asked)


def _begin(client: Any, base: str, style: Style) -> Any:
    address = f"{base}/{style.seed}/sailings" + (f"?{urlencode(style.example)}" if style.example else "")
    text = address
    if style.body:
        text = f"curl -X POST {base}/{style.seed}/sailings -H 'Content-Type: application/json' -d '{style.body}'"
    pasted = client.post("/api/paste", json={"text": text}).json()
    pasted["brief"]["name"] = f"stranger {style.seed}"
    service = {"id": "new", "name": f"Stranger {style.seed}", "base": f"{base}/{style.seed}", "key": None}
    pasted["brief"]["ask"]["path"] = "/sailings"
    return client.post("/api/begin", json={"brief": pasted["brief"], "service": service, "held": None})


def _verdict(client: Any, style: Style, run: dict[str, Any], asked: int) -> Verdict:
    if run["snapshot_id"] is None:
        words = run["problem"]["what"] if run["problem"] else run["state"]
        return Verdict(style.seed, style.name, "failed", 0, style.rows, words, asked)
    table = client.get(f"/api/snapshots/{run['snapshot_id']}/rows?count=2000").json()["rows"]
    truth = {json.dumps(row["id"]) for row in style.all_rows()}
    columns = [one["name"] for one in client.get(f"/api/snapshots/{run['snapshot_id']}/columns").json()]
    at = columns.index("id") if "id" in columns else None
    here = [json.dumps(row[at]) for row in table] if at is not None else []
    whole = set(here) == truth and len(here) == len(truth)
    state = run["state"]
    if whole:
        kind = {"complete": "right", "unverified": "unsure"}.get(state, "false alarm")
    else:
        kind = "silent" if state == "complete" else "told"
    words = "; ".join(run["report"]["gaps"]) or run["report"]["doubt"] or run["stop"] or ""
    return Verdict(style.seed, style.name, kind, len(here), style.rows, words, asked)
