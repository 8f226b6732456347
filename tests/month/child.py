"""Runs a command of Tin Bucket at another moment, on a disk that may be full:
``python -m tests.month.child SECONDS PAGES COMMAND…``."""

import sqlite3
import sys
from datetime import timedelta
from pathlib import Path

from tin_bucket.engine.clock import Clock


def main():
    """Run it. SECONDS are added to the clock; PAGES of 4 KB is what the disk still takes, −1 for no bound."""
    seconds, pages = float(sys.argv[1]), int(sys.argv[2])
    now = Clock.now
    Clock.now = lambda clock: now(clock) + timedelta(seconds=seconds)
    if pages >= 0:
        fill_disk(pages, Path(sys.argv[sys.argv.index("--home") + 1]))
    from tin_bucket.cli import app

    sys.argv = ["tin-bucket", *sys.argv[3:]]
    app()


def fill_disk(pages, home):
    """Let the workspace grow by some pages and no more."""
    from tin_bucket.store import database

    whole = sqlite3.connect(home / database.FILE_NAME)
    whole.execute("VACUUM")  # What was let go of is no room either.
    whole.close()

    most = []

    class Limited(sqlite3.Connection):
        def execute(self, sql, *values):
            if sql.startswith("BEGIN"):
                if not most:
                    most.append(super().execute("PRAGMA page_count").fetchone()[0] + pages)
                super().execute(f"PRAGMA max_page_count={most[0]}")
            return super().execute(sql, *values)

    connect = sqlite3.connect
    database.sqlite3.connect = lambda *args, **options: connect(*args, factory=Limited, **options)


if __name__ == "__main__":
    main()
