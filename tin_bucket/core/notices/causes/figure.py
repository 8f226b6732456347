"""A figure passes a bound, or moves by more than so much."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.notices.cause import Cause, CauseKind
from tin_bucket.core.notices.facts import Facts, Finding
from tin_bucket.core.report.figures.registry import AnyFigure
from tin_bucket.core.report.words import moved_words, number_words


class FigureCause(Cause):
    """A figure is above or below a bound, or moved."""

    why: Literal["figure"] = "figure"
    figure: AnyFigure
    test: Literal["above", "below", "moves by more than"] = "above"
    value: float = Field(default=0, allow_inf_nan=False)

    @property
    def happens(self) -> bool:
        """A move happens; a bound is passed for a while."""
        return self.test == "moves by more than"


def found(one: FigureCause, facts: Facts) -> Iterator[Finding]:
    """Whether it holds now. A bound is told once until the figure is back; a move once for each date."""
    figure = one.figure
    subject = f"figure {figure.name}"
    now, then = facts.figure(figure)
    if now.number is None:
        return  # What is not known neither holds nor is over.
    value = number_words(now.number, now.unit, figure.decimals)
    told = {"figure": figure.name, "value": now.number, "unit": now.unit}
    if one.test == "moves by more than":
        if then is None or then.number is None or abs(now.number - then.number) <= one.value:
            yield Finding(subject, "")
            return
        moved = moved_words(now.number, then.number, now.unit, figure.decimals)
        sentence = f"It was {number_words(then.number, then.unit, figure.decimals)} and is {value}."
        yield Finding(
            subject,
            f"{then.number!r} → {now.number!r}",
            f"{figure.name} {moved}",
            (sentence,),
            figure.query,
            {**told, "before": then.number},
        )
        return
    holds = now.number > one.value if one.test == "above" else now.number < one.value
    if not holds:
        yield Finding(subject, "")
        return
    bound = number_words(one.value, now.unit)
    yield Finding(
        subject,
        one.test,
        f"{figure.name} is {one.test} {bound}: {value}",
        (f"It is told again when it was {'below' if one.test == 'above' else 'above'} {bound} in between.",),
        figure.query,
        {**told, "test": one.test, "bound": one.value},
    )


def words(one: FigureCause) -> str:
    """When it is told, in a sentence."""
    test = "moves by more than" if one.happens else f"is {one.test}"
    return f"when {one.figure.name} {test} {number_words(one.value)}"


KIND = CauseKind(
    key="figure", model=FigureCause, label="A figure passes a bound, or moves", found=found, words=words,
    phrase="when a figure is {test} {value}",
    fields=(
        FormField("figure", "The figure", "figures", required=True),
        FormField("test", "Is", "code",
                  options=(Option("above", "above"), Option("below", "below"),
                           Option("moves by more than", "moving by more than"))),
        FormField("value", "Bound", "number", required=True),
    ),
)  # fmt: skip
