"""The system query options of a collection: what they ask for, and where a mistake stands."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.odata.entity import entity_type
from tin_bucket.core.odata.fault import ODataError
from tin_bucket.core.odata.options import (
    order_of,
    page_lines,
    page_token,
    read_page_token,
    selected_properties,
    wants_count,
    whole_number,
)
from tin_bucket.core.table.table import TableColumn

ENTITY = entity_type("t", [TableColumn("route", "text"), TableColumn("delay", "whole number")], [])


@given(st.integers(0, 10**12), st.integers(0, 10**12))
def test_a_page_is_found_again(snapshot, row):
    assert read_page_token(page_token(snapshot, row)) == (snapshot, row)


@pytest.mark.parametrize("token", ["", "-", "3", "3-", "-3", "3-4-5", "a-1", "٣-1", "9" * 50 + "-1"])
def test_a_page_that_is_none_is_told(token):
    with pytest.raises(ODataError) as told:
        read_page_token(token)
    assert told.value.status == 400


def test_rows_are_ordered_by_several_properties():
    assert [(one.column, one.down) for one in order_of("route asc, delay desc", ENTITY)] == [
        ("route", False),
        ("delay", True),
    ]
    assert order_of("", ENTITY) == []


@pytest.mark.parametrize("text", ["port", "route up", "route,", "route asc desc"])
def test_an_order_that_is_none_is_told(text):
    with pytest.raises(ODataError):
        order_of(text, ENTITY)


def test_properties_are_selected_once():
    def names(**options):
        return [one.name for one in selected_properties(options, ENTITY)]

    assert names(select="delay, delay") == ["delay"]
    assert names() == names(select="*") == names(select=" ") == names(select="delay,*") == ["route", "delay"]
    with pytest.raises(ODataError, match="port"):
        names(select="delay,port")


def test_numbers_and_counts():
    assert (whole_number({}, "top"), whole_number({"top": "0"}, "top")) == (None, 0)
    assert (wants_count({}), wants_count({"count": "True"})) == (False, True)
    for text in ("-1", "1.5", "", "²", "9" * 13):
        with pytest.raises(ODataError):
            whole_number({"skip": text}, "skip")
    with pytest.raises(ODataError):
        wants_count({"count": "yes"})


def test_a_table_stays_as_it_is_where_nothing_is_asked():
    assert page_lines({"top": "3"}, {}, ENTITY) == []
    (line,) = page_lines({"filter": "delay gt @most", "search": "a", "orderby": "delay"}, {"@most": "5"}, ENTITY)
    assert len(line.by) == 1
    assert " AND " in line.expression
