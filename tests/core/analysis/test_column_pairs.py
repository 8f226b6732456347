"""Which column of one table is which of another, and which columns tell rows apart."""

from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.analysis.column_pairs import likely_pairs, other_kinds, pairs_by_values, renamed
from tin_bucket.core.analysis.match_proposal import propose_match
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.table.table import TableColumn


def column(name, place="", kind="text", **more):
    return TableColumn(name, kind, place=place, **more)


def test_a_column_of_the_same_place_is_the_same_under_another_name():
    then = [column("id", "$.id"), column("port", "$.port.code"), column("zone", "$.zone", origin="port")]
    now = [column("id", "$.id"), column("port_code", "$.port.code"), column("area", "$.zone", origin="other")]
    assert renamed(then, now) == {"port": "port_code"}
    # By hand comes first; what is not there, and what would take a name twice, is left out.
    assert renamed(then, now, {"zone": "area", "port": "area", "x": "id"})["zone"] == "area"
    assert renamed(then, now, {"port": "id"}) == {"port": "port_code"}


def test_two_columns_of_one_place_are_not_guessed_apart():
    then = [column("first", "$.list[*]"), column("last", "$.list[*]")]
    assert renamed(then, [column("one", "$.list[*]")]) == {}
    assert renamed([column("one", "$.list[*]")], then) == {}


def test_columns_that_hold_the_same_values_look_renamed():
    values = list("abcdefghij")
    found = likely_pairs({"code": values, "rest": ["x"] * 10}, {"port": [*values[:9], "z"], "none": [None] * 10})
    assert [(one.then, one.now, one.equal, one.compared) for one in found] == [("code", "port", 9, 10)]
    # One value in all rows says nothing, and neither do two rows.
    assert likely_pairs({"a": ["x"] * 10}, {"b": ["x"] * 10}) == []
    assert likely_pairs({"a": ["x", "y"]}, {"b": ["x", "y"]}) == []


def test_columns_with_the_same_values_look_alike_where_no_row_is_known_to_be_the_same():
    found = pairs_by_values(
        {"Sailing": ["SK-1", "SK-2", "SK-3", "SK-9"], "count": [1, 2, 3, 4]},
        {"id": [f"SK-{at}" for at in range(9)], "fare": [1, 2, 3, 4], "note": ["a", "b", Miss("none", "no such port")]},
    )
    assert [(one.then, one.now, one.equal, one.compared) for one in found] == [("Sailing", "id", 3, 4)]
    assert pairs_by_values({"a": ["x", "y"]}, {"b": ["x", "y"]}) == []


def test_another_kind_is_named():
    then, now = [column("id"), column("fare", kind="decimal")], [column("id"), column("fare"), column("new")]
    assert other_kinds(then, now) == [("fare", "decimal", "text")]
    assert other_kinds([column("a", kind="decimal")], [column("a", kind="whole number")]) == []


def proposed(columns, *tables):
    return propose_match(columns, [(lambda name, one=one: one.get(name), len(one[columns[0].name])) for one in tables])


def test_the_likeliest_match_columns_come_with_their_evidence():
    columns = [column("fare", kind="decimal"), column("name"), column("sku"), column("count", kind="whole number")]
    one = {"fare": [1.5, 2.5, 3.5], "name": ["a", "b", "c"], "sku": ["1", "2", "3"], "count": [1, 2, 3]}
    assert proposed(columns, one).columns == ["sku"]
    assert proposed(columns, one, one).evidence == "sku is filled and different in all 3 rows of both."
    other = {key: values[:2] for key, values in one.items()}
    assert proposed(columns, one, other).evidence == (
        "sku is filled and different in all 3 rows of the earlier and all 2 of the later table."
    )
    # A hole, or a value twice, and it is none.
    assert proposed(columns, {**one, "sku": ["1", None, "3"]}).columns == ["name"]
    assert proposed(columns, {**one, "sku": ["1", "1", "3"]}, one).columns == ["name"]


def test_two_columns_together_tell_rows_apart_where_none_does_alone():
    columns = [column("route_id"), column("day", kind="date"), column("fare", kind="decimal")]
    table = {"route_id": list("aabb"), "day": ["1", "2", "1", "2"], "fare": [1.0, 2.0, 3.0, 4.0]}
    found = proposed(columns, table)
    assert (found.columns, found.evidence) == (["route_id", "day"], "route_id and day together differ in all 4 rows.")
    assert proposed(columns, {"route_id": list("aa"), "day": ["1", "1"], "fare": [1.0, 2.0]}) is None
    assert proposed(columns, {"route_id": ["a"], "day": ["1"], "fare": [1.0]}) is None


@given(st.lists(st.tuples(st.integers(0, 3), st.sampled_from("ab"), st.none() | st.integers(0, 2)), min_size=2))
def test_what_is_proposed_tells_all_rows_apart(rows):
    columns = [column("a_id", kind="whole number"), column("b"), column("c", kind="whole number")]
    table = {one.name: [row[at] for row in rows] for at, one in enumerate(columns)}
    found = proposed(columns, table)
    if found is not None:
        keys = list(zip(*(table[name] for name in found.columns), strict=True))
        assert len(set(keys)) == len(rows)
        assert None not in {value for key in keys for value in key}
