"""What a comparison says, in sentences that stand alone."""

from __future__ import annotations

from .compared_tables import ComparedTables


def sentences(laid: ComparedTables) -> list[str]:
    """What happened between two tables: how many rows, how they match, each column that changed, what counted as the
    same, and what is not proved."""
    found = laid.found
    counts = found.counts()
    alike = f" {counts['alike']:,} differ only in what counts as the same." if counts["alike"] else ""
    out = [
        f"{counts['new']:,} rows are new, {counts['gone']:,} are gone, {counts['changed']:,} changed;"
        f" {counts['same']:,} stayed as they were.{alike}",
        f"Rows match by {' and '.join(found.matched_by)}."
        if found.matched_by
        else "Rows are told apart by all that is in them.",
    ]
    units = {column.name: column.unit for column in laid.now.columns}
    for one in found.columns:
        moved = ""
        if one.mean is not None:
            moved = f": {one.rose:,} rose, {one.fell:,} fell, by {one.mean:+,.2f} {units.get(one.name, '')}".rstrip()
            moved += " on average"
        out.append(f"{one.name} changed in {one.cells:,} rows{moved}.")
    for rule in laid.rules:
        out.append(f"What counts as the same: {', '.join(rule.columns) or 'every column'} {rule.words()}.")
    for side, when in ((laid.then, "earlier"), (laid.now, "later")):
        if side.snapshot is not None and side.snapshot.state != "complete":
            out.append(f"The {when} table is {side.snapshot.state}: {side.snapshot.evidence}")
    return out
