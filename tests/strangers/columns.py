"""Made-up columns: values of one meaning, spelled in one of many ways. A column follows from its seed alone."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

NOW = datetime(2026, 11, 26, 12, tzinfo=UTC)


@dataclass(frozen=True, slots=True)
class Column:
    """A column.

    Attributes:
        means: the kind that a person would see in it; empty where the values are no more than they seem.
        spelling: in which way it is written.
    """

    seed: int
    name: str
    means: str
    spelling: str
    values: list[Any]


def _moment(chance: random.Random) -> datetime:
    return NOW + timedelta(minutes=chance.randrange(-600_000, 200_000))


def _grouped(value: float, thousands: str, point: str) -> str:
    return f"{value:,.2f}".replace(",", "\0").replace(".", point).replace("\0", thousands)


Value = Callable[[random.Random], Any]
SPELLINGS: dict[str, tuple[str, str, Value]] = {
    "ISO date": ("day", "date", lambda chance: _moment(chance).strftime("%Y-%m-%d")),
    "day.month.year": ("day", "date", lambda chance: _moment(chance).strftime("%d.%m.%Y")),
    "compact date": ("sailing_date", "date", lambda chance: _moment(chance).strftime("%Y%m%d")),
    "ISO time with Z": ("departs", "date and time", lambda chance: _moment(chance).strftime("%Y-%m-%dT%H:%M:%SZ")),
    "ISO time with offset": ("departs", "date and time", lambda chance: _moment(chance).isoformat()),
    "seconds since 1970": ("created_at", "date and time", lambda chance: int(_moment(chance).timestamp())),
    "milliseconds since 1970": ("departs", "date and time", lambda chance: int(_moment(chance).timestamp() * 1000)),
    "decimal text": ("fare", "decimal", lambda chance: f"{chance.uniform(1, 900):.2f}"),
    "decimal comma": ("fare", "decimal", lambda chance: f"{chance.uniform(1, 900):.2f}".replace(".", ",")),
    "grouped, comma and point": ("paid", "decimal", lambda chance: _grouped(chance.uniform(1_000, 90_000), ",", ".")),
    "grouped, point and comma": ("paid", "decimal", lambda chance: _grouped(chance.uniform(1_000, 90_000), ".", ",")),
    "yes and no": ("has_car", "yes/no", lambda chance: chance.choice(("yes", "no"))),
    "Y and N": ("has_car", "yes/no", lambda chance: chance.choice(("Y", "N"))),
    "codes with zeros": ("port_code", "", lambda chance: f"{chance.randrange(1, 99):03}"),
    "long ids": ("booking", "", lambda chance: str(chance.randrange(10**18, 10**19))),
    "counts": ("berths", "", lambda chance: chance.randrange(0, 900)),
    "words": ("status", "", lambda chance: chance.choice(("arrived", "delayed", "cancelled"))),
    "versions": ("build", "", lambda chance: f"{chance.randrange(9)}.{chance.randrange(30)}.{chance.randrange(9)}"),
}  # fmt: skip


def make_column(seed: int) -> Column:
    """The column of a seed."""
    chance = random.Random(seed)
    spelling = chance.choice(sorted(SPELLINGS))
    name, means, value = SPELLINGS[spelling]
    values = [None if chance.random() < 0.1 else value(chance) for _ in range(chance.choice((30, 60, 200)))]
    return Column(seed, name, means, spelling, values)
