"""What an API sends otherwise than before: fields that are new, missing, or of another kind."""

from __future__ import annotations

from collections.abc import Mapping

from tin_bucket.core.columns.kind_registry import KINDS
from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.document.report import ChangedField, SchemaDrift

MOST_TOLD = 40


def schema_drift(before: Mapping[str, str], now: Mapping[str, str], take: Extraction) -> SchemaDrift | None:
    """How the fields of an answer differ from those of the refresh before.

    Args:
        before: place → kind of its values, as it was.
        now: the same, as it is.
        take: how the answers are read, so that it is said which of them are columns.

    Returns:
        ``None`` when nothing differs. What was empty and now has values is not changed, only filled.
    """
    if not before or not now:
        return None
    taken = None if take.columns is None else {column.place for column in take.columns if column.of == "record"}
    new = [place for place in now if place not in before and not _told_by(place, before)]
    missing = [place for place in before if place not in now and not _told_by(place, now)]
    changed = [
        ChangedField(place=place, was=was, now=now[place])
        for place, was in before.items()
        if place in now and _differ(was, now[place])
    ]
    if not (new or missing or changed):
        return None
    # Those that are columns come first: they change the table.
    missing.sort(key=lambda place: taken is not None and place not in taken)
    changed.sort(key=lambda one: taken is not None and one.place not in taken)
    found = SchemaDrift(
        new=new[:MOST_TOLD],
        missing=missing[:MOST_TOLD],
        changed=changed[:MOST_TOLD],
        columns=sum(taken is None or place in taken for place in missing)
        + sum(taken is None or one.place in taken for one in changed),
        more=sum(max(0, count - MOST_TOLD) for count in (len(new), len(missing), len(changed))),
    )
    found.words = schema_drift_summary(found)
    return found


def _differ(was: str, now: str) -> bool:
    quiet = {"empty", "in a list"}
    numbers = {kind.name for kind in KINDS if kind.numeric}
    return was != now and was not in quiet and now not in quiet and not {was, now} <= numbers


def _told_by(place: str, others: Mapping[str, str]) -> bool:
    """Whether other places account for a place: an object that is empty now and has members then, or the other way."""
    return any(other.startswith((f"{place}.", f"{place}[")) for other in others) or any(
        kind == "empty" and place.startswith((f"{other}.", f"{other}[")) for other, kind in others.items()
    )


def schema_drift_summary(found: SchemaDrift) -> str:
    """What differs, in one phrase; empty when nothing does."""
    parts = []
    groups = (
        (found.new, "new field", ""),
        (found.missing, "field", " no longer there"),
        ([one.place for one in found.changed], "field", " of another kind"),
    )
    for places, words, tail in groups:
        if not places:
            continue
        names = ", ".join(place.removeprefix("$.")[:60] for place in places[:3])
        rest = f" and {len(places) - 3} more" if len(places) > 3 else ""
        many = "" if len(places) == 1 else "s"
        parts.append(f"{len(places)} {words}{many}{tail} ({names}{rest})")
    return "; ".join(parts)
