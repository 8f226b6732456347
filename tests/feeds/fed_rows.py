"""Rows in memory that a test feeds."""

from tin_bucket.core.table.table import TableColumn


class FedRows:
    def __init__(self, columns, rows):
        self.columns = [TableColumn(name, kind) for name, kind in columns]
        self.rows = rows

    @property
    def height(self):
        return len(self.rows)

    def window(self, start, count):
        return self.rows[start : start + count]

    def at(self, numbers):
        return [self.rows[int(number)] for number in numbers]


SAILINGS = [("id", "text"), ("route", "text"), ("day", "date"), ("delay", "whole number"), ("fare", "decimal")]


def sailings(count, start=0, fare=0):
    """Sailings of made-up routes; ids are codes with leading zeros."""
    rows = []
    for at in range(start, start + count):
        delay = None if at % 5 == 4 else at * 3
        route = ("Fore <North>", "=1+1", "Holm & Sound", " to Skerry")[at % 4]
        rows.append((f"{at:04}", route, f"2026-11-{at % 28 + 1:02}", delay, fare + at * 1.25))
    return FedRows(SAILINGS, rows)
