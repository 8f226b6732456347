"""Made-up APIs that nobody here has seen: from the docs' example alone, over real HTTP."""

import pytest

from tests.strangers.judge import judge
from tests.strangers.service import Strangers
from tests.strangers.style import SHAPES, TRAPS, WAYS, make_style
from tests.web.conftest import client_of
from tin_bucket.demo.running import Running
from tin_bucket.store.workspace import Workspace

SEEDS, PARTS = 128, 8


@pytest.fixture
def verdicts(tmp_path, request):
    seeds = range(request.param, SEEDS, PARTS)
    workspace = Workspace(tmp_path / "w", create=True)
    with Running(Strangers().app()) as service, client_of(workspace) as client:
        found = [judge(client, service.base, make_style(seed)) for seed in seeds]
    workspace.close()
    return found


def test_a_seed_is_always_the_same_api_and_all_kinds_are_met():
    styles = [make_style(seed) for seed in range(1000)]
    assert styles == [make_style(seed) for seed in range(1000)]
    assert len({repr(style) for style in styles}) == 1000
    assert {style.way for style in styles} == set(WAYS)
    assert {style.shape for style in styles} == set(SHAPES)
    assert {style.trap for style in styles} == {"", *TRAPS}


@pytest.mark.parametrize("verdicts", range(PARTS), indirect=True)
def test_no_table_is_silently_short_and_nearly_all_that_can_be_told_are_right(verdicts):
    assert [one for one in verdicts if one.kind == "silent"] == []
    # A larger total always speaks against a table, also where it counts something else.
    alarms = [one for one in verdicts if one.kind == "false alarm"]
    assert [one for one in alarms if make_style(one.seed).trap != "total of all"] == []
    assert max(one.asked for one in verdicts) <= 6
    tellable = [one for one in verdicts if make_style(one.seed).tellable]
    wrong = [one for one in tellable if one.kind != "right"]
    assert len(wrong) <= len(tellable) // 12, wrong
