"""Drafts: every change is a step, kept as it came; steps go back and forth; no window overwrites another's."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.store.drafts import MOST_STEPS
from tin_bucket.store.workspace import Workspace


@pytest.fixture
def query(workspace):
    workspace.services.save(Service(id="s", name="s", base="http://h"))
    return workspace.queries.add(load_brief({"name": "Ports", "ask": {"service": "s"}}), NOON)


def saved(query):
    return query.brief.model_dump(mode="json", by_alias=True)


def change(workspace, query, name, draft=None, based_on=None, given=(), **parts):
    document = {**(draft.document if draft else saved(query)), **parts}
    version = draft.version if draft else 0
    return workspace.drafts.change(query.id, version, document, name, dict(given), NOON, based_on or query.brief_id)


def test_steps_survive_a_restart_and_are_undone_and_redone_by_name(workspace, query):
    draft = change(workspace, query, "renamed it", note="one")
    draft = change(workspace, query, "noted", draft, note="two", given={"day": "2026-03-01"})
    home = workspace.home
    workspace.close()
    later = Workspace(home)
    draft = later.drafts.get(query.id)
    assert [step.name for step in draft.steps] == ["", "renamed it", "noted"]
    assert (draft.at, draft.document["note"], draft.unsaved, draft.given) == (2, "two", True, {"day": "2026-03-01"})
    draft = later.drafts.move(query.id, draft.version, 0, NOON)
    assert (draft.document["note"], draft.unsaved, len(draft.steps)) == ("", False, 3)
    draft = later.drafts.move(query.id, draft.version, 2, NOON)
    assert (draft.document["note"], draft.unsaved) == ("two", True)
    later.close()


def test_a_change_behind_an_undone_one_takes_its_place(workspace, query):
    draft = change(workspace, query, "one", note="one")
    draft = workspace.drafts.move(query.id, draft.version, 0, NOON)
    draft = change(workspace, query, "two", draft, note="two")
    assert [step.name for step in draft.steps] == ["", "two"]


def test_what_is_not_valid_yet_is_kept_too(workspace, query):
    draft = change(workspace, query, "half of it", parameters=[{"name": "day", "kind": "date", "default": "12024"}])
    assert workspace.drafts.get(query.id).document["parameters"][0]["default"] == "12024"
    assert draft.unsaved


def test_another_window_is_noticed_and_nothing_of_it_is_overwritten(workspace, query):
    mine = change(workspace, query, "mine", note="mine")
    theirs = change(workspace, query, "theirs", mine, note="theirs")
    with pytest.raises(ProblemError) as caught:
        change(workspace, query, "mine again", mine, note="mine again")
    assert caught.value.problem.kind == "draft-changed-meanwhile"
    assert workspace.drafts.get(query.id) == theirs
    # To keep one's own puts it on top: theirs is one step back.
    both = workspace.drafts.change(
        query.id, theirs.version, {**mine.document, "note": "mine again"}, "kept mine", {}, NOON, query.brief_id
    )
    assert [step.name for step in both.steps] == ["", "mine", "theirs", "kept mine"]


def test_saving_leaves_the_steps_and_takes_the_mark_away(workspace, query):
    draft = change(workspace, query, "noted", note="one")
    saved_now = workspace.queries.save(query.id, load_brief(draft.document), NOON, draft.based_on)
    draft = workspace.drafts.get(query.id)
    assert (draft.unsaved, draft.based_on, len(draft.steps)) == (False, saved_now.brief_id, 2)
    draft = workspace.drafts.move(query.id, draft.version, 0, NOON)
    assert draft.unsaved, "what was undone behind a save is a change to what was saved"


def test_a_save_from_elsewhere_does_not_pass_for_this_drafts_own(workspace, query):
    draft = change(workspace, query, "noted", note="one")
    elsewhere = workspace.queries.save(
        query.id, query.brief.model_copy(update={"note": "from elsewhere"}), NOON, query.brief_id
    )
    assert workspace.drafts.get(query.id) == draft
    with pytest.raises(ProblemError) as caught:
        workspace.queries.save(query.id, load_brief(draft.document), NOON, draft.based_on)
    assert caught.value.problem.kind == "brief-changed-meanwhile"
    # Without changes of its own the draft goes on from what was saved, and that is a step.
    undone = workspace.drafts.move(query.id, draft.version, 0, NOON)
    assert not undone.unsaved
    again = workspace.drafts.change(
        query.id, undone.version, {**saved(elsewhere), "note": "more"}, "more", {}, NOON, elsewhere.brief_id
    )
    assert [step.name for step in again.steps] == ["", "saved elsewhere", "more"]


def test_a_renamed_query_is_renamed_in_drafts(workspace, query):
    parameter = {"name": "port", "kind": "choice", "choices_from": {"query": "Ports", "code": "code"}}
    other = workspace.queries.add(load_brief({"name": "Fares", "ask": {"service": "s"}}), NOON)
    draft = change(workspace, other, "choices", parameters=[parameter])
    load_brief(draft.document)
    workspace.queries.save(query.id, query.brief.model_copy(update={"name": "Harbours"}), NOON)
    assert workspace.drafts.get(other.id).document["parameters"][0]["choices_from"]["query"] == "Harbours"


def test_the_oldest_steps_go_and_a_deleted_query_leaves_none(workspace, query):
    draft = None
    for number in range(MOST_STEPS + 5):
        draft = change(workspace, query, f"step {number}", draft, note=str(number))
    assert len(draft.steps) == MOST_STEPS
    with pytest.raises(ProblemError):
        workspace.drafts.move(query.id, draft.version, 0, NOON)
    workspace.queries.delete(query.id)
    assert workspace.drafts.get(query.id) is None
    with workspace.read() as db:
        assert db.execute("SELECT count(*) FROM draft_step").fetchone()[0] == 0


@settings(max_examples=25, deadline=None)
@given(st.lists(st.one_of(st.integers(0, 3), st.sampled_from(["undo", "redo"])), max_size=25))
def test_undo_and_redo_are_a_walk_along_the_states(tmp_path_factory, actions):
    """The law: what a list of states and a place in it say is what the draft says."""
    workspace = Workspace(tmp_path_factory.mktemp("walk"), create=True)
    workspace.services.save(Service(id="s", name="s", base="http://h"))
    query = workspace.queries.add(load_brief({"name": "Ports", "ask": {"service": "s"}}), NOON)
    states, at, draft = [""], 0, None
    for action in actions:
        if isinstance(action, int):
            if str(action) != states[at]:
                states, at = [*states[: at + 1], str(action)], at + 1
            draft = change(workspace, query, "step", draft, note=str(action))
        elif draft is not None:
            wanted = at + (1 if action == "redo" else -1)
            if 0 <= wanted < len(states):
                at = wanted
                draft = workspace.drafts.move(query.id, draft.version, at, NOON)
    if draft is not None:
        assert (draft.at, draft.document["note"], len(draft.steps)) == (at, states[at], len(states))
        assert draft.unsaved == (states[at] != "")
    workspace.close()
