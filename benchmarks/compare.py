"""Times two commands in turn and prints the ratio of their times and of their peak memory.

    python benchmarks/compare.py start        marvex --help against python -c pass
    python benchmarks/compare.py waterfall    the demo waterfall against a plain pandas script
    python benchmarks/compare.py large        a table over 10 million rows against a bare DuckDB aggregate
    python benchmarks/compare.py parquet      the same over 10 million typed rows
    python benchmarks/compare.py days         day by day against the year before, distinct tickets of 1 million rows
    python benchmarks/compare.py workbook     a survey of a sheet of 100,000 rows against calamine reading it
    python benchmarks/compare.py categories   a table of 20,000 categories against one of 2,000
    python benchmarks/compare.py lines        a statement of 1,600 lines against one of 200
    python benchmarks/compare.py panels       a table of 400 accounts by month against one of 100
    python benchmarks/compare.py pack         24 views of 10 million rows against one query and 24 plain pictures

Whole processes, run in turn so that a machine that drifts slows both; medians of the pairs.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

HERE = Path(__file__).parent
MARVEX = str(Path(sys.executable).parent / "marvex")
PAIRS = int(os.environ.get("PAIRS", "9"))


@dataclass(frozen=True)
class Run:
    """One finished process: wall seconds and peak memory in MB."""

    seconds: float
    megabytes: float


def timed(command: list[str]) -> Run:
    # An installed package has its bytecode; so has one in development, unless the environment forbids it.
    environment = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    start = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, env=environment)
    _, status, usage = os.wait4(process.pid, 0)
    if status:
        raise SystemExit(f"failed: {' '.join(command)}")
    return Run(time.perf_counter() - start, usage.ru_maxrss / 1024)


def compared(name: str, ours: list[str], theirs: list[str]) -> None:
    timed(ours), timed(theirs)  # once each to fill the caches
    pairs = [(timed(ours), timed(theirs)) for _ in range(PAIRS)]
    for label, index in (("marvex", 0), ("yardstick", 1)):
        seconds = statistics.median(pair[index].seconds for pair in pairs)
        megabytes = statistics.median(pair[index].megabytes for pair in pairs)
        print(f"{name:10} {label:10} {seconds:6.2f} s  {megabytes:6.0f} MB")
    ratio = statistics.median(one.seconds / other.seconds for one, other in pairs)
    memory = statistics.median(one.megabytes / other.megabytes for one, other in pairs)
    extra = statistics.median(one.seconds - other.seconds for one, other in pairs)
    print(f"{name:10} ratio      {ratio:6.2f}    {memory:6.2f}     {extra:+.2f} s")


AGGREGATE = """
import duckdb, sys
columns = {"date": "DATE", "account": "VARCHAR", "route": "VARCHAR", "scenario": "VARCHAR", "net": "DECIMAL(18, 2)"}
reading = f"read_csv('{sys.argv[1]}', columns={columns}, header=true, auto_detect=false, delim=',')"
print(len(duckdb.sql(f"SELECT route, scenario, date, sum(net) FROM {reading} GROUP BY ALL").fetchall()))
"""
DISTINCT = """
import duckdb, sys
columns = {"date": "DATE", "ticket": "VARCHAR", "route": "VARCHAR", "fare": "DECIMAL(18, 2)"}
reading = f"read_csv('{sys.argv[1]}', columns={columns}, header=true, auto_detect=false, delim=',')"
print(len(duckdb.sql(
    f"SELECT date, year(date) AS y, count(DISTINCT ticket) FROM {reading} WHERE date >= date '2024-01-01' "
    "GROUP BY GROUPING SETS ((date), (y))"
).fetchall()))
"""
READING = """
import sys
from python_calamine import CalamineWorkbook
book = CalamineWorkbook.from_path(sys.argv[1])
print(len(book.get_sheet_by_name("Ledger").to_python()))
"""


def large(folder: str) -> None:
    """A comparison by route over a CSV of ten million rows, made here."""
    import duckdb

    path = f"{folder}/large.csv"
    facts = (
        "SELECT date '2023-01-01' + (i % 1400)::INT AS date, 4000 + i % 25 AS account, 'Route ' || i % 6 AS route, "
        "'actual' AS scenario, ((hash(i) % 1000000) / 100.0)::DECIMAL(18, 2) AS net FROM range(10000000) t(i)"
    )
    duckdb.execute(f"COPY ({facts}) TO '{path}' (HEADER)")
    ours = [MARVEX, "table", path, "--by", "route", "--for", "2026", "--versus", "2025", "-o", f"{folder}/t.csv"]
    compared("large", ours, [sys.executable, "-c", AGGREGATE, path])


BARE = """
import duckdb, sys
print(duckdb.sql(
    f"SELECT item, sum({sys.argv[2]}) FILTER (scenario = 'actual'), sum({sys.argv[2]}) FILTER (scenario = 'budget') "
    f"FROM '{sys.argv[1]}' WHERE date BETWEEN '2026-01-01' AND '2026-09-26' GROUP BY 1"
).fetchall()[:1])
"""


def parquet(folder: str) -> None:
    """The same of ten million typed rows, of exact decimals and of binary figures."""
    import duckdb

    path = f"{folder}/large.parquet"
    facts = (
        "SELECT date '2024-01-01' + (i % 1000)::INT AS date, 'Item ' || i * 7919 % 12 AS item, "
        "CASE WHEN i % 3 = 0 THEN 'budget' ELSE 'actual' END AS scenario, "
        "((i * 104729 % 100000) / 100.0)::DECIMAL(18, 2) AS exact, ((i * 104729 % 100000) / 100.0)::DOUBLE AS approx "
        "FROM range(10000000) t(i)"
    )
    duckdb.execute(f"COPY ({facts}) TO '{path}'")
    for amount in ("exact", "approx"):
        ours = [MARVEX, "table", path, "--by", "item", "--amount", amount, "--for", "2026", "-o", f"{folder}/t.csv"]
        compared(f"parquet {amount}", ours, [sys.executable, "-c", BARE, path, amount])


def days(folder: str) -> None:
    """Every day of a year against the year before, by distinct tickets, over a million rows made here."""
    import duckdb

    path = f"{folder}/tickets.csv"
    facts = (
        "SELECT date '2023-01-01' + (i % 1096)::INT AS date, 'T' || (hash(i) % 700000) AS ticket, "
        "'Route ' || i % 6 AS route, ((hash(i) % 9000) / 100.0)::DECIMAL(18, 2) AS fare FROM range(1000000) t(i)"
    )
    duckdb.execute(f"COPY ({facts}) TO '{path}' (HEADER)")
    words = ["--total-as", "distinct:ticket", "--for", "2025", "--versus", "year-ago", "--every", "day"]
    ours = [MARVEX, "table", path, *words, "-o", f"{folder}/t.csv"]
    compared("days", ours, [sys.executable, "-c", DISTINCT, path])


def workbook(folder: str) -> None:
    """A survey of a sheet of 100,000 rows, made here."""
    import random
    from datetime import date, timedelta

    import xlsxwriter

    chance, path = random.Random(1), f"{folder}/large.xlsx"
    with xlsxwriter.Workbook(path, {"constant_memory": True, "default_date_format": "yyyy-mm-dd"}) as book:
        sheet = book.add_worksheet("Ledger")
        sheet.write_row(0, 0, ("date", "account", "account_name", "route", "scenario", "net"))
        for row in range(100_000):
            sheet.write_datetime(row + 1, 0, date(2023, 1, 1) + timedelta(days=row % 1400))
            names = (4000 + row % 25, f"Account {row % 25}", f"Route {row % 6}", "actual")
            sheet.write_row(row + 1, 1, (*names, round(chance.random() * 10_000, 2)))
    compared("workbook", [MARVEX, "survey", path], [sys.executable, "-c", READING, path])


def categories(folder: str) -> None:
    """A list of 20,000 categories against one of 2,000: it grows no faster than its cells."""
    for count in (2_000, 20_000):
        rows = (f"Berth {place},{place * 7919 % 9973},{place * 104729 % 9967}" for place in range(count))
        Path(f"{folder}/{count}.csv").write_text("\n".join(("item,Budget,Actual", *rows)))
    ours, theirs = ([MARVEX, "table", f"{folder}/{n}.csv", "-o", f"{folder}/t.csv"] for n in (20_000, 2_000))
    compared("categories", ours, theirs)


def lines(folder: str) -> None:
    """A statement of 1,600 lines in 64 blocks against one of 200: its lines are looked up, and each tried once."""
    for count in (200, 1_600):
        rows, blocks = [], []
        for start in range(0, count, 25):
            block = [(1000 + place * 7919 % 9973, 1000 + place * 104729 % 9967) for place in range(start, start + 25)]
            rows += [(f"Account {start + place}", *one) for place, one in enumerate(block)]
            blocks.append(tuple(map(sum, zip(*block, strict=True))))
            rows.append((f"Total of block {start}", *blocks[-1]))
        rows.append(("Total", *map(sum, zip(*blocks, strict=True))))
        text = "\n".join(("Account,Actual,Budget", *(",".join(map(str, one)) for one in rows)))
        Path(f"{folder}/lines-{count}.csv").write_text(text)
    ours, theirs = ([MARVEX, "commentary", f"{folder}/lines-{n}.csv"] for n in (1_600, 200))
    compared("lines", ours, theirs)


def panels(folder: str) -> None:
    """400 accounts by month against 100: figures and checks grow no faster than the points."""
    for count in (100, 400):
        months = [f"{year}-{month:02d}-01" for year in (2025, 2026) for month in range(1, 13)]
        rows = (f"{day},{4000 + n},{n * 7919 % 9973}" for day in months for n in range(count))
        Path(f"{folder}/panels-{count}.csv").write_text("\n".join(("date,account,net", *rows)))
    asked = ("--by", "account", "--every", "month", "--figures", f"{folder}/f.json")
    ours, theirs = ([MARVEX, "table", f"{folder}/panels-{n}.csv", *asked] for n in (400, 100))
    compared("panels", ours, theirs)


PICTURES = """
import sys
from concurrent.futures import ProcessPoolExecutor

def draw(number):
    import matplotlib
    matplotlib.use("Agg")
    import matplotlib.pyplot as plt
    figure, axes = plt.subplots(figsize=(12.8, 8), dpi=100)
    heights = [number + place * 7 % 11 for place in range(12)]
    names = [f"Item {place}" for place in range(12)]
    axes.bar(names, heights)
    for place, height in enumerate(heights):
        axes.text(place, height, f"{height:,.1f}", ha="center", va="bottom")
    axes.set_title(f"Picture {number}")
    for ending in ("png", "svg", "pdf"):
        figure.savefig(f"{sys.argv[2]}/plain-{number}.{ending}")
    plt.close(figure)

if __name__ == "__main__":
    import duckdb
    asked = "SELECT item, site, kind, scenario, date, sum(net), count(net) FROM"
    print(len(duckdb.sql(f"{asked} '{sys.argv[1]}' GROUP BY ALL").fetchall()))
    duckdb.default_connection().close()
    with ProcessPoolExecutor() as pool:
        list(pool.map(draw, range(24)))
"""


def pack(folder: str) -> None:
    """A pack of 24 views of a Parquet file of ten million rows: made, and with nothing changed."""
    import duckdb

    path = f"{folder}/large.parquet"
    facts = (
        "SELECT date '2024-01-01' + (i % 1000)::INT AS date, 'Item ' || i * 7919 % 12 AS item, "
        "'Site ' || i // 12 % 5 AS site, 'Kind ' || i // 60 % 3 AS kind, "
        "CASE WHEN i // 180 % 3 = 0 THEN 'budget' ELSE 'actual' END AS scenario, "
        "((i * 104729 % 100000) / 100.0)::DECIMAL(18, 2) AS net FROM range(10000000) t(i)"
    )
    duckdb.execute(f"COPY ({facts}) TO '{path}'")
    views = []
    for number in range(24):
        draw = ("waterfall", "variance", "against", "table")[number % 4]
        by = ("item", "site", "kind")[number % 3]
        where = [[], [f"site=Site {number % 2}"], ["kind=Kind 0"]][number // 8 % 3]
        versus = ("budget", "year-ago")[number % 2]
        views.append(
            f'[[view]]\nname = "view-{number}"\ndraw = "{draw}"\nby = "{by}"\nwhere = {where}\nversus = "{versus}"\n'
        )
    file = Path(f"{folder}/plan.toml")
    file.write_text(f'[pack]\ntitle = "Plan"\nfor = "2026"\n[source]\nfile = "{path}"\n' + "\n".join(views))
    script = Path(f"{folder}/plain.py")
    script.write_text(PICTURES)
    bare = [sys.executable, str(script), path, folder]
    compared("pack", [MARVEX, "pack", str(file), f"{folder}/built", "--fresh"], bare)
    compared("unchanged", [MARVEX, "pack", str(file), f"{folder}/built"], bare)


LONGER = {
    "large": large,
    "parquet": parquet,
    "days": days,
    "workbook": workbook,
    "categories": categories,
    "lines": lines,
    "panels": panels,
    "pack": pack,
}
KINDS = ("start", "waterfall", *LONGER)


def main(what: str) -> None:
    if what not in KINDS:
        raise SystemExit(f"there is no comparison '{what}': there are {', '.join(KINDS)}")
    with tempfile.TemporaryDirectory() as folder:
        if what in LONGER:
            LONGER[what](folder)
            return
        if what == "start":
            compared("start", [MARVEX, "--help"], [sys.executable, "-c", "pass"])
            return
        subprocess.run([MARVEX, "demo", folder, "-q"], check=True, stdout=subprocess.DEVNULL)
        ledger, picture = f"{folder}/ledger.csv", f"{folder}/picture.png"
        ours = [MARVEX, "draw", "waterfall", ledger, "--by", "route", "--for", "2026", "--versus", "2025"]
        compared(
            "waterfall",
            [*ours, "-o", picture],
            [sys.executable, str(HERE / "plain_waterfall.py"), ledger, picture],
        )


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "waterfall")
