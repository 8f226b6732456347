"""Reports go along in a bundle, and are of the queries of their names where they come to."""

import pytest

from tests.conftest import NOON
from tests.web.conftest import client_of
from tests.web.reporting import CHANGES, LINE, MEAN, ROWS, TABLE, TEXT, dated, read, report  # noqa: F401 a fixture
from tin_bucket.core.document.query import load_brief
from tin_bucket.store.workspace import Workspace


@pytest.fixture
def there(tmp_path, empty_home):
    """Another workspace, in which the numbers of queries are others."""
    workspace = Workspace(empty_home(tmp_path / "there"))
    with client_of(workspace) as client:
        for name in ("First here", "Second here"):
            workspace.queries.add(load_brief({"name": name, "sheet": {"sheet": "ports"}}), NOON)
        client.workspace = workspace
        yield client
    workspace.close()


@pytest.fixture
def document(dated, tmp_path):  # noqa: F811 the fixture
    blocks = [{"block": "text", "text": TEXT["text"]}, LINE, TABLE, CHANGES]
    return report(dated, *blocks, figures=[MEAN, ROWS], files=[str(tmp_path / "kept-{date}.html")], address="harbour")


def kept(client, document):
    answer = client.post("/api/reports", json={"report": document})
    assert answer.status_code == 201, answer.text
    return answer.json()


def carried(client, there, choices=None, change=None):
    """Carry everything to the other workspace; what became of it."""
    bundle = client.get("/api/bundle").json()
    if change is not None:
        change(bundle)
    answer = there.post("/api/bundle/bring", json={"document": bundle, "choices": choices or {}})
    assert answer.status_code == 200, answer.text
    return bundle, answer.json()


def states(plan, kind="report"):
    return {one["name"]: one["state"] for one in plan["items"] if one["kind"] == kind}


def test_a_report_is_of_the_same_query_under_its_number_there(client, there, document, tmp_path):
    kept(client, document)
    bundle, plan = carried(client, there)
    assert states(plan) == {"Fares this week": "new"}
    made = there.workspace.reports.all()[0].report
    (query,) = set(made.queries())
    name = there.workspace.queries.get(query).name
    assert name == client.app.state.context.workspace.queries.get(document["blocks"][1]["query"]).name
    assert query != document["blocks"][1]["query"]
    # It is written to no file that somebody else chose, and says so.
    assert (made.files, made.address) == ([], "harbour")
    assert plan["left_files"] == [{"title": "Fares this week", "path": str(tmp_path / "kept-{date}.html")}]
    # It has no table there yet, and is a report all the same.
    assert "There is no table yet." in str(read(there, made.model_dump(mode="json")))
    assert states(there.post("/api/bundle/look", json={"document": bundle}).json()) == {"Fares this week": "same"}


def test_another_report_of_its_title_stays_gives_way_or_stands_beside(client, there, document):
    number = kept(client, document)["id"]
    carried(client, there)
    own = there.workspace.reports.all()[0]
    there.workspace.reports.save(own.id, own.report.model_copy(update={"files": ["/srv/own.html"]}), NOON, own.version)
    changed = {**document, "against": "P1D"}
    version = client.get(f"/api/reports/{number}").json()["version"]
    client.put(f"/api/reports/{number}", json={"report": changed, "version": version})
    _, plan = carried(client, there)
    assert states(plan) == {"Fares this week": "clash"}
    assert [one.report.against for one in there.workspace.reports.all()] == ["P7D"]
    carried(client, there, {"report Fares this week": "beside"})
    assert [(one.report.title, one.report.against) for one in there.workspace.reports.all()] == [
        ("Fares this week", "P7D"), ("Fares this week 2", "P1D")
    ]  # fmt: skip
    carried(client, there, {"report Fares this week": "replace"})
    first = there.workspace.reports.get(own.id).report
    # The files and the address here stay its own.
    assert (first.against, first.files, first.address) == ("P1D", ["/srv/own.html"], "harbour")


def test_a_report_follows_its_query_that_is_put_beside(client, there, document, workspace):
    kept(client, document)
    carried(client, there)
    name = workspace.queries.get(document["blocks"][1]["query"]).name

    def other(bundle):
        next(one for one in bundle["queries"] if one["name"] == name)["note"] = "another one"
        bundle["reports"][0]["report"]["against"] = "P1D"

    carried(client, there, {f"query {name}": "beside", "report Fares this week": "beside"}, other)
    names = there.workspace.queries.names()
    made = {one.report.title: {names[query] for query in one.report.queries()} for one in there.workspace.reports.all()}
    assert made == {"Fares this week": {name}, "Fares this week 2": {f"{name} 2"}}


def test_reports_of_one_title_and_of_a_deleted_query_are_carried(client, there, document, workspace):
    kept(client, document)
    gone = {**document, "address": "", "figures": [], "blocks": [{**LINE, "query": 99_999}]}
    kept(client, gone)
    _, plan = carried(client, there)
    assert states(plan) == {"Fares this week": "new", "Fares this week 2": "new"}
    # What came from here is here, and the second one of a title takes the place of the second one alone.
    own = client.get("/api/bundle").json()
    assert set(states(client.post("/api/bundle/look", json={"document": own}).json()).values()) == {"same"}
    own["reports"][1]["report"]["against"] = "P1D"
    choices = {"report Fares this week 2": "replace"}
    assert client.post("/api/bundle/bring", json={"document": own, "choices": choices}).status_code == 200
    assert [(one.report.title, one.report.against) for one in workspace.reports.all()] == [
        ("Fares this week", "P7D"), ("Fares this week", "P1D")
    ]  # fmt: skip
    assert [one.report.queries() != [0] for one in there.workspace.reports.all()] == [True, False]


def test_a_report_that_cannot_be_read_changes_nothing(client, there, document):
    kept(client, document)
    bundle = client.get("/api/bundle").json()
    bundle["reports"][0]["report"]["blocks"][1]["block"] = "carousel"
    answer = there.post("/api/bundle/bring", json={"document": bundle})
    assert (answer.status_code, answer.json()["kind"]) == (422, "bundle-unreadable")
    assert "reports.0" in answer.json()["where"]
    assert there.workspace.services.all() == []


def test_the_text_of_a_key_is_not_carried_in_a_report(client, desk, document):
    document["blocks"][0]["text"] = "The key is skw-demo-4b7e21f09c5d."
    kept(client, document)
    answer = client.get("/api/bundle")
    assert (answer.status_code, answer.json()["kind"]) == (422, "secret-inside")
    assert "skw-demo" not in answer.text
    # Queries alone go along without reports.
    assert client.get("/api/bundle", params={"query": "Ports"}).json()["reports"] == []
