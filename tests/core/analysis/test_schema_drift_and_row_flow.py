"""What an API sends otherwise than before, and where the rows went."""

from tin_bucket.core.analysis.row_flow import row_flow
from tin_bucket.core.analysis.schema_drift import MOST_TOLD, schema_drift, schema_drift_summary
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.document.report import (
    ChangedField,
    Duplicates,
    LookupReport,
    ReadingReport,
    RunReport,
    SchemaDrift,
)

TAKEN = Extraction.model_validate({"columns": [{"place": "$.b", "name": "b"}, {"place": "$.n", "name": "n"}]})


def test_new_missing_and_changed_fields_are_told_and_those_that_are_columns_first():
    before = {"$.a": "text", "$.b": "text", "$.n": "whole number", "$.z": "yes/no"}
    now = {"$.n": "text", "$.z": "text", "$.new": "text"}
    found = schema_drift(before, now, TAKEN)
    assert found == SchemaDrift(
        new=["$.new"],
        missing=["$.b", "$.a"],
        changed=[
            ChangedField(place="$.n", was="whole number", now="text"),
            ChangedField(place="$.z", was="yes/no", now="text"),
        ],
        columns=2,
        words=schema_drift_summary(found),
    )
    assert found.words == ("1 new field (new); 2 fields no longer there (b, a); 2 fields of another kind (n, z)")
    assert schema_drift(before, now, Extraction()).columns == 4


def test_what_is_no_change_is_not_told():
    same = {"$.a": "text", "$.n": "whole number"}
    assert schema_drift(same, dict(same), TAKEN) is None
    assert schema_drift(same, {"$.a": "empty", "$.n": "decimal"}, TAKEN) is None
    assert schema_drift({}, same, TAKEN) is None is schema_drift(same, {}, TAKEN)
    # An object that was empty throughout, and now has members, is told by these.
    assert schema_drift({"$.v": "empty"}, {"$.v.name": "text"}, TAKEN) is None
    assert schema_drift_summary(SchemaDrift()) == ""


def test_very_many_are_counted():
    found = schema_drift({"$.a": "text"}, {"$.a": "text", **{f"$.k{n}": "text" for n in range(100)}}, TAKEN)
    assert (len(found.new), found.more) == (MOST_TOLD, 100 - MOST_TOLD)


def test_the_way_from_answers_to_the_table():
    report = RunReport(
        reading=ReadingReport(rows_for=["$.fares"], empty=4, unfit={"at": 2}),
        lookups={"port": LookupReport(calls=14, rows=1900, none=2, failed=1)},
    )
    told = [(one.what, one.count, one.words) for one in row_flow(report, 7, 640, 1912, 640)]
    assert told == [
        ("answers", 7, ""),
        ("records", 640, "all that are stated"),
        ("rows", 1912, "one for each of fares; 4 of them without an item, kept as one row each"),
        ("look up port", 1912, "14 calls, 2 found nothing, 1 failed"),
        ("table", 1912, "2 cells of another kind, left unchanged"),
    ]
    plain = [(one.what, one.count, one.words) for one in row_flow(RunReport(), 1, 1, 1)]
    assert plain == [("answers", 1, ""), ("records", 1, ""), ("table", 1, "")]
    short = row_flow(RunReport(duplicates=Duplicates(rows=4, by=["id"])), 1, 25, 25, 118)[1]
    assert short.words == "the API states 118, 4 came on two pages"
