"""Lookups: rows → distinct values → calls. Equal values are asked once, and many in one call where the API takes it.

A worked example: rows with the codes 007, 015, 007 and 099 need three values. One by one these are three calls; in
batches of two they are two. An answer to a batch has records in any order, and each says which code it is of: a code
that no record is of is not there, and one that several are of is told.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Collection, Container, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any
from urllib.parse import quote

import numpy as np

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.look_up import LookUp
from tin_bucket.core.document.query import Brief
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.problem import fail
from tin_bucket.core.request.bodies import body_names
from tin_bucket.core.request.build import MOST_ADDRESS_BYTES, build_call
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import put
from tin_bucket.core.request.templates import template_names
from tin_bucket.core.request.variables import Scope, Value, one_text
from tin_bucket.core.response.response import Answer

from .fan_out_columns import FAN_OUT_ORIGIN
from .flatten import Cells
from .row_expansion import Ints
from .table import Table

Key = tuple[str, ...]
"""The texts of the values that a row is looked up by."""
KEPT = "kept:"
"""The beginning of what stands for an address where answers are kept."""


@dataclass(frozen=True, slots=True)
class Kept:
    """An answer for one value that is kept from an earlier refresh.

    Attributes:
        found: the answer's document, or of a batch the list of its records; ``None`` where there is no such thing.
        asked: when it was asked for, ISO 8601.
    """

    found: Any
    asked: str


@dataclass(slots=True)
class LookUpPlan:
    """What a lookup will ask.

    Attributes:
        calls: the distinct calls, in the order in which the rows first need them.
        keys: the distinct values, in the order in which the rows first need them.
        key_of_row: for each row the index of its value, −1 where a value is empty and nothing is asked. Shape (rows,).
        call_of_key: for each value the index of its call, −1 where its answer is kept. Shape (keys,).
        kept: the answers that are kept, by their values.
        build: makes a call for some of the values, where many go in one call.
    """

    calls: list[Call]
    keys: list[Key]
    key_of_row: Ints
    call_of_key: Ints
    kept: Mapping[Key, Kept] = field(default_factory=dict)
    build: Callable[[Sequence[Key]], Call] | None = None

    def values(self, at: int) -> int:
        """How many values a call is for."""
        return int((self.call_of_key == at).sum())

    def can_halve(self, at: int) -> bool:
        """Whether a call is for more than one value, so that it can be made in two parts."""
        return self.build is not None and self.values(at) > 1

    def halve(self, at: int) -> int:
        """Put the first half of a call's values in its place, and the others into a new call; its index.

        A plan that is made anew is halved at the same places, so that saved answers are found again.
        """
        assert self.build is not None
        keys = np.flatnonzero(self.call_of_key == at)
        cut = -(-len(keys) // 2)
        self.calls[at] = self.build([self.keys[key] for key in keys[:cut]])
        self.calls.append(self.build([self.keys[key] for key in keys[cut:]]))
        self.call_of_key[keys[cut:]] = len(self.calls) - 1
        return len(self.calls) - 1

    def fit(self, known: Container[str]) -> None:
        """Halve the calls that were made in parts.

        Args:
            known: how the calls were asked that were made, see :attr:`Call.asked_as`.
        """
        waiting = list(range(len(self.calls))) if self.build is not None else []
        while waiting:
            at = waiting.pop()
            if self.calls[at].asked_as not in known and self._was_halved(at, known):
                waiting += [at, self.halve(at)]

    def _was_halved(self, at: int, known: Container[str]) -> bool:
        assert self.build is not None
        keys = [self.keys[key] for key in np.flatnonzero(self.call_of_key == at)]
        while len(keys) > 1:
            cut = -(-len(keys) // 2)
            first, second = keys[:cut], keys[cut:]
            if self.build(first).asked_as in known or self.build(second).asked_as in known:
                return True
            keys = first
        return False

    @property
    def call_of_row(self) -> Ints:
        """For each row the index of its call, −1 where none is made for it. Shape (rows,)."""
        if not len(self.call_of_key):
            return np.full(len(self.key_of_row), -1, dtype=np.int64)
        return np.where(self.key_of_row < 0, -1, self.call_of_key[self.key_of_row])


def lookup_service(brief: Brief, look_up: LookUp) -> str:
    """The id of the service that a lookup asks: its own, or that of the question."""
    return look_up.service or (brief.ask.service if brief.ask is not None else "")


def with_iterations(brief: Brief, look_up: LookUp, table: Table) -> LookUp:
    """The lookup with the values that the question was asked for taken from their columns, row by row."""
    columns = {heading.place: heading.name for heading in table.columns if heading.origin == FAN_OUT_ORIGIN}
    more = {name: columns[name] for name in _names(look_up) & set(columns) - set(look_up.with_)}
    return look_up.model_copy(update={"with_": {**look_up.with_, **more}}) if more else look_up


def _names(look_up: LookUp) -> set[str]:
    """Every name in a lookup's templates."""
    names = template_names(look_up.path) | body_names(look_up.body)
    for pair in [*look_up.query, *look_up.headers]:
        names |= template_names(pair.value or "")
    return names


def lookup_keys(look_up: LookUp, table: Table) -> tuple[list[Key], Ints]:
    """The distinct values that rows are looked up by, and for each row the index of its own, −1 for none.

    Raises:
        ProblemError: ``lookup-column-unknown`` when the table has no such column.
    """
    columns: list[Cells] = []
    for name in look_up.with_.values():
        column = table.column(name)
        if column is None:
            have = ", ".join(heading.name for heading in table.columns[:20])
            raise fail(
                "lookup-column-unknown",
                f"The lookup “{look_up.name}” needs the column “{name}”, and the table has none of that name.",
                where=f"look up {look_up.name}",
                do=f"The table's columns: {have}.",
            )
        columns.append(column)
    index_of: dict[Key, int] = {}
    key_of_row = np.full(table.height, -1, dtype=np.int64)
    for row, values in enumerate(zip(*columns, strict=True)):
        if any(value is None or value == "" or type(value) is Miss for value in values):
            continue
        # 1, 1.0 and True are equal in Python and differ in an address.
        key_of_row[row] = index_of.setdefault(_texts(values), len(index_of))
    return list(index_of), key_of_row


def plan_lookup(
    look_up: LookUp,
    table: Table,
    scope: Scope,
    base: str,
    headers: Sequence[tuple[str, str]] = (),
    kept: Mapping[Key, Kept] | None = None,
) -> LookUpPlan:
    """Find the distinct calls that the rows need.

    Args:
        scope: what the query's parameters stand for.
        base: the base address of the lookup's service, and with it its fixed headers.
        kept: answers that are kept; no call is made for their values.

    Raises:
        ProblemError: ``lookup-column-unknown`` when the table has no such column, or a template problem.
    """
    keys, key_of_row = lookup_keys(look_up, table)
    known = {key: kept[key] for key in keys if key in kept} if kept else {}
    wanted = [at for at, key in enumerate(keys) if key not in known]
    call_of_key = np.full(len(keys), -1, dtype=np.int64)
    calls: list[Call] = []
    build = _Builder(look_up, scope, base, headers)
    for some in build.batches(keys, wanted) if look_up.batch is not None else [[at] for at in wanted]:
        for at in some:
            call_of_key[at] = len(calls)
        calls.append(build.call([keys[at] for at in some]))
    return LookUpPlan(calls, keys, key_of_row, call_of_key, known, build.call if look_up.batch is not None else None)


class _Builder:
    """Builds the calls of a lookup."""

    def __init__(self, look_up: LookUp, scope: Scope, base: str, headers: Sequence[tuple[str, str]]) -> None:
        self._look_up = look_up
        self._scope = scope
        self._base = base
        self._headers = headers
        self._ask = look_up.ask("")
        self._names = list(look_up.with_)
        self._many = self._names.index(look_up.many) if look_up.batch is not None else -1

    def call(self, keys: Sequence[Key]) -> Call:
        """The call for one value, or for many that differ in the name that stands for many."""
        own = {name: one_text(text) for name, text in zip(self._names, keys[0], strict=True)}
        batch = self._look_up.batch
        label = lookup_label(keys[0]) if len(keys) == 1 else f"{lookup_label(keys[0])} and {len(keys) - 1:,} more"
        texts = tuple(key[self._many] for key in keys)
        if batch is not None:
            own[self._look_up.many] = Value(texts, texts, many=True)
        try:
            made = build_call(self._base, self._ask, {**self._scope, **own}, self._headers)
        except Exception as error:
            problem = getattr(error, "problem", None)
            if problem is not None and problem.kind == "template-unknown-name":
                # Of a lookup, names are columns too.
                what = problem.what.replace("is not a parameter", "is not a column or parameter")
                raise type(error)(replace(problem, what=what)) from error
            raise
        made = replace(made, stage=f"look up {self._look_up.name}", label=label)
        if batch is not None and batch.place is not None:
            body = made.body or b"{}"
            typed = (*(pair for pair in made.headers if pair[0].lower() != "content-type"),
                     ("Content-Type", "application/json"))  # fmt: skip
            made = put(replace(made, body=body, headers=typed), "body", {batch.place: list(texts)}, label)
        return made

    def batches(self, keys: Sequence[Key], wanted: Sequence[int]) -> list[list[int]]:
        """Values that go together: as few calls as their number and the length of an address allow."""
        batch = self._look_up.batch
        assert batch is not None
        groups: dict[Key, list[int]] = {}
        for at in wanted:
            rest = tuple(text for index, text in enumerate(keys[at]) if index != self._many)
            groups.setdefault(rest, []).append(at)
        out: list[list[int]] = []
        for some in groups.values():
            if batch.place is not None:
                out += [some[at : at + batch.most] for at in range(0, len(some), batch.most)]
            else:
                out += self._fitting(keys, some, batch.most, batch.characters or MOST_ADDRESS_BYTES)
        return out

    def _fitting(self, keys: Sequence[Key], some: list[int], most: int, characters: int) -> list[list[int]]:
        """Batches whose addresses are short enough. In their order, or the longest first where that makes fewer."""
        lengths = {at: len(quote(keys[at][self._many], safe="-._~")) for at in some}
        bare, between = self._lengths(keys, some, lengths)

        def filled(order: Sequence[int]) -> list[list[int]]:
            bins: list[tuple[list[int], int]] = []
            open_from = 0
            for at in order:
                for number in range(open_from, len(bins)):
                    inside, length = bins[number]
                    if len(inside) < most and length + between + lengths[at] <= characters:
                        inside.append(at)
                        bins[number] = inside, length + between + lengths[at]
                        break
                else:
                    bins.append(([at], bare + lengths[at]))
                while open_from < len(bins) and len(bins[open_from][0]) >= most:
                    open_from += 1
            return [inside for inside, _ in bins]

        found = filled(some)
        if len(set(lengths.values())) > 1:
            other = filled(sorted(some, key=lambda at: -lengths[at]))
            found = min(found, other, key=len)
        return found

    def _lengths(self, keys: Sequence[Key], some: list[int], lengths: Mapping[int, int]) -> tuple[int, int]:
        """The length of an address without any value, and what one more value costs beside itself."""
        one = len(self.call([keys[some[0]]]).address)
        if len(some) == 1:
            return one - lengths[some[0]], 3
        two = len(self.call([keys[some[0]], keys[some[1]]]).address)
        return one - lengths[some[0]], two - one - lengths[some[1]]


def _texts(values: Sequence[Any]) -> Key:
    return tuple(value if isinstance(value, str) else json_text(value) for value in values)


def lookup_label(values: Sequence[Any]) -> str:
    """The label of the call that a row's values were looked up with, as :func:`plan_lookup` gives it."""
    return ", ".join(_texts(values))


def question_of(look_up: LookUp, service: str, scope: Scope) -> bytes:
    """What tells the answers of a lookup from those of others: all that decides them, but for the values themselves.
    A digest (BLAKE2b, RFC 7693, 16 bytes)."""
    parts = look_up.model_dump(include={"method", "path", "query", "headers", "body", "missing"}, mode="json")
    batch = look_up.batch
    own = {name: scope[name].joined() for name in sorted(_names(look_up) - set(look_up.with_)) if name in scope}
    read = [batch.records, batch.match, batch.place, look_up.many] if batch is not None else None
    text = json_text([service, parts, sorted(look_up.with_), own, read])
    return hashlib.blake2b(text.encode(), digest_size=16).digest()


def is_missing(look_up: LookUp, answer: Answer) -> bool:
    """Whether the answer says that there is no such thing, which is a result and not a failure."""
    return answer.failure is None and answer.status in look_up.missing


def kept_answer(look_up: LookUp, kept: Mapping[Key, Kept], keys: Collection[Key]) -> tuple[str, bytes]:
    """The kept answers that a table was made with, as one saved answer: its address and its body."""
    document = [[list(key), kept[key].asked, kept[key].found] for key in keys]
    return f"{KEPT}{look_up.name}", json_text(document).encode()


def read_kept(document: Any) -> dict[Key, Kept]:
    """The kept answers of a saved answer that :func:`kept_answer` made."""
    return {tuple(key): Kept(found, asked) for key, asked, found in document}
