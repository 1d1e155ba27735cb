"""Lines and sides of a table that do not belong together, as its own words and figures say."""

from __future__ import annotations

from collections.abc import Sequence

import pytest

from conftest import Desk

LINES = ("Line", "Actual", "Budget", "Variance")
MONTHS = [f"2026-{month:02}" for month in range(1, 11)]


@pytest.mark.parametrize(
    "names", [("Average",), ("Median",), ("Durchschnitt",), ("Min", "Max"), ("Average per route",)]
)
def test_what_is_worked_out_of_all_others_is_not_added_up_with_them(desk: Desk, names: tuple[str, ...]) -> None:
    desk.write("t.csv", [("North", 500, 450), ("South", 301, 330), *((one, 400, 390) for one in names)], LINES[:3])
    said = desk.refused("table", "t.csv")
    assert f"{names[-1]} {'is' if len(names) == 1 else 'are'} worked out of the others by name" in said
    assert "--where 'Line!=" in said
    for command in (("draw", "waterfall"), ("commentary",)):
        assert "worked out of the others" in desk.refused(*command, "t.csv")
    assert desk.figures("table", "t.csv", "--total-as", "sum")["headline"].startswith("Total")


def test_a_person_called_max_is_added_up(desk: Desk) -> None:
    desk.write("t.csv", [("North", 500, 450), ("Max", 301, 330), ("West", 120, 101)], LINES[:3])
    assert "Total 921, 40 above budget" in desk.run("table", "t.csv").out


@pytest.mark.parametrize(
    ("variances", "said"),
    [
        ((50, -30, 20), ""),
        ((50, -20, 20), "caution: t.csv: Variance is not what the two sides differ by: South -20 for -30"),
        (
            (50, 30, -20),
            "'North' is income and 'South' a cost by the signs of Variance",
        ),  # 300 is 30 less than planned
        ((7, 8, 9), ""),  # of something else
    ],
)
def test_the_variances_of_a_table_are_held_against_its_sides(desk: Desk, variances: Sequence[int], said: str) -> None:
    sides = (("North", 500, 450), ("South", 300, 330), ("West", 120, 100))
    for names in (LINES, ("Line", "2026", "2025", "Change")):
        desk.write("t.csv", [(*one, own) for one, own in zip(sides, variances, strict=True)], names)
        found = desk.run("table", "t.csv")
        assert said.replace("Variance", names[3]) in found.err
        assert found.status == (2 if "income" in said else 0)
        assert ("not what the two sides" in found.err) is ("not what" in said)


def test_beside_all_revenue_fuel_is_a_cost(desk: Desk) -> None:
    desk.write("t.csv", [("Revenue", 500, 450), ("Fuel", 300, 330)], LINES[:3])
    assert "'Revenue' is income and 'Fuel' a cost" in desk.refused("table", "t.csv")
    desk.write("t.csv", [("Fare revenue", 500, 450), ("Fuel", 300, 330)], LINES[:3])  # as an oil merchant has it
    assert desk.run("table", "t.csv").status == 0


@pytest.mark.parametrize(
    ("pair", "differ"),
    [
        (("Oct 2026", "Budget 2026"), True),
        (("Actual YTD", "Budget 2026"), True),
        (("Actual YTD", "Budget YTD"), False),
    ],
)
def test_columns_of_unlike_spans_bring_a_caution(desk: Desk, pair: tuple[str, str], differ: bool) -> None:
    desk.write("t.csv", [("North", 500, 6000), ("South", 300, 4000)], ("Route", *pair))
    said = desk.run("table", "t.csv", "--current", pair[0], "--base", pair[1]).err
    assert (f"by their headings {pair[0]} and {pair[1]} are not of spans of one length" in said) is differ


def test_a_plan_of_another_year_is_said_to_be_none(desk: Desk) -> None:
    desk.write("a.csv", [(month, 100) for month in MONTHS], ("Month", "Net"))
    desk.write("b.csv", [(month.replace("2026", "2025"), 90) for month in MONTHS], ("Month", "Net"))
    assert (
        "against nothing: budget has no rows in the window" in desk.run("table", "actual=a.csv", "budget=b.csv").err
    )


def test_sides_that_sign_costs_in_opposite_ways_are_told_whatever_is_compared(desk: Desk) -> None:
    lines = (
        ("Fares revenue", 900, 880, 1),
        ("Freight", 500, 510, 1),
        ("Fuel cost", 300, 290, -1),
        ("Crew", 400, 390, -1),
    )
    rows = [
        (month, "North", account, scenario, amount)
        for month in MONTHS
        for account, actual, budget, sign in lines
        for scenario, amount in (("actual", sign * actual), ("budget", budget))
    ]
    desk.write("t.csv", rows, ("Month", "Route", "Account", "Scenario", "Net"))
    for asked in ((), ("--by", "Route"), ("--by", "Account")):
        said = desk.refused("table", "t.csv", *asked)
        assert "Fuel cost" in said and "in opposite ways" in said and "--source-sign actual=effect" in said
    # To turn all of one side turns its income too.
    two = ("actual=t.csv", "budget=t.csv", "--by", "Account", "--source-sign", "actual=negative")
    assert "as --source-sign has it" in desk.refused("table", *two)


def test_a_ledger_of_double_entries_says_why_it_comes_to_nothing(desk: Desk) -> None:
    rows = [(month, account, sign * 100) for month in MONTHS for account, sign in (("4000", -1), ("1200", 1))]
    desk.write("t.csv", rows, ("Month", "Account", "Amount"))
    assert "by Account they do not, as in a ledger of double entries: --by Account" in desk.run("table", "t.csv").err


def test_what_is_brought_forward_is_a_balance_and_no_version(desk: Desk) -> None:
    rows = [(month, "North", 100) for month in MONTHS]
    carried = [("2026-05", "Carried forward", 400), ("2026-05", "Brought forward", 400)]
    desk.write("t.csv", [*rows[:4], *carried, *rows[4:]], ("Month", "Route", "Net"))
    said = desk.refused("table", "t.csv")
    assert "are balances by name" in said and "--where 'Route!=Brought forward,Carried forward'" in said
