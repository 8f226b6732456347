from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.references import queries_behind


def made(*reads):
    return load_brief({"name": "Made", "start": {"tables": [{"query": one} for one in reads]}})


def test_what_stands_behind_a_query_is_found_through_all_steps_and_once():
    asked = load_brief({"name": "Asked", "sheet": {"sheet": "rows"}, "take": {"records": "$[*]"}})
    briefs = [
        ("Sum", made("Late", "Fares")),
        ("Late", made("Fares")),
        ("Fares", asked),
        ("Ports", asked),
        ("Other", made("Ports")),
    ]
    assert queries_behind("Fares", briefs) == ["Sum", "Late"]
    assert queries_behind("Late", briefs) == ["Sum"]
    assert queries_behind("Sum", briefs) == []


def test_a_ring_of_queries_ends():
    assert queries_behind("A", [("A", made("B")), ("B", made("C")), ("C", made("A"))]) == ["C", "B"]
