"""Times tables of many rows against what the same sums cost elsewhere, and prints ratios of time and memory.

    python benchmarks/warehouse.py pandas       10 million rows of CSV and of Parquet against pandas
    python benchmarks/warehouse.py growth       1, 10 and 100 million rows of Parquet, within 1 GB
    python benchmarks/warehouse.py postgresql   10 million rows against the same aggregate by psycopg
    python benchmarks/warehouse.py spark        10 million rows against the same aggregate by Spark's own client

Servers are those of the tests. Whole processes, run in turn, medians of the pairs.
"""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

from compare import MARVEX, compared, timed

sys.path.append(str(Path(__file__).parent.parent / "tests"))
FACTS = (
    "SELECT date '2024-01-01' + (i % 1000)::INT AS date, 'Item ' || i * 7919 % 12 AS item, "
    "CASE WHEN i // 12 % 3 = 0 THEN 'budget' ELSE 'actual' END AS scenario, "
    "((i * 104729 % 100000) / 100.0)::DECIMAL(18, 2) AS net FROM range({rows}) t(i)"
)
ROWS = 10_000_000
WORDS = ("--by", "item", "--amount", "net", "--for", "2026")
PANDAS = """
import sys
import pandas as pd
path = sys.argv[1]
rows = pd.read_parquet(path) if path.endswith("parquet") else pd.read_csv(path, parse_dates=["date"])
rows["date"] = pd.to_datetime(rows["date"])
rows = rows[rows["date"].between("2026-01-01", "2026-09-26")]
print(rows.groupby(["item", "scenario"])["net"].sum().unstack())
"""
PSYCOPG = """
import sys
import psycopg
with psycopg.connect(sys.argv[1]) as books:
    print(len(books.execute(
        "SELECT item, scenario, date, sum(net), count(net) FROM ledger GROUP BY item, scenario, date"
    ).fetchall()))
"""
SPARK = """
import sys
from pyspark.sql import SparkSession
session = SparkSession.builder.remote(sys.argv[1]).getOrCreate()
print(len(session.sql(
    "SELECT item, scenario, date, sum(net), count(net) FROM ledger GROUP BY item, scenario, date"
).collect()))
session.stop()
"""


def table(*source: str) -> list[str]:
    return [MARVEX, "table", *source, *WORDS, "-o", "table.csv"]


def written(rows: int, ending: str) -> str:
    import duckdb

    how = "(HEADER)" if ending == "csv" else ""
    duckdb.execute(f"COPY ({FACTS.format(rows=rows)}) TO 'ledger-{rows}.{ending}' {how}")
    return f"ledger-{rows}.{ending}"


def pandas() -> None:
    for ending in ("csv", "parquet"):
        path = written(ROWS, ending)
        compared(f"pandas {ending}"[:10], table(path), [sys.executable, "-c", PANDAS, path])


def growth() -> None:
    for rows in (1_000_000, 10_000_000, 100_000_000):
        path = written(rows, "parquet")
        timed(table(path, "--memory", "1GB"))
        run = min((timed(table(path, "--memory", "1GB")) for _ in range(3)), key=lambda one: one.seconds)
        print(f"{rows:>11,} rows  {run.seconds:6.2f} s  {run.megabytes:6.0f} MB")
        Path(path).unlink()


def postgresql() -> None:
    from servers import PASSWORD, postgres_cluster

    os.environ["PGPASSWORD"] = PASSWORD
    with postgres_cluster() as cluster:
        with cluster.connected() as books:
            books.execute(
                "CREATE TABLE ledger AS SELECT date '2024-01-01' + i % 1000 AS date, "
                "'Item ' || i::bigint * 7919 % 12 AS item, "
                "CASE WHEN i / 12 % 3 = 0 THEN 'budget' ELSE 'actual' END AS scenario, "
                "((i::bigint * 104729 % 100000) / 100.0)::numeric(18, 2) AS net "
                f"FROM generate_series(0, {ROWS - 1}) AS i"
            )
            books.execute("VACUUM ANALYZE ledger")
        plain = cluster.address.replace("+psycopg", "")
        theirs = [sys.executable, "-c", PSYCOPG, plain]
        compared("postgresql", table(cluster.address, "--table", "ledger"), theirs)


def spark() -> None:
    from pyspark.sql import SparkSession

    from servers import spark_cluster

    path = Path(written(ROWS, "parquet")).absolute()
    with spark_cluster() as address:
        session = SparkSession.builder.remote(address).getOrCreate()
        session.read.parquet(str(path)).write.saveAsTable("ledger")
        session.stop()
        compared("spark", table(address, "--table", "ledger"), [sys.executable, "-c", SPARK, address])


KINDS = {"pandas": pandas, "growth": growth, "postgresql": postgresql, "spark": spark}

if __name__ == "__main__":
    what = sys.argv[1] if len(sys.argv) > 1 else ""
    if what not in KINDS:
        raise SystemExit(f"there is no comparison '{what}': there are {', '.join(KINDS)}")
    with tempfile.TemporaryDirectory() as folder:
        os.chdir(folder)
        KINDS[what]()
