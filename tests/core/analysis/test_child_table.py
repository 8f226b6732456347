"""A list as a query of its own."""

from tin_bucket.core.analysis.child_table import child_table_brief
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.table.reader import read_table

ANSWER = {
    "d": [
        {"id": "a", "fares": [{"class": "foot"}, {"class": "car"}],
         "legs": [{"to": "x", "stops": [{"n": 1}, {"n": 2}]}, {"to": "y", "stops": []}]},
        {"id": "b", "fares": [{"class": "foot"}], "legs": [{"to": "z", "stops": [{"n": 3}]}]},
    ]
}  # fmt: skip
COLUMNS = [
    {"place": "$.id", "name": "id", "hidden": True},
    {"place": "$.fares[*].class", "name": "class"},
    {"place": "$.fares[*].class", "name": "first", "reduction": {"by": "first"}},
]


def own(place, columns, match):
    brief = load_brief({
        "name": "Sailings",
        "ask": {"service": "s"},
        "take": {"records": "$.d[*]", "rows_for": "$.fares", "columns": columns},
        "keep": {"match": match},
    })  # fmt: skip
    lists = {"$.legs": ["$.legs"], "$.legs[*].stops": ["$.legs", "$.legs[*].stops"]}[place]
    every = brief.take.model_copy(update={"rows_for": lists, "columns": None})
    found = read_table(every, [pick(ANSWER, "$.d[*]")]).table.columns
    made = child_table_brief(brief, place, found, None, ["Sailings, legs"])
    # It is a brief that can be saved and read.
    again = load_brief(made.model_dump(mode="json", by_alias=True))
    table = read_table(again.take, [pick(ANSWER, "$.d[*]")]).table
    return again.name, [column.name for column in table.columns], table.rows(0, 9)


def test_its_rows_have_the_parents_match_columns_but_none_that_tells_items_of_another_list():
    assert own("$.legs", COLUMNS, ["id", "class", "first"]) == (
        "Sailings, legs 2",
        ["id", "first", "legs.to", "legs.stops"],
        [
            ("a", "foot", "x", '[{"n":1},{"n":2}]'),
            ("a", "foot", "y", "[]"),
            ("b", "foot", "z", '[{"n":3}]'),
        ],
    )


def test_a_list_in_a_list_is_rows_of_both():
    assert own("$.legs[*].stops", None, ["id"]) == (
        "Sailings, legs.stops",
        ["id", "legs.stops.n"],
        [("a", 1), ("a", 2), ("a", None), ("b", 3)],
    )
