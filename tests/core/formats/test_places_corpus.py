"""Paths that the server and the browser read alike; the browser's tests read the same file."""

import json
from pathlib import Path

import pytest

from tin_bucket.core.formats.jsonpath import WILDCARD, format_place, parse_place

CORPUS = json.loads((Path(__file__).parents[2] / "corpus/places.json").read_text())


@pytest.mark.parametrize("case", CORPUS, ids=[case["text"] for case in CORPUS])
def test_a_path_is_read_and_written_as_the_corpus_says(case):
    place = parse_place(case["text"])
    told = None if place is None else [{"each": True} if step is WILDCARD else step for step in place]
    assert told == case["place"]
    assert case["written"] == (None if place is None else format_place(place))
