"""Answers as trees: the children of a node, a search, the text as it came."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from fastapi import APIRouter

from tin_bucket.core.analysis.provenance import at_place, place_of_pointer
from tin_bucket.core.detect.tree import Node, children, node, search
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.core.response.classify import read_document
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.response.response import Answer
from tin_bucket.engine.preview.preview import Preview
from tin_bucket.web.cells import json_response, shown
from tin_bucket.web.context import Context, Here
from tin_bucket.web.models.answers import AnswerText, FoundNode, NodeInfo, NodesOut, SearchOut

router = APIRouter(prefix="/api")
MOST_CHILDREN = 1_000
MOST_FOUND = 500
TEXT_PART = 200_000  # Characters of an answer's text that are sent together.


@router.get("/previews/{number}/answers/{index}/nodes", response_model=NodesOut)
def preview_nodes(here: Here, number: int, index: int, pointer: str = "", start: int = 0, count: int = 200) -> Any:
    """Some children of a node of one of a preview's answers."""
    return _nodes(_preview_document(here, number, index), pointer, start, count)


@router.get("/previews/{number}/answers/{index}/search", response_model=SearchOut)
def preview_search(here: Here, number: int, index: int, text: str) -> Any:
    """The nodes of one of a preview's answers whose name or value has a text in it."""
    return _search(_preview_document(here, number, index), text)


@router.get("/previews/{number}/answers/{index}/text")
def preview_text(here: Here, number: int, index: int, start: int = 0) -> AnswerText:
    """A part of the text of one of a preview's answers."""
    return _text(_preview(here, number, index).answers[index].answer.body, start)


@router.get("/runs/{run_id}/calls/{number}/nodes", response_model=NodesOut)
def run_nodes(here: Here, run_id: int, number: int, pointer: str = "", start: int = 0, count: int = 200) -> Any:
    """Some children of a node of a saved answer."""
    return _nodes(_run_document(here, run_id, number), pointer, start, count)


@router.get("/runs/{run_id}/calls/{number}/search", response_model=SearchOut)
def run_search(here: Here, run_id: int, number: int, text: str) -> Any:
    """The nodes of a saved answer whose name or value has a text in it."""
    return _search(_run_document(here, run_id, number), text)


@router.get("/runs/{run_id}/calls/{number}/text")
def run_text(here: Here, run_id: int, number: int, start: int = 0) -> AnswerText:
    """A part of the text of a saved answer."""
    return _text(here.workspace.archive.body(run_id, number), start)


def _preview(here: Context, number: int, index: int) -> Preview:
    preview = here.engine.previews.get(number)
    if preview is None or not 0 <= index < len(preview.answers):
        raise fail("preview-gone", "This answer is no longer kept.", where=f"preview {number}", do="Ask once again.")
    return preview


def _preview_document(here: Context, number: int, index: int) -> Any:
    preview = _preview(here, number, index)
    error_rules = here.engine.rereader.error_rules(preview.brief)
    return _document(here, preview.answers, index, lambda: preview.answers[index].answer, error_rules)


def _run_document(here: Context, run_id: int, number: int) -> Any:
    return _document(
        here, ("run", run_id), number, lambda: Answer(200, {}, here.workspace.archive.body(run_id, number))
    )


def _document(
    here: Context, owner: Any, index: int, load: Callable[[], Answer], error_rules: Sequence[ErrorRule] = ()
) -> Any:
    """The parsed answer, also of one that says that something is wrong.

    Raises:
        ProblemError: it is no JSON, or not kept any longer.
    """
    verdict = here.engine.rereader.documents.classified(owner, index, load, error_rules)
    if verdict.problem is None:
        return verdict.document
    answer = load()
    if not answer.body:
        raise ProblemError(verdict.problem)
    try:
        return read_document(answer)[0]
    except ProblemError:
        raise ProblemError(Problem("not-json", "This answer is no JSON.", "answer", "Look at its text.")) from None


def _nodes(document: Any, pointer: str, start: int, count: int) -> Any:
    try:
        where = place_of_pointer(document, pointer)
    except ValueError as error:
        raise fail(
            "pointer-unreadable", f"{error}.".capitalize(), where=pointer[:200], do="Write it as /data/0/name."
        ) from error
    if where is None:
        raise fail(
            "nothing-there", "There is nothing at this place in the answer.", where=pointer[:200],
            do="Choose a place in the tree.",
        )  # fmt: skip
    value = at_place(document, where)
    own = node(where[-1] if where else None, value)
    some = children(value, max(0, start), max(0, min(count, MOST_CHILDREN)))
    return json_response({"node": _shown(own), "start": start, "children": [_shown(one) for one in some]})


def _shown(one: Node) -> dict[str, Any]:
    told = NodeInfo(
        name=shown(one.name) if isinstance(one.name, str) else one.name,
        kind=one.kind,
        size=one.size,
        text=shown(one.text),
    )
    return told.model_dump()


def _search(document: Any, text: str) -> Any:
    found, total = search(document, text, MOST_FOUND)
    out = []
    for where, what in found:
        value = at_place(document, where)
        plain = value if isinstance(value, str) else "" if isinstance(value, dict | list) else json_text(value)
        steps = [shown(step) if isinstance(step, str) else step for step in where]
        out.append(FoundNode(steps=steps, what=what, text=shown(plain[:300])).model_dump())
    return json_response({"total": total, "found": out})


def _text(body: bytes, start: int) -> AnswerText:
    text = body.decode("utf-8", "replace")
    return AnswerText(text=text[start : start + TEXT_PART], size=len(body), more=len(text) > start + TEXT_PART)
