"""The OData service, read by hand and by two public clients (python-odata and odata of the npm registry)."""

import json
import shutil
import subprocess
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest
import requests
from odata import ODataService

from tests.conftest import NOON
from tests.web.conftest import client_of
from tests.web.serving import served
from tin_bucket.engine.clock import SetClock

EDM = "{http://docs.oasis-open.org/odata/ns/edm}"
FRONTEND = Path(__file__).parents[2] / "frontend"


@pytest.fixture
def sailings(workspace, desk, refresh):
    query = desk["Sailings by route"]
    document = json.loads(query.brief.model_dump_json(by_alias=True))
    document["hand_over"] = [{"to": "address", "id": "live", "name": "sailings"}]
    saved = workspace.queries.save(query.id, type(query.brief).model_validate(document), NOON)
    refresh(query.id)
    return saved


@pytest.fixture
def key(workspace):
    return workspace.readers.add("report", NOON)[1]


@pytest.fixture
def get(workspace, sailings, key):
    with client_of(workspace, clock=SetClock(NOON)) as made:
        made.headers = {"Authorization": f"Bearer {key}"}
        yield made.get


@pytest.fixture
def truth(workspace, sailings):
    """The rows as they are stored, as dictionaries."""
    snapshot = workspace.snapshots.latest(sailings.id)
    names = [column.name for column in snapshot.columns]
    return [dict(zip(names, row, strict=True)) for row in workspace.snapshots.all_rows(snapshot.id)]


def test_the_service_describes_itself(get):
    service = get("/odata/")
    assert service.headers["OData-Version"] == "4.01"
    assert service.json()["value"] == [
        {"name": "sailings", "title": "Sailings by route", "kind": "EntitySet", "url": "sailings"}
    ]
    assert get("/odata").json() == service.json()
    tree = ET.fromstring(get("/odata/$metadata").text)
    entity = tree.find(f".//{EDM}EntityType")
    assert entity.get("Name") == "sailings"
    assert [one.get("Name") for one in entity.iter(f"{EDM}PropertyRef")] == ["sailing_id"]
    types = {one.get("Name"): one.get("Type") for one in entity.iter(f"{EDM}Property")}
    assert types["departs"] == "Edm.DateTimeOffset"
    assert types["car_fare"] in ("Edm.Double", "Edm.Int64")
    assert tree.find(f".//{EDM}EntitySet").get("EntityType") == "TinBucket.sailings"
    told = get("/odata/$metadata", headers={"Accept": "application/json"}).json()
    assert told["$EntityContainer"] == "TinBucket.Tables"
    assert told["TinBucket"]["sailings"]["$Key"] == ["sailing_id"]
    assert get("/odata/", headers={"OData-MaxVersion": "4.0"}).headers["OData-Version"] == "4.0"


def test_all_rows_come_page_by_page(get, truth):
    address, found, pages = "/odata/sailings?$select=sailing_id,delay", [], 0
    while address:
        page = get(address, headers={"Prefer": "odata.maxpagesize=300"})
        assert page.headers["Preference-Applied"] == "maxpagesize=300"
        found += page.json()["value"]
        pages += 1
        address = page.json().get("@odata.nextLink")
    assert found == [{"sailing_id": row["sailing_id"], "delay": row["delay"]} for row in truth]
    assert pages == -(-len(truth) // 300)


def test_filter_order_top_skip_and_count(get, truth):
    late = [row for row in truth if (row["delay"] or 0) > 10]
    page = get("/odata/sailings?$filter=delay gt 10&$orderby=delay desc,sailing_id&$top=7&$skip=3&$count=true").json()
    assert page["@odata.count"] == len(late)
    ordered = sorted(late, key=lambda row: (-row["delay"], row["sailing_id"]))
    assert [row["sailing_id"] for row in page["value"]] == [row["sailing_id"] for row in ordered[3:10]]
    assert get("/odata/sailings/$count?$filter=delay gt 10").text == str(len(late))
    # Nothing stands before everything, and behind it in the other direction.
    first = get("/odata/sailings?$orderby=delay&$top=1").json()["value"][0]
    last = get("/odata/sailings?$orderby=delay desc&$top=1").json()["value"][0]
    assert first["delay"] is None
    assert last["delay"] == max(row["delay"] for row in truth if row["delay"] is not None)
    found = get("/odata/sailings/$count?$search=tystie").text
    assert found == str(sum("tystie" in json.dumps(row, default=str).lower() for row in truth))


def test_one_row_by_its_key(get, truth):
    row = truth[5]
    address = f"/odata/sailings('{row['sailing_id']}')"
    told = get(address).json()
    assert told["sailing_id"] == row["sailing_id"]
    assert told["@odata.context"].endswith("$metadata#sailings/$entity")
    assert get(f"{address}/route").json()["value"] == row["route"]
    assert get(f"{address}/route/$value").text == row["route"]
    assert get("/odata/sailings('none')").status_code == 404
    assert get("/odata/sailings(7)").status_code == 400
    missing = next(row for row in truth if row["delay"] is None)
    assert get(f"/odata/sailings('{missing['sailing_id']}')/delay").status_code == 204


def test_rows_without_match_columns_have_numbers(get, client, sailings):
    known = client.get(f"/api/queries/{sailings.id}").json()
    brief = known["brief"]
    brief["keep"] = brief["keep"] | {"match": []}
    client.put(f"/api/queries/{sailings.id}", json={"brief": brief, "based_on": known["brief_id"]})
    late = get("/odata/sailings?$filter=delay gt 10&$top=2").json()["value"]
    for row in late:
        again = get(f"/odata/sailings({row['row_number']})").json()
        assert again["sailing_id"] == row["sailing_id"]
    assert get("/odata/sailings(99999)").status_code == 404


@pytest.mark.parametrize(
    ("match", "told"),
    [
        (["sailing_id"], ["sailing_id"]),
        (["route", "departs"], ["route", "departs"]),
        (["route"], ["row_number"]),  # Several rows have one route.
        (["delay"], ["row_number"]),  # Some are blank.
        (["route", "delay"], ["row_number"]),
    ],
)
def test_the_key_is_what_tells_all_rows_apart(get, workspace, sailings, refresh, match, told):
    document = json.loads(sailings.brief.model_dump_json(by_alias=True))
    document["keep"] = {**document["keep"], "match": match}
    workspace.queries.save(sailings.id, type(sailings.brief).model_validate(document), NOON)
    refresh(sailings.id)
    tree = ET.fromstring(get("/odata/$metadata").text)
    assert [one.get("Name") for one in tree.iter(f"{EDM}PropertyRef")] == told


@pytest.mark.parametrize(
    ("address", "status", "code"),
    [
        ("sailings?$filter=dely gt 1", 400, "filter-mistake"),
        ("sailings?$filter=matches(route)", 501, "not-implemented"),
        ("sailings?$orderby=delay up", 400, "orderby-mistake"),
        ("sailings?$select=nothing", 400, "select-mistake"),
        ("sailings?$top=-1", 400, "top-mistake"),
        ("sailings?$skip=x", 400, "skip-mistake"),
        ("sailings?$count=maybe", 400, "count-mistake"),
        ("sailings?$top=1&$top=2", 400, "option-twice"),
        ("sailings?$nothing=1", 400, "option-unknown"),
        ("sailings?$expand=legs", 501, "not-implemented"),
        ("sailings?$apply=x", 501, "not-implemented"),
        ("sailings?$skiptoken=x", 400, "skiptoken-mistake"),
        ("sailings?$skiptoken=9999-3", 404, "date-unknown"),
        ("nothing", 404, "address-unknown"),
        ("sailings/route", 404, "resource-unknown"),
        ("$batch", 501, "not-implemented"),
        ("sailings?on=never", 400, "date-unreadable"),
    ],
)
def test_mistakes_have_the_form_of_odata(get, address, status, code):
    answer = get(f"/odata/{address}")
    assert answer.status_code == status
    error = answer.json()["error"]
    assert error["code"] == code
    assert error["message"]
    assert answer.headers["OData-Version"] == "4.01"


def test_it_is_read_only_and_cached(workspace, sailings, key):
    with client_of(workspace, clock=SetClock(NOON)) as made:
        made.headers = {"Authorization": f"Bearer {key}"}
        for method in ("POST", "PUT", "PATCH", "DELETE"):
            answer = made.request(method, "/odata/sailings")
            assert answer.status_code == 405
            assert answer.headers["Allow"] == "GET, HEAD"
        first = made.get("/odata/sailings?$top=1")
        known = made.get("/odata/sailings?$top=1", headers={"If-None-Match": first.headers["ETag"]})
        assert (known.status_code, known.content) == (304, b"")
        bare = made.get("/odata/sailings?$top=1&$format=application/json;odata.metadata=none")
        assert list(bare.json()) == ["value"]
        exact = made.get("/odata/sailings?$top=1", headers={"Accept": "application/json;IEEE754Compatible=true"})
        assert isinstance(exact.json()["value"][0]["hull_id"], str)


def test_a_next_link_carries_the_key_that_stood_in_the_address(workspace, sailings, key):
    with client_of(workspace, clock=SetClock(NOON)) as made:
        made.headers.pop("Authorization")
        link = made.get(f"/odata/sailings?key={key}", headers={"Prefer": "maxpagesize=10"}).json()["@odata.nextLink"]
        assert made.get(link).status_code == 200


def test_a_public_client_in_python_reads_it(workspace, sailings, key, truth):
    with served(workspace, clock=SetClock(NOON)) as base:
        session = requests.Session()
        session.headers["Authorization"] = f"Bearer {key}"
        service = ODataService(f"{base}/odata/", session=session, reflect_entities=True)
        entity = service.entities["sailings"]
        found = list(service.query(entity).filter(entity.delay > 10).order_by(entity.delay.desc()).limit(5))
    late = sorted((row["delay"] for row in truth if (row["delay"] or 0) > 10), reverse=True)
    assert [one.delay for one in found] == late[:5]
    assert found[0].departs.year == 2026


@pytest.mark.skipif(not (FRONTEND / "node_modules" / "odata").exists(), reason="the npm client is not installed")
def test_a_public_client_in_javascript_reads_it(workspace, sailings, key, truth):
    with served(workspace, clock=SetClock(NOON)) as base:
        program = f"""
            import {{ o }} from 'odata';
            const service = o('{base}/odata/', {{ headers: {{ Authorization: 'Bearer ' + process.env.READER }} }});
            const query = {{ $filter: 'delay gt 10', $top: 3, $select: 'sailing_id,delay', $orderby: 'sailing_id' }};
            console.log(JSON.stringify(await service.get('sailings').query(query)));
        """
        done = subprocess.run(
            [shutil.which("node"), "--input-type=module", "-e", program],
            cwd=FRONTEND, env={"READER": key, "PATH": "/usr/bin:/bin"}, capture_output=True, text=True, timeout=60,
        )  # fmt: skip
    late = sorted(row["sailing_id"] for row in truth if (row["delay"] or 0) > 10)
    assert [row["sailing_id"] for row in json.loads(done.stdout)] == late[:3], done.stderr
