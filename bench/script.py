"""What an analyst's script does: all pages with requests, rows for the fares with pandas, a CSV: ``BASE PAGES OUT``."""

import sys

import pandas
import requests

META = ["id", ["route", "code"], ["route", "name"], "port_code", "departs", ["vessel", "name"], ["vessel", "hull_id"],
        ["vessel", "capacity", "cars"], ["vessel", "capacity", "passengers"], ["weather", "wind"], ["weather", "sea"],
        "status", "delay_min", "gate", "crew", "note"]  # fmt: skip


def main() -> None:
    """Fetch, flatten, write."""
    base, pages, out = sys.argv[1], int(sys.argv[2]), sys.argv[3]
    records = []
    with requests.Session() as session:
        for page in range(1, pages + 1):
            records += session.get(f"{base}/data", params={"page": page}, timeout=30).json()["data"]
    pandas.json_normalize(records, "fares", META, record_prefix="fares.").to_csv(out, index=False)


main()
