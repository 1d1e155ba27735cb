"""The same calls on files, databases and a cluster: the same figures to the last digit, and none but facts sent."""

from __future__ import annotations

import os
import random
import sqlite3
from pathlib import Path
from typing import Any

import pytest

from conftest import Desk
from servers import Postgres
from stored import SERVERS, Kept

pytestmark = [SERVERS, pytest.mark.timeout(2700)]  # each takes 150 calls
CALLS = int(os.environ.get("MARVEX_STORED", "150"))

# Each a way of its own through what is asked of rows; `{}` stands for the source's words.
LISTED = """
table {} --amount paid --by account --for 2025 --versus 2024 --order name
table {} --amount paid --by harbour --for 2025 --order name
table {} --amount weight --by crew --for 2025 --versus 2024 --order name
table {} --amount trips --by harbour,crew --for 2025-H1 --versus year-ago --order name
table {} --amount paid --by kind --lookup accounts.csv:account --statement none --for 2025 --versus 2024 --order name
table {} --amount paid --by account --lookup accounts.csv:account --where kind=cost --for 2025 --order name
table {} --amount paid --by account --lookup accounts.csv:account --where kind!=cost --for 2025 --order name
table {} --amount paid --by harbour --name-map names.csv --for 2025 --order name
table {} --amount paid --statement profit.toml --for 2025 --versus 2024
draw statement {} --amount paid --statement profit.toml --for 2025 --versus 2024 -o p.svg
draw waterfall {} --amount paid --statement profit.toml --for 2025 --versus 2024 -o p.svg
table {} --amount paid --total-as mean --by crew --for 2025 --versus 2024 --order name
table {} --amount paid --total-as highest --by harbour --for 2025 --versus 2024 --order name
table {} --amount weight --total-as lowest --by harbour --for 2025 --versus 2024 --order name
table {} --total-as count --by harbour --for 2025 --versus 2024 --order name --amount paid
table {} --total-as closing --amount paid --by crew --for 2025 --versus 2024 --order name
table {} --total-as closing:each --amount paid --by crew --for 2025 --versus 2024 --order name
table {} --amount paid --per trips --by crew --for 2025 --versus 2024 --order name
table {} --amount paid --total-as 'distinct:Ticket No' --by crew --for 2025 --versus 2024 --order name
table {} --amount paid --total-as 'distinct:Ticket No' --where crew=day --every quarter --for 2025 --versus 2024
draw waterfall {} --amount paid --volume trips --by crew --for 2025 --versus 2024 --order name -o p.svg
table {} --amount paid --date at --every month --for 2025 --versus year-ago
table {} --amount paid --date at --every day --for 2025-06 --versus year-ago --match weekday
table {} --amount paid --amounts-in k --source-sign negative --by crew --for 2025 --order name
table {} --amount paid,weight --by heading --headings-are heading --for 2025 --versus 2024 --order name
draw against {} --amount paid --by crew --panels-by harbour --for 2025 --versus 2024 --order name -o p.svg
draw variance {} --amount paid --by crew --panels-by account --for 2025 --versus 2024 --order name -o p.svg
commentary {} --amount paid --by harbour --then-by crew --for 2025 --versus 2024 --order name
table {} --amount paid --where 'harbour~*o*' --by crew --for 2025 --order name
table {} --amount paid --where 'harbour=50%_off' --by crew --for 2025 --order name
table {} --amount paid --where 'harbour~50%_*' --by crew --for 2025 --order name
table {} --amount paid --where 'harbour=' --by crew --for 2025 --order name
table {} --amount paid --where 'paid>=100.5' --by crew --for 2025 --order name
table {} --amount paid --where 'day>=2025-03-01' --by crew --for 2025 --order name
table {} --amount paid --where 'harbour>M' --by crew --for 2025 --order name
table {} --amount paid --where 'trips<7' --where 'account!=5200,4010' --by crew --for 2025 --order name
table {} --amount paid --where 'weight>12.5' --by crew --for 2025 --order name
table {} --amount 'paid * trips' --by crew --for 2025 --versus 2024 --order name
table {} --amount 'weight * trips - paid / 3' --by harbour --for 2025 --versus 2024 --order name
table {} --amount 'paid / weight' --bad-cells blank --by account --for 2025 --versus 2024 --order name
table {} --amount '-(paid + weight) * 1.5' --where 'harbour!=Łódź' --by crew --for 2025 --versus 2024 --order name
table {} --amount 'paid / (trips - 7)' --by crew --for 2025 --versus 2024 --order name
table {} --amount 'paid / trips' --verify --total-as mean --by crew --for 2025 --versus 2024 --order name
table {} --amount paid --verify --by harbour --where crew=night --for 2025 --versus 2024 --order name
""".strip().splitlines()


def calls() -> list[str]:
    chance, made = random.Random(1907), list(LISTED)
    while len(made) < CALLS:
        words = ["table {} --amount", chance.choice(["paid", "paid", "weight", "trips"])]
        words += [
            "--for",
            chance.choice(["2025", "2025-H1", "2025-Q2", "2025-05", "2025-W20", "2025-03-02/2025-04-17"]),
        ]
        bases = (
            ["year-ago", "budget", "prior"]
            if words[3][5:6] in ("", "H", "Q", "0") and "/" not in words[3]
            else ["year-ago"]
        )
        words += ["--versus", chance.choice(bases)]
        axis = chance.choice(
            ["--by harbour --order name", "--by crew --order name", "--by account,crew --order name"]
        )
        if words[-1] != "prior" and chance.random() < 0.5:
            axis = "--every month" if words[3] in ("2025", "2025-H1", "2025-Q2") else ""
        words += [axis or "--by crew --order name"]
        if chance.random() < 0.4:
            words += ["--where", chance.choice(["crew=day", "'harbour!=Łódź'", "'account>=4020'", "'harbour~*a*'"])]
        if chance.random() < 0.2:
            words += ["--total-as", chance.choice(["mean", "count", "highest"])]
        if chance.random() < 0.15:
            words += [chance.choice(["--comparable", "--full-base", "--per-day calendar"])]
        made.append(" ".join(words))
    return made[:CALLS]


def asked(desk: Desk, call: str, kept: Kept) -> tuple[int, Any, str]:
    """How a call ended, its figures without what differs by the place they come from, and what was said."""
    import shlex

    call += "" if "--date" in call else " --date day"
    words = [one for word in shlex.split(call) for one in (kept.words if word == "{}" else [word])]
    figures = desk.folder / "figures.json"
    figures.unlink(missing_ok=True)
    done = desk.run(*words, *([] if words[0] == "survey" else ["--figures", "figures.json"]))
    if not figures.exists():
        return done.status, None, done.err
    found = desk.read_figures()
    del found["source"]["name"], found["cautions"], found["headline"]
    found["points"] = sorted(map(str, found["points"]))
    return done.status, found, done.err


Answers = dict[str, tuple[int, Any, str]]


@pytest.fixture(scope="session")
def of_csv(shelf: Path) -> Answers:
    """What each call gives of the CSV."""
    found = {call: asked(Desk(shelf), call, Kept("CSV", ("ledger.csv",))) for call in calls()}
    assert sum(figures is not None for _, figures, _ in found.values()) > 0.9 * CALLS
    return found


def same_figures(shelf: Path, of_csv: Answers, other: Kept) -> None:
    for call, (status, figures, said) in of_csv.items():
        found = asked(Desk(shelf), call, other)
        assert found[:2] == (status, figures), (call, said, found[2])


def test_parquet_gives_the_figures_of_a_csv(shelf: Path, of_csv: Answers) -> None:
    same_figures(shelf, of_csv, Kept("Parquet", ("ledger.parquet",)))


def test_sqlite_gives_the_figures_of_a_csv(shelf: Path, of_csv: Answers) -> None:
    same_figures(shelf, of_csv, Kept("SQLite", ("sqlite:///books.db", "--table", "ledger")))


def test_postgresql_gives_the_figures_of_a_csv(shelf: Path, of_csv: Answers, in_postgres: Kept) -> None:
    same_figures(shelf, of_csv, in_postgres)


def test_mariadb_gives_the_figures_of_a_csv(shelf: Path, of_csv: Answers, in_mariadb: Kept) -> None:
    some = dict(list(of_csv.items())[::3])  # what its dialect has for itself is in these
    same_figures(shelf, some, in_mariadb)


def test_names_alike_are_told_apart_where_the_database_would_not(
    shelf: Path, in_mariadb: Kept, postgres: Postgres
) -> None:
    amounts = {"North": 1, "north": 2, "Zoe": 4, "Zoë": 8 + 16, "straße": 32, "strasse": 64, "(none)": 128 + 256}
    kept: dict[str, set[str]] = {
        "place~*": {*amounts},
        "place=north": {"north"},
        "place~Zo*": {"Zoe", "Zoë"},
        "place!=Zoe,North": {*amounts} - {"Zoe", "North"},
        "place=": {"(none)"},
    }
    for condition, names in kept.items():
        words = ("--table", "alike", "--by", "place", "--versus", "none", "--where", condition)
        points = Desk(shelf).figures("table", in_mariadb.words[0], *words)["points"]
        found = {one["label"]: one["current"] for one in points}
        assert found == {name: amounts[name] for name in names} | {"Total": sum(amounts[name] for name in names)}
    with sqlite3.connect(shelf / "alike.db") as books:
        books.execute("CREATE TABLE alike (day DATE, place TEXT COLLATE NOCASE, net NUMERIC)")
        books.execute("INSERT INTO alike VALUES ('2026-01-01', 'North', 1), ('2026-01-01', 'north', 2)")
    with postgres.connected() as others:
        others.execute("CREATE EXTENSION citext")
        others.execute("CREATE TABLE alike AS SELECT date '2026-01-01' AS day, 'North'::citext AS place, 1 AS net")
        others.execute("INSERT INTO alike VALUES ('2026-01-01', 'north', 2)")
        others.execute("CREATE COLLATION blind (provider = icu, locale = 'und-u-ks-level2', deterministic = false)")
        others.execute("CREATE TABLE blind AS SELECT day, place::text COLLATE blind AS place, net FROM alike")
    for source, named in (("sqlite:///alike.db", "alike"), (postgres.address, "alike"), (postgres.address, "blind")):
        words = ("--table", named, "--by", "place", "--versus", "none", "--order", "name")
        points = Desk(shelf).figures("table", source, *words)["points"]
        assert [(one["label"], one["current"]) for one in points] == [("North", 1), ("north", 2), ("Total", 3)]
    counted = ("--table", "alike", "--versus", "none", "--every", "year", "--total-as", "distinct:place")
    assert Desk(shelf).figures("table", in_mariadb.words[0], *counted)["points"][0]["current"] == 6


def test_a_database_that_no_test_has_tried_looks_at_some_rows_itself(shelf: Path) -> None:
    """This one divides in binary, which its driver's types would not tell; what it does exactly is exact."""
    import duckdb

    with duckdb.connect(str(shelf / "books.duckdb")) as books:
        books.execute("CREATE TABLE ledger AS SELECT * FROM read_parquet($1)", [str(shelf / "ledger.parquet")])
    place, words = ("duckdb:///books.duckdb", "--table", "ledger"), ("--date", "day", "--by", "crew", "--for", "2025")
    product = ("--amount", "(paid + trips) * 1.5", "--where", "harbour!=Łódź", "--order", "name")
    found, of_file = (
        Desk(shelf).figures("table", *source, *words, *product)["points"] for source in (place, ("ledger.csv",))
    )
    assert [one["current"] for one in found] == [one["current"] for one in of_file]
    said = Desk(shelf).run("table", *place, *words, "--amount", "paid / weight")
    assert said.status == 2 and "comes out otherwise there" in said.err


def test_spark_gives_the_figures_of_a_csv(shelf: Path, of_csv: Answers, in_spark: Kept) -> None:
    same_figures(shelf, of_csv, in_spark)


def test_the_order_of_a_database_is_by_name(shelf: Path) -> None:
    words = ("--table", "ledger", "--amount", "paid", "--date", "day", "--by", "harbour")
    found = Desk(shelf).figures("table", "sqlite:///books.db", *words)
    labels = [one["label"] for one in found["points"][:-1]]
    assert len(labels) == 9 and labels == sorted(labels)
