"""The practice services: what to try where there is no API at hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

from fastapi import APIRouter

from tin_bucket.core.problem import fail
from tin_bucket.demo.practice import Example
from tin_bucket.web.context import Context, Here
from tin_bucket.web.models.practice import ExampleInfo, PracticeInfo

router = APIRouter(prefix="/api")


@router.get("/practice")
def practice(here: Here) -> PracticeInfo:
    """Whether the practice services can be had here, and what to try while they run."""
    return _info(here, here.practice.examples())


@router.post("/practice")
def start(here: Here) -> PracticeInfo:
    """Start the practice services."""
    if not _reachable(here):
        raise fail(
            "not-reachable",
            "This server calls public addresses alone, and the practice services run on its own machine.",
            where="practice services",
            do="Paste an address or a command from an API’s docs.",
        )
    return _info(here, here.practice.start())


def _reachable(here: Context) -> bool:
    return here.engine.reach == "own machine"


def _info(here: Context, found: Sequence[Example]) -> PracticeInfo:
    return PracticeInfo(offered=_reachable(here), examples=[ExampleInfo(**asdict(one)) for one in found])
