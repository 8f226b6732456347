"""Errors inside answers that say all is well, odd JSON, rows that came twice, and calls as an archive."""

import json

import numpy as np
import pytest

from tin_bucket.core.analysis.duplicates import duplicates_by_content, duplicates_by_match
from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.formats.json import doubled_keys
from tin_bucket.core.interchange.har import Entry, http_archive
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.classify import classify, odd_words
from tin_bucket.core.response.error_rules import ErrorRule, error_inside
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.table import Table, TableColumn


@pytest.mark.parametrize(
    ("document", "words"),
    [
        ({"error": {"code": 7, "message": "no such key"}}, "no such key"),
        ({"errors": [{"detail": "the hold is locked"}], "data": None}, "the hold is locked"),
        ({"ok": False, "error": "invalid"}, "invalid"),
        ({"success": False, "message": "try later", "rows": []}, "try later"),
        ({"status": "ERROR", "reason": "closed"}, "closed"),
        ({"ok": False}, '{"ok":false}'),
    ],
)
def test_an_answer_that_is_nothing_but_an_error_is_one(document, words):
    problem = classify(Answer(200, body=json.dumps(document).encode())).problem
    assert (problem.kind, problem.words) == ("error-inside", words)


@pytest.mark.parametrize(
    "document",
    [{"rows": []}, {"errors": [], "rows": []}, {"error": None, "rows": [1]}, {"errors": ["one"], "rows": [1]}, [], "x",
     {"ok": True}, {"status": "late"}, {"error": 0}, [{"error": "a row"}], {"message": "hello"}],
)  # fmt: skip
def test_what_holds_data_is_an_answer(document):
    assert error_inside(document) is None


def test_a_services_own_rule_goes_before_what_is_usual():
    rule = [ErrorRule(at="$.meta.problems", words="$.meta.problems[*].say")]
    document = {"meta": {"problems": [{"n": 1, "say": "out of rope"}]}, "rows": [1]}
    assert error_inside(document, rule).words == "out of rope"
    assert error_inside({"meta": {"problems": []}, "rows": []}, rule) is None
    assert error_inside({"ok": False}, rule) is None
    assert "by the service's rule $.a" in error_inside({"a": 1}, [ErrorRule(at="$.a")]).what


def test_no_content_is_a_true_answer():
    verdict = classify(Answer(204))
    assert (verdict.problem, verdict.nothing) == (None, True)


def test_not_a_number_is_read_as_empty_and_said():
    verdict = classify(Answer(200, body=b'{"a": [NaN, -Infinity, 1]}'))
    assert verdict.document == {"a": [None, None, 1]}
    assert (verdict.note, odd_words(verdict.odd)) == (
        "",
        "2 values are no number (NaN or Infinity), and read as empty.",
    )
    assert classify(Answer(200, body=b'{"a": NaN, ')).problem.kind in ("cut-off", "not-json")


@pytest.mark.parametrize(
    ("text", "names"),
    [(b'{"a": 1, "a": 2, "b": {"c": 1, "c": 1}}', ["c", "a"]), (b'{"a": {"a": 1}}', []), (b"[", [])],
)
def test_names_that_stand_twice_are_found(text, names):
    assert doubled_keys(text) == names


def table(pages, ids):
    count = len(pages)
    return Table([TableColumn("id", "text")], [ids], np.array(pages), np.zeros(count, np.int64))


def test_rows_that_came_on_two_pages_are_counted_by_match_columns():
    made = table([0, 0, 1, 1, 2], ["a", "b", "b", "c", "d"])
    assert duplicates_by_match(made, ["id"], [0, 0, 0]) == 1
    assert duplicates_by_match(made, ["id"], [0, 1, 1]) == 0  # Another round may well have the same row.
    assert duplicates_by_match(made, [], [0, 0, 0]) == 0
    assert duplicates_by_match(table([0, 0], ["a", "a"]), ["id"], [0]) == 0


def test_rows_of_the_same_content_are_counted_across_pages():
    assert duplicates_by_content(np.array([5, 6, 6, 7, 5]), np.array([0, 0, 1, 1, 2])) == 2
    assert duplicates_by_content(np.array([5, 5]), np.array([0, 0])) == 0
    assert duplicates_by_content(np.array([], dtype=np.int64), np.array([], dtype=np.int64)) == 0


def test_an_archive_of_calls_masks_the_key_and_holds_what_har_wants():
    key = Key.model_validate(
        {"name": "k", "places": [{"at": "address", "name": "token"}, {"at": "body", "place": "$.k"}]}
    )
    call = Call("POST", "http://h/s?a=1", (("Content-Type", "application/json"),), body=b'{"q": 1}')
    answer = Answer(200, {"content-type": "application/json"}, b'{"x": 1}', 0.25)
    other = Answer(404, {"content-type": "image/png"}, b"\xff\xfe", 0.1)
    made = http_archive([Entry(call, key, answer, "2026-11-25T12:00:00+00:00"), Entry(call, None, other, "x")], "1")
    first, second = made["log"]["entries"]
    assert made["log"]["version"] == "1.2"
    assert first["request"]["url"] == "http://h/s?a=1&token=••••"
    assert "••••" in first["request"]["postData"]["text"]
    assert first["response"]["content"] == {"size": 8, "mimeType": "application/json", "text": '{"x": 1}'}
    assert first["time"] == first["timings"]["wait"] == 250
    assert (second["response"]["statusText"], second["response"]["content"]["encoding"]) == ("Not Found", "base64")
    wanted = {"startedDateTime", "time", "request", "response", "cache", "timings"}
    assert wanted <= first.keys()
    assert json.dumps(made)


WARNS = [ErrorRule(at="$.warnings", words="$.warnings[*].say", warns=True)]


def test_a_warning_is_told_and_the_rows_stay():
    document = {"warnings": [{"say": "tides of yesterday"}], "rows": [1]}
    verdict = classify(Answer(200, body=json.dumps(document).encode()), WARNS)
    assert (verdict.problem, verdict.document, verdict.warnings) == (None, document, ("tides of yesterday",))
    assert classify(Answer(200, body=b'{"warnings":[],"rows":[]}'), WARNS).warnings == ()


def test_a_warning_rule_leaves_errors_to_what_is_usual():
    verdict = classify(Answer(200, body=b'{"ok":false}'), [ErrorRule(at="$.absent", warns=True)])
    assert verdict.problem.kind == "error-inside"
    both = [*WARNS, ErrorRule(at="$.fatal")]
    assert classify(Answer(200, body=b'{"fatal":"sunk","warnings":[{"say":"w"}]}'), both).problem.words == "sunk"


def test_a_warning_without_words_is_told_as_it_stands():
    assert classify(Answer(200, body=b'{"cut":true,"rows":[]}'), [ErrorRule(at="$.cut", warns=True)]).warnings == (
        "true",
    )
