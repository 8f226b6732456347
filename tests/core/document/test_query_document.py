import json
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator

from tin_bucket.core.document.query import brief_schema, load_brief
from tin_bucket.core.document.service import Service, slug
from tin_bucket.core.problem import ProblemError
from tin_bucket.demo.queries import briefs

SCHEMA = json.loads((Path(__file__).parents[3] / "docs/query-format.schema.json").read_text())
SMALL = {"name": "x", "ask": {"service": "s", "path": "/"}}


def test_the_published_schema_is_that_of_the_brief_and_accepts_the_demo():
    assert brief_schema() == SCHEMA
    validator = Draft202012Validator(SCHEMA)
    for brief in briefs():
        validator.validate(json.loads(brief.model_dump_json(by_alias=True)))
    assert not validator.is_valid({"name": "x"})


def test_a_brief_written_and_read_is_the_same():
    for brief in briefs():
        assert load_brief(json.loads(brief.model_dump_json(by_alias=True))) == brief


@pytest.mark.parametrize(
    ("change", "place", "word"),
    [
        ({"name": ""}, "name", "not be empty"),
        ({"nmae": 1}, "nmae", "no such place"),
        ({"ask": {"service": "s", "verb": "GET"}}, "ask.verb", "no such place"),
        ({"take": {"records": "$.data["}}, "take.records", "character"),
        ({"take": {"columns": [{"place": "$.a", "name": "x"}, {"place": "$.b", "name": "x"}]}}, "take", "two columns"),
        ({"parameters": [{"name": "a", "kind": "text"}] * 2}, "", "two parameters"),
        ({"parameters": [{"name": "d", "kind": "date", "default": {"offset": "7 days"}}]}, "parameters.0", "duration"),
        (
            {"parameters": [{"name": "c", "kind": "choice", "choices": [{"code": "1"}], "default": "2"}]},
            "parameters.0",
            "choices",
        ),
        ({"keep": {"schedule": {"kind": "at", "at": "25:00"}}}, "keep.schedule", "not written as it must be"),
        ({"keep": {"schedule": {"kind": "every", "every": "PT5S"}}}, "keep.schedule", "minute"),
        ({"keep": {"schedule": {"kind": "at", "at": "07:00", "zone": "Atlantis"}}}, "keep.schedule", "time zone"),
    ],
)
def test_a_mistake_in_a_brief_is_said_with_its_place(change, place, word):
    with pytest.raises(ProblemError) as caught:
        load_brief({**SMALL, **change}, "brief.json")
    problem = caught.value.problem
    assert problem.kind == "brief-unreadable"
    assert problem.where.startswith(f"brief.json, {place}" if place else "brief.json")
    assert word.lower() in problem.what.lower()


def test_a_brief_of_a_newer_format_is_refused_whole():
    with pytest.raises(ProblemError, match="format 9"):
        load_brief({**SMALL, "tin_bucket": 9})


@pytest.mark.parametrize("base", ["ftp://h", "http://", "http://u:p@h", "http://h?x=1", "http://h:99999"])
def test_a_base_address_that_cannot_be_one_is_refused(base):
    with pytest.raises(ValueError, match="base address"):
        Service(id="s", name="s", base=base)


@pytest.mark.parametrize("name", ["Authorization", "X-Api-Key", "Cookie", "bad name"])
def test_a_fixed_header_is_no_place_for_a_key(name):
    with pytest.raises(ValueError, match=name):
        Service(id="s", name="s", base="http://h", headers=[{"name": name, "value": "x"}])
    assert Service(id="s", name="s", base="http://h", headers=[{"name": "User-Agent", "value": "x"}])


def test_docs_are_a_web_address_or_nothing():
    assert Service(id="s", name="s", base="http://h", docs=" https://h/docs ").docs == "https://h/docs"
    with pytest.raises(ValueError, match="docs"):
        Service(id="s", name="s", base="http://h", docs="javascript:alert(1)")


def test_ids_are_made_of_names():
    assert slug("Skerrywick Operations!", {"skerrywick-operations"}) == "skerrywick-operations-2"
    assert slug("…", set()) == "service"
