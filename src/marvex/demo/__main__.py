"""`python -m marvex.demo [FOLDER]` makes all the demo data again."""

from __future__ import annotations

import sys
from pathlib import Path

from marvex.demo import make_data, make_more, make_sheets


def make(folder: Path) -> None:
    """Writes every file of the demo data into the folder."""
    print(make_data.write_ledger(folder), "rows in the ledger")
    make_data.write_accounts(folder)
    print(make_more.write_tickets(folder), "rows of tickets")
    make_more.write_headcount(folder)
    make_more.write_fares(folder)
    make_more.write_plan(folder)
    make_sheets.write_results(folder)
    make_sheets.write_october(folder)


if __name__ == "__main__":
    make(Path(sys.argv[1]) if len(sys.argv) > 1 else make_data.DATA)
