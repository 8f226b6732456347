"""Made-up APIs that are met from their docs' example alone: how many tables are right, and how many silently short."""

from __future__ import annotations

import tempfile
from collections import Counter
from pathlib import Path

from tests.strangers.judge import judge
from tests.strangers.service import Strangers
from tests.strangers.style import make_style
from tests.web.conftest import client_of
from tin_bucket.demo.running import Running
from tin_bucket.store.workspace import Workspace


def strangers_met(seeds: int) -> tuple[dict[str, Counter[str]], int]:
    """Way of turning pages → how its tables compare with the truth; and how many calls were made in all."""
    found: dict[str, Counter[str]] = {}
    app = Strangers()
    with tempfile.TemporaryDirectory() as name, Running(app.app()) as service:
        workspace = Workspace(Path(name) / "w", create=True)
        with client_of(workspace) as client:
            for seed in range(seeds):
                verdict = judge(client, service.base, make_style(seed))
                found.setdefault(verdict.way, Counter())[verdict.kind] += 1
        workspace.close()
    return found, app.asked.total()
