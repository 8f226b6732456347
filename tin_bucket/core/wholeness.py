"""Is a table whole, and if not, why not? Decided in one place, and said in the same words wherever it is shown."""

from __future__ import annotations

from .paging import Stop


def missing_words(
    records: int, stated_total: int | None, failed_lookups: int, stop: Stop, rounds: tuple[int, int] = (0, 1)
) -> list[str]:
    """What a table lacks; empty when it is whole.

    Args:
        records: how many records were taken.
        stated_total: how many rows the API states, if it does.
        failed_lookups: how many lookups failed; one that found nothing is no failure.
        stop: why the turning of pages ended.
        rounds: how many of the values that the question was asked for failed, and how many there are.

    Returns:
        Short phrases, each the beginning of a sentence in lower case.
    """
    words = []
    if stated_total is not None and stated_total != records:
        words.append(f"{records:,} of {stated_total:,} stated rows are here")
    if not stop.whole:
        words.append(stop.evidence)
    if rounds[0]:
        words.append(f"{rounds[0]:,} of {rounds[1]:,} rounds {'has' if rounds[0] == 1 else 'have'} failed")
    if failed_lookups:
        words.append(f"{failed_lookups:,} lookup{' has' if failed_lookups == 1 else 's have'} failed")
    return words
