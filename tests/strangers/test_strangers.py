"""Made-up APIs that nobody here has seen: from the docs' example alone, over real HTTP."""

import pytest

from tests.strangers.judge import judge
from tests.strangers.service import Strangers
from tests.strangers.style import WAYS, make_style
from tests.web.conftest import client_of
from tin_bucket.demo.running import Running
from tin_bucket.store.workspace import Workspace

SEEDS = range(80)


def tells(style):
    """Whether the first answer itself tells that there is more than it holds."""
    if style.rows <= style.size:
        return False
    has_total = style.total is not None and not style.own and bool(style.place)
    has_more = style.more is not None and bool(style.place)
    return has_total or has_more or style.way in ("cursor", "next", "link")


@pytest.fixture(scope="module")
def verdicts(tmp_path_factory):
    workspace = Workspace(tmp_path_factory.mktemp("strangers") / "w", create=True)
    with Running(Strangers().app()) as service, client_of(workspace) as client:
        found = [judge(client, service.base, make_style(seed)) for seed in SEEDS]
    workspace.close()
    return found


def test_a_seed_is_always_the_same_api():
    assert [make_style(seed) for seed in SEEDS] == [make_style(seed) for seed in SEEDS]
    assert {make_style(seed).way for seed in SEEDS} == set(WAYS)
    assert len({repr(make_style(seed)) for seed in SEEDS}) == len(SEEDS)


def test_no_table_is_silently_short_where_the_answer_tells(verdicts):
    silent = [one for one in verdicts if one.kind == "silent"]
    assert [one for one in silent if tells(make_style(one.seed))] == []


def test_no_table_fails_and_none_is_said_to_lack_rows_that_are_here(verdicts):
    assert [one for one in verdicts if one.kind in ("failed", "false alarm")] == []


def test_most_are_right(verdicts):
    right = sum(one.kind == "right" for one in verdicts)
    assert right / len(verdicts) > 0.6, [one for one in verdicts if one.kind != "right"]
