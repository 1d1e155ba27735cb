"""The same calls on files, databases and a cluster: the same figures to the last digit, and none but facts sent."""

from __future__ import annotations

import os
import random
from pathlib import Path
from typing import Any

import pytest

from conftest import Desk
from stored import SERVERS, Kept

pytestmark = SERVERS
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


def test_spark_gives_the_figures_of_a_csv(shelf: Path, of_csv: Answers, in_spark: Kept) -> None:
    same_figures(shelf, of_csv, in_spark)


def test_the_order_of_a_database_is_by_name(shelf: Path) -> None:
    words = ("--table", "ledger", "--amount", "paid", "--date", "day", "--by", "harbour")
    found = Desk(shelf).figures("table", "sqlite:///books.db", *words)
    labels = [one["label"] for one in found["points"][:-1]]
    assert len(labels) == 9 and labels == sorted(labels)
