"""What an analyst's script does: all pages with requests, rows for the fares with pandas, a CSV: ``BASE PAGES OUT``."""

import sys

import pandas
import requests


def main() -> None:
    """Fetch, flatten, write."""
    base, pages, out = sys.argv[1], int(sys.argv[2]), sys.argv[3]
    records = []
    with requests.Session() as session:
        for page in range(1, pages + 1):
            records += session.get(f"{base}/data", params={"page": page}, timeout=30).json()["data"]
    of_record = pandas.json_normalize([{**record, "fares": None} for record in records]).drop(columns="fares")
    fares = pandas.json_normalize([{**fare, "row": at} for at, record in enumerate(records) for fare in record["fares"]])
    fares.join(of_record, on="row", lsuffix="_fare").drop(columns="row").to_csv(out, index=False)


main()
