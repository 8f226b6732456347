"""A month that nobody looks at: ``python -m tests.month.month 30``.

Each day the table of that day is refreshed by its schedule, by cron (``refresh --all --due``) or by a service unit
(``serve``) in turn. Each day the program is killed at a random moment and begun again. Every third day a quota ends in
the middle; once the disk is full, and once the key has lapsed.
"""

import random
import signal
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from pathlib import Path

from tzlocal import get_localzone

from tests.month.harbour import PAGES, Harbour, rows_of
from tests.waiting import until
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.http import origin
from tin_bucket.demo.running import Running
from tin_bucket.store.workspace import Workspace

FIRST = datetime(2026, 12, 1, tzinfo=get_localzone())
UNSAVED = 0.6  # Seconds before a kill in which an answer may have come too late to be stored, on a busy machine.
UNREAD = 0.1  # Seconds before a stop in which an answer was sent, and may not have been read.
FULL_DISK, LAPSED_KEY = 0, 2
KEY = {"name": "Month", "source": {"by": "stored"}, "places": [{"at": "header", "name": "X-Month", "prefix": ""}]}
BRIEF = {
    "name": "Rows of the day",
    "parameters": [{"name": "day", "kind": "date", "default": {"anchor": "today"}}],
    "ask": {"service": "month", "path": "/rows", "query": [{"name": "day", "value": "{day}"}]},
    "pages": {"by": "number", "last_page": "$.pages", "total": "$.total"},
    "take": {"records": "$.rows[*]"},
    "keep": {"match": ["id"], "schedule": {"kind": "at", "at": "06:00"}},
}


@dataclass
class Month:
    """What happened.

    Attributes:
        kills: when the program was killed.
        stops: when it was told to end.
        told: what the commands said, by day.
    """

    home: Path
    harbour: Harbour
    base: str
    chance: random.Random
    kills: list[float] = field(default_factory=list)
    stops: list[float] = field(default_factory=list)
    told: dict[str, str] = field(default_factory=dict)
    unsaved: set[tuple[str, int]] = field(default_factory=set)

    def begin(self, moment, *command, disk=-1, **more):
        """Begin a command at a moment."""
        seconds = (moment - datetime.now(moment.tzinfo)).total_seconds()
        args = [sys.executable, "-m", "tests.month.child", str(seconds), str(disk), *command, "--home", str(self.home)]
        return subprocess.Popen(args, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True, **more)

    def kept(self, day):
        """The snapshots of a day's question, with their rows."""
        workspace = Workspace(self.home)
        try:
            query = workspace.queries.all()[0]
            return [
                (snapshot.state, [tuple(row[:2]) for row in workspace.snapshots.all_rows(snapshot.id)])
                for snapshot in workspace.snapshots.of_query(query.id)
                if workspace.runs.get(snapshot.run_id).bindings["day"] == day
            ]
        finally:
            workspace.close()

    def runs(self, day):
        """How the runs of a day's question ended, the oldest first."""
        workspace = Workspace(self.home)
        try:
            found = workspace.runs.latest(workspace.queries.all()[0].id, 1000)
            return [run for run in found[::-1] if run.bindings["day"] == day]
        finally:
            workspace.close()

    # A day ----------------------------------------------------------------------------------------------------------

    def live(self, number):
        """A day: killed in the morning, begun again, and once more in the evening where it has no table yet."""
        morning = FIRST + timedelta(days=number, hours=6, minutes=10)
        day = f"{morning:%Y-%m-%d}"
        by_unit = number % 2 == 0
        self.harbour.allowance = 7 if number % 3 == 1 else None
        if number == LAPSED_KEY:
            self.harbour.key = "month-key-2"
        if number == LAPSED_KEY + 1:
            done = self.begin(
                morning, "key", "set", "month", "--from", "env:MONTH_KEY", env=_with_key(self.harbour.key)
            )
            assert done.wait(30) == 0, done.stderr.read()
        self.morning(day, morning, by_unit, disk=2 if number == FULL_DISK else -1)
        for later in (timedelta(minutes=10), timedelta(hours=12)):
            if later > timedelta(hours=1):
                self.harbour.allowance = None
            if not self.kept(day):
                self.work(day, morning + later, by_unit)

    def morning(self, day, moment, by_unit, disk):
        """Begin, and kill it after a random number of calls and a moment more."""
        process = self._process(moment, by_unit, disk)
        calls = self.chance.randint(1, PAGES - 1) if disk < 0 else 10 * PAGES
        until(lambda: len(self.harbour.of(day)) >= calls or process.poll() is not None or self._stuck(day, moment))
        time.sleep(self.chance.uniform(0, 0.05))
        self.kills.append(time.monotonic())
        process.send_signal(signal.SIGKILL)
        self.told[day] = self.told.get(day, "") + process.communicate(timeout=30)[1]
        if disk >= 0:
            self.unsaved |= {(day, call.page) for call in self.harbour.of(day)}

    def work(self, day, moment, by_unit):
        """Begin again, and let it do what it can."""
        process = self._process(moment, by_unit)
        if by_unit:
            until(lambda: self.kept(day) or self._stuck(day, moment))
            self.stops.append(time.monotonic())
            process.send_signal(signal.SIGTERM)
        self.told[day] = self.told.get(day, "") + process.communicate(timeout=60)[1]

    def _process(self, moment, by_unit, disk=-1):
        if by_unit:
            return self.begin(moment, "serve", "--port", "0", disk=disk)
        return self.begin(moment, "refresh", "--all", "--due", "--no-wait", disk=disk)

    def _stuck(self, day, moment):
        """Whether the day's run ended without a table, or waits for hours, or for a key."""
        refused = self.harbour.refused
        time.sleep(0.1)
        runs = [run for run in self.runs(day) if datetime.fromisoformat(run.started) >= moment - timedelta(minutes=5)]
        if runs and runs[-1].state == "failed":
            return True
        if not runs or runs[-1].state != "running":
            return False
        waits_for_key = self.harbour.key != "month-key-1" and not self.harbour.of(day)
        empty = self.harbour.allowance == 0 and self.harbour.refused > 0 and refused == self.harbour.refused
        return waits_for_key or empty


def _with_key(key):
    import os

    return {**os.environ, "MONTH_KEY": key}


def play(home, days, seed):
    """Play it; gives what happened."""
    harbour = Harbour()
    with Running(harbour.app()) as running:
        workspace = Workspace(home, create=True)
        workspace.services.save(Service(id="month", name="Month", base=running.base, at_once=2, key=KEY))
        before = FIRST - timedelta(hours=1)
        workspace.vault.store("month", origin(running.base), harbour.key, before)
        workspace.queries.add(load_brief(BRIEF), before)
        workspace.close()
        month = Month(home, harbour, running.base, random.Random(seed))
        for number in range(days):
            month.live(number)
    return month


def judge(month, days):
    """Check every day: its table is right, or the runs tell why there is none; no call was made twice but those that
    were under way."""
    for number in range(days):
        day = f"{FIRST + timedelta(days=number):%Y-%m-%d}"
        kept, runs = month.kept(day), month.runs(day)
        if number == LAPSED_KEY:
            assert not kept, day
            assert runs[-1].state in ("failed", "interrupted", "cancelled"), (day, runs)
        else:
            assert kept, (day, [(run.state, run.problem) for run in runs], month.told[day])
            assert kept == [("complete", rows_of(day))] * len(kept), day
            assert len(kept) == 1, day
        for page in range(1, PAGES + 1):
            calls = [call for call in month.harbour.of(day) if call.page == page]
            for call in calls[:-1]:
                assert (day, page) in month.unsaved or _was_under_way(month, call), (day, page, calls)
    assert "disk is full" in month.told[f"{FIRST + timedelta(days=FULL_DISK):%Y-%m-%d}"]


def _was_under_way(month, call):
    for kill in month.kills:
        if call.came <= kill and (call.answered is None or call.answered >= kill - UNSAVED):
            return True
    return any(call.came <= stop and (call.answered is None or call.answered >= stop - UNREAD) for stop in month.stops)


def main():
    """Play so many days, and say what became of them."""
    days, seed = int(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else random.randrange(10**6)
    print(f"{days} days, seed {seed}", flush=True)
    with tempfile.TemporaryDirectory() as folder:
        month = play(Path(folder) / "workspace", days, seed)
        judge(month, days)
        asked = month.harbour.asked
        again = len(asked) - len({(call.day, call.page) for call in asked})
        print(f"{len(asked)} calls for {days} days of {PAGES} pages; {again} made again: they were under way at a kill")


if __name__ == "__main__":
    main()
