"""The edition of September 2026 of the demo pack: as the books then stood, before a late invoice for March.

Run with `python -m marvex.demo.make_editions`; it builds the pack from the ledger of that day and keeps its edition.
"""

from __future__ import annotations

import csv
import gzip
import shutil
import tempfile
from decimal import Decimal
from pathlib import Path

from marvex.pack.build import Asked, build_pack
from marvex.pack.pack_file import read_pack

DATA = Path(__file__).parent / "data"
LAST_DAY, LATE = "2026-09-30", Decimal("2214.50")
LATE_IN = ("2026-03", "Fuel", "actual")


def as_of_september(rows: list[dict[str, str]]) -> list[dict[str, str]]:
    """The ledger without what came later: the rows of October, and a part of March's first fuel."""
    kept = [row for row in rows if row["scenario"] != "actual" or row["date"] <= LAST_DAY]
    late = next(row for row in kept if (row["date"][:7], row["account_name"], row["scenario"]) == LATE_IN)
    late["net"] = str(Decimal(late["net"]) + LATE)
    return kept


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for path in DATA.iterdir():
            if path.is_file():
                shutil.copy(path, folder)
        with gzip.open(DATA / "ledger.csv.gz", "rt", encoding="utf-8", newline="") as file:
            rows = list(csv.DictReader(file))
        kept = as_of_september(rows)
        with (folder / "ledger.csv").open("w", encoding="utf-8", newline="") as file:
            writer = csv.DictWriter(file, rows[0].keys(), lineterminator="\n")
            writer.writeheader()
            writer.writerows(kept)
        path = folder / "pack.toml"
        build_pack(
            read_pack(path, "2026-09"), Asked(folder=folder / "pack", issues=True, moves=True), lambda *_: None
        )
        shutil.copytree(folder / "pack" / "editions" / "2026-09", DATA / "editions" / "2026-09", dirs_exist_ok=True)


if __name__ == "__main__":
    main()
