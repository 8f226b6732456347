"""How many rows the newest tables have that are worked out: counted once for what they are made of."""

from __future__ import annotations

from dataclasses import asdict, dataclass

from .database import Database


@dataclass(frozen=True, slots=True)
class WorkedRows:
    """The newest table of a query that starts from tables.

    Attributes:
        made_of: tells what it is made of; another one when any of it is another one.
        snapshot_id: its date; ``None`` where there is none.
        dates: how many dates there are.
        problem: why it cannot be worked out; empty where it can.
    """

    query_id: int
    made_of: str
    snapshot_id: int | None
    dates: int
    rows: int
    problem: str = ""


class WorkedRowCounts:
    """What was counted, a line a query."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> dict[int, WorkedRows]:
        """What was counted last, by the number of the query."""
        with self._database.read() as db:
            return {row["query_id"]: WorkedRows(**row) for row in db.execute("SELECT * FROM worked_rows")}

    def put(self, counted: WorkedRows) -> None:
        """Keep what was counted, if its query is still there."""
        with self._database.write() as db:
            db.execute(
                "INSERT OR REPLACE INTO worked_rows (query_id, made_of, snapshot_id, dates, rows, problem)"
                " SELECT id, :made_of, :snapshot_id, :dates, :rows, :problem FROM query WHERE id = :query_id",
                asdict(counted),
            )
