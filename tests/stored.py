"""A ledger of awkward rows, the same in a CSV, a Parquet file, SQLite, PostgreSQL, MariaDB and Spark."""

from __future__ import annotations

import csv
import os
import random
import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from pathlib import Path
from shutil import which

import pytest

from servers import PASSWORD, Postgres, has_spark, mariadb_server, postgres_cluster, postgres_programs, spark_cluster

# One process has the servers, and the tests that need them.
SERVERS = pytest.mark.xdist_group("servers")
HEADINGS = ("day", "at", "account", "harbour", "scenario", "crew", "paid", "weight", "trips", "Ticket No")


def lacking(what: str) -> None:
    if os.environ.get("MARVEX_SKIP") == "none":
        pytest.fail(what)
    pytest.skip(what)


@pytest.fixture(scope="session")
def postgres() -> Iterator[Postgres]:
    if postgres_programs() is None or which("openssl") is None:
        lacking("PostgreSQL is not here: apt-get install postgresql openssl")
    os.environ["PGPASSWORD"] = PASSWORD
    with postgres_cluster() as found:
        yield found


@pytest.fixture(scope="session")
def spark() -> Iterator[str]:
    if not has_spark() or which("java") is None:
        lacking("Spark is not here: pip install pyspark, apt-get install default-jre-headless")
    with spark_cluster() as found:
        yield found


Row = tuple[date, datetime, str, str | None, str, str, Decimal | None, float, int, str]


def rows_of_the_ledger() -> list[Row]:
    """Rows of two years: names with quotes, blanks and letters of other scripts, absent amounts, nine decimals."""
    chance, rows = random.Random(19), []
    harbours = ["Calder Bay", "O'Hara's", 'Zoë "Quay"', "Łódź", "50%_off", "=1+1", " Finmouth ", None, "渡し場"]
    for number in range(6_000):
        day = date(2024, 1, 1) + timedelta(days=chance.randrange(0, 700))
        scenario = chance.choice(["actual", "actual", "budget"])
        if scenario == "budget":
            day = day.replace(day=1)
        amount = Decimal(chance.randrange(-50_000, 90_000)).scaleb(-2)
        rows.append(
            (
                day,
                datetime(day.year, day.month, day.day, chance.randrange(6, 23), chance.randrange(60)),
                str(chance.choice([4010, 4020, 5100, 5110, 5200])),
                chance.choice(harbours),
                scenario,
                chance.choice(["day", "night"]),
                None if number % 97 == 0 else amount,
                round(chance.randrange(-9_000, 99_000) / 1_000, 3),
                chance.randrange(1, 40),
                f"T{chance.randrange(900)}{' ' if number % 7 == 0 else ''}",
            )
        )
    return rows


@dataclass(frozen=True)
class Kept:
    """The ledger in one place: its words in a call."""

    name: str
    words: tuple[str, ...]


@pytest.fixture(scope="session")
def shelf(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The files of the ledger, and small ones beside them."""
    import duckdb

    folder, rows = tmp_path_factory.mktemp("shelf"), rows_of_the_ledger()
    with (folder / "ledger.csv").open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(HEADINGS)
        writer.writerows(rows)
    types = (
        "day: 'DATE', 'at': 'TIMESTAMP', account: 'VARCHAR', harbour: 'VARCHAR', scenario: 'VARCHAR', crew: 'VARCHAR'"
    )
    types += ", paid: 'DECIMAL(12, 2)', weight: 'DOUBLE', trips: 'INTEGER', 'Ticket No': 'VARCHAR'"
    source = f"read_csv('{folder}/ledger.csv', header = true, columns = {{{types}}}, auto_detect = false)"
    duckdb.execute(f"COPY (SELECT * FROM {source}) TO '{folder}/ledger.parquet'")
    with sqlite3.connect(folder / "books.db") as books:
        books.execute(
            'CREATE TABLE ledger (day DATE, "at" TIMESTAMP, account TEXT, harbour TEXT, scenario TEXT, crew TEXT, '
            'paid NUMERIC, weight REAL, trips INTEGER, "Ticket No" TEXT)'
        )
        plain = [[str(one) if isinstance(one, date | Decimal) else one for one in row] for row in rows]
        books.executemany(f"INSERT INTO ledger VALUES ({', '.join('?' * len(HEADINGS))})", plain)
    (folder / "accounts.csv").write_text(
        "account,kind,group\n4010,income,Fares\n4020,income,Cargo\n5100,cost,Fuel\n5110,cost,Fuel\n"
    )
    (folder / "names.csv").write_text("name,shown\nCalder Bay,North\nŁódź,North\n")
    (folder / "profit.toml").write_text(
        '[statement]\nname = "Profit"\nincome_sign = "positive"\ncost_sign = "negative"\n'
        '[[line]]\nlabel = "Income"\naccounts = ["4000-4999"]\nkind = "income"\n'
        '[[line]]\nlabel = "Costs"\naccounts = ["5*"]\nkind = "cost"\n'
        '[[line]]\nlabel = "Profit"\ntotal_of = ["Income", "Costs"]\n'
        '[[line]]\nlabel = "Margin"\nratio_of = ["Profit", "Income"]\n'
    )
    return folder


@pytest.fixture(scope="session")
def in_postgres(postgres: Postgres, shelf: Path) -> Kept:
    with postgres.connected() as books:
        books.execute("CREATE SCHEMA fares")
        books.execute(
            'CREATE TABLE fares.ledger (day date, "at" timestamp, account text, harbour text, scenario text, crew text, '
            'paid numeric(12, 2), weight double precision, trips integer, "Ticket No" text)'
        )
        with books.cursor().copy("COPY fares.ledger FROM STDIN WITH (FORMAT csv, HEADER)") as copy:
            copy.write((shelf / "ledger.csv").read_bytes())
    return Kept("PostgreSQL", (postgres.address, "--table", "fares.ledger"))


ALIKE = ("North", "north", "Zoe", "Zoë", "Zoë  ", "straße", "strasse", "", None)


@pytest.fixture(scope="session")
def in_mariadb() -> Iterator[Kept]:
    """The ledger where names alike but for case and accents are one, unless it is asked to tell them apart."""
    if which("mariadb-install-db") is None:
        lacking("MariaDB is not here: apt-get install mariadb-server")
    import pymysql

    with mariadb_server() as port:
        with pymysql.connect(host="127.0.0.1", port=port, user="root", database="books") as books:
            asked = books.cursor()
            asked.execute(
                "CREATE TABLE ledger (day DATE, at DATETIME, account TEXT, harbour TEXT, scenario TEXT, crew TEXT, "
                "paid NUMERIC(12, 2), weight DOUBLE, trips INTEGER, `Ticket No` TEXT)"
            )
            asked.executemany(
                f"INSERT INTO ledger VALUES ({', '.join(['%s'] * len(HEADINGS))})", rows_of_the_ledger()
            )
            asked.execute("CREATE TABLE alike (day DATE, place TEXT CHARACTER SET utf8mb3, net NUMERIC(12, 2))")
            rows = [(date(2026, 1, 1), name, 2**place) for place, name in enumerate(ALIKE)]
            asked.executemany("INSERT INTO alike VALUES (%s, %s, %s)", rows)
            books.commit()
        yield Kept("MariaDB", (f"mysql+pymysql://root@127.0.0.1:{port}/books", "--table", "ledger"))


@pytest.fixture(scope="session")
def in_spark(spark: str, shelf: Path) -> Kept:
    from pyspark.sql import SparkSession

    session = SparkSession.builder.remote(spark).getOrCreate()
    session.read.parquet(str(shelf / "ledger.parquet")).write.saveAsTable("ledger")
    session.stop()
    return Kept("Spark", (spark, "--table", "ledger"))
