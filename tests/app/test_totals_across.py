"""Departments side by side with their total, by year or by side: never added up with it, and no line of it lost."""

from __future__ import annotations

import pytest

from conftest import Desk, by_label

# Of two departments: 1,012 + 433 - 954 = 491 and 304 + 121 - 217 = 208; 418 and 159 on the other side.
LINES = {
    "Fares": ((1012, 304), (907, 283)),
    "Grants": ((433, 121), (391, 116)),
    "Total income": ((1445, 425), (1298, 399)),
    "Wages": ((954, 217), (880, 240)),
    "Contribution": ((491, 208), (418, 159)),
}
PAIRS = [("2026", "2025"), ("Actual", "Budget"), ("Jan 2026", "Jan 2025"), ("Actual 2026", "Budget 2026")]


def sheet(
    desk: Desk, sides: tuple[str, str], total: str, *, two: bool = False, alone: str = "", costs: int = 1
) -> None:
    """Two departments of each side with their total, costs with a sign; `alone` has 30 and 20 in the totals only."""
    names = ["Ferries", "Shops", total]
    heads = [["Line", *(f"{side} {name}" for side in sides for name in names)]]
    if two:
        heads = [["", *(side for side in sides for _ in names)], ["Line", *names, *names]]
    rows = [[name, *now, sum(now), *then, sum(then)] for name, (now, then) in LINES.items()]
    rows = [[row[0], *(costs * one for one in row[1:])] if row[0] == "Wages" else row for row in rows]
    if alone:
        rows.append([alone, "", "", 30, "", "", 20])
    desk.write("d.csv", [*heads[1:], *rows], heads[0])


@pytest.mark.parametrize("sides", PAIRS)
@pytest.mark.parametrize("total", ["Total", "Group", "All", "Ostrey Sound"])
@pytest.mark.parametrize("two", [False, True])
def test_a_total_of_departments_counts_with_none_of_them(
    desk: Desk, sides: tuple[str, str], total: str, two: bool
) -> None:
    sheet(desk, sides, total, two=two)
    found = by_label(desk.figures("table", "d.csv"))
    assert (found["Contribution"]["current"], found["Contribution"]["base"]) == (491 + 208, 418 + 159)
    assert (found["Fares"]["current"], found["Fares"]["base"]) == (1316, 1190)


@pytest.mark.parametrize("sides", PAIRS)
@pytest.mark.parametrize("total", ["Total", "Company", "Ostrey Sound"])
@pytest.mark.parametrize("costs", [1, -1])
def test_what_stands_in_a_total_alone_is_not_lost(desk: Desk, sides: tuple[str, str], total: str, costs: int) -> None:
    sheet(desk, sides, total, alone="Head office", costs=costs)
    told = desk.refused("table", "d.csv")
    columns = ",".join(f"{side} {total}" for side in sides)
    assert "row 7 'Head office': 30 there, 0 in them" in told and f"--amount '{columns}' takes those alone" in told
    points = by_label(desk.figures("table", "d.csv", "--amount", columns))
    assert (points["Head office"]["current"], points["Fares"]["current"]) == (30, 1316)


def test_a_total_of_months_is_what_they_come_to_in_every_row(desk: Desk) -> None:
    heads = ("Region", "Jan 2026", "Feb 2026", "Mar 2026", "Total")
    rows = [("North", 100, 110, 120, 330), ("South", 40, 41, 42, 123), ("East", 7, 9, 8, 24)]
    # The sheet comes to 507 with what is of no month; its months to 477, which was all that was said.
    desk.write("m.csv", [*rows, ("Head office", "", "", "", 30)], heads)
    assert "row 5 'Head office': 30 there, 0 in them" in desk.refused("table", "m.csv")
    assert desk.figures("table", "m.csv", "--amount", "Total")["points"][-1]["current"] == 507
    parts = desk.figures("table", "m.csv", "--amount", ",".join(heads[1:4]))
    assert parts["points"][-1]["current"] == 477
    desk.write("m.csv", [("North", 100, 110, 120, 430), *rows[1:]], heads)
    assert "430 there, 330 in them" in desk.refused("table", "m.csv")
    # An average of prices or a level of people is no sum, and so is held against nothing.
    desk.write("m.csv", [*rows, ("Average fare", 5, 6, 7, 6)], heads)
    assert "is the sum of Jan 2026" not in desk.run("table", "m.csv", "--where", "Region!=Average fare").err
    assert "is the sum of Jan 2026" not in desk.run("table", "m.csv").err


def test_two_files_whose_rows_more_columns_name_in_one_are_compared_by_what_both_have(desk: Desk) -> None:
    desk.write("a.csv", [("A", 5), ("B", 7)], ("item", "net"))
    desk.write("b.csv", [("N", "A", 5), ("N", "B", 4), ("S", "A", 3), ("S", "B", 2)], ("region", "item", "net"))
    for sources, sides in ((("actual=a.csv", "budget=b.csv"), (5, 8)), (("actual=b.csv", "budget=a.csv"), (8, 5))):
        found = by_label(desk.figures("table", *sources))["A"]
        assert (found["current"], found["base"]) == sides


def test_an_amount_of_a_side_that_could_be_a_year_makes_no_dates_of_a_sheet(desk: Desk) -> None:
    heads = ["Line", *(f"{side} {name}" for side in ("Actual", "Budget") for name in ("Shops", "Freight", "Company"))]
    desk.write(
        "y.csv", [("Sales", 675, 1968, 2643, 523, 1970, 2493), ("Head office", "", "", 110, "", "", 94)], heads
    )
    assert "row 3 'Head office': 110 there, 0 in them" in desk.refused("table", "y.csv")


def test_a_total_that_is_rounded_or_beside_a_bad_cell_is_told_as_that(desk: Desk) -> None:
    heads = ("EUR '000", *(f"{year} {name}" for year in (2026, 2025) for name in ("Ferries", "Shops", "Total")))
    rows = [("Fares", 1012, 304, 1317, 907, 283, 1190), ("Grants", 433, 121, 554, 391, 116, 507)]
    desk.write("r.csv", rows, heads)
    done = desk.run("table", "r.csv")
    assert "'2026 Total' is the sum of columns B–C, but for rounding, and was left out" in done.err
    assert "'2025 Total' is the sum of columns E–F and was left out" in done.err
    desk.write("r.csv", [("Fares", "10x2", *rows[0][2:]), rows[1], ("Gifts", 54, 17, 71, 44, 13, 57)], heads)
    assert "cell B2: '10x2' is not a figure" in desk.refused("table", "r.csv")
