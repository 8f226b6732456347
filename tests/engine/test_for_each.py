"""One question for many values, and rows that come from sheets."""

import io
import json

import openpyxl
import pytest

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.interchange.spreadsheet import SheetSettings
from tin_bucket.core.interchange.workbook import read_sheet
from tin_bucket.core.problem import ProblemError

JSON = {"Content-Type": "application/json"}
OPERATIONS = "skerrywick-operations"
CSV = "code;note\n007;first\n901;temporary\n000;\n"
# An OpenDocument sheet, as small as one can be.
ODS_CONTENT = (
    '<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"'
    ' xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"'
    ' xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" office:version="1.2"><office:body>'
    '<office:spreadsheet><table:table table:name="Ports">'
    "<table:table-row>{0}{1}</table:table-row><table:table-row>{2}{3}</table:table-row>"
    "</table:table></office:spreadsheet></office:body></office:document-content>"
)


def ods():
    import zipfile

    def cell(text):
        return f'<table:table-cell office:value-type="string"><text:p>{text}</text:p></table:table-cell>'

    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("content.xml", ODS_CONTENT.format(cell("code"), cell("name"), cell("007"), cell("Oxnith")))
        archive.writestr(
            "META-INF/manifest.xml",
            '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
            '<manifest:file-entry manifest:full-path="/"'
            ' manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/></manifest:manifest>',
        )
    return file.getvalue()


def xlsx():
    book = openpyxl.Workbook()
    book.active.append(["code", "berths", "day"])
    book.active.append(["007", 2, NOON.replace(tzinfo=None)])
    book.create_sheet("Other").append(["x"])
    book["Other"].append([1.5])
    file = io.BytesIO()
    book.save(file)
    return file.getvalue()


def add(workspace, **document):
    return workspace.queries.add(load_brief({"name": "q", **document}), NOON)


def table_of(workspace, run):
    snapshot = workspace.snapshots.get(run.snapshot_id)
    names = [column.name for column in snapshot.columns]
    return [dict(zip(names, row, strict=True)) for row in workspace.snapshots.all_rows(snapshot.id)]


def keep(workspace, name, file, data, **settings):
    settings = SheetSettings(**settings)
    table = read_sheet(file, data, settings)
    workspace.sheets.save(name, file, settings, table.headings, len(table.records), data, NOON)


def port_query(workspace, each, **more):
    return add(
        workspace,
        parameters=[{"name": "code", "kind": "text"}],
        ask={"service": OPERATIONS, "path": "/ports/{code}"},
        take={"records": "$"},
        each=each,
        **more,
    )


def test_a_value_that_is_not_there_is_no_failure(workspace, desk, operations, refresh):
    query = port_query(workspace, [{"by": "list", "parameter": "code", "values": ["007", "999", "000", "007"]}])
    run = refresh(query.id)
    assert run.iterations == [{"code": "007"}, {"code": "999"}, {"code": "000"}]
    assert operations.calls == 3
    assert run.state == "complete", "asking again would bring nothing else"
    assert (run.report.gaps, run.report.failed_iterations) == ([], [])
    assert (run.report.iterations_missing, run.report.missing_iterations) == (1, ["999"])
    assert "1 value is not there, by the service’s own answer: 999." in run.report.oddities
    rows = table_of(workspace, run)
    assert [(row["code asked for"], row["code"], row["name"]) for row in rows] == [
        ("007", "007", "Oxnith"), ("000", "000", "Harl Sound"),
    ]  # fmt: skip
    calls = workspace.runs.calls(run.id)
    assert sorted((call.iteration, call.used, call.label) for call in calls) == [
        (0, True, "007"), (1, False, "999"), (2, True, "000"),
    ]  # fmt: skip


def test_a_value_that_fails_does_not_lose_the_others(workspace, awkward, refresh):
    """What could be asked for again makes the table incomplete; values that are all unknown are a wrong address."""
    from tin_bucket.core.document.service import Service

    answers = {"a": (200, {"id": "a"}), "b": (500, {"error": "out of ink"}), "c": (404, {})}
    for value, (status, document) in answers.items():
        awkward.answers[f"/d/{value}"] = (status, JSON, json.dumps(document).encode())
    workspace.services.save(Service(id="own", name="Own", base=awkward.base, tries=1))

    def asked(name, *values):
        query = add(
            workspace,
            parameters=[{"name": "v", "kind": "text"}],
            ask={"service": "own", "path": "/d/{v}"},
            take={"records": "$"},
            each=[{"by": "list", "parameter": "v", "values": list(values)}],
        )
        workspace.queries.save(query.id, query.brief.model_copy(update={"name": name}), NOON)
        return refresh(query.id)

    run = asked("some", "a", "b", "c")
    assert (run.state, run.report.gaps) == ("incomplete", ["1 of 3 values has failed"])
    assert ([one.label for one in run.report.failed_iterations], run.report.missing_iterations) == (["b"], ["c"])
    awkward.answers["/d/e"] = (404, JSON, b"{}")
    run = asked("none", "c", "e")
    assert (run.state, run.snapshot_id, run.problem.kind) == ("failed", None, "not-found")


def test_details_that_all_fail_leave_no_empty_snapshot_and_ids_without_a_row_are_told(workspace, awkward, refresh):
    from aiohttp import web

    from tin_bucket.core.document.service import Service

    async def details(request):
        if fails:
            return web.json_response({"error": "no"}, status=500)
        return web.json_response([{"id": one} for one in request.query["ids"].split(",") if one != "4"])

    fails = True
    awkward.answers["/list"] = (200, JSON, json.dumps([{"id": n} for n in range(1, 11)]).encode())
    awkward.answers["/details"] = details
    workspace.services.save(Service(id="own", name="Own", base=awkward.base, tries=1))
    query = add(
        workspace,
        ask={"service": "own", "path": "/list"},
        pages={"by": "ids", "ids": "$[*].id", "path": "/details?ids={id}", "batch": 2},
        take={"records": "$[*]"},
    )
    run = refresh(query.id)
    assert (run.state, run.snapshot_id) == ("failed", None)
    assert run.problem.what.startswith("All 5 calls for rows failed; the first:")
    fails = False
    run = refresh(query.id)
    assert (run.state, run.rows) == ("unverified", 9)
    assert "1 of them brought no row" in run.report.doubt


def test_a_round_that_fails_on_its_second_page_keeps_its_first_and_cells_still_know_their_calls(
    workspace, awkward, refresh
):
    from aiohttp import web

    from tin_bucket.core.document.service import Service
    from tin_bucket.engine.engine import Engine
    from tin_bucket.engine.tables.provenance import trace_snapshot

    async def pages(request):
        value, page = request.query["v"], int(request.query["page"])
        if value == "b" and page == 2:
            return web.json_response({"error": "out of ink"}, status=500)
        if value == "c":
            return web.json_response({"other": []})
        return web.json_response({"pages": 2, "rows": [{"id": f"{value}{page}"}] if page <= 2 else []})

    awkward.answers["/d"] = pages
    workspace.services.save(Service(id="own", name="Own", base=awkward.base))
    query = add(
        workspace,
        parameters=[{"name": "v", "kind": "text"}],
        ask={"service": "own", "path": "/d", "query": [{"name": "v", "value": "{v}"}]},
        each=[{"by": "list", "parameter": "v", "values": ["a", "b", "c", "d"]}],
        pages={"by": "number", "last_page": "$.pages"},
        take={"records": "$.rows[*]"},
    )
    run = refresh(query.id)
    rows = [(row["v"], row["id"]) for row in table_of(workspace, run)]
    assert rows == [("a", "a1"), ("a", "a2"), ("b", "b1"), ("d", "d1"), ("d", "d2")]
    assert {one.label: one.words for one in run.report.failed_iterations} == {"c": ""}
    assert [one.words for one in run.report.failed_pages] == ["out of ink"]
    assert run.state == "incomplete"
    assert run.report.gaps == [
        "3 of 4 values reached the last page; 1 of them is incomplete, the first because "
        "1 page has failed (the API states 2 pages)",
        "for 1 of 4 values the answer has nothing where the rows are taken from",
    ]
    for row, (value, _) in enumerate(rows):
        assert f"v={value}&" in trace_snapshot(workspace, run.snapshot_id, row, 1).address
    # Read anew from saved answers, it is the same table.
    engine = Engine(workspace)
    preview = engine.previews.get(engine.reread(query.id, query.brief))
    assert preview.replay.table.rows(0, 9) == rows


def test_when_every_value_fails_the_run_has_failed(workspace, desk, refresh):
    run = refresh(port_query(workspace, [{"by": "list", "parameter": "code", "values": ["998", "999"]}]).id)
    assert (run.state, run.problem.kind) == ("failed", "not-found")
    assert "All 2 values failed" in run.problem.what


def test_each_of_a_column_of_another_table(workspace, desk, refresh):
    refresh(desk["Fleet today"].id)
    query = port_query(workspace, [{"by": "column", "parameter": "code", "query": "Fleet today", "column": "at"}])
    rows = table_of(workspace, refresh(query.id))
    at = {row["at"] for row in table_of(workspace, workspace.runs.latest(desk["Fleet today"].id)[0])}
    assert {row["code"] for row in rows} == at - {"901", "904"}
    # The table that is read can be named anew, and is not lost by mistake.
    brief = desk["Fleet today"].brief.model_copy(update={"name": "Fleet"})
    workspace.queries.save(desk["Fleet today"].id, brief, NOON)
    assert workspace.queries.get(query.id).brief.each[0].query == "Fleet"
    with pytest.raises(ProblemError, match="read by these queries: q"):
        workspace.queries.delete(desk["Fleet today"].id)


def test_each_row_of_a_sheet_with_several_values(workspace, awkward, refresh):
    from tin_bucket.core.document.service import Service

    async def echo(request):
        from aiohttp import web

        return web.json_response({"got": request.query_string})

    awkward.answers["/d"] = echo
    workspace.services.save(Service(id="own", name="Own", base=awkward.base))
    keep(workspace, "wanted", "wanted.csv", b"route,day\na,2026-11-01\nb,2026-11-02\n,2026-11-03\n")
    query = add(
        workspace,
        parameters=[{"name": "r", "kind": "text"}, {"name": "d", "kind": "date", "format": "%d.%m.%Y"}],
        ask={
            "service": "own",
            "path": "/d",
            "query": [{"name": "r", "value": "{r}"}, {"name": "d", "value": "{d}"}],
        },
        each=[{"by": "sheet", "sheet": "wanted", "with": {"r": "route", "d": "day"}}],
    )
    rows = table_of(workspace, refresh(query.id))
    assert rows == [
        {"r": "a", "d": "2026-11-01", "got": "r=a&d=01.11.2026"},
        {"r": "b", "d": "2026-11-02", "got": "r=b&d=02.11.2026"},
    ]
    with pytest.raises(ProblemError, match="read by these queries"):
        workspace.sheets.delete("wanted")


def test_a_list_parameter_is_asked_one_value_at_a_time(workspace, desk, refresh):
    query = add(
        workspace,
        parameters=[{"name": "code", "kind": "text", "many": True, "default": ["007", "010"]}],
        ask={"service": OPERATIONS, "path": "/ports/{code}"},
        each=[{"by": "parameter", "parameter": "code"}],
    )
    assert len(table_of(workspace, refresh(query.id))) == 2
    assert len(table_of(workspace, refresh(query.id, code=["000", "015", "021"]))) == 3


@pytest.mark.parametrize(
    ("each", "word"),
    [
        ([{"by": "list", "parameter": "nix", "values": ["1"]}], "code"),
        ([{"by": "list", "parameter": "code", "values": [" "]}], "no value to ask for"),
        ([{"by": "list", "parameter": "code", "values": ["1"]}] * 2, "twice"),
        ([{"by": "column", "parameter": "code", "query": "Ports", "column": "code"}], "no table yet"),
        ([{"by": "column", "parameter": "code", "query": "Nope", "column": "code"}], "no query"),
        ([{"by": "sheet", "sheet": "gone", "with": {"code": "x"}}], "no sheet"),
        ([{"by": "range", "parameter": "code", "start": "2026-11-02", "end": "2026-11-01"}], "before it starts"),
    ],
)
def test_values_that_cannot_be_asked_for_are_said_before_any_call(workspace, desk, operations, refresh, each, word):
    query = port_query(workspace, each)
    with pytest.raises(ProblemError, match=word):
        refresh(query.id)
    assert operations.calls == 0
    assert workspace.runs.latest(query.id) == []


def test_a_sheet_is_a_query_with_lookups_like_any_other(workspace, desk, refresh):
    keep(workspace, "berths", "berths.csv", CSV.encode())
    query = add(
        workspace,
        sheet={"sheet": "berths"},
        take={"records": "$[*]"},
        look_up=[
            {
                "name": "port",
                "service": OPERATIONS,
                "path": "/ports/{code}",
                "with": {"code": "code"},
                "take": [{"place": "$.name", "name": "name"}],
            }
        ],
        keep={"match": ["code"]},
    )
    run = refresh(query.id)
    assert (run.state, run.calls) == ("complete", 4)
    assert [(row["code"], row["note"]) for row in table_of(workspace, run)] == [
        ("007", "first"), ("901", "temporary"), ("000", None),
    ]  # fmt: skip
    assert table_of(workspace, run)[0]["name"] == "Oxnith"
    assert workspace.services.used_by(OPERATIONS)[-1] == "q"


def test_files_of_the_allowed_folder_and_of_no_other(workspace, tmp_path, refresh):
    folder = workspace.settings.folder
    (folder / "counts").mkdir(parents=True)
    (folder / "counts/a.json").write_text('{"rows": [{"n": 1}, {"n": 12345678901234567890123}]}')
    (folder / "counts/b.jsonl").write_text('{"n": 3}\n{"n": 4, "m": null}\n')
    (tmp_path / "outside.json").write_text('[{"n": "secret"}]')
    (folder / "counts/link.json").symlink_to(tmp_path / "outside.json")
    query = add(workspace, sheet={"files": "counts/*.json*"}, take={"records": "$[*]"})
    run = refresh(query.id)
    assert [(row["file"], row["n"]) for row in table_of(workspace, run)] == [
        ("counts/a.json", 1), ("counts/a.json", 12345678901234567890123),
        ("counts/b.jsonl", 3), ("counts/b.jsonl", 4),
    ]  # fmt: skip
    (folder / "counts/b.jsonl").write_text('{"n": 3}\n{"n": \n')
    broken = refresh(query.id)
    assert broken.problem.kind == "sheet-unreadable"
    assert "counts/b.jsonl, line 2" in broken.problem.where
    for pattern in ("../*.json", "/etc/*", "counts/../../x"):
        with pytest.raises(ProblemError):
            load_brief({"name": "q", "sheet": {"files": pattern}})


@pytest.mark.parametrize(
    ("file", "data", "records", "found"),
    [
        ("a.csv", b"a,b\n1,x\n", [{"a": "1", "b": "x"}], {"separator": "comma", "encoding": "utf-8"}),
        (
            "a.csv",
            "é;b\n007;1,5\n".encode("cp1252"),
            [{"é": "007", "b": "1,5"}],
            {"separator": "semicolon", "encoding": "cp1252"},
        ),
        ("a.csv", "a\tb\n1\t\n".encode("utf-16"), [{"a": "1", "b": None}], {"separator": "tab", "encoding": "utf-16"}),
        ("a.txt", b"\xef\xbb\xbfa|b\n1|2\n", [{"a": "1", "b": "2"}], {"separator": "bar", "encoding": "utf-8-sig"}),
        ("a.csv", b'a,b\n"x,\n""y""",2\n\n', [{"a": 'x,\n"y"', "b": "2"}], {}),
        ("a.csv", b"a,a,\n1,2,3\n", [{"a": "1", "a 2": "2", "column 3": "3"}], {}),
        ("a.csv", b"only\n1\n2\n", [{"only": "1"}, {"only": "2"}], {}),
        ("pasted", b"code\tname\n007\tOx", [{"code": "007", "name": "Ox"}], {"separator": "tab"}),
        ("pasted", b'{"data": [{"a": 1}]}', [{"a": 1}], {"form": "JSON", "rows": "$.data[*]"}),
        ("a.json", b"[1, 2]", [1, 2], {"form": "JSON"}),
        ("a.ndjson", b'{"a": 1}\n\n{"a": 2}\n', [{"a": 1}, {"a": 2}], {"form": "JSON Lines"}),
        ("a.xlsx", xlsx(), [{"code": "007", "berths": 2, "day": "2026-11-25T12:00:00"}], {"tab": "Sheet"}),
        ("a.ods", ods(), [{"code": "007", "name": "Oxnith"}], {"tab": "Ports"}),
    ],
)
def test_sheets_are_read_and_tell_what_was_found(file, data, records, found):
    table = read_sheet(file, data, SheetSettings())
    assert table.records == records
    assert found.items() <= table.found.items()


def test_how_a_sheet_is_read_can_be_said():
    assert read_sheet("a.csv", b"# note\nx;y\n1;2\n", SheetSettings(separator=";", skip=1)).records == [
        {"x": "1", "y": "2"}
    ]
    assert read_sheet("a.csv", b"1,2\n", SheetSettings(header=False)).records == [{"column 1": "1", "column 2": "2"}]
    assert read_sheet("a.csv", b"\xe4\n1\n", SheetSettings(encoding="latin-1")).headings == ["ä"]
    table = read_sheet("a.xlsx", xlsx(), SheetSettings(tab="Other"))
    assert (table.records, table.tabs) == ([{"x": 1.5}], ["Sheet", "Other"])


@pytest.mark.parametrize(
    ("file", "data", "word"),
    [
        ("a.csv", b"a,b\n1,2\n1,2,3\n", "Line 3 has 3 cells"),
        ("a.csv", b'a,b\n1,2\n"x,3\n4,5\n', "Line 3 is broken"),
        ("a.csv", b'a,b\n"x"y,3\n', "Line 2 is broken"),
        ("a.csv", b"", "no row"),
        ("a.jsonl", b'{"a":1}\n{"a":\n', "Line 2"),
        ("a.json", b"{", "JSON"),
        ("a.xlsx", b"PK not really", "workbook"),
        ("a.pdf", b"x", ".pdf"),
    ],
)
def test_a_sheet_with_a_fault_names_the_line(file, data, word):
    with pytest.raises(ProblemError) as caught:
        read_sheet(file, data, SheetSettings())
    assert word in caught.value.problem.sentence()


def test_a_choice_from_two_columns_of_a_query(workspace, desk, refresh):
    from tin_bucket.engine.work_out.values import with_choices

    query = add(
        workspace,
        parameters=[
            {
                "name": "code",
                "kind": "choice",
                "choices_from": {"query": "Ports", "code": "code", "label": "name"},
                "default": "007",
            }
        ],
        ask={"service": OPERATIONS, "path": "/ports/{code}"},
    )
    assert with_choices(workspace, query.brief).parameters[0].choices == []
    refresh(desk["Ports"].id)
    choices = {one.code: one.label for one in with_choices(workspace, query.brief).parameters[0].choices}
    assert choices["007"] == "Oxnith"
    assert refresh(query.id).state == "complete"
    with pytest.raises(ProblemError, match="not one of the choices"):
        refresh(query.id, code="999")


def test_a_cell_of_a_round_is_traced_to_its_call(workspace, desk, refresh):
    from tin_bucket.engine.tables.provenance import trace_snapshot

    query = port_query(workspace, [{"by": "list", "parameter": "code", "values": ["999", "000", "007"]}])
    run = refresh(query.id)
    found = trace_snapshot(workspace, run.snapshot_id, 1, 1)
    assert (found.heading.name, found.value) == ("code", "007")
    assert found.address.endswith("/ports/007")
    assert found.source.pointer == "/code"
    asked = trace_snapshot(workspace, run.snapshot_id, 0, 0)
    assert (asked.value, asked.address[-4:], asked.source) == ("000", "/000", None)
    assert json.loads(workspace.archive.body(run.id, found.call_number))["code"] == "007"
