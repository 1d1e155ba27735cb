"""A workbook of a sheet a month, a year, a region or a side, as it is kept by hand; and rows that look like years."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import xlsxwriter

from conftest import Desk, by_label

Rows = Sequence[Sequence[Any]]
MONTHS = ("Jan", "Feb", "Mar")


def book(desk: Desk, name: str, sheets: Mapping[str, Rows]) -> None:
    with xlsxwriter.Workbook(desk.folder / name) as made:
        for title, rows in sheets.items():
            sheet = made.add_worksheet(title)
            for number, row in enumerate(rows):
                sheet.write_row(number, 0, row)


def statement(fares: int, fuel: int, *, freight: int | None = 40, title: str = "Ostrey Sound Ferries") -> Rows:
    """A month's sheet: what each line is, and 5 more as its budget."""
    lines = [("Fares", fares), *([("Freight", freight)] if freight is not None else [])]
    income, count = sum(size for _, size in lines), len(lines)
    return [
        (title,),
        (),
        ("Line", "Actual", "Budget"),
        *((label, size, size + 5) for label, size in lines),
        ("Total income", income, income + 5 * count),
        ("Fuel", fuel, fuel + 5),
        ("Result", income - fuel, income + 5 * count - fuel - 5),
    ]


def test_a_statement_a_month_is_one_statement_along_time(desk: Desk) -> None:
    sheets = {f"{month} 2026": statement(100 + 7 * at, 30 + at) for at, month in enumerate(MONTHS)}
    book(desk, "m.xlsx", {"Notes": [("Draft",)], **sheets})
    points = by_label(desk.figures("table", "m.xlsx", "--for", "2026-Q1"))
    # Fares 100 + 107 + 114, freight 40 each, fuel 30 + 31 + 32.
    assert (points["Fares"]["current"], points["Fuel"]["current"]) == (321, 93)
    assert (points["Result"]["current"], points["Result"]["base"]) == (321 + 120 - 93, 321 + 120 - 93 + 15)
    one = by_label(desk.figures("table", "m.xlsx", "--for", "2026-02"))
    assert (one["Result"]["current"], one["Total income"]["current"]) == (107 + 40 - 31, 147)
    assert "m.xlsx, sheet 'Feb 2026', cell B4" in desk.run("trace", "m.xlsx", "--for", "2026-02", "--at", "Fares").out
    # A month without a line is the same statement; with another sum it is none.
    book(desk, "m.xlsx", {**sheets, "Apr 2026": statement(90, 20, freight=None)})
    assert by_label(desk.figures("table", "m.xlsx", "--for", "2026-04"))["Result"]["current"] == 70
    lines = statement(90, 20)[:-1]
    book(desk, "m.xlsx", {**sheets, "Apr 2026": [*lines, ("Fees", 9, 9), ("Result", 101, 106)]})
    assert by_label(desk.figures("table", "m.xlsx", "--for", "2026-04"))["Fees"]["current"] == 9
    costs = (("Fees", 9, 9), ("Total costs", 29, 34), ("Result", 101, 106))
    book(desk, "m.xlsx", {**sheets, "Apr 2026": [*lines, *costs]})
    assert "other lines or totals" in desk.refused("table", "m.xlsx")


def test_a_summary_is_not_added_to_the_sheets_that_it_is_of(desk: Desk) -> None:
    sheets = {"North": statement(100, 30), "South": statement(57, 21)}
    whole = [
        *statement(157, 51, freight=80)[:3],
        ("Fares", 157, 167),
        ("Freight", 80, 90),
        ("Total income", 237, 257),
    ]
    book(desk, "m.xlsx", {"Summary": [*whole, ("Fuel", 51, 61), ("Result", 186, 196)], **sheets})
    assert "as one table with --sheet North,South" in desk.refused("table", "m.xlsx")
    call = ("table", "m.xlsx", "--sheet", "Summary,North,South")
    assert "sheet Summary would be counted with its own parts" in desk.refused(*call)
    # 100 + 40 − 30 and 57 + 40 − 21.
    assert by_label(desk.figures(*call, "--where", "sheet!=Summary"))["Result"]["current"] == 110 + 76
    assert by_label(desk.figures(*call, "--where", "Sheet=South"))["Result"]["current"] == 76
    assert "has no column 'shet'" in desk.refused(*call, "--where", "shet=South")


def test_months_beside_a_year_to_date_are_asked_for_by_what_they_have_in_common(desk: Desk) -> None:
    sheets = {f"{month} 2026": statement(100 + 7 * at, 30 + at) for at, month in enumerate(MONTHS)}
    book(desk, "m.xlsx", {**sheets, "YTD": statement(321, 93, freight=120)})
    assert "as one table with --sheet '* 2026'." in desk.refused("table", "m.xlsx")
    words = ("table", "m.xlsx", "--sheet", "* 2026", "--for", "year-to-date")
    assert by_label(desk.figures(*words))["Fares"]["current"] == 321
    book(desk, "m.xlsx", {**sheets, "Apr 2026": statement(9, 1), "YTD": statement(330, 94, freight=160)})
    assert by_label(desk.figures(*words))["Fares"]["current"] == 330


def test_a_line_on_the_sheets_of_two_years_is_one_line(desk: Desk) -> None:
    years = {"PL 2025": 1, "PL 2026": 2}
    sheets = {title: [("Line", *MONTHS), ("Fares", 10 * n, 11 * n, 12 * n), ("Freight", 4 * n, 5 * n, 6 * n)]
              for title, n in years.items()}  # fmt: skip
    book(desk, "y.xlsx", sheets)
    points = by_label(desk.figures("table", "y.xlsx", "--for", "2026-Q1"))
    # 2 × (10 + 11 + 12) against 10 + 11 + 12.
    assert (points["Fares"]["current"], points["Fares"]["base"]) == (66, 33)


def test_cells_that_the_table_has_outgrown_are_told(desk: Desk) -> None:
    rows: list[tuple[object, ...]] = [("Line", *(f"{month} 2026" for month in MONTHS)), ("Fares", 100, 107, 114)]
    book(desk, "c.xlsx", {"PL": [*rows, ("Freight", 40, 41, 42), ("Total", 140, 148, 156), ("Staff", 9, 9, 9)]})

    def told(cells: str) -> str:
        return desk.run("table", "c.xlsx", "--cells", cells, "--versus", "none").err

    assert "beyond --cells A1:C4: column D 'Mar 2026'" in told("A1:C4")
    assert "beyond --cells A1:D2: row 3 'Freight'" in told("A1:D2")
    # With a total a table ends.
    assert "beyond" not in told("A1:D4") + told("A1:D3") + told("A1:H20")


def test_figures_of_one_currency_are_not_shown_as_of_another(desk: Desk) -> None:
    book(desk, "u.xlsx", {"PL": [("Sales in USD",), (), ("Line", "Jan 2026"), ("Fares", 100), ("Freight", 40)]})
    words = ("table", "u.xlsx", "--versus", "none", "--currency")
    assert "u.xlsx is in USD, and --currency EUR would show its figures as they stand" in desk.refused(*words, "EUR")
    assert "US$140" in desk.run(*words, "USD").out


def test_the_year_of_months_is_that_of_the_sheet_and_another_is_told(desk: Desk) -> None:
    rows: list[tuple[object, ...]] = [("Line", *MONTHS), ("Fares", 100, 107, 114), ("Freight", 40, 41, 42)]
    book(desk, "y.xlsx", {"Plan 2027": rows})
    found = desk.figures("table", "y.xlsx", "--versus", "none")
    assert (found["current"]["from"], found["points"][-1]["current"]) == ("2027-01-01", 444)
    book(desk, "e.xlsx", {"Export 2025-12-31": rows})
    assert "the months Jan … Mar have no year" in desk.refused("table", "e.xlsx")
    # Last year's pack says 2026 of it still.
    told = desk.run("table", "y.xlsx", "--versus", "none", "--year", "2026")
    assert "what says no year is taken to be of 2026, and 'Plan 2027' says another" in told.err
    above = [("Printed 4 January 2027",), ("Budget 2025/26",), (), *rows]
    book(desk, "y.xlsx", {"Plan": above})
    assert "says another" not in desk.run("table", "y.xlsx", "--versus", "none", "--year", "2026").err


def test_the_cells_that_are_named_are_in_the_unit_that_stands_above_them(desk: Desk) -> None:
    first = [("EUR '000",), (), ("2025",), ("Pier", "Actual", "Budget"), ("Bow", 12, 10), ("Holm", 4, 5)]
    rows = [*first, (), ("Pier", "Actual", "Budget"), ("Bow", 13, 11), ("Holm", 6, 7)]
    book(desk, "m.xlsx", {"S": rows})
    for cells, current in (("A4:C6", 16_000), ("A8:C10", 19_000), ("A1:C6", 16_000)):
        assert desk.figures("table", "m.xlsx", "--cells", cells)["points"][-1]["current"] == current
    book(desk, "m.xlsx", {"S": [("EUR '000",), ("EUR m",), *rows[3:6]]})
    assert desk.figures("table", "m.xlsx", "--cells", "A2:C5")["points"][-1]["current"] == 16_000_000


def test_sheets_that_cannot_be_one_table_are_told(desk: Desk) -> None:
    jan, feb = statement(100, 30), statement(107, 31)
    for other, said in (
        (statement(107, 31, title="In EUR '000"), "in another unit or currency"),
        ([("Line", "Actual", "Outlook"), ("Fares", 3, 4), ("Fuel", 5, 6)], "has other columns"),
    ):
        book(desk, "m.xlsx", {"Jan 2026": jan, "Feb 2026": other})
        assert said in desk.refused("table", "m.xlsx"), said
    # A summary among them would count twice; the months are offered together.
    book(desk, "m.xlsx", {"Summary": statement(207, 61), "Jan 2026": jan, "Feb 2026": feb})
    assert "or as one table with --sheet 'Jan 2026,Feb 2026'" in desk.refused("table", "m.xlsx")
    for words in (("--sheet", "Jan 2026,Feb 2026"), ("--sheet", "*2026")):
        assert by_label(desk.figures("table", "m.xlsx", *words))["Fares"]["current"] == 207
    assert by_label(desk.figures("table", "m.xlsx", "--sheet", "Summary"))["Fares"]["current"] == 207
    # Nor is a quarter one more of its months.
    book(desk, "m.xlsx", {"Jan": jan, "Feb": feb, "Q1": statement(207, 61)})
    assert desk.refused("table", "m.xlsx").endswith("or as one table with --sheet Jan,Feb.\n")
    for month, size in (("2026-01", 100), ("2026-02", 120), ("2026-Q1", 220)):
        desk.write(f"trial_{month}.csv", [("North", size), ("South", 2 * size + 1)], ("Route", "Net"))
    assert "days in common, which would count twice" in desk.refused("table", "glob:trial_*.csv", "--by", "Route")
    # A foot names the sheet that was asked for, and what its title says of a time that nothing else does.
    book(desk, "m.xlsx", {"P&L": statement(100, 30, title="Accounts of October 2026"), "Old": jan})
    assert (
        "Source: m.xlsx, sheet 'P&L', 'Accounts of October 2026', 3 of 3"
        in desk.run("table", "m.xlsx", "--sheet", "P&L").out
    )


def test_sheets_of_years_regions_sides_and_months_without_a_year(desk: Desk) -> None:
    plain = {
        year: [("Route", *MONTHS), ("North", 10 * at, 21, 35), ("South", 50, 43 * at, 60)]
        for at, year in ((1, "2025"), (2, "2026"))
    }
    book(desk, "y.xlsx", plain)
    points = by_label(desk.figures("table", "y.xlsx", "--by", "Route", "--for", "2026", "--versus", "2025"))
    assert (points["North"]["current"], points["North"]["base"], points["South"]["current"]) == (76, 66, 196)
    book(desk, "r.xlsx", {"North": plain["2025"], "South": plain["2026"]})
    assert "or as one table with --sheet North,South" in desk.refused("table", "r.xlsx")
    words = ("--sheet", "North,South", "--year", "2026", "--by", "sheet", "--for", "2026")
    points = by_label(desk.figures("table", "r.xlsx", *words))
    assert (points["North"]["current"], points["South"]["current"]) == (66 + 153, 76 + 196)
    book(desk, "s.xlsx", {"Actual": plain["2026"], "Budget": plain["2025"]})
    points = by_label(desk.figures("table", "s.xlsx", "--sheet", "Actual,Budget", "--year", "2026", "--by", "Route"))
    assert (points["Total"]["current"], points["Total"]["base"]) == (272, 219)
    book(desk, "b.xlsx", {month: statement(100 + 7 * at, 30 + at) for at, month in enumerate(MONTHS)})
    assert "date says no year: --year reads it as dates" in desk.run("table", "b.xlsx").err
    points = by_label(desk.figures("table", "b.xlsx", "--year", "2026", "--for", "2026-03"))
    assert points["Fares"]["current"] == 114
    # So does the title of each; of a year from November on each month is of its own.
    months = (("Nov", "2025", 90), ("Dec", "2025", 95), ("Jan", "2026", 99))
    book(desk, "t.xlsx", {of: statement(size, 30, title=f"Accounts, {of} {year}") for of, year, size in months})
    found = desk.figures("table", "t.xlsx", "--for", "2025-11/2026-01")
    assert by_label(found)["Fares"]["current"] == 284


def test_lines_of_one_name_in_two_lists_are_told_apart_by_what_they_stand_under(desk: Desk) -> None:
    for name, less in (("a.csv", 0), ("b.csv", 2)):
        rows = [("North",), ("Fares", 100 - less), ("Other", 10), ("South",), ("Parking", 50), ("Other", 5 + less)]
        desk.write(name, rows, ("Line", "Net"))
    points = by_label(desk.figures("table", "actual=a.csv", "budget=b.csv"))
    assert {name: (one["current"], one["base"]) for name, one in points.items() if "Other" in name} == {
        "Other (North)": (10, 10),
        "Other (South)": (5, 7),
    }


def test_months_of_one_plan_are_alike_and_told_so(desk: Desk) -> None:
    # Nothing has happened yet in March and April, which are planned alike; and February may be January's copy.
    ahead = [("Route", "Actual", "Budget"), ("North", "", 20), ("South", "", 30)]
    known = [("Route", "Actual", "Budget"), ("North", 19, 20), ("South", 33, 30)]
    book(desk, "p.xlsx", {"Jan 2026": known, "Feb 2026": known, "Mar 2026": ahead, "Apr 2026": ahead})
    points = by_label(desk.figures("table", "p.xlsx", "--by", "Route"))
    assert (points["Total"]["current"], points["Total"]["base"]) == (104, 100)
    assert "The sheets 'Jan 2026' and 'Feb 2026' hold the same figures" in desk.run("table", "p.xlsx").out


def test_sheets_of_a_year_to_date_are_not_added_up(desk: Desk) -> None:
    rows = {f"{of} 2026": [(f"Year to date {of} 2026",), ("Route", "Net"), ("North", size), ("South", 9 * size)]
            for of, size in (("Jan", 40), ("Feb", 95))}  # fmt: skip
    book(desk, "y.xlsx", rows)
    assert "runs to date by its title or its name" in desk.refused("table", "y.xlsx", "--by", "Route")
    points = by_label(desk.figures("table", "y.xlsx", "--by", "Route", "--total-as", "closing"))
    assert points["North"]["current"] == 95


def test_a_year_beside_a_date_is_no_second_date(desk: Desk) -> None:
    rows = [("2025-02-03", 2025, "Fares", 40), ("2026-02-04", 2026, "Fares", 70)]
    desk.write("l.csv", rows, ("Posting date", "Year", "Account", "Net"))
    assert "took Posting date as date" in desk.run("table", "l.csv", "--by", "Account").err


def test_figures_that_look_like_years_are_no_headings(desk: Desk) -> None:
    for first in (("Fares", 2003, 2010), ("Fares", 1998, 2004)):
        desk.write("t.csv", [first, ("Freight", 803, 900)], ("Account", "Actual", "Budget"))
        total = by_label(desk.figures("table", "t.csv"))["Total"]
        assert (total["current"], total["base"]) == (first[1] + 803, first[2] + 900)
    desk.write("t.csv", [("Fares", 2003, 2010), ("Freight", 803, 900)], ("Account", "2025", "2026"))
    assert by_label(desk.figures("table", "t.csv"))["Total"]["current"] == 2910
    desk.write("t.csv", [("Fares", 2003), ("Fuel", 2005), ("Wages", 1998)], ("Account", "Actual"))
    assert by_label(desk.figures("table", "t.csv"))["Total"]["current"] == 6006
    desk.write("t.csv", [("Fares", 2026), ("Fuel", 30)], ("Account", "Actual"))
    assert by_label(desk.figures("table", "t.csv"))["Total"]["current"] == 2056
    # What could be either is asked about; merged headings and a column of lines over years are clear.
    desk.write("t.csv", [("Fares", 2025, 2026), ("Fuel", 30, 40)], ("Ferries", "Actual", "Budget"))
    assert "could be figures, or years below the headings" in desk.refused("table", "t.csv")
    for label in ("", "Account"):
        desk.write("t.csv", [(label, 2025, 2026), ("Fuel", 30, 40), ("Oil", 3, 4)], ("Ferries", "Actual", "Actual "))
        assert by_label(desk.figures("table", "t.csv"))["Total"]["current"] == 44
