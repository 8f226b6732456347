"""``$filter`` and ``$search`` become SQL that means the same, and mistakes are told at their place."""

import sqlite3

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.odata.entity import entity_type, identifier, odata_value
from tin_bucket.core.odata.fault import ODataError
from tin_bucket.core.odata.filter import filter_expression, search_expression
from tin_bucket.core.odata.path import key_values, read_path
from tin_bucket.core.table.table import TableColumn

COLUMNS = [
    TableColumn("id", "text"),
    TableColumn("delay", "whole number", unit="min"),
    TableColumn("car fare", "decimal"),
    TableColumn("departs", "date and time"),
    TableColumn("day", "date"),
    TableColumn("late", "yes/no"),
    TableColumn('odd "name"', "text"),
]
ENTITY = entity_type("sailings", COLUMNS, ["id"])
ROWS = [
    ("001", 0, 12.5, "2026-11-20T05:40:00Z", "2026-11-20", False, "a"),
    ("002", 15, None, "2026-11-20T07:40:00+01:00", "2026-11-20", True, "O'Brae"),
    ("003", None, 30.0, None, None, None, None),
    ("004", -3, 7.25, "2026-12-01T23:59:59Z", "2026-12-01", False, "100 % Sound"),
]


@pytest.fixture(scope="module")
def db():
    made = sqlite3.connect(":memory:")
    names = ", ".join('"' + column.name.replace('"', '""') + '"' for column in COLUMNS)
    made.execute(f"CREATE TABLE t ({names})")
    made.executemany("INSERT INTO t VALUES (?, ?, ?, ?, ?, ?, ?)", ROWS)
    return made


def ids(db, expression):
    return [row[0] for row in db.execute(f"SELECT id FROM t WHERE {expression} ORDER BY id")]


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("delay gt 10", "002"),
        ("delay le 0 or car_fare eq 30", "001 003 004"),
        ("not (delay gt 10)", "001 003 004"),
        ("delay eq null", "003"),
        ("delay ne null and delay lt 5", "001 004"),
        ("delay ne 15", "001 003 004"),
        ("id in ('001','004')", "001 004"),
        ("not (id in ('001','004'))", "002 003"),
        ("late", "002"),
        ("late eq true", "002"),
        ("not late", "001 004"),
        ("late eq false or late eq null", "001 003 004"),
        ("departs ge 2026-11-20T06:00:00Z", "002 004"),
        ("departs eq 2026-11-20T05:40:00Z", "001"),
        ("departs lt 2026-11-21", "001 002"),
        ("day eq 2026-11-20", "001 002"),
        ("year(departs) eq 2026 and month(departs) eq 12", "004"),
        ("hour(departs) eq 6", "002"),
        ("date(departs) eq 2026-12-01", "004"),
        ("contains(odd_name,'Sound')", "004"),
        ("startswith(odd_name,'O''B')", "002"),
        ("endswith(odd_name,'Brae')", "002"),
        ("contains(odd_name,'%')", "004"),
        ("length(odd_name) eq 1", "001"),
        ("indexof(odd_name,'B') eq 2", "002"),
        ("substring(odd_name,6) eq 'Sound'", "004"),
        ("substring(odd_name,0,3) eq '100'", "004"),
        ("toupper(odd_name) eq 'A'", "001"),
        ("concat(id,odd_name) eq '001a'", "001"),
        ("delay add 5 gt 10 and delay mul 2 eq 30", "002"),
        ("delay mod 2 eq 1", "002"),
        ("car_fare divby 2 gt 10", "003"),
        ("-delay gt 0", "004"),
        ("delay sub -3 eq 0", "004"),
        ("round(car_fare) eq 13 or floor(car_fare) eq 7 or ceiling(car_fare) eq 99", "001 004"),
        ("(delay gt 10) eq true", "002"),
        ("delay eq @d", "002"),
        ("id gt '002' and not contains(id,'4')", "003"),
        ("car_fare gt delay", "001 004"),
    ],
)  # fmt: skip
def test_a_filter_means_what_it_says(db, text, found):
    assert ids(db, filter_expression(text, ENTITY, {"@d": "15"})) == found.split()


@pytest.mark.parametrize(
    ("text", "status", "at", "words"),
    [
        ("dely gt 10", 400, 0, "no property “dely”"),
        ("delay gt 'x'", 400, 6, "compares a number with a text"),
        ("delay gt", 400, 8, "missing before the end"),
        ("delay gt 10)", 400, 11, "too much"),
        ("(delay gt 10", 400, 12, "“)” is missing"),
        ("delay", 400, 0, "no yes or no"),
        ("delay add id eq 3", 400, 10, "no number"),
        ("delay and late", 400, 0, "goes between tests"),
        ("contains(delay,'x')", 400, 9, "takes a text"),
        ("contains(id)", 400, 0, "takes 2 values"),
        ("nothing(id)", 501, 0, "not known"),
        ("delay gt 1; drop", 400, 10, "not understood"),
        ("'unclosed", 400, 0, "not understood"),
        ("id has 'x'", 501, 3, "flags"),
        ("delay eq @self", 400, None, "stands for itself"),
        ("(" * 100 + "late" + ")" * 100, 400, None, "too deep"),
    ],
)
def test_a_mistake_is_told_at_its_place(text, status, at, words):
    with pytest.raises(ODataError) as caught:
        filter_expression(text, ENTITY, {"@self": "@self"})
    assert caught.value.status == status
    assert words in caught.value.message
    assert caught.value.target == "$filter"
    if at is not None:
        assert caught.value.at == at


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("sound", "004"),
        ("Brae OR sound", "002 004"),
        ("NOT sound", "001 002 003"),
        ("100 sound", "004"),
        ('"100 % s"', "004"),
        ("(brae OR a) AND 00", "001 002"),
        ("'; --", ""),
    ],
)
def test_a_search_looks_in_every_text(db, text, found):
    assert ids(db, search_expression(text, ENTITY)) == found.split()


@pytest.mark.parametrize("text", ["", "AND", "(a", '"a', "a )", "NOT"])
def test_a_search_that_is_none_is_told(text):
    with pytest.raises(ODataError) as caught:
        search_expression(text, ENTITY)
    assert caught.value.target == "$search"


NUMBERS = st.one_of(st.none(), st.integers(-5, 5))
TESTS = st.recursive(
    st.tuples(st.sampled_from(["a", "b"]), st.sampled_from(["eq", "ne", "gt", "le"]), NUMBERS),
    lambda inner: st.one_of(
        st.tuples(st.just("not"), inner), st.tuples(inner, st.sampled_from(["and", "or"]), inner)
    ),
    max_leaves=6,
)  # fmt: skip


def written(test):
    if test[0] == "not":
        return f"not ({written(test[1])})"
    if test[1] in ("and", "or"):
        return f"({written(test[0])}) {test[1]} ({written(test[2])})"
    return f"{test[0]} {test[1]} {'null' if test[2] is None else test[2]}"


def holds(test, row):
    """By the rules of OData (URL Conventions 4.01, §5.1.1.1): nothing equals nothing, and is neither more nor less."""
    if test[0] == "not":
        return not holds(test[1], row)
    if test[1] == "and":
        return holds(test[0], row) and holds(test[2], row)
    if test[1] == "or":
        return holds(test[0], row) or holds(test[2], row)
    value, other = row[test[0]], test[2]
    if test[1] in ("eq", "ne"):
        return (value == other) == (test[1] == "eq")
    if value is None or other is None:
        return False
    return value > other if test[1] == "gt" else value <= other


@given(TESTS, NUMBERS, NUMBERS)
def test_nothing_is_compared_as_odata_has_it(test, a, b):
    entity = entity_type("t", [TableColumn("a", "whole number"), TableColumn("b", "whole number")], [])
    made = sqlite3.connect(":memory:")
    made.execute("CREATE TABLE t (a, b)")
    made.execute("INSERT INTO t VALUES (?, ?)", (a, b))
    found = made.execute(f"SELECT count(*) FROM t WHERE {filter_expression(written(test), entity)}").fetchone()[0]
    assert bool(found) == holds(test, {"a": a, "b": b})


@given(st.lists(st.text(min_size=1, max_size=12), max_size=8, unique=True))
def test_every_column_has_a_name_of_its_own(names):
    made = entity_type("t", [TableColumn(name, "text") for name in names], [])
    told = [one.name for one in made.properties]
    assert len(set(told)) == len(told)
    assert all(name.isidentifier() for name in told)
    assert made.key == ("row_number",)


def test_identifiers_and_values():
    assert identifier("car fare", set()) == "car_fare"
    assert identifier("2nd", set()) == "_2nd"
    assert identifier("%", set()) == "column"
    assert identifier("a b", {"a_b"}) == "a_b_2"
    assert odata_value("2026-11-20 07:30", "date and time") == "2026-11-20T07:30:00Z"
    assert odata_value("2026-11-20T07:30:00.5+01:00", "date and time") == "2026-11-20T07:30:00.500000+01:00"
    assert odata_value("soon", "date and time") is None
    assert odata_value(2**62, "whole number", exact_text=True) == str(2**62)
    assert odata_value(float("inf"), "decimal") is None
    assert odata_value(0, "yes/no") is False


def test_paths_and_keys():
    assert read_path("sailings('a/b''c')/route/$value").below == ("route", "$value")
    assert key_values("'a/b''c'", ENTITY) == {"id": "a/b'c"}
    assert key_values("id='x'", ENTITY) == {"id": "x"}
    two = entity_type("t", COLUMNS, ["id", "delay"])
    assert key_values("id='x',delay=3", two) == {"id": "x", "delay": 3}
    for wrong in ("", "7", "delay=3", "'x','y'", "id='x',id='y'"):
        with pytest.raises(ODataError):
            key_values(wrong, ENTITY)
