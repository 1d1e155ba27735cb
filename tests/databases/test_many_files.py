"""Files of many parts, within bounds of memory and time."""

from __future__ import annotations

import re
import sqlite3
import subprocess
from pathlib import Path

import duckdb
import pytest

from conftest import MARVEX, Desk

WORDS = ("--amount", "paid", "--date", "day", "--by", "crew", "--for", "2025", "--versus", "2024", "--order", "name")


@pytest.fixture
def parted(desk: Desk, shelf: Path) -> Desk:
    """The ledger in a folder for each of its months."""
    months = f"SELECT *, year(day) AS year, lpad(month(day)::VARCHAR, 2, '0') AS month FROM '{shelf}/ledger.parquet'"
    duckdb.execute(f"COPY ({months}) TO '{desk.folder}/ledger' (FORMAT parquet, PARTITION_BY (year, month))")
    return desk


def test_partitions_give_the_figures_of_the_whole(parted: Desk, shelf: Path) -> None:
    whole = parted.figures("table", str(shelf / "ledger.parquet"), *WORDS)
    for source in ("hive:ledger", "glob:ledger/*/*/*.parquet"):
        found = parted.figures("table", source, *WORDS, "--memory", "200MB")
        assert found["points"] == whole["points"]
    # The names of the folders are columns, and a path of one is no more than a path.
    by_month = parted.figures("table", "hive:ledger", *WORDS[:2], "--date", "year,month", *WORDS[4:])
    assert by_month["points"][-1]["current"] == whole["points"][-1]["current"]
    in_june = parted.figures("table", "hive:ledger", *WORDS, "--where", "month=06")
    of_june = parted.figures(
        "table", str(shelf / "ledger.parquet"), *WORDS, "--where", "day~2025-06*", "--where", "day~*-06-*"
    )
    assert in_june["points"][0]["current"] == of_june["points"][0]["current"]
    assert "no column 'month'" in parted.refused("table", "glob:ledger/*/*/*.parquet", *WORDS, "--where", "month=06")


def test_a_row_of_a_part_is_named_by_its_folder_and_its_number(parted: Desk) -> None:
    done = parted.run("trace", "hive:ledger", *WORDS[:-2], "--at", "night")
    assert done.status == 0, done.err
    place = next(line for line in done.out.splitlines() if line.startswith("year=2025/"))
    part, _, number = place.partition("  ")[0].partition(", row ")
    row = duckdb.execute(
        f"SELECT paid, crew FROM read_parquet('{parted.folder}/ledger/{part}') LIMIT 1 OFFSET {int(number) - 1}"
    ).fetchone()
    assert row is not None and f"{row[0]:,}".replace("-", "−") in place and row[1] == "night"


def test_a_folder_without_partitions_and_a_bound_too_small_are_told(parted: Desk) -> None:
    (parted.folder / "none").mkdir()
    assert "has no Parquet files" in parted.refused("table", "hive:none", *WORDS)
    assert "is no folder" in parted.refused("table", "hive:nowhere", *WORDS)
    assert "hive:ledger" in parted.refused("table", "ledger", *WORDS)
    for wrong in ("1TB", "50MB", "much"):
        assert "Write it as 1GB" in parted.refused("table", "hive:ledger", *WORDS, "--memory", wrong)
    assert "whole number of seconds" in parted.refused("table", "hive:ledger", *WORDS, "--give-up-after", "0")


def test_a_source_that_never_ends_is_given_up(desk: Desk) -> None:
    with subprocess.Popen(
        [MARVEX, "table", "-", "--give-up-after", "1"], cwd=desk.folder, stdin=subprocess.PIPE, stderr=subprocess.PIPE
    ) as waiting:
        assert waiting.wait(20) == 2
        assert waiting.stderr and b"not done within 1 seconds (--give-up-after 1)" in waiting.stderr.read()


def test_a_date_is_the_date_beside_a_year_and_a_month(desk: Desk) -> None:
    rows = [("2026-01-05", 2026, 1, "N", 10), ("2026-01-06", 2026, 1, "N", 5), ("2026-02-03", 2026, 2, "N", 7)]
    desk.write("l.csv", rows, ("date", "year", "month", "route", "net"))
    found = desk.figures("table", "l.csv", "--by", "route", "--for", "2026-01-05", "--versus", "2026-01-06")
    assert (found["points"][0]["current"], found["points"][0]["base"]) == (10, 5)
    desk.write("m.csv", [row[1:] for row in rows], ("year", "month", "route", "net"))
    assert (
        desk.figures("table", "m.csv", "--by", "route", "--for", "2026-01", "--versus", "none")["points"][0][
            "current"
        ]
        == 15
    )


def test_a_profit_and_loss_in_a_database_is_not_added_up_with_its_totals(desk: Desk) -> None:
    lines = [("Revenue", 1000), ("Cost of sales", -400), ("Gross profit", 600), ("Wages", -200), ("Net profit", 400)]
    with sqlite3.connect(desk.folder / "pl.db") as books:
        books.execute("CREATE TABLE pl (line TEXT, Actual NUMERIC, Budget NUMERIC)")
        # Of so many rows that it is no sheet.
        books.executemany("INSERT INTO pl VALUES (?, ?, ?)", [(name, amount, 9) for name, amount in lines] * 250)
    words = ("table", "sqlite:///pl.db", "--table", "pl")
    said = desk.refused(*words)
    assert "Gross profit and Net profit" in said or "Gross profit, Net profit" in said
    # The remedy that is named, as it is named: 250 × (1000 - 400 - 200).
    found = desk.figures(*words, "--where", re.search(r"--where '(.*?)'", said)[1])
    assert found["points"][-1]["current"] == 100_000
    assert desk.run(*words, "--totals", "keep").status == 0
