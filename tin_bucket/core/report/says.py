"""What stands in a text in the place of a figure."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, tzinfo

from .condition import passes
from .figures.registry import kind_of_figure
from .seen import FigureSeen
from .text import Reference, Said, When, harmless
from .words import change_words, date_value_words, moved_words, number_words, percent_words

_ARROWS = {1: "▲\u00a0", -1: "▼\u00a0", 0: ""}


@dataclass(frozen=True, slots=True)
class Speaker:
    """Says figures.

    Attributes:
        figures: by their names in lower case.
        as_of, against: the dates of the report, ISO 8601; the latter may be empty.
        now: today, for years that need not be said.
        link: gives where the rows of a figure are; an empty text where nobody can go there.
    """

    figures: dict[str, FigureSeen]
    as_of: str
    against: str
    zone: tzinfo | None
    now: datetime
    links: dict[str, str]

    def say(self, of: Reference) -> Said:
        """What stands in the place of a reference."""
        name = of.name.casefold()
        if name in ("as of", "against") and not of.part:
            moment = self.as_of if name == "as of" else self.against
            if not moment:
                return _missing("no other date", "The report is held against no other date.")
            words = date_value_words(self._day(moment), None, self.now)
            return Said(words, f'<span class="when">{harmless(words)}</span>')
        one = self.figures.get(name)
        if one is None:
            return _missing(of.name, f"No figure is named “{of.name}”.")
        return self._figure(one, of.part)

    def holds(self, when: When) -> bool | None:
        """Whether a condition holds; nothing where that cannot be told."""
        one = self.figures.get(when.of.name.casefold())
        if one is None:
            return None
        if when.of.part in ("", "amount"):
            if one.now.why:
                return None
            value = one.now.number if when.of.part == "amount" else one.now.value
            return passes(when.test, value, when.value)
        if when.of.part == "change":
            now, then = one.now.number, one.then.number if one.then is not None else None
            return None if now is None or then is None else passes(when.test, now - then, when.value)
        if when.of.part == "then":
            return None if one.then is None or one.then.why else passes(when.test, one.then.value, when.value)
        return passes(when.test, self._figure(one, when.of.part).text, when.value)

    def _day(self, moment: str) -> str:
        local = datetime.fromisoformat(moment)
        return (local.astimezone(self.zone) if local.tzinfo is not None else local).date().isoformat()

    def _figure(self, one: FigureSeen, part: str) -> Said:
        figure, now, then = one.figure, one.now, one.then
        if part and part not in kind_of_figure(figure).parts:
            return _missing(f"{figure.name}: {part}", f"“{part}” cannot be said of “{figure.name}”.")
        if now.why or now.value is None:
            return _missing(figure.name, f"{figure.name}: {now.why or 'there is nothing'}", figure.name)
        if part == "":
            return self._chip(one, self._value(one, now.value), "fig")
        if part == "amount":
            amount = number_words(now.amount or 0.0, now.unit, figure.decimals)
            return self._chip(one, amount, "fig")
        if then is None or then.why or then.value is None:
            why = then.why if then is not None and then.why else "There is no other date to hold it against."
            return _missing("no earlier figure", f"{figure.name}: {why}", figure.name)
        if part == "then":
            return self._chip(one, self._value(one, then.value), "then")
        if now.number is None or then.number is None:
            return _missing(f"{figure.name}: {part}", f"“{part}” cannot be said of “{figure.name}”.", figure.name)
        if part == "percent":
            words = percent_words(now.number, then.number) or "no share of what was nothing"
        elif part == "moved":
            words = moved_words(now.number, then.number, now.unit, figure.decimals)
        else:
            words = change_words(now.number, then.number, now.unit, now.counts, figure.decimals)
        still = words in ("unchanged", "did not change")
        sign = 0 if still else 1 if now.number > then.number else -1
        return self._chip(one, words, "chg" if sign else "then", "" if part == "moved" else _ARROWS[sign])

    def _value(self, one: FigureSeen, value: float | str) -> str:
        if not isinstance(value, str):
            return number_words(value, one.now.unit, one.figure.decimals)
        return date_value_words(value, self.zone, self.now) if kind_of_figure(one.figure).key == "date" else value

    def _chip(self, one: FigureSeen, words: str, look: str, before: str = "") -> Said:
        doubt = one.source.doubt
        told = [self.provenance(one)]
        name = harmless(one.figure.name)
        classes = look + (f" {doubt}" if doubt else "")
        inner = (f'<span aria-hidden="true">{before}</span>' if before else "") + harmless(words)
        if doubt:
            inner += f' <small class="doubt">{doubt}</small>'
        link = self.links.get(one.figure.name.casefold(), "")
        attributes = f'class="{classes}" data-figure="{name}" title="{harmless(" ".join(told))}"'
        html = f'<a {attributes} href="{harmless(link)}">{inner}</a>' if link else f"<span {attributes}>{inner}</span>"
        return Said(f"{words} ({doubt})" if doubt else words, html)

    def provenance(self, one: FigureSeen) -> str:
        """Where a figure is from, in sentences."""
        source = one.source
        when = date_value_words(source.taken, self.zone, self.now) if source.taken else "no date"
        parts = [f"{one.figure.name}: {source.name}, as of {when}, {source.state}."]
        if source.old:
            parts.append(source.old)
        parts.extend(one.now.notes)
        then = one.then
        if then is not None and then.value is not None and source.then_taken:
            was = self._value(one, then.value)
            amount = f", {number_words(then.amount, then.unit, one.figure.decimals)}" if then.amount is not None else ""
            parts.append(f"It was {was}{amount} on {date_value_words(self._day(source.then_taken), None, self.now)}.")
        return " ".join(parts)


def _missing(words: str, why: str, name: str = "") -> Said:
    """What stands where there is no figure: never nothing, and never an old one."""
    figure = f' data-figure="{harmless(name)}"' if name else ""
    html = (
        f'<span class="fig missing"{figure} title="{harmless(why)}">{harmless(words)}'
        ' <small class="doubt">missing</small></span>'
    )
    return Said(f"[{words}: missing]", html)
