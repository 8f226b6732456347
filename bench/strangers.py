"""Made-up APIs that are met from their docs' example alone: how many tables are right, and how many silently short."""

from __future__ import annotations

import tempfile
from collections import Counter
from pathlib import Path
from statistics import median

from tests.strangers.judge import Verdict, judge
from tests.strangers.service import Strangers
from tests.strangers.style import make_style
from tests.web.conftest import client_of
from tin_bucket.demo.running import Running
from tin_bucket.store.workspace import Workspace

KINDS = ("right", "unsure", "told", "false alarm", "silent", "failed")


def strangers_met(seeds: int) -> list[Verdict]:
    """What became of each."""
    found = []
    with tempfile.TemporaryDirectory() as name, Running(Strangers().app()) as service:
        workspace = Workspace(Path(name) / "w", create=True)
        with client_of(workspace) as client:
            for seed in range(seeds):
                found.append(judge(client, service.base, make_style(seed)))
        workspace.close()
    return found


def table_of(found: list[Verdict]) -> list[str]:
    """The lines of a table: a way of turning pages, and how many tables of it ended in which way."""
    by_way: dict[str, list[Verdict]] = {}
    for one in found:
        by_way.setdefault(one.way, []).append(one)
    lines = [f"{'pages by':<14}{'APIs':>6}" + "".join(f"{kind:>13}" for kind in KINDS) + f"{'calls':>14}"]
    for way, some in [*sorted(by_way.items()), ("all", found)]:
        counts = Counter(one.kind for one in some)
        calls = [one.asked for one in some]
        spent = f"{median(calls):.0f}, {max(calls)} at most"
        lines.append(f"{way:<14}{len(some):>6}" + "".join(f"{counts[kind]:>13}" for kind in KINDS) + f"{spent:>14}")
    return lines


def told_apart(found: list[Verdict]) -> tuple[int, int]:
    """How many can be told at all by one answer and six calls, and how many of those are right."""
    tellable = [one for one in found if make_style(one.seed).tellable]
    return len(tellable), sum(one.kind == "right" for one in tellable)
