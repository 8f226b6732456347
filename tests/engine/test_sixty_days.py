"""Sixty days against a service whose every change is known: counts, by column, stories and figures are the service's."""

import random
from datetime import timedelta

from aiohttp import web

from tests.conftest import NOON
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tables.sides import two_dates

DAYS = 60
SEED = 1
COLUMNS = ("fare", "status", "seats")


class Harbour:
    """A service with sailings that come, change, go and come back; it remembers each day."""

    def __init__(self, seed):
        self._chance = random.Random(seed)
        self.rows = {f"SK-{at:03}": self._row() for at in range(60)}
        self.days = []

    def _row(self):
        chance = self._chance
        return {
            "fare": round(chance.uniform(5, 60), 2),
            "status": chance.choice(["planned", "on time", "late", None]),
            "seats": chance.randrange(90),
        }

    def next_day(self):
        """A day goes by; most rows stay as they are, and their order changes now and then."""
        chance = self._chance
        for code in chance.sample(sorted(self.rows), 4):
            del self.rows[code]
        for code in chance.sample([f"SK-{at:03}" for at in range(90)], 6):
            self.rows.setdefault(code, self._row())
        for code in chance.sample(sorted(self.rows), 9):
            name = chance.choice(COLUMNS)
            self.rows[code] = {**self.rows[code], name: self._row()[name]}
        if chance.random() < 0.1:
            order = list(self.rows.items())
            chance.shuffle(order)
            self.rows = dict(order)
        self.days.append({code: dict(row) for code, row in self.rows.items()})

    async def answer(self, request):
        """A page of 25."""
        page = int(request.query.get("page", 1))
        rows = [{"code": code, **row} for code, row in self.rows.items()]
        return web.json_response({"data": rows[25 * (page - 1) : 25 * page], "total": len(rows)})


def changed(then, now):
    """What the service changed between two of its days: rows new, gone and changed, and changed cells by column."""
    both = then.keys() & now.keys()
    cells = {name: sum(then[code][name] != now[code][name] for code in both) for name in COLUMNS}
    counts = {
        "new": len(now.keys() - then.keys()),
        "gone": len(then.keys() - now.keys()),
        "changed": sum(then[code] != now[code] for code in both),
        "same": sum(then[code] == now[code] for code in both),
        "alike": 0,
    }
    return counts, {name: count for name, count in cells.items() if count}


def story(days, code):
    """What happened to a row, as the service remembers it."""
    out, last, there = [], None, False
    for at, rows in enumerate(days):
        row = rows.get(code)
        if row is None:
            if there:
                out.append((at, "went", {}))
            there = False
            continue
        changes = {name: (last[name], row[name]) for name in COLUMNS if last and last[name] != row[name]}
        what = "came" if last is None else "changed" if there else "back"
        if what != "changed" or changes:
            out.append((at, what, changes))
        last, there = row, True
    return out


def test_sixty_days_are_told_as_the_service_knows_them(workspace, awkward, ask_awkward):
    harbour = Harbour(SEED)
    awkward.answers["/data"] = harbour.answer
    for day in range(DAYS):
        harbour.next_day()
        run = ask_awkward(
            moment=NOON + timedelta(days=day),
            pages={"by": "number", "total": "$.total"},
            keep={"match": ["code"], "answers": {"runs": 1}},
        )
        assert run.state == "complete", run
    query = run.query_id
    kept = workspace.snapshots.of_query(query)
    assert len(kept) == len(harbour.days) == DAYS
    engine = Engine(workspace)
    chance = random.Random(SEED)
    pairs = [(at, at + 1) for at in range(DAYS - 1)]
    pairs += [tuple(sorted(chance.sample(range(DAYS), 2))) for _ in range(60)]
    for then, now in pairs:
        counts, cells = changed(harbour.days[then], harbour.days[now])
        found = engine.comparisons.compare(two_dates(kept[then].id, kept[now].id)).found
        assert found.counts() == counts
        assert {one.name: one.cells for one in found.columns} == cells
        if now == then + 1:
            assert kept[now].since == {name: counts[name] for name in ("new", "gone", "changed")}
    codes = sorted({code for day in harbour.days for code in day})
    for code in codes:
        told = engine.history.story(query, [code])
        assert [(one.at, one.what, one.changes) for one in told.events] == story(harbour.days, code)
        # Where it is said to stand, it stands.
        for at in (0, DAYS // 2, DAYS - 1):
            then = told.dates[at][1]
            assert (then is not None) == (code in harbour.days[at])
            if then is not None:
                assert workspace.snapshots.window(kept[at].id, then.position, 1)[0][0] == code
    for figure, make in {"sum": sum, "highest": max, "lowest": min}.items():
        values = [one.value for one in engine.history.figure(query, "seats", figure)]
        assert values == [make(row["seats"] for row in day.values()) for day in harbour.days]
    filled = [one.value for one in engine.history.figure(query, "status", "filled")]
    assert filled == [sum(row["status"] is not None for row in day.values()) for day in harbour.days]
