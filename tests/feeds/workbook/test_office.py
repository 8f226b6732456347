"""An office suite opens every fed workbook, works it out, and comes to the right figures."""

import io
import shutil
import subprocess

import openpyxl
import pytest

from tests.feeds.fed_rows import sailings
from tests.feeds.workbook.books import BOOKS, FIRST
from tests.feeds.workbook.test_corpus import WAYS, fed

SUITE = shutil.which("soffice")
# Cells that say a total of the delays, by workbook, beside the formulas in the rows.
TOTALS = {
    "a_total_and_a_chart_elsewhere": [("Data", 2, "D"), ("Harbour board", None, "B2"), ("Harbour board", None, "B3")],
    "a_named_table_with_totals": [("Data", 1, "D"), ("Board", None, "A1")],
    "a_list_beside_and_formulas_in_order": [("Data", 3, "D")],
}


def worked_out(folder, names):
    """The workbooks as the suite saves them. It works out what says no figure, and trusts the others."""
    profile = folder / "profile"
    saved = folder / "saved"
    command = [SUITE, "--headless", "--norestore", f"-env:UserInstallation={profile.as_uri()}", "--convert-to", "xlsx"]
    files = [str(folder / f"{name}.xlsx") for name in names]
    subprocess.run([*command, "--outdir", str(saved), *files], check=True, capture_output=True, timeout=300)
    return {
        name: openpyxl.load_workbook(io.BytesIO((saved / f"{name}.xlsx").read_bytes()), data_only=True)
        for name in names
    }


@pytest.mark.skipif(SUITE is None, reason="no office suite is installed: make test-office installs one")
def test_an_office_suite_comes_to_the_right_figures(tmp_path):
    rows = {}
    for name, make in BOOKS.items():
        for way in ("replace", "update", "add"):
            made, outcome = fed(make(), sailings(9), WAYS[way])
            made, outcome = fed(made, sailings(12, fare=3), WAYS[way], outcome.memory)
            (tmp_path / f"{name}-{way}.xlsx").write_bytes(made)
            rows[f"{name}-{way}"] = outcome.rows_after
    for key, book in worked_out(tmp_path, rows).items():
        sheet, last = book["Data"], FIRST + rows[key] - 1
        delays = [sheet[f"D{row}"].value or 0 for row in range(FIRST, last + 1)]
        twice = [sheet[f"F{row}"].value or 0 for row in range(FIRST, last + 1)]
        assert twice == [2 * delay for delay in delays], key
        assert len(delays) == {"replace": 12, "update": 12, "add": 5 + 9 + 12}[key.rpartition("-")[2]]
        for title, below, cell in TOTALS.get(key.rpartition("-")[0], ()):
            place = cell if below is None else f"{cell}{last + below}"
            assert book[title][place].value == sum(delays), (key, title, place)
