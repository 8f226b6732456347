"""What of a brief was changed since a table was made with it."""

import pytest

from tin_bucket.core.document.made_with import MadeWith, changed_since
from tin_bucket.core.document.query import load_brief

BRIEF = {
    "name": "Fares",
    "parameters": [{"name": "day", "kind": "date", "default": "2026-03-01"}],
    "ask": {"service": "s", "path": "/fares", "query": [{"name": "on", "value": "{day}"}]},
    "take": {"records": "$.d[*]", "columns": [{"place": "$.a", "name": "a"}]},
    "look_up": [{"name": "port", "path": "/ports/{a}", "with": {"a": "a"}, "take": [{"place": "$.n", "name": "n"}]}],
}
ASKS, READS = MadeWith(True, False), MadeWith(False, True)


@pytest.mark.parametrize(
    ("change", "expected"),
    [
        ({"name": "Other", "note": "n"}, None),
        ({"keep": {"match": ["a"], "schedule": {"kind": "every", "every": "PT1H"}}}, None),
        ({"parameters": [{**BRIEF["parameters"][0], "label": "Day", "hint": "h", "ask": True}]}, None),
        ({"parameters": [{**BRIEF["parameters"][0], "default": "2026-03-02"}]}, ASKS),
        ({"ask": {**BRIEF["ask"], "path": "/tariffs"}}, ASKS),
        ({"pages": {"by": "number", "parameter": "page", "total_proved": True}}, ASKS),
        ({"pages": {"by": "none", "said": {"on": "2026-03-01", "rows": 3, "apart": []}}}, None),
        ({"take": {**BRIEF["take"], "columns": [{"place": "$.a", "name": "A"}]}}, READS),
        ({"look_up": [{**BRIEF["look_up"][0], "take": [{"place": "$.m", "name": "m"}]}]}, READS),
        ({"look_up": [{**BRIEF["look_up"][0], "path": "/harbours/{a}"}]}, ASKS),
        ({"look_up": []}, MadeWith(True, True)),
        ({"sheet": {"sheet": "codes"}, "ask": None, "look_up": []}, MadeWith(True, True)),
    ],
)
def test_calls_and_readings_are_told_apart(change, expected):
    assert changed_since(load_brief(BRIEF), load_brief({**BRIEF, **change})) == expected
