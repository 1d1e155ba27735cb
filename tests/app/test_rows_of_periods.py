"""Months down the rows of a sheet, and below them their quarters, their year, what runs to date and averages."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from conftest import Desk, by_label

MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
amounts = st.lists(st.tuples(st.integers(1, 9999), st.integers(1, 9999)), min_size=3, max_size=12)


def summed(name: str, rows: list[list[Any]]) -> list[Any]:
    return [name, *(sum(row[at] for row in rows) for at in (1, 2))]


@example(figures=[(2000, 2000), (1, 1), (1, 1)], quarters="", years=[], is_bare=False, averages=True)
@given(
    figures=amounts,
    quarters=st.sampled_from(["", "Q{}", "Q{} 2026"]),
    years=st.lists(st.sampled_from(["Total", "YTD", "FY 2026", "2026", "Total 2026"]), unique=True, max_size=2),
    is_bare=st.booleans(),
    averages=st.booleans(),
)
@settings(max_examples=25, deadline=None)
def test_months_count_once_whatever_stands_below_them(
    figures: list[tuple[int, int]],
    quarters: str,
    years: list[str],
    is_bare: bool,
    averages: bool,
    tmp_path_factory: pytest.TempPathFactory,
) -> None:
    months = [[f"{MONTHS[at]}{'' if is_bare else ' 2026'}", *both] for at, both in enumerate(figures)]
    rows = []
    for first in range(0, len(months), 3):
        quarter = months[first : first + 3]
        rows += [*quarter, *([summed(quarters.format(first // 3 + 1), quarter)] if quarters else [])]
    rows += [summed(name, months) for name in years]
    if averages:
        means = [round(Decimal(total) / len(months), 4) for total in summed("", months)[1:]]
        rows.append(["Average", *means])
    desk = Desk(tmp_path_factory.mktemp("rows"))
    desk.write("sheet.csv", rows, ("Month", "Actual", "Budget"))
    year = ("--year", "2026") if is_bare else ()
    found = desk.figures("table", "sheet.csv", "--for", "2026", *year)
    *points, total = found["points"]
    # Each month as it stands, and their sums, taken from what was drawn and not from the sheet's own totals.
    assert [[one["current"], one["base"]] for one in points] == [list(both) for both in figures]
    assert [total["current"], total["base"]] == [sum(column) for column in zip(*figures, strict=True)]
    assert found["source"]["rows_used"] == len(figures)


def test_a_quarter_that_its_months_miss_is_not_left_out(desk: Desk) -> None:
    months = [("Jan 2026", 411), ("Feb 2026", 503), ("Mar 2026", 377)]
    desk.write("sheet.csv", [*months, ("Q1 2026", 1391)], ("Month", "Sales"))
    assert "'Q1 2026' stands beside 'Jan 2026'" in desk.refused("table", "sheet.csv")
    desk.write("sheet.csv", [*months, ("YTD", 1281)], ("Month", "Sales"))
    assert "'YTD' is not a date" in desk.refused("table", "sheet.csv")
    desk.write("sheet.csv", [*months, ("Average", 431)], ("Month", "Sales"))
    assert "'Average' is not a date" in desk.refused("table", "sheet.csv")
    # 411 + 503 + 377 = 1291: one more is what rounding in thousands makes, and it is told.
    desk.write("sheet.csv", [*months, ("Q1 2026", 1292)], ("Month", "Sales"))
    found = desk.figures("table", "sheet.csv")
    assert found["points"][-1]["current"] == 1291 and "'Q1 2026' (by 1) is not just the sum" in found["cautions"][0]
    # Of figures as small, one more is too much: 3 + 4 + 5 = 12, and 13.
    desk.write("sheet.csv", [("Jan 2026", 3), ("Feb 2026", 4), ("Mar 2026", 5), ("Q1 2026", 13)], ("Month", "Sales"))
    assert "'Q1 2026' stands beside 'Jan 2026'" in desk.refused("table", "sheet.csv")


def test_what_does_not_add_up_says_nothing_of_a_total(desk: Desk) -> None:
    months = [("Jan 2026", 411, 10), ("Feb 2026", 503, 11), ("Q1 2026", 914, 11), ("Average", 457, "10.5")]
    desk.write("sheet.csv", months, ("Month", "Sales", "Headcount"))
    sales = desk.figures("table", "sheet.csv", "--amount", "Sales")["points"]
    staff = desk.figures("table", "sheet.csv", "--amount", "Headcount", "--total-as", "closing")["points"]
    assert [one["current"] for one in sales] == [411, 503, 914] and staff[-1]["current"] == 11


def test_months_of_a_plan_may_follow_what_runs_to_date(desk: Desk) -> None:
    months = [("Jan 2026", 411, 400), ("Feb 2026", 503, 500), ("Mar 2026", "", 410)]
    desk.write("sheet.csv", [*months, ("YTD", 914, 900), ("Full year", "", 1310)], ("Month", "Actual", "Budget"))
    found = desk.figures("table", "sheet.csv")
    # 411 + 503 against 400 + 500, as March has no actual.
    assert [found["points"][-1][side] for side in ("current", "base")] == [914, 900]


def test_a_quarter_below_dates_that_could_be_read_in_two_ways_is_theirs(desk: Desk) -> None:
    months = [("31/01/2026", 422), ("28/02/2026", 433), ("31/03/2026", 455)]
    desk.write("sheet.csv", [*months, ("Q1", 1310)], ("Month", "Sales"))
    assert [one["current"] for one in desk.figures("table", "sheet.csv")["points"]] == [422, 433, 455, 1310]


def test_a_statement_of_months_has_its_total_row_left_out(desk: Desk) -> None:
    head = ("Month", "Sales", "Cost of sales", "Gross profit", "Gross margin %")
    rows = [
        ("Jan 2026", 400, 300, 100, "25.0%"),
        ("Feb 2026", 500, 350, 150, "30.0%"),
        ("YTD", 900, 650, 250, "27.8%"),
    ]
    desk.write("sheet.csv", rows, head)
    found = by_label(desk.figures("table", "sheet.csv"))
    assert {name: found[name]["current"] for name in head[1:4]} == {
        "Sales": 900, "Cost of sales": 650, "Gross profit": 250,
    }  # fmt: skip
    assert found["Gross margin %"]["current"] == Decimal("0.277778")  # 250 / 900, not of the rounded 27.8%


def test_rows_of_a_list_drawn_as_a_waterfall_are_its_months(desk: Desk) -> None:
    months = [("Jan 2026", 411), ("Feb 2026", 503), ("Mar 2026", 377)]
    desk.write("sheet.csv", [*months, ("Q1 2026", 1291), ("Total", 1291)], ("Month", "Sales"))
    points = desk.figures("draw", "waterfall", "sheet.csv", "-o", "w.png")["points"]
    assert [one["current"] for one in points if one["kind"] == "step"] == [411, 503, 377]
    assert points[-1]["kind"] == "closing" and points[-1]["end"] == 1291


def test_in_the_first_month_of_a_year_the_year_to_date_is_that_month(desk: Desk) -> None:
    desk.write("sheet.csv", [("Jan 2026", 411, 400), ("YTD", 411, 400)], ("Month", "Actual", "Budget"))
    total = desk.figures("table", "sheet.csv")["points"][-1]
    assert (total["current"], total["base"]) == (411, 400)
    # A year from April: its first quarter ends with June, and July is its second so far.
    rows = [("Apr 2025", 11), ("May 2025", 12), ("Jun 2025", 9), ("Q1", 32), ("Jul 2025", 10), ("Q2 to date", 10)]
    desk.write("sheet.csv", rows, ("Month", "Sales"))
    points = desk.figures("table", "sheet.csv", "--year-starts", "april")["points"]
    assert [one["current"] for one in points] == [11, 12, 9, 10, 42]


def test_each_region_has_wholes_of_its_own(desk: Desk) -> None:
    rows = [
        ("North", "Jan 2026", 422), ("North", "Feb 2026", 442), ("North", "YTD", 864),
        ("South", "Jan 2026", 433), ("South", "Feb 2026", 453), ("South", "YTD", 886),
    ]  # fmt: skip
    desk.write("sheet.csv", rows, ("Region", "Month", "Sales"))
    points = by_label(desk.figures("table", "sheet.csv", "--by", "Region"))
    assert {name: one["current"] for name, one in points.items()} == {"North": 864, "South": 886, "Total": 1750}
    # 864 is what North comes to, and no sum of South's 433 + 453.
    desk.write("sheet.csv", [*rows[:5], ("South", "YTD", 864)], ("Region", "Month", "Sales"))
    assert "'YTD' is not a date" in desk.refused("table", "sheet.csv", "--by", "Region")


def test_a_grand_total_below_totals_of_months_is_no_sum_of_them(desk: Desk) -> None:
    rows = [
        ("Jan 2026", "North", 422), ("Jan 2026", "South", 433), ("Jan 2026", "Total", 855),
        ("Feb 2026", "North", 442), ("Feb 2026", "South", 453), ("Feb 2026", "Total", 895), ("Total", "", 1750),
    ]  # fmt: skip
    desk.write("sheet.csv", rows, ("Month", "Region", "Sales"))
    points = by_label(desk.figures("table", "sheet.csv", "--by", "Region"))
    assert {name: one["current"] for name, one in points.items()} == {"North": 864, "South": 886, "Total": 1750}
    desk.write("sheet.csv", [*rows[:-1], ("Total", "", 1751)], ("Month", "Region", "Sales"))
    assert "row 8 'Total' is 1,751" in desk.refused("table", "sheet.csv", "--by", "Region")
