"""Made-up nested records for measuring: 25 leaves and one list of three."""

from __future__ import annotations

import random
from typing import Any


def record(number: int, chance: random.Random) -> dict[str, Any]:
    """One record: 16 own leaves in four objects, and a list of three objects with three leaves each."""
    return {
        "id": f"SK-{number:07}",
        "route": {"code": f"r{number % 9}", "name": f"Harl Sound – Oxnith {number % 9}"},
        "port_code": f"{number % 40:03}",
        "departs": 1_763_962_800 + number * 60,
        "vessel": {
            "name": f"MV {number % 7}",
            "hull_id": 4_611_686_018_427_387_905 + number % 7,
            "capacity": {"cars": number % 60, "passengers": number % 300},
        },
        "weather": {"wind": round(chance.random() * 30, 1), "sea": chance.choice(["calm", "slight", "rough"])},
        "status": chance.choice(["planned", "on time", "late"]),
        "delay_min": number % 30 if number % 3 else None,
        "gate": number % 5,
        "crew": number % 11,
        "note": "" if number % 4 else "extra sailing",
        "fares": [
            {"class": name, "amount": round(chance.random() * 80, 2), "currency": "SKC"}
            for name in ("foot", "car", "van")
        ],
    }


def records(count: int, seed: int = 1) -> list[dict[str, Any]]:
    """That many records, always the same ones."""
    chance = random.Random(seed)
    return [record(number, chance) for number in range(count)]
