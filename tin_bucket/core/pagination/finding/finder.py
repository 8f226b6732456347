"""Finds out by asking whether there is more, and how an API wants to be asked: a generator that makes few calls.

It yields a :class:`TrialCall`, is sent what came of it, and returns the :class:`Finding`.
"""

from __future__ import annotations

from collections.abc import Generator, Sequence
from dataclasses import replace
from datetime import date
from typing import Any

from tin_bucket.core.pagination.base import PaginationModel
from tin_bucket.core.pagination.contrary import is_mark, says_more
from tin_bucket.core.pagination.evidence import Evidence, PaginationGuess
from tin_bucket.core.pagination.protocol import Page, stated, stated_number
from tin_bucket.core.pagination.registry import detect_pagination, paginate
from tin_bucket.core.pagination.tracker import is_behind, usual_size
from tin_bucket.core.pagination.ways.cursor import CursorPagination
from tin_bucket.core.pagination.ways.last_row import LastRowPagination
from tin_bucket.core.pagination.ways.number import NumberPagination
from tin_bucket.core.pagination.ways.offset import OffsetPagination
from tin_bucket.core.pagination.ways.single import NoPagination, OnlyAnswer, end_of_answer
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import put

from .candidates import candidates, offered_effects
from .design import SURE, Second, next_values
from .effects import Beliefs, Effect, Given
from .finding import Finding, Trial, TrialCall, Tried
from .refusal import learn
from .rows import FirstRows, Sight, place_of

MOST_CALLS = 6
MOST_OF_KNOWN = 3  # The next page, the one before, the largest.
_NO_PAGE = 5  # Rows of which no page has fewer.
LARGE = 500  # Rows a page that are asked for to find the most an API gives.


Finder = Generator[TrialCall, Tried, Finding]
_WORDS = {
    "number": "by number",
    "offset": "by the number of rows before",
    "last row": "by the last row",
    "cursor": "by a cursor",
}


def find_more(call: Call, page: Page, today: date) -> Finder:
    """Find out whether there is more than one answer holds.

    Args:
        call: the call that was made.
        page: its answer, with the records that were taken from it.
        today: the date that is noted where one answer turns out to be all.
    """
    return (yield from _Asking(call, page, today).go())


class _Asking:
    def __init__(self, call: Call, page: Page, today: date) -> None:
        self.call, self.page, self.today = call, page, today
        self.seen = Evidence(page, call)
        self.first = FirstRows(page.records)
        self.here = page.size
        self.trials: list[Trial] = []
        self.left = MOST_CALLS
        self.least, self.most = 1, LARGE
        self.alone = False
        self.plans: list[dict[str, Given]] = []
        self.second = Second()
        self.placed = False  # Whether an answer began in the middle of the first one's rows.
        self.control = False  # Whether an answer was seen that repeats the first one's rows.
        self.behind_is_empty = ""  # How the page behind the first one showed that it is the last, in words.
        self.another = False  # Whether further rows were seen.
        self.total_held = False  # Whether the stated total stayed while the number of rows did not.
        self.total_follows = False  # Whether it was the number of rows of each answer.

    def go(self) -> Finder:
        known = _known(detect_pagination(self.page, self.call))
        end = end_of_answer(self.page, self.call)
        if not self.here:
            return Finding("complete", "the answer is empty")
        if known is not None:
            return (yield from self._of_known(known))
        if end.state == "complete" and (end.stated_total or 0) <= self.here:
            return Finding("complete", end.evidence)
        beliefs = candidates(self.seen, self.first)
        while self.left > 0 and self._open(beliefs):
            plan = next_values(beliefs, self.first, self.least, self.alone, self.left - 1, self.second)
            if not plan or plan in self.plans:
                break
            self.plans.append(plan)
            stop = yield from self._try(beliefs, plan)
            if stop is not None:
                return self._ended(stop)
        return (yield from self._conclude(beliefs))

    # One call --------------------------------------------------------------------------------------------------

    def _ask(self, values: dict[str, Any]) -> Generator[TrialCall, Tried, Tried]:
        sent = {name: str(value) for name, value in values.items()}
        self.left -= 1
        places = {self.seen.beside(name): value for name, value in values.items()}
        return (yield TrialCall(put(self.call, self.seen.at, places, "is there more?"), sent))

    def _note(self, values: dict[str, Any], rows: int | None, showed: str) -> None:
        self.trials.append(Trial({name: str(value) for name, value in values.items()}, rows, showed))

    def _try(self, beliefs: Beliefs, plan: dict[str, Given]) -> Generator[TrialCall, Tried, str | None]:
        """Make a call and learn from it; gives why no further one should be made, or nothing."""
        values = {name: one.value for name, one in plan.items()}
        tried = yield from self._ask(values)
        if tried.page is None:
            assert tried.problem is not None
            return self._refused(beliefs, plan, values, tried.problem)
        sight = self.first.sight(tried.page.records, tried.page.size)
        self._watch_total(tried.page)
        same = sight.start == 0 and sight.count == self.here
        self.control = self.control or same
        self.placed = self.placed or bool(sight.start)
        explained = beliefs.see(plan, sight, self.here, self.second.values)
        if sight.count and not sight.known and not self.second.values:
            marks = [effect.source for effect in beliefs.effects() if effect is not None and effect.kind == "cursor"]
            mark = stated(tried.page, marks[0]) if marks else None
            held = {name: one for name, one in plan.items() if beliefs.holds(name)}
            self.second = Second(held, mark if is_mark(mark) else None)
        if not explained:
            self._note(values, sight.count, "rows in another order or of another kind, which no parameter explains")
            return "its rows differ from call to call in no order that is known"
        if sight.count and not sight.known:
            self.another = True
        elif not sight.count and not self.another:
            self.behind_is_empty = "an empty page"
        if self.another:
            self.behind_is_empty = ""
        self._note(values, sight.count, self._showed(sight, same, plan, beliefs))
        return None

    def _watch_total(self, page: Page) -> None:
        if self.seen.total is None or page.size == self.here:
            return
        now = stated_number(page, self.seen.total_at)
        self.total_held = self.total_held or (now == self.seen.total and page.size > 0)
        self.total_follows = self.total_follows or (now == page.size)

    def _refused(
        self, beliefs: Beliefs, plan: dict[str, Given], values: dict[str, Any], problem: Problem
    ) -> str | None:
        words = problem.words or problem.what
        self._note(values, None, f"refused: “{words[:120]}”")
        if problem.kind not in ("call-refused", "not-found"):
            return f"a call failed: {problem.what.rstrip('.')}"
        if problem.kind == "not-found" or is_behind(words):
            # What is asked for without these names is there.
            beliefs.see(plan, Sight(0, None, 0, True), self.here, {})
            self.behind_is_empty = "" if self.another else "a page behind it that is not there"
            return None
        lesson = learn(words, plan)
        if lesson.offered:
            offered_effects(beliefs, self.seen, self.first, lesson.offered)
            self.alone = False
        for name in lesson.unknown:
            beliefs.scale(name, 0)
        for name in lesson.known:
            # A mark of another kind is wanted; a number only lies outside of what is allowed.
            beliefs.scale(name, 0 if beliefs.takes_marks(name) else 60)
        if lesson.known & set(plan):
            self.least = max(self.least, min(lesson.least or 1, self.here))
            self.most = lesson.most or self.most
        if lesson.unknown and not lesson.offered:
            # It takes nothing that it does not know, and may say so of one name at a time.
            self.alone = True
        if not (lesson.offered or lesson.unknown or lesson.known):
            if self.alone or len(plan) == 1:
                for name in plan:
                    beliefs.scale(name, 0)
            self.alone = True
        return None

    def _showed(self, sight: Sight, same: bool, plan: dict[str, Given], beliefs: Beliefs) -> str:
        if same:
            return "the same rows: none of these is heeded"
        effect, size = next(iter(beliefs.effects())), next(iter(beliefs.sizes()))
        by = [name for name in (size, effect.name if effect is not None else None) if name in plan]
        named = f": {' and '.join(str(name) for name in by)}" if by else ""
        if not sight.count:
            return f"no rows{named}" if self.another else f"no rows: the first page is the last{named}"
        if not sight.known:
            return f"{sight.count:,} other rows{named}"
        rows = f"{sight.count:,} row{'' if sight.count == 1 else 's'}"
        return f"{rows}, from row {(sight.start or 0) + 1:,} of the first page on{named}"

    def _open(self, beliefs: Beliefs) -> bool:
        """Whether a further call can tell more."""
        effects = beliefs.effects()
        best = next(iter(effects))
        return effects[best] < SURE or (best is not None and not self.trials)

    # The end ---------------------------------------------------------------------------------------------------

    def _ended(self, why: str) -> Finding:
        if self.another:
            return Finding("incomplete", f"there are further rows, but {why}", trials=self.trials)
        return Finding("unverified", f"{self._tried_words()}; {why}", trials=self.trials)

    def _is_all(self) -> bool:
        """Whether so few rows are no page of a longer list, where an API heeds nothing that asks for more."""
        if usual_size(self.here) or self.here == self.seen.sizing().get("size"):
            return False
        return self.here < _NO_PAGE or self.seen.total == self.here

    def _said(self) -> NoPagination:
        apart = [self.seen.total_at] if self._counts_else() and self.seen.total_at is not None else []
        return NoPagination(said=OnlyAnswer(on=self.today, rows=self.here, apart=apart))

    def _behind(self) -> str:
        """That all rows are here, and by what."""
        else_ = f"; {self.seen.total_at}, {self.seen.total:,}, counts something else" if self._counts_else() else ""
        return f"all {self.here:,} rows are here, proved by {self.behind_is_empty}{else_}"

    def _why_all(self) -> str:
        if self.seen.total == self.here:
            return f"{self.seen.total_at} is {self.here:,} for {self.here:,} rows"
        return f"{self.here:,} row{' is' if self.here == 1 else 's are'} fewer than a page has"

    def _names(self) -> set[str]:
        return {name for trial in self.trials for name in trial.sent}

    def _tried_words(self) -> str:
        names = self._names()
        calls = len(self.trials)
        return f"{len(names):,} names were tried in {calls:,} call{'' if calls == 1 else 's'}"

    def _conclude(self, beliefs: Beliefs) -> Finder:
        effects, sizes = beliefs.effects(), beliefs.sizes()
        best, size = next(iter(effects)), next(iter(sizes))
        size = size if size is not None and sizes[size] >= SURE else None
        if best is not None and effects[best] >= SURE:
            if not self.control and best.kind != "cursor" and self.left > 0 and not self.placed:
                again = yield from self._ask({})
                same = again.page is not None and again.page.records == self.page.records
                self._note({}, again.page.size if again.page else None, "asked again as it was" + (
                    ": the same rows" if same else ": other rows, so they differ from call to call"))  # fmt: skip
                if not same:
                    return self._ended("its rows differ from call to call")
            return (yield from self._of_effect(best, size))
        if self.total_held and self.seen.total == self.here:
            what = f"{self.seen.total_at} stays {self.here:,} whatever the number of rows"
            pages = NoPagination(total=self.seen.total_at, total_proved=True)
            what = f"all {self.here:,} stated rows are here: {what}"
            return Finding("complete", what, pages, "as one answer", self.trials)
        if self.behind_is_empty:
            return Finding("complete", self._behind(), self._said(), "as one answer", self.trials)
        if size is not None and best is None and self.left > 0 and not usual_size(self.here):
            large = yield from self._ask({size: self.most})
            if large.page is not None and large.page.size == self.here:
                self._note({size: self.most}, self.here, f"{self.here:,} rows again: there are no more to give")
                what = f"asked for {self.most:,} rows, the API gives {self.here:,}, and it heeds {size}"
                return Finding("complete", what, self._said(), "as one answer", self.trials)
            if large.page is not None and large.page.size > self.here:
                self._note({size: self.most}, large.page.size, f"{large.page.size:,} rows: there is more")
                self.another = True
        if self.another or says_more(self.page) or (self.seen.total or 0) > self.here:
            why = "what asks for them is not found out"
            return Finding("incomplete", f"there is more; {why}: {self._tried_words()}", trials=self.trials)
        if best is None and effects[best] >= SURE and self._is_all():
            what = f"{self._why_all()}, and none of {len(self._names()):,} names for further pages is heeded"
            return Finding("complete", what, self._said(), "as one answer", self.trials)
        if best is None:
            why = "none of them is heeded, so nothing tells whether there is more"
        else:
            why = f"{best.name} may ask for another page, which is not certain"
        return Finding("unverified", f"{self._tried_words()}; {why}", trials=self.trials)

    def _of_effect(self, effect: Effect, size: str | None) -> Finder:
        common: dict[str, Any] = {"at": self.seen.at, **self._total()}
        sizing = self.seen.sizing(effect.name)
        if not sizing and size is not None:
            sizing = {"size_parameter": self.seen.beside(size), "size": None}
        name = self.seen.beside(effect.name)
        pages: PaginationModel
        if effect.kind == "number":
            last = self.seen.last_at
            pages = NumberPagination(parameter=name, first=effect.first, last_page=last, **sizing, **common)
        elif effect.kind == "offset":
            pages = OffsetPagination(parameter=name, first=effect.first, **sizing, **common)
        elif effect.kind == "cursor":
            pages = CursorPagination(parameter=name, cursor=effect.source, more=self.seen.more_at(), **sizing, **common)
        else:
            value = place_of(self.first.key) if self.first.key is not None else "$"
            pages = LastRowPagination(parameter=name, value=value, more=self.seen.more_at(), **sizing, **common)
        return (yield from self._sized(pages, _WORDS[effect.kind]))

    def _of_known(self, guess: PaginationGuess) -> Finder:
        """What the call or the answer names itself: one call shows whether it leads on."""
        paginator = paginate(self.call, guess.pages)
        next(paginator)
        try:
            following = paginator.send(self.page)
        except StopIteration as stopped:
            end = stopped.value
            return Finding(end.state, end.evidence, guess.pages, guess.words, self.trials)
        self.left -= 1
        sent = {following[0].label: ""}
        tried = yield TrialCall(replace(following[0], label="is there more?"), sent)
        if tried.page is None:
            assert tried.problem is not None
            self.trials.append(Trial(sent, None, f"refused: “{(tried.problem.words or tried.problem.what)[:120]}”"))
            if tried.problem.kind == "not-found" or is_behind(tried.problem.words):
                self.behind_is_empty = "a page behind it that is not there"
                return (yield from self._sized(guess.pages, guess.words))
            why = f"the next page is refused: {tried.problem.words or tried.problem.what}"
            return Finding("unverified", why, None, "", self.trials)
        sight = self.first.sight(tried.page.records, tried.page.size)
        if sight.count and sight.known == sight.count and sight.start == 0:
            self.trials.append(Trial(sent, sight.count, "the same rows"))
            if (yield from self._heeded(guess.pages)):
                what = f"all {self.here:,} rows are here: asked for the page behind them, the API gives them again"
                return Finding("complete", what, self._said(), "as one answer", self.trials)
            return Finding("unverified", "the next page brings the same rows", None, "", self.trials)
        self._watch_total(tried.page)
        self.another, self.behind_is_empty = sight.count > 0, "" if sight.count else "an empty page"
        overlap = f", {sight.known:,} of them known" if sight.known else ""
        showed = f"{sight.count:,} other rows{overlap}" if sight.count else "no rows: the first page is the last"
        self.trials.append(Trial(sent, sight.count, showed))
        pages = guess.pages
        if isinstance(pages, NumberPagination) and pages.first == 1 and (yield from self._begins_before(pages)):
            pages = pages.model_copy(update={"first": 0})
            return Finding("incomplete", "there is a page before this one, number 0", pages, guess.words, self.trials)
        return (yield from self._sized(pages, guess.words))

    def _begins_before(self, pages: NumberPagination) -> Generator[TrialCall, Tried, bool]:
        """Whether the page that an example asks for as the first one has another before it."""
        values = {_plain(pages.parameter): 0}
        tried = yield from self._ask(values)
        if tried.page is None:
            words = tried.problem.words if tried.problem is not None else ""
            self._note(values, None, f"refused: “{words[:120]}”: pages are counted from 1")
            return False
        sight = self.first.sight(tried.page.records, tried.page.size)
        before = sight.count > 0 and not sight.known and sight.again is not True
        self._note(
            values, sight.count, f"{sight.count:,} other rows: pages are counted from 0" if before else "no other"
        )
        return before

    def _heeded(self, pages: PaginationModel) -> Generator[TrialCall, Tried, bool]:
        """Whether a parameter that brought the same rows is heeded all the same: an API may give its last page for
        every number behind it. Asked from the middle of the first page on, it then begins there."""
        half = self.here // 2
        if not half or self.left <= 0 or not self.first.distinct:
            return False
        if isinstance(pages, OffsetPagination):
            values = {_plain(pages.parameter): pages.first + half}
        elif isinstance(pages, NumberPagination) and pages.size_parameter is not None:
            values = {_plain(pages.parameter): pages.first + 1, _plain(pages.size_parameter): half}
        else:
            return False
        tried = yield from self._ask(values)
        if tried.page is None:
            self._note(values, None, f"refused: “{(tried.problem.words if tried.problem else '')[:120]}”")
            return False
        sight = self.first.sight(tried.page.records, tried.page.size)
        heeded = sight.start == half and sight.in_order
        self._note(values, sight.count, f"rows from row {half + 1:,} on: it is heeded" if heeded else "the same rows")
        return heeded

    def _counts_else(self) -> bool:
        """Whether a larger total counts something else, because the page behind the first one is not there."""
        return bool(self.behind_is_empty) and (self.seen.total or 0) > self.here

    def _total(self) -> dict[str, Any]:
        """The place of the total, where it may be one."""
        if self.seen.total is None or self.total_follows or self._counts_else():
            return {}
        proved = self.seen.total > self.here or self.total_held
        return {"total": self.seen.total_at, "total_proved": proved}

    def _sized(self, pages: PaginationModel, words: str) -> Finder:
        """Find the largest page, where that saves calls, and say what was found."""
        if (self.total_follows or self._counts_else()) and pages.total == self.seen.total_at:
            pages = pages.model_copy(update={"total": None, "total_proved": False})
        saves = ""
        name = getattr(pages, "size_parameter", None)
        total = self.seen.total if pages.total is not None else None
        more = not self.behind_is_empty and (total is None or total > 2 * self.here)
        if name is not None and more and self.left > 0:
            large = yield from self._ask({_plain(name): self.most})
            size = large.page.size if large.page is not None else self._told_most(large, name)
            if large.page is not None:
                showed = f"{size:,} rows: the most that the API gives" if size < self.most else f"{size:,} rows"
                self._note({name: self.most}, large.page.size, showed)
            if size > self.here:
                pages = pages.model_copy(update={"size": size})
                saves = _saving(self.here, size, total)
        if getattr(pages, "size", 1) is None and name is not None:
            # A size that was only tried is not asked for.
            pages = pages.model_copy(update={"size_parameter": None})
        if self.behind_is_empty:
            return Finding("complete", self._behind(), pages, words, self.trials)
        stated = f" of the {total:,} that the API states" if total is not None and total > self.here else ""
        return Finding(
            "incomplete", f"there is more than these {self.here:,} rows{stated}", pages, words, self.trials, saves
        )

    def _told_most(self, tried: Tried, name: str) -> int:
        """The most rows that a refusal names; 0 when it names none."""
        assert tried.problem is not None
        words = tried.problem.words
        self._note({name: self.most}, None, f"refused: “{(words or tried.problem.what)[:120]}”")
        most = learn(words, [name]).most or 0
        return most if most < self.most else 0


def _plain(name: str) -> str:
    """The name of a parameter without its place in a body."""
    return name.rpartition(".")[2] if name.startswith("$.") else name


def _saving(here: int, size: int, total: int | None) -> str:
    if total is None:
        return f"{here:,} rows a page; the API gives up to {size:,}"
    small, large = -(-total // here), -(-total // size)
    calls = f"{large:,} call{'' if large == 1 else 's'}"
    return f"{here:,} rows a page, {small:,} calls; the API gives up to {size:,}: {calls}"


def may_find_out(call: Call, reads: bool) -> bool:
    """Whether further calls like this one change nothing (RFC 9110 §9.2.1), or a person has said so."""
    return reads or call.method in ("GET", "HEAD")


def most_calls(guesses: Sequence[PaginationGuess]) -> int:
    """How many calls finding out makes at most."""
    return MOST_OF_KNOWN if _known(guesses) is not None else MOST_CALLS


def _known(guesses: Sequence[PaginationGuess]) -> PaginationGuess | None:
    """The likeliest way, where nothing of it is guessed: it is tried by itself."""
    return guesses[0] if guesses and guesses[0].known else None
