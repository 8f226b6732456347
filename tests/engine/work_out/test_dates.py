"""Lines at any date: with what other tables were on that date, and as tables are kept, compared and handed on."""

import json
from datetime import timedelta

import pytest

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.interchange.spreadsheet import SheetSettings
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tables.browse import Look, TableAt
from tin_bucket.engine.tables.row_choice import RowChoice
from tin_bucket.engine.tables.sides import two_dates
from tin_bucket.engine.tables.worked_provenance import origin_of

SAILINGS = [
    [
        {"id": "S1", "port": "001", "delay": 0},
        {"id": "S2", "port": "002", "delay": 30},
        {"id": "S3", "port": "003", "delay": 5},
    ],
    [
        {"id": "S1", "port": "001", "delay": 12},
        {"id": "S2", "port": "002", "delay": 31},
        {"id": "S4", "port": "001", "delay": None},
    ],
]
PORTS = [
    [{"code": "001", "name": "Skerrywick"}, {"code": "002", "name": "Old Quay"}],
    [{"code": "001", "name": "Skerrywick"}, {"code": "002", "name": "New Quay"}],
]
LATE = {
    "do": "label", "name": "late", "column": "delay", "cases": [{"test": "above", "value": 10, "label": "late"}],
    "otherwise": "on time",
}  # fmt: skip
PORT = {
    "do": "bring", "table": {"query": "Ports"}, "match": [{"theirs": "code", "ours": "port"}],
    "columns": [{"column": "name", "name": "port name"}],
}  # fmt: skip
COUNT = {"do": "count", "by": ["late"], "figures": [{"of": "rows", "name": "sailings"}]}


@pytest.fixture
def two_days(workspace, awkward, refresh):
    """Sailings and ports, refreshed on two days."""
    workspace.services.save(Service(id="awkward", name="Awkward", base=awkward.base))
    ids = {}
    for name, path, match in (("Sailings", "/sailings", ["id"]), ("Ports", "/ports", ["code"])):
        brief = {"name": name, "ask": {"service": "awkward", "path": path}, "keep": {"match": match}}
        ids[name] = workspace.queries.add(load_brief({**brief, "take": {"records": "$.rows[*]"}}), NOON).id
    for day in (0, 1):
        for path, days in (("/sailings", SAILINGS), ("/ports", PORTS)):
            body = json.dumps({"rows": days[day]}).encode()
            awkward.answers[path] = (200, {"Content-Type": "application/json"}, body)
        moment = NOON + timedelta(days=day)
        refresh(ids["Ports"], moment)
        refresh(ids["Sailings"], moment + timedelta(minutes=5))
    return ids


@pytest.fixture
def engine(workspace):
    return Engine(workspace, SetClock(NOON + timedelta(days=2)))


def with_lines(workspace, query_id, *lines):
    """Save a query with lines."""
    query = workspace.queries.get(query_id)
    brief = load_brief({**query.brief.model_dump(by_alias=True, mode="json"), "work_out": list(lines)})
    return workspace.queries.save(query_id, brief, NOON)


def read(engine, workspace, snapshot, lines):
    source = engine.tables.source(TableAt(snapshot.id, lines=lines))
    return [column.name for column in source.columns], source.window(0, 100)


def test_a_line_of_today_reads_every_date_with_the_other_table_of_that_date(workspace, two_days, engine):
    with_lines(workspace, two_days["Sailings"], LATE, PORT)
    lines = workspace.queries.get(two_days["Sailings"]).brief.work_out
    old, new = workspace.snapshots.of_query(two_days["Sailings"])
    assert [row[3:] for row in read(engine, workspace, old, lines)[1]] == [
        ("on time", "Skerrywick"), ("late", "Old Quay"), ("on time", _none(engine, old, lines)),
    ]  # fmt: skip
    assert [row[3:] for row in read(engine, workspace, new, lines)[1]] == [
        ("late", "Skerrywick"), ("late", "New Quay"), (None, "Skerrywick"),
    ]  # fmt: skip
    # A look changed nothing that is stored.
    assert [column.name for column in old.columns] == ["id", "port", "delay"]


def _none(engine, snapshot, lines):
    cell = engine.tables.source(TableAt(snapshot.id, lines=lines)).window(2, 1)[0][4]
    assert cell.words == "no match"
    return cell


def test_the_past_read_anew_is_the_past_that_was_worked_out_when_it_was_kept(workspace, two_days, engine, refresh):
    with_lines(workspace, two_days["Sailings"], LATE, PORT, COUNT)
    lines = workspace.queries.get(two_days["Sailings"]).brief.work_out
    newest = workspace.snapshots.latest(two_days["Sailings"])
    then = read(Engine(workspace, SetClock(NOON + timedelta(days=1))), workspace, newest, lines)
    for day in (2, 3):
        refresh(two_days["Ports"], NOON + timedelta(days=day))
        refresh(two_days["Sailings"], NOON + timedelta(days=day, minutes=5))
    fresh = Engine(workspace, SetClock(NOON + timedelta(days=9)))
    assert read(fresh, workspace, newest, lines) == then


def test_a_comparison_is_of_what_today_s_lines_make_of_both_dates(workspace, two_days, engine):
    with_lines(workspace, two_days["Sailings"], LATE, COUNT)
    old, new = workspace.snapshots.of_query(two_days["Sailings"])
    found = engine.comparisons.compare(two_dates(old.id, new.id, "today")).found
    merged, _ = engine.comparisons.window(two_dates(old.id, new.id, "today"), RowChoice("all"), 0, 10)
    assert [(row.state, row.then, row.now) for row in merged if row.now != row.then] == [
        ("changed", ("late", 1), ("late", 2)),
        ("gone", ("on time", 2), None),
        ("new", None, (None, 1)),
    ]
    assert found.columns[0].name == "sailings"
    # As they were read then: without a line; and as they were taken, that is the same.
    taken = engine.comparisons.compare(two_dates(old.id, new.id, "taken")).found
    assert engine.comparisons.compare(two_dates(old.id, new.id, "then")).found.counts() == taken.counts()
    assert taken.counts() == {"same": 0, "new": 1, "gone": 1, "changed": 2, "alike": 0}


def test_a_circle_is_refused_in_words(workspace, two_days, engine):
    back = {
        **PORT,
        "table": {"query": "Sailings"},
        "match": [{"theirs": "port", "ours": "code"}],
        "columns": [{"column": "delay"}],
    }
    with_lines(workspace, two_days["Ports"], back)
    query = with_lines(workspace, two_days["Sailings"], PORT)
    newest = workspace.snapshots.latest(query.id)
    done = engine.tables.worked(TableAt(newest.id, lines=query.brief.work_out))[1]
    assert done[0].problem.kind == "circle"
    assert done[0].problem.what == "“Sailings” would be made of itself: “Sailings” → “Ports” → “Sailings”."


def test_a_table_that_is_younger_or_not_there_is_said(workspace, two_days, engine):
    brief = load_brief({"name": "Empty", "ask": {"service": "awkward", "path": "/x"}})
    workspace.queries.add(brief, NOON)
    query = workspace.queries.get(two_days["Sailings"])
    newest = workspace.snapshots.latest(query.id)
    lines = load_brief(
        {**query.brief.model_dump(by_alias=True, mode="json"), "work_out": [{**PORT, "table": {"query": "Empty"}}]}
    ).work_out
    assert engine.tables.worked(TableAt(newest.id, lines=lines))[1][0].problem.what == "“Empty” has no table yet."
    lines = load_brief(
        {**query.brief.model_dump(by_alias=True, mode="json"), "work_out": [{**PORT, "table": {"query": "Gone"}}]}
    ).work_out
    assert engine.tables.worked(TableAt(newest.id, lines=lines))[1][0].problem.kind == "query-unknown"
    ports = workspace.snapshots.of_query(two_days["Ports"])[0]
    back = {
        "do": "bring",
        "table": {"query": "Sailings"},
        "match": [{"theirs": "port", "ours": "code"}],
        "columns": [{"column": "id"}],
    }
    lines = load_brief({**query.brief.model_dump(by_alias=True, mode="json"), "work_out": [back]}).work_out
    # The ports were taken five minutes before the first sailings.
    problem = engine.tables.worked(TableAt(ports.id, lines=lines))[1][0].problem
    assert "has no snapshot as old as this table; its first one is of 2026-11-25" in problem.what


def test_a_sheet_is_brought_in(workspace, two_days, engine):
    body = b"code,region\n001,north\n003,south\n"
    workspace.sheets.save("Regions", "r.csv", SheetSettings(), ["code", "region"], 2, body, NOON)
    line = {
        "do": "bring",
        "table": {"sheet": "Regions"},
        "match": [{"theirs": "code", "ours": "port"}],
        "columns": [{"column": "region"}],
        "rows": "matching",
    }
    query = with_lines(workspace, two_days["Sailings"], line)
    newest = workspace.snapshots.latest(query.id)
    assert [row[3] for row in read(engine, workspace, newest, query.brief.work_out)[1]] == ["north", "north"]
    assert workspace.sheets.used_by("Regions") == ["Sailings"]


def test_names_follow_a_query_that_is_renamed_and_it_is_not_deleted_under_others(workspace, two_days):
    with_lines(workspace, two_days["Sailings"], PORT)
    ports = workspace.queries.get(two_days["Ports"])
    workspace.queries.save(ports.id, ports.brief.model_copy(update={"name": "Harbours"}), NOON)
    assert workspace.queries.get(two_days["Sailings"]).brief.work_out[0].table.query == "Harbours"
    assert workspace.queries.used_by("Harbours") == ["Sailings"]


def test_a_cell_says_which_line_made_it_with_its_values_and_a_brought_in_one_where_it_lies(workspace, two_days, engine):
    query = with_lines(workspace, two_days["Sailings"], LATE, PORT)
    newest = workspace.snapshots.latest(query.id)
    at = TableAt(newest.id, lines=query.brief.work_out)
    late = origin_of(workspace, engine.tables, at, 1, 3)
    assert (late.value, late.worked.line, late.worked.sentence) == (
        "late",
        1,
        "late is “late” when delay is above 10, otherwise “on time”",
    )
    assert "31 > 10 THEN 'late'" in late.worked.expression
    assert [(one.name, one.value) for one in late.worked.inputs] == [("delay", 31)]
    port = origin_of(workspace, engine.tables, at, 1, 4)
    ports = workspace.snapshots.of_query(two_days["Ports"])[1]
    assert (port.value, port.snapshot, port.row, port.column) == ("New Quay", ports.id, 1, 1)
    assert port.through == ["Ports of 2026-11-26, row 2"]
    plain = origin_of(workspace, engine.tables, at, 2, 0)
    assert (plain.snapshot, plain.row, plain.column, plain.worked) == (newest.id, 2, 0, None)


def test_a_figure_leads_to_its_rows_and_dropped_rows_can_be_looked_at(workspace, two_days, engine):
    keep = {"do": "keep", "where": [{"column": "delay", "test": "filled"}]}
    query = with_lines(workspace, two_days["Sailings"], keep, LATE, COUNT)
    newest = workspace.snapshots.latest(query.id)
    lines = query.brief.work_out
    figure = origin_of(workspace, engine.tables, TableAt(newest.id, lines=lines), 0, 1)
    assert (figure.value, figure.worked.behind) == (2, 2)
    behind = engine.tables.source(TableAt(newest.id, lines=lines, look=Look(3, "behind", 0)))
    assert [row[0] for row in behind.window(0, 10)] == ["S1", "S2"]
    dropped = engine.tables.source(TableAt(newest.id, lines=lines, look=Look(1, "dropped")))
    assert [row[0] for row in dropped.window(0, 10)] == ["S4"]
    # A cell of these is a cell of the table before the line.
    assert origin_of(workspace, engine.tables, TableAt(newest.id, lines=lines, look=Look(1, "dropped")), 0, 0).row == 2
