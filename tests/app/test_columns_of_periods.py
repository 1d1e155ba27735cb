"""Months across a sheet with their quarters and halves beside them, before all of them are known; and no year said."""

from __future__ import annotations

from datetime import date
from itertools import product
from typing import Any

import pytest

from conftest import Desk, by_label


def total(figures: dict[str, Any]) -> Any:
    return by_label(figures)["Total"]["current"]


@pytest.mark.parametrize("known", [1, 2, 4, 7, 10])
@pytest.mark.parametrize("start", [1, 4])
def test_quarters_of_months_still_to_come_are_no_months_across(desk: Desk, known: int, start: int) -> None:
    # Each month of a line is 100, 110, … of `Fares` and twice that of `Freight`; a quarter holds what is known of it.
    names = [date(2026, (start + place - 1) % 12 + 1, 1) for place in range(12)]
    fares = [100 + 10 * place if place < known else None for place in range(12)]
    for years, nothing, side in product((True, False), ("0", ""), ("", " Act")):
        columns: list[tuple[str, list[int]]] = []
        for place, day in enumerate(names):
            year = f" {2026 + (day.month < start)}" if years else ""
            columns.append((f"{day:%b}{year}{side}", [place]))
            for count, letter in ((3, "Q"), (6, "H")):
                if place % count == count - 1:
                    of = f" FY{26 + (start > 1)}" if years else ""
                    columns.append(
                        (f"{letter}{place // count + 1}{of}{side}", [*range(place - count + 1, place + 1)])
                    )
        rows = []
        for name, times in (("Fares", 1), ("Freight", 2)):
            cells: list[Any] = []
            for _, parts in columns:
                its = [times * one for at in parts if (one := fares[at]) is not None]
                cells.append(sum(its) if its else nothing if len(parts) > 1 else "")
            rows.append([name, *cells])
        desk.write("w.csv", rows, ("Line", *(name for name, _ in columns)))
        said = ["--year", "2026/27" if start > 1 else "2026"] if not years else []
        call = ["table", "w.csv", "--versus", "none", *said, *(("--year-starts", "april") if start > 1 else ())]
        assert total(desk.figures(*call)) == 3 * sum(one for one in fares if one), columns
    # A quarter that is not what its one month is says something of its own.
    rows[0][1 + next(at for at, (name, _) in enumerate(columns) if name.startswith("Q1"))] += 5
    desk.write("x.csv", rows, ("Line", *(name for name, _ in columns)))
    assert "Q1" in desk.refused(*(word.replace("w.csv", "x.csv") for word in call))


def test_quarters_of_each_side_and_what_lies_between_them_are_left_out(desk: Desk) -> None:
    (desk.folder / "m.csv").write_text(
        "Management accounts 2026,,,,,,,,,,,,\n"
        ",Jan,Jan,Jan,Feb,Feb,Feb,Mar,Mar,Mar,Q1,Q1,Q1\n"
        "Line,Actual,Budget,Var,Actual,Budget,Var,Actual,Budget,Var,Actual,Budget,Var\n"
        "Fares,10,11,-1,,14,-14,,12,-12,10,37,-27\n"
        "Freight,20,18,2,,24,-24,,19,-19,20,61,-41\n"
        "Shop,7,5,2,,6,-6,,4,-4,7,15,-8\n"
    )
    found = by_label(desk.figures("table", "m.csv"))
    assert {name: (one["current"], one["base"]) for name, one in found.items()} == {
        "Fares": (10, 11), "Freight": (20, 18), "Shop": (7, 5), "Total": (37, 34)
    }  # fmt: skip


def test_dates_stand_for_the_months_of_a_reporting_years_quarters(desk: Desk) -> None:
    # April to June of 2026, of which April is known: 7 and 9 against 100 and 30 of the plan, far more.
    months = ("2026-04-01", "2026-05-01", "2026-06-01")
    names = [f"{month} {side}" for month in (*months, "Q1 FY27") for side in ("Actual", "Budget")]
    desk.write(
        "d.csv",
        [("Fares", 7, 100, "", 110, "", 120, 7, 330), ("Shop", 9, 30, "", 35, "", 40, 9, 105)],
        ("Line", *names),
    )
    found = desk.figures("table", "d.csv", "--year-starts", "april")
    assert (by_label(found)["Total"]["current"], by_label(found)["Total"]["base"]) == (16, 130)
    assert found["current"]["to"] == "2026-04-30"


def test_parts_of_a_total_are_added_up_by_what_a_call_compares_by(desk: Desk) -> None:
    rows = [("Fares", 100, 200), ("Freight", 40, 60), ("Shop", 3, 4)]
    desk.write("t.csv", [(*row, row[1] + row[2]) for row in rows], ("Account", "Hallin", "Skarn", "Total"))
    of_accounts = {"Fares": 300, "Freight": 100, "Shop": 7, "Total": 407}
    for said in ((), ("--headings-are", "Route")):
        found = desk.figures("table", "t.csv", "--by", "Account", *said)
        assert {name: one["current"] for name, one in by_label(found).items()} == of_accounts
    found = desk.figures("table", "t.csv", "--by", "Account,Route", "--headings-are", "Route")
    assert by_label(found)["Shop / Skarn"]["current"] == 4
    # Amounts that a call names are set beside one another, as are those that no total is known of.
    assert by_label(desk.figures("table", "t.csv", "--by", "Account", "--amount", "Hallin,Skarn"))["Shop / Skarn"]
    desk.write("u.csv", rows, ("Account", "Fares", "Fuel"))
    assert by_label(desk.figures("table", "u.csv", "--by", "Account", "--headings-are", "line"))["Shop / Fuel"]


def test_a_plan_by_periods_of_no_year_beside_dated_books_asks_for_it(desk: Desk) -> None:
    desk.write("books.csv", [("2026-01-05", "Fares", 90), ("2026-02-28", "Freight", 50)], ("Date", "Account", "Net"))
    plan = [("Fares", 100, 200, 300), ("Freight", 40, 60, 100), ("Shop", 3, 4, 7)]
    call = ("table", "actual=books.csv", "budget=plan.csv", "--by", "Account")
    for first, second in (("P01", "P02"), ("Jan", "Feb")):
        desk.write("plan.csv", plan, ("Account", first, second, "Total"))
        assert "--year budget=2026" in desk.refused(*call)
        told = desk.figures(*call, "--year", "budget=2026")
        assert by_label(told)["Fares"]["base"] == 300  # 100 and 200
        assert "--year 2026" in desk.refused("table", "plan.csv", "--headings-are", "period")
    desk.write("plan.csv", plan, ("Account", "Hallin", "Skarn", "Total"))
    assert "--year budget=2026" in desk.refused(*call)  # the one year, of all that it holds
    assert by_label(desk.figures(*call, "--year", "budget=2026", "--full-base"))["Fares"]["base"] == 300
    desk.write("plan.csv", [row[:3] for row in plan], ("Account", "Hallin", "Skarn"))
    said = desk.refused(*call, "--headings-are", "budget=Route")
    assert "--amount 'budget=Hallin + Skarn'" in said
    assert by_label(desk.figures(*call, "--amount", "budget=Hallin + Skarn", "--year", "budget=2026", "--full-base"))


def test_quarters_in_rows_are_of_the_reporting_year_that_a_call_says(desk: Desk) -> None:
    for letter, first in (("Q", "2026-04-01"), ("P", "2026-04-01"), ("H", "2026-04-01")):
        desk.write("q.csv", [(f"{letter}1", 10), (f"{letter}2", 20)], ("Period", "Amount"))
        told = desk.figures("table", "q.csv", "--year", "2026/27", "--year-starts", "april")
        assert (told["current"]["from"], total(told)) == (first, 30)
