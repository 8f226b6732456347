"""What Skerrywick Ferries sails, seen from a simulated day. All of it follows from the dates, so that it can be
checked: fares and statuses move, extra sailings appear, others are withdrawn."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache
from typing import Any

CURRENCY = "SKC"
# Every pier has a code; the company's register of ports lacks the last ones, which are temporary berths.
PORTS: dict[str, tuple[str, str, int]] = {
    "000": ("Harl Sound", "South", 3),
    "007": ("Oxnith", "North", 2),
    "010": ("Little Brae", "South", 1),
    "015": ("Skerrywick", "Middle", 5),
    "021": ("Tarn Head", "North", 2),
    "026": ("Gannet Ness", "North", 1),
    "033": ("Hesta Wick", "Middle", 2),
    "038": ("Pell Harbour", "South", 4),
    "044": ("Ormsey", "Outer", 1),
    "049": ("Kittle Bay", "Outer", 1),
    "052": ("Quern Point", "Middle", 2),
    "060": ("Wether Isle", "Outer", 1),
}
TEMPORARY_BERTHS = ("901", "904")
VESSELS = ("MV Tystie", "MV Bonxie", "MV Maalie", "MV Shalder", "MV Laverick", "MV Dunter")
FIRST_HULL = 4_611_686_018_427_387_905  # Nineteen digits: more than a 64-bit float can hold.


@dataclass(frozen=True, slots=True)
class Route:
    """A route between two ports. `foot` is the fare of a foot passenger; `slots` is the number of sailings a day."""

    code: str
    start: str
    end: str
    slots: int
    foot: float
    minutes: int

    @property
    def name(self) -> str:
        """Both ports' names."""
        return f"{PORTS[self.start][0]} – {PORTS[self.end][0]}"


ROUTES = (
    Route("harl-oxnith", "000", "007", 12, 11.5, 70),
    Route("harl-brae", "000", "010", 11, 6.2, 25),
    Route("skerrywick-tarn", "015", "021", 10, 9.4, 45),
    Route("skerrywick-hesta", "015", "033", 10, 7.8, 35),
    Route("pell-skerrywick", "038", "015", 12, 10.6, 60),
    Route("tarn-gannet", "021", "026", 8, 5.9, 20),
    Route("ormsey-kittle", "044", "049", 7, 8.1, 40),
    Route("quern-wether", "052", "060", 8, 8.8, 50),
    Route("hesta-quern", "033", "052", 8, 6.9, 30),
)
_FACTOR = {"foot": 1.0, "car": 3.4, "van": 5.1}
CLASSES = tuple(_FACTOR)


def chance(*parts: object) -> float:
    """A number from 0 up to 1 that follows from its parts alone."""
    text = "/".join(map(str, parts)).encode()
    return int.from_bytes(hashlib.blake2b(text, digest_size=6).digest(), "big") / 2**48


def sailings(today: date, start: date, end: date, route: str | None = None) -> list[dict[str, Any]]:
    """The sailings of the days `start` to `end` as they are known on `today`, by time of departure."""
    found: list[dict[str, Any]] = []
    day = start
    while day <= end:
        found.extend(_day(today, day))
        day += timedelta(days=1)
    if route is not None:
        found = [sailing for sailing in found if sailing["route"]["code"] == route]
    return found


@lru_cache(maxsize=512)
def _day(today: date, day: date) -> tuple[dict[str, Any], ...]:
    out = []
    for number, route in enumerate(ROUTES):
        for slot in range(route.slots):
            if _sails(today, day, route, slot):
                out.append(_sailing(today, day, number, route, slot))
    out.sort(key=lambda sailing: (sailing["departs"], sailing["sailing_id"]))
    return tuple(out)


def _sails(today: date, day: date, route: Route, slot: int) -> bool:
    """Some sailings are put on late, some are withdrawn, one to six days ahead."""
    luck = chance("timetable", route.code, slot, day)
    lead = timedelta(days=1 + int(chance("lead", route.code, slot, day) * 6))
    if luck < 0.05:
        return today >= day - lead
    if luck < 0.09:
        return today < day - lead
    return True


def _sailing(today: date, day: date, number: int, route: Route, slot: int) -> dict[str, Any]:
    key = (route.code, slot, day)
    first = time(5, 40)
    gap = 16 * 60 // route.slots
    minutes = first.hour * 60 + first.minute + slot * gap + int(chance("minute", route.code, slot) * 4) * 5
    departs = datetime(day.year, day.month, day.day, tzinfo=UTC) + timedelta(minutes=minutes)
    serial = 40_000 + (day.toordinal() % 400) * 110 + number * 12 + slot
    start, end = (route.start, route.end) if slot % 2 == 0 else (route.end, route.start)
    berth = start
    if chance("berth", *key) < 0.02:
        berth = TEMPORARY_BERTHS[int(chance("which berth", *key) * len(TEMPORARY_BERTHS))]
    vessel = int(chance("vessel", route.code, slot) * len(VESSELS))
    if today >= day - timedelta(days=2) and chance("swap", *key) < 0.05:
        vessel = (vessel + 1) % len(VESSELS)
    status, delay = _status(today, day, key)
    legs = [{"from": start, "to": end, "minutes": route.minutes}]
    if chance("call", *key) < 0.25:
        half = route.minutes // 2
        legs = [
            {"from": start, "to": "015", "minutes": half},
            {"from": "015", "to": end, "minutes": route.minutes - half + 10},
        ]
    sailing: dict[str, Any] = {
        "sailing_id": f"SK-{serial}",
        "route": {"code": route.code, "name": route.name},
        "port_code": berth,
        "departs": int(departs.timestamp()),
        "vessel": {
            "name": VESSELS[vessel],
            "hull_id": FIRST_HULL + vessel * 7,
            "capacity": {"cars": 24 + vessel * 6, "passengers": 140 + vessel * 35},
        },
        "status": status,
        "delay_min": delay,
        "legs": legs,
        "fares": [
            {"class": name, "amount": _fare(today, day, route, key, name), "currency": CURRENCY} for name in _FACTOR
        ],
    }
    return sailing


def _status(today: date, day: date, key: tuple[object, ...]) -> tuple[str, int | None]:
    if day > today:
        return "planned", None
    luck = chance("status", *key)
    if luck < 0.02:
        return "cancelled", None
    delay = int(chance("delay", *key) * 30) if luck < 0.3 else 0
    if day == today:
        # What is said in the morning is put right by the next day.
        early = max(0, delay - int(chance("early", *key) * 8))
        return ("late" if early > 10 else "on time"), early
    return "arrived", delay


def _fare(today: date, day: date, route: Route, key: tuple[object, ...], name: str) -> float:
    """The fare moves in small steps on some of the fifteen days up to the sailing's own."""
    amount = route.foot * _FACTOR[name] * (1.15 if day.weekday() >= 4 else 1.0)
    amount += sum(by for ahead, by in _steps(key, name) if today >= day - timedelta(days=ahead))
    return round(max(amount, 2.0) * 4) / 4


@lru_cache(maxsize=20_000)
def _steps(key: tuple[object, ...], name: str) -> tuple[tuple[int, float], ...]:
    """How many days ahead of the sailing the fare moves, and by how much."""
    seed = hashlib.blake2b(f"steps/{key}/{name}".encode(), digest_size=30).digest()
    pairs = zip(seed[:15], seed[15:], strict=True)
    return tuple((ahead, (by / 256 - 0.36) * 2.4) for ahead, (moves, by) in enumerate(pairs) if moves < 24)


def vessels(today: date) -> list[dict[str, Any]]:
    """The fleet as it is on a day."""
    out = []
    codes = list(PORTS)
    for index, name in enumerate(VESSELS):
        out.append(
            {
                "hull_id": FIRST_HULL + index * 7,
                "name": name,
                "at": codes[int(chance("at", name, today) * len(codes))],
                "fuel_percent": round(20 + 75 * chance("fuel", name, today), 1),
                "in_service": chance("service", name, today.isocalendar()[:2]) > 0.08,
                "next_survey": (date(2027, 1, 11) + timedelta(days=23 * index)).isoformat(),
                "crew": {"master": ("A. Ferrow", "B. Lindle", "C. Oxtern")[index % 3], "hands": 6 + index},
            }
        )
    return out


def port(code: str) -> dict[str, Any] | None:
    """A port by its code, or ``None`` for a code that the register lacks."""
    if code not in PORTS:
        return None
    name, zone, berths = PORTS[code]
    return {"code": code, "name": name, "zone": zone, "berths": berths}


def manifest(sailing_id: str) -> dict[str, Any] | None:
    """Who and what is on board of a sailing; ``None`` of one without a manifest."""
    number = sailing_id.removeprefix("SK-")
    if not sailing_id.startswith("SK-") or not number.isdecimal() or int(number) % 149 == 0:
        return None
    at = int(number)
    return {"sailing": sailing_id, "passengers": 20 + at * 7 % 160, "cars": at * 3 % 40, "crew": 6 + at % 5}
