"""What may ask for another page, by what an answer, its headers and its call show."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from tin_bucket.core.formats.jsonpath import HEADER
from tin_bucket.core.pagination.contrary import is_mark, says_more
from tin_bucket.core.pagination.evidence import Evidence
from tin_bucket.core.pagination.members import MARKS, flat_name
from tin_bucket.core.pagination.names import LAST, NUMBER, OFFSET, SIZE, names_of_mark

from .effects import Beliefs, Effect
from .rows import FirstRows

_ECHO, _SENT = 6.0, 40.0  # How much likelier a name is that the answer repeats, and one that the call sends.
# Besides those that are taken for marks at first sight.
_RARE_MARKS = {
    "nextoffset", "nextstart", "pagecursor", "nextcontinuationtoken", "lastkey", "lastevaluatedkey", "position",
    "resumetoken", "synctoken",
}  # fmt: skip
_PAGES = ("page", "pagenumber", "pageno", "pagenum", "pageindex", "currentpage", "number")
_MARK_HEADERS = (
    "x-next-cursor",
    "x-cursor",
    "x-next-page",
    "x-next-page-token",
    "x-continuation-token",
    "x-next-token",
)


def candidates(seen: Evidence, first: FirstRows) -> Beliefs:
    """All that may be, by what the first answer shows."""
    sizes = _ranked(SIZE, seen)
    asked = seen.sizing()
    if asked:
        sizes = {asked["size_parameter"].rpartition(".")[2]: 1.0}
    no_size = 0.02 if asked else 0.3
    more = says_more(seen.page) is not None or (seen.total or 0) > first.count or (seen.last or 0) > 1
    marks = marks_of(seen)
    if marks:
        place, value = marks[0]
        named = names_of_mark(place)
        if isinstance(value, int):
            # A number may be that of a page, or of rows.
            for name, weight in (NUMBER if "page" in place.lower() else OFFSET).items():
                named[name] = named.get(name, 0) + weight
        named = _ranked(named, seen, echoes=False)
        effects = {Effect("cursor", name, source=place, mark=value): weight for name, weight in named.items()}
        return Beliefs(effects, 0.04, sizes, no_size)
    effects = _effects(seen, first, _ranked(NUMBER, seen), _ranked(OFFSET, seen), _ranked(LAST, seen))
    return Beliefs(effects, 0.05 if more else 0.25, sizes, no_size)


def offered_effects(beliefs: Beliefs, seen: Evidence, first: FirstRows, offered: Sequence[str]) -> None:
    """Keep what an API says that it takes; a name that is not known may be anything."""
    names = list(dict.fromkeys(offered))
    known = {one.name for one in beliefs.effects() if one is not None} | {one for one in beliefs.sizes() if one}
    strange = [name for name in names if name not in known and name not in seen.sent]
    if any(one is not None and one.kind == "cursor" for one in beliefs.effects()):
        some = next(one for one in beliefs.effects() if one is not None)
        asks = [name for name in names if name not in SIZE and name not in seen.sent] or names
        effects = {Effect("cursor", name, source=some.source, mark=some.mark): 1.0 for name in asks}
        sizes = {name: 1.0 for name in names if name in SIZE}
        made = Beliefs(effects, 0.05, sizes, 0.3)
    else:
        number = {name: NUMBER.get(name, 4.0) for name in names if name in NUMBER or name in strange}
        offset = {name: OFFSET.get(name, 3.0) for name in names if name in OFFSET or name in strange}
        last = {name: LAST.get(name, 1.0) for name in names if name in LAST or name in strange}
        sizes = {name: SIZE.get(name, 3.0) for name in names if name in SIZE or name in strange}
        made = Beliefs(_effects(seen, first, number, offset, last), 0.1, sizes, 0.2)
    beliefs.weights = {one: weight for one, weight in made.weights.items() if one[0] is None or one[0].name != one[1]}


def marks_of(seen: Evidence) -> list[tuple[str, Any]]:
    """Places and values of marks that may ask for a next page: in the answer, then in its headers."""
    found = [
        (place, value)
        for flat, place, value in seen.members
        if flat in MARKS | _RARE_MARKS
        and is_mark(value)
        and not str(value).startswith(("http://", "https://", "/", "?"))
    ]
    # What is called “next” goes before what may be this page's own mark.
    found.sort(key=lambda one: "next" not in one[0].lower() and "continuation" not in one[0].lower())
    headers = seen.page.headers
    return found + [(f"{HEADER}{name}", headers[name]) for name in _MARK_HEADERS if is_mark(headers.get(name))]


def _ranked(names: dict[str, Any], seen: Evidence, echoes: bool = True) -> dict[str, float]:
    """The names with their weights: those that the call sends or the answer repeats are likelier, and written so."""
    echoed = {place.rpartition(".")[2] for _, place, value in seen.members if isinstance(value, int | str | None)}
    flat_echoed = {flat_name(name) for name in echoed}
    sent = {flat_name(name.rpartition(".")[2]): name.rpartition(".")[2] for name in seen.sent}
    found: dict[str, float] = {}
    for name, weight in names.items():
        factor = 1.0
        if echoes:
            factor = _ECHO if name in echoed else _ECHO / 2 if flat_name(name) in flat_echoed else 1.0
        factor *= _SENT if sent.get(flat_name(name)) == name else 1.0
        found[name] = weight * factor
    return found


def _effects(
    seen: Evidence, first: FirstRows, number: dict[str, float], offset: dict[str, float], last: dict[str, float]
) -> dict[Effect, float]:
    found: dict[Effect, float] = {}
    page = next((value for flat, _, value in seen.members if flat in _PAGES), None)
    for name, weight in number.items():
        likely = (0.15, 0.85) if page is None else (0.95, 0.05) if page == 0 else (0.05, 0.95)
        for start, share in zip((0, 1), likely, strict=True):
            found[Effect("number", name, start)] = weight * share
    for name, weight in offset.items():
        for start, share in ((0, 0.9), (1, 0.1)):
            found[Effect("offset", name, start)] = weight * share
    if first.key is not None or not isinstance(first.records[0], dict | list):
        for name, weight in last.items():
            found[Effect("last row", name)] = weight * 0.7
    return found
