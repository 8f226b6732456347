"""Rows that came twice while pages were turned."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from tin_bucket.core.table.table import Table


def duplicates_by_match(table: Table, match: Sequence[str], iteration_of_page: Sequence[int]) -> int:
    """How many rows have the match columns of a row on another page of the same iteration.

    Args:
        table: the table; its rows know their page.
        match: the columns that say which row is which; without any nothing can be said.
        iteration_of_page: for each page its iteration.
    """
    names = [column.name for column in table.columns]
    if not match or not set(match) <= set(names) or len(iteration_of_page) < 2:
        return 0
    columns = [table.data[names.index(name)] for name in match]
    iterations = np.asarray(iteration_of_page, dtype=np.int64)[table.page].tolist()
    # 64-bit hashes stand for the keys: a million of them agree by chance once in thirty million tables.
    hashes = np.fromiter(map(hash, zip(iterations, *columns, strict=True)), dtype=np.int64, count=table.height)
    return duplicates_by_content(hashes, table.page)


def repeats_within_pages(row_ids: NDArray[np.int64], pages: NDArray[np.int64]) -> bool:
    """Whether some page has the same content twice, so that rows alike are nothing unusual.

    Args:
        row_ids: for each row the id of its content, shape (rows,).
        pages: for each row its page, shape (rows,).
    """
    order = np.lexsort((pages, row_ids))
    ids, of_page = row_ids[order], pages[order]
    return bool(((ids[1:] == ids[:-1]) & (of_page[1:] == of_page[:-1])).any())


def duplicates_by_content(row_ids: NDArray[np.int64], pages: NDArray[np.int64]) -> int:
    """How many rows have the content of a row on an earlier page.

    Args:
        row_ids: for each row the id of its content, shape (rows,).
        pages: for each row its page, shape (rows,).
    """
    if len(row_ids) < 2 or int(pages.max(initial=0)) == 0:
        return 0
    order = np.lexsort((pages, row_ids))
    ids, of_page = row_ids[order], pages[order]
    same = ids[1:] == ids[:-1]
    if not same.any():
        return 0
    starts = np.concatenate(([0], np.flatnonzero(~same) + 1))
    first = np.repeat(of_page[starts], np.diff(np.concatenate((starts, [len(ids)]))))
    return int((of_page != first).sum())
