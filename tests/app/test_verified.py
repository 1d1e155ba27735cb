"""--verify: every figure a second time, in a way that shares no arithmetic with the first."""

from __future__ import annotations

import os
import random
from decimal import Decimal

import pytest

from conftest import Desk
from marvex.core.compare.totals import Total
from marvex.core.exact import EXACT
from marvex.sources.engine import query
from marvex.sources.engine.facts import Facts

ROWS = int(os.environ.get("MARVEX_ROWS", "60000"))  # make faults: ten million


@pytest.fixture
def books(desk: Desk) -> Desk:
    desk.write(
        "l.csv",
        [
            ("2025-01-05", "Fuel", 40),
            ("2026-01-05", "Fuel", 42),
            ("2026-01-09", "Crew", 7),
            ("2026-02-01", "Crew", 1),
        ],
        ("date", "item", "net"),
    )
    return desk


SUMS = ("table", "l.csv", "--by", "item", "--for", "2026-01", "--versus", "2025-01", "--figures", "figures.json")


WAYS = ("sum", "count", "mean", "highest", "lowest", "closing", "closing:each", "distinct:net")


@pytest.mark.parametrize("way", WAYS)
def test_each_way_of_totalling_is_found_a_second_time(books: Desk, way: str) -> None:
    names = books.write("n.csv", [("Crew", "Staff")], ("old", "new"))
    done = books.run(*SUMS, "-o", "t.md", "--total-as", way, "--verify", "--name-map", names)
    assert done.status == 0, done.err
    assert {"name": "verified", "ok": True, "difference": 0} in books.read_figures()["checks"]
    assert "verified row by row" in (books.folder / "t.md").read_text()


def test_a_sum_that_is_wrong_on_both_sides_of_the_tie_out_stops_the_command(
    books: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(query._FIGURES, Total.SUM, "sum(amount) + 1")
    assert "tie out" in books.run(*SUMS).err  # three categories more, and one total
    monkeypatch.setitem(query._FIGURES, Total.SUM, "sum(amount) * 2")
    assert books.run(*SUMS).status == 0  # as wrong as it is, it adds up
    done = books.run(*SUMS, "--verify")
    assert (done.status, done.out) == (2, "")
    assert "Crew 2026-01-01 to 2026-01-31 is 14, and its rows add up to 7" in done.err


def test_an_amount_whose_unit_is_lost_is_noticed(books: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    assert books.run(*SUMS, "--amounts-in", "k", "--verify").status == 0
    monkeypatch.setattr(Facts, "scaled", lambda _, amount: amount)
    assert books.run(*SUMS, "--amounts-in", "k").status == 0
    assert "its rows add up to" in books.run(*SUMS, "--amounts-in", "k", "--verify").err


def test_tiny_beside_huge_is_exact_to_the_last_of_38_digits_in_both_ways(desk: Desk) -> None:
    chance = random.Random(17)
    sums = {"2026-01-01": 0, "2025-01-01": 0}  # in units of 10⁻⁹
    with (desk.folder / "l.csv").open("w") as file:
        file.write("date,net\n")
        for place in range(ROWS):
            day = ("2026-01-01", "2025-01-01")[place % 2]
            units = chance.choice((chance.randrange(1, 99), chance.randrange(10**30, 10**31), -(10**30) + 1))
            sums[day] += units
            sign, digits = "-" * (units < 0), f"{abs(units):010}"
            file.write(f"{day},{sign}{digits[:-9]}.{digits[-9:]}\n")
    done = desk.run("table", "l.csv", "--for", "2026", "--versus", "2025", "--verify", "--figures", "figures.json")
    assert done.status == 0, done.err
    point = desk.read_figures()["points"][-1]
    expected = [EXACT.scaleb(Decimal(sums[day]), -9) for day in sums]
    assert [Decimal(str(point[side])) for side in ("current", "base")] == expected
