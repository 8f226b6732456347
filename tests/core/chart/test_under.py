"""A chart with the same chart of another date under it."""

from tin_bucket.core.chart.drawing import Axis, Drawing, Panel, Series
from tin_bucket.core.chart.under import laid_under

DAY = 86_400_000


def line(first, count, name=""):
    x = [float((first + at) * DAY) for at in range(count)]
    return Drawing("line", Axis("day", "day"), [Axis("v", "number")], [Panel([Series(name, [1.0] * count, x)])], count)


def test_the_other_date_lies_under_where_the_times_are_the_same():
    made = laid_under(line(0, 30), line(0, 23), 7)
    own, then = made.panels[0].series
    assert (own.then, then.then) == (False, True)
    assert then.x == line(0, 23).panels[0].series[0].x
    assert made.notes == []


def test_a_line_of_last_week_is_drawn_a_week_later_and_that_is_said():
    made = laid_under(line(7, 7), line(0, 7), 7)
    assert made.panels[0].series[1].x == made.panels[0].series[0].x
    assert made.notes == ["The thin line of the other date is drawn 7 days later."]


def test_bars_are_held_against_those_of_the_same_name():
    def bars(names, values):
        return Drawing(
            "bars", Axis("n", "category"), [Axis("v", "number")], [Panel([Series("", values)], "", names)], 3
        )

    made = laid_under(bars(["a", "b"], [1.0, 2.0]), bars(["b", "c"], [5.0, 6.0]))
    assert made.panels[0].series[1].y == [None, 5.0]
    assert made.panels[0].categories == ["a", "b"]


def test_what_has_no_place_is_not_drawn_and_said():
    def points():
        return Drawing("points", Axis("a", "number"), [Axis("b", "number")], [Panel([Series("", [1.0], [2.0])])], 1)

    made = laid_under(points(), points())
    assert len(made.panels[0].series) == 1
    assert made.notes == ["The other date is not drawn in it."]
    # A line that is no longer there has none either.
    assert len(laid_under(line(0, 3, "a"), line(0, 3, "b")).panels[0].series) == 1


def test_a_figure_has_what_it_was_beside_it():
    def figure(value):
        return Drawing("figure", Axis("", "category"), [Axis("rows", "number")], [Panel([Series("", [value])])], 1)

    series = laid_under(figure(5.0), figure(3.0)).panels[0].series
    assert [(one.y, one.then) for one in series] == [([5.0], False), ([3.0], True)]
