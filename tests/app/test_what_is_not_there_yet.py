"""Periods that a side does not have yet: months of no year, zeros to the end of a sheet, parts of a fiscal year."""

from __future__ import annotations

import sqlite3
from datetime import date, timedelta
from itertools import product
from typing import Any

import pytest

from conftest import Desk, by_label

MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
# Fuel costs 100 a month and 110 in the budget, crew 50 and 50; actuals are there to March.
ROWS = [
    (month, item, scenario, {"actual": net, "budget": net + more}[scenario])
    for month in range(1, 7)
    for item, net, more in (("Fuel", 100, 10), ("Crew", 50, 0))
    for scenario in ("actual", "budget")
    if scenario == "budget" or month <= 3
]
BY = ("--by", "item")


def periods(form: str) -> list[tuple[Any, ...]]:
    return [(form.format(n=month, name=MONTHS[month - 1]), *rest) for month, *rest in ROWS]


@pytest.mark.parametrize(
    ("heading", "form", "both"),
    [("Month", "{name}", "Jan,Feb,Mar"), ("period", "P{n:02}", "P01,P02,P03"), ("week", "{n}", "1,2,3"),
     ("Accounting period", "{n}", "1,2,3"), ("Zeitraum", "{name}", "Jan,Feb,Mar")],
)  # fmt: skip
def test_months_of_no_year_are_compared_only_where_both_sides_have_them(
    desk: Desk, heading: str, form: str, both: str
) -> None:
    desk.write("l.csv", periods(form), (heading, "item", "scenario", "net"))
    with sqlite3.connect(desk.folder / "l.db") as books:
        books.execute(f'CREATE TABLE l ("{heading}" TEXT, item TEXT, scenario TEXT, net INTEGER)')
        books.executemany("INSERT INTO l VALUES (?, ?, ?, ?)", periods(form))
    for source in (("l.csv",), ("sqlite:///l.db", "--table", "l")):
        said = desk.refused("table", *source, *BY)
        assert f"{heading} says no year, and actual has nothing in" in said
        assert f"{heading}={both}" in said
        # 3 × 100 against 3 × 110; with all, against 6 × 110, and that is cautioned.
        fuel = by_label(desk.figures("table", *source, *BY, "--where", f"{heading}={both}"))["Fuel"]
        assert (fuel["current"], fuel["base"]) == (300, 330)
        whole = desk.figures("table", *source, *BY, "--full-base")
        assert by_label(whole)["Fuel"]["base"] == 660
        assert any("not of the same periods" in one for one in whole["cautions"])
    # A quiet month of one item is no month that its side lacks, and what has no base has nothing to lack.
    few = [row for row in periods(form) if row[0] in both.split(",") and row[1:3] != ("Crew", "actual")]
    desk.write("q.csv", few, (heading, "item", "scenario", "net"))
    assert desk.run("table", "q.csv", *BY).status == desk.run("table", "l.csv", *BY, "--versus", "none").status == 0


def test_a_side_that_is_a_column_or_a_file_lacks_months_too(desk: Desk) -> None:
    desk.write("w.csv", [(m, 100 if n < 3 else "", 110) for n, m in enumerate(MONTHS)], ("Month", "Actual", "Budget"))
    zeros = [(m, 100, 110 if n < 2 else 0) for n, m in enumerate(MONTHS)]
    desk.write("z.csv", zeros, ("Month", "Last year", "This year"))
    desk.write("a.csv", [("Jan", "Fuel", 100), ("Feb", "Fuel", 100)], ("month", "item", "net"))
    desk.write("b.csv", [(name, "Fuel", 110) for name in ("January", "February", "March")], ("Month", "item", "net"))
    for words, kept, sides in (
        (("w.csv",), "Month=Jan,Feb,Mar", (300, 330)),
        (("z.csv",), "Month=Jan,Feb", (220, 200)),
        (("actual=a.csv", "budget=b.csv", *BY), "budget=Month=January,February", (200, 220)),
    ):
        assert f"--where {kept}" in desk.refused("table", *words)
        total = desk.figures("table", *words, "--where", kept)["points"][-1]
        assert (total["current"], total["base"]) == sides
    # Years across say of which each month is: January and February against those of the year before.
    desk.write("y.csv", zeros, ("Month", "2025", "2026"))
    total = desk.figures("table", "y.csv")["points"][-1]
    assert (total["current"], total["base"]) == (220, 200)
    # All twelve on both sides, or names that are no periods, are nothing to stop at.
    desk.write("f.csv", [(m, 100, 110) for m in MONTHS], ("Month", "Actual", "Budget"))
    desk.write("n.csv", [("P1", 5, 6), ("P2", "", 6), ("P3", 7, 6)], ("Product", "Actual", "Budget"))
    assert [desk.run("table", one).status for one in ("f.csv", "n.csv")] == [0, 0]


@pytest.mark.parametrize("wide", [True, False])
def test_zeros_to_the_end_of_a_sheet_are_not_known_yet(desk: Desk, wide: bool) -> None:
    # Actuals to March, and zeros from April on: 3 × 100 against 3 × 110, and not against 12 × 110.
    rows = [("Fuel", *[100] * 3, *[0] * 9, *[110] * 12), ("Crew", *[50] * 3, *[0] * 9, *[50] * 12)]
    if wide:
        heads = [f"{month} 2026 {side}" for side in ("Actual", "Budget") for month in MONTHS]
        desk.write("s.csv", rows, ("item", *heads))
    else:
        long = [
            (f"2026-{at % 12 + 1:02}-01", item, ("actual", "budget", "forecast")[at // 12], net)
            for item, *figures in rows
            for at, net in enumerate([*figures, *[99] * 12])
        ]
        desk.write("s.csv", long, ("date", "item", "scenario", "net"))
    found = desk.figures("table", "s.csv", *BY)
    assert (by_label(found)["Fuel"]["current"], by_label(found)["Fuel"]["base"]) == (300, 330)
    assert found["current"]["to"] == "2026-03-31"
    assert any("after 2026-03-31 is 0" in one and "--as-of 2026-12-31" in one for one in found["cautions"])
    assert by_label(desk.figures("table", "s.csv", *BY, "--as-of", "2026-12-31"))["Fuel"]["base"] == 1320
    assert "--as-of 2026-12-31" in desk.refused("table", "s.csv", *BY, "--for", "2026-05")
    if not wide:  # 3 × 100 and 9 × 99, and no zeros of actuals in the place of a forecast
        outlook = desk.figures("table", "s.csv", *BY, "--of", "actual+forecast", "--for", "2026")
        assert by_label(outlook)["Fuel"]["current"] == 1191


def test_rows_that_cancel_one_another_out_are_no_zeros(desk: Desk) -> None:
    # From April on the sums of each month are 0, and its rows are not; nor are a few days of zeros a month.
    rows = [
        (f"2026-{month:02}-01", item, net)
        for month in range(1, 7)
        for item, net in (("A", 10 * (month < 4)), ("B", -month), ("B", month * (month > 3)))
    ]
    desk.write("b.csv", rows, ("date", "item", "net"))
    desk.write(
        "d.csv", [(f"2026-01-{day:02}", "A", 0 if day > 20 else 5) for day in range(1, 32)], ("date", "item", "net")
    )
    for name, words in (("b.csv", ("--where", "item=A")), ("b.csv", ()), ("d.csv", ())):
        found = desk.figures("table", name, *BY, "--versus", "none", *words)
        assert found["current"]["to"] in ("2026-06-30", "2026-01-31") and not found["cautions"]


def test_a_last_month_that_has_hardly_begun_is_told(desk: Desk) -> None:
    # Ten accounts a month to August, and three of them in September.
    rows = [
        (f"2026-{month:02}-01", f"A{account}", scenario, 100)
        for scenario, last in (("actual", 9), ("budget", 12))
        for month in range(1, last + 1)
        for account in range(3 if (scenario, month) == ("actual", 9) else 10)
    ]
    desk.write("t.csv", rows, ("date", "item", "scenario", "net"))
    for words, is_told in (((), True), (("--for", "latest:month"), True), (("--for", "2026-05"), False),
                           (("--as-of", "2026-08-31"), False), (("--versus", "none"), True)):  # fmt: skip
        told = [one for one in desk.figures("table", "t.csv", *BY, *words)["cautions"] if "about 10 are usual" in one]
        assert bool(told) is is_told, words
    assert "actual has 3 amounts after 2026-08-31" in (told or desk.figures("table", "t.csv", *BY)["cautions"])[0]


def test_a_last_month_that_lacks_what_each_before_has_is_told(desk: Desk) -> None:
    # Crew, of 50 a month, is not in June; nor are the stamps of 1, and what is only there now and then says nothing.
    rows = [
        (f"2026-{month:02}-01", item, net + month % 2)
        for month in range(1, 7)
        for item, net in (("Fuel", 100), ("Crew", 50), ("Stamps", 1))
        if month < 6 or item == "Fuel"
    ]
    desk.write("l.csv", [*rows, ("2026-02-01", "Repairs", 70)], ("date", "item", "net"))
    for words, lacking in (((), "Crew, Stamps"), (("--for", "2026-05"), ""), (("--where", "item!=Crew"), "")):
        told = [one for one in desk.figures("table", "l.csv", *BY, *words)["cautions"] if "which each of" in one]
        assert [f"2026-06 has no amount of {lacking}, which each of the 5 before has" in one for one in told] == (
            [True] if lacking else []
        )
    assert "--as-of 2026-05-31 leaves it out" in desk.run("table", "l.csv", *BY).err
    # One month between the others, and an amount of another sign or far from all others, of 100 to 103.
    series = [(f"2026-{month:02}-01", "Fuel", 100 + month % 4) for month in range(1, 11)]
    other = [(day, "Crew", 400 + 7 * at) for at, (day, *_) in enumerate(series)]
    for amount, told in (
        (None, "2026-06 has no amount of Fuel, which each of the 9 others has"),
        (-102, "2026-06 has -102 of Fuel, where the 9 others are of 100 to 103"),
        (1020, "2026-06 has 1,020 of Fuel, where the 9 others are of 100 to 103"),
        (700, ""),
    ):
        rows = [
            (*one[:2], amount if "-06-" in one[0] else one[2]) for one in series if amount or "-06-" not in one[0]
        ]
        desk.write("l.csv", [*rows, *other], ("date", "item", "net"))
        found = [one for one in desk.figures("table", "l.csv", *BY, "--for", "2026")["cautions"] if " has " in one]
        assert [one.partition(": ")[2].partition(", as ")[0] for one in found] == ([told] if told else [])
        assert not [
            one for one in desk.figures("table", "l.csv", *BY, "--for", "2026-05")["cautions"] if " has " in one
        ]
    years = [("Fuel", 10, 11, 12, 13, ""), ("Crew", 20, 22, 21, 23, 24)]
    desk.write("y.csv", years, ("item", "2022", "2023", "2024", "2025", "2026"))
    assert "2026 has no amount of Fuel, which each of the 4 before has" in desk.run("table", "y.csv").err
    # June twice, as first and as mended: 4 amounts of 102 + 435 and 99 + 430, and 2 in each other month.
    desk.write(
        "l.csv", [*series, *other, ("2026-06-01", "Fuel", 99), ("2026-06-01", "Crew", 430)], ("date", "item", "net")
    )
    told = "2026-06 has 4 amounts that come to 1,066, about twice those of each other month"
    # Balances of which a day is there twice: 47 + 17 twice, where each other has two of about 60.
    people = [
        (f"2026-0{month}-28", item, net + month) for month in range(1, 8) for item, net in (("Ops", 40), ("Bar", 10))
    ]
    desk.write("h.csv", [*people, *people[-2:]], ("date", "item", "people"))
    found = desk.figures("table", "h.csv", *BY, "--total-as", "closing")["cautions"]
    assert any("2026-07 has 4 amounts that come to 128, about twice those of each other day" in one for one in found)
    runs = [(day, "Port dues", 60 * at + at % 3) for at, (day, *_) in enumerate(series, 1)]  # 61, 122, … 601
    desk.write("r.csv", [*series, *runs], ("date", "item", "net"))
    assert any("adds about as much each month as it begins with (61 in 2026-01, 601 in 2026-10)" in one
               for one in desk.figures("table", "r.csv", *BY, "--for", "2026")["cautions"])  # fmt: skip
    assert (
        f"{told}, as if it had been loaded twice" in desk.figures("table", "l.csv", *BY, "--for", "2026")["cautions"]
    )


def test_a_name_that_begins_where_another_like_it_ends_is_told(desk: Desk) -> None:
    rows = [(f"{year}-{month:02}-01", "Crew", 90 + month) for year in (2025, 2026) for month in range(1, 11)]
    for new, told in (("Fuel and oil", True), ("Stamps", False)):
        names = {day: new if day >= "2026-05" else "Fuel" for day, *_ in rows}
        desk.write("l.csv", [*rows, *((day, names[day], net + 5) for day, _, net in rows)], ("date", "item", "net"))
        found = desk.run("table", "l.csv", *BY)
        assert ("Fuel and oil begins in 2026-05 where Fuel ends, of its size" in found.out) is told
        assert ("--name-map FILE shows them as one" in found.err) is told
        assert "begins in" not in desk.run("table", "l.csv", "--every", "month").err


def test_a_last_month_that_is_just_what_was_planned_is_told(desk: Desk) -> None:
    plan = [
        (f"2026-{month:02}-01", item, 100 * at + month) for month in range(1, 13) for at, item in enumerate("ABC", 4)
    ]
    for same, is_told in (((6,), True), ((2,), False), ((1, 2, 3, 4, 5, 6), False)):
        rows = [(*one, "budget") for one in plan]
        months = [(int(one[0][5:7]), one) for one in plan]
        rows += [(day, item, net + (month not in same), "actual") for month, (day, item, net) in months if month <= 6]
        desk.write("l.csv", rows, ("date", "item", "net", "scenario"))
        told = desk.figures("table", "l.csv", *BY)["cautions"]
        assert any("2026-06 of actual has the very amounts of budget" in one for one in told) is is_told
        for scenario in ("actual", "budget"):
            desk.write(f"{scenario}.csv", [one[:3] for one in rows if one[3] == scenario], ("date", "item", "net"))
        err = desk.run("table", "actual=actual.csv", "budget=budget.csv", *BY).err
        assert ("2026-06 of actual has the very amounts of budget" in err) is is_told


def test_a_slip_of_a_date_far_ahead_is_told(desk: Desk) -> None:
    rows = [(f"2026-{month:02}-{day:02}", "Fuel", 5) for month in range(1, 9) for day in range(1, 29)]
    desk.write("s.csv", [*rows, *((f"2025{day[4:]}", item, 4) for day, item, _ in rows), ("2062-08-03", "Fuel", 5)],
               ("date", "item", "net"))  # fmt: skip
    assert any("1 amount after 2026-08-28" in one for one in desk.figures("table", "s.csv", *BY)["cautions"])
    assert "--as-of 2026-08-28" in desk.refused("table", "s.csv", *BY, "--for", "latest:month")
    # 8 × 28 × 5 against 8 × 28 × 4.
    found = desk.figures("table", "s.csv", *BY, "--as-of", "2026-08-28")
    assert (found["points"][0]["current"], found["points"][0]["base"]) == (1120, 896)
    few = [(f"2026-{month:02}-01", "Fuel", 5) for month in range(1, 9)]  # and one more, two years on
    desk.write("s.csv", [*few, ("2028-08-01", "Fuel", 5)], ("date", "item", "net"))
    assert "Nothing" not in (told := desk.run("table", "s.csv", *BY).err) and "1 amount after 2026-08-31" in told


@pytest.mark.parametrize(
    ("headings", "rows", "window"),
    [
        # The second period of a year from April on is May, whatever two columns are called; July is in week 27.
        (("Fiscal Year", "Posting period"), [(2027, 1), (2027, 2)], ("2026-04-01", "2026-05-31")),
        (("year", "period"), [(2027, "P01"), (2027, "P02")], ("2026-04-01", "2026-05-31")),
        (("fy", "month"), [("FY27", "Apr"), ("FY27", "May")], ("2026-04-01", "2026-05-31")),
        (("Year", "Quarter", "Month"), [(2026, 2, 4), (2026, 2, 5)], ("2026-04-01", "2026-05-31")),
        (("year", "period"), [(2026, "2026-04"), (2026, "2026-05")], ("2026-04-01", "2026-05-31")),
        (("year", "week"), [(2026, 15), (2026, 16)], ("2026-04-01", "2026-04-19")),
        (("period",), [("FY27-P01",), ("P02 FY27",)], ("2026-04-01", "2026-05-31")),
        (("period",), [("001.2027",), ("002.2027",)], ("2026-04-01", "2026-05-31")),
        (("period",), [("2027001",), ("2027P02",)], ("2026-04-01", "2026-05-31")),
    ],
)
def test_a_year_and_its_parts_are_of_the_reporting_year_where_they_say_so(
    desk: Desk, headings: tuple[str, ...], rows: list[tuple[Any, ...]], window: tuple[str, str]
) -> None:
    facts = [(*row, "Fuel", scenario, net) for scenario, net in (("actual", 10), ("budget", 11)) for row in rows]
    # The budget goes on to where the actuals are not yet.
    later = {1: ("FY27-P03",), 2: (rows[-1][0], 3 if headings[0] == "Fiscal Year" else 22), 3: (2026, 2, 6)}
    last = {"fy": ("FY27", "Jun"), "P02": (2027, "P03"), "2026-05": (2026, "2026-06")}
    found = next((one for key, one in last.items() if key in (headings[0], rows[-1][-1])), later[len(headings)])
    desk.write("y.csv", [*facts, (*found, "Fuel", "budget", 99)], (*headings, "item", "scenario", "net"))
    told = desk.figures("table", "y.csv", *BY, "--year-starts", "april")
    assert (by_label(told)["Fuel"]["current"], by_label(told)["Fuel"]["base"]) == (20, 22)
    assert (told["current"]["from"], told["current"]["to"]) == window


def test_debits_and_credits_of_two_columns_are_one_amount(desk: Desk) -> None:
    rows = [("Fuel", 400, ""), ("Fuel", "", "30.50"), ("Fares", "", 1200), ("Fares", "", "")]
    desk.write("g.csv", rows, ("account", "Debit", "Credit"))
    assert "Say --amount 'Debit - Credit'" in desk.refused("table", "g.csv", "--by", "account")
    words = ("table", "g.csv", "--by", "account", "--versus", "none", "--amount")
    # 400 − 30.50; −1,200; an empty row is none. A number alone makes no amount of an empty cell.
    found = by_label(desk.figures(*words, "Debit - Credit"))
    assert [float(found[one]["current"]) for one in ("Fuel", "Fares")] == [369.5, -1200]
    assert "counts as nothing in Debit - Credit" in desk.run(*words, "Debit - Credit").err
    assert by_label(desk.figures(*words, "Debit - 1"))["Fuel"]["current"] == 399


@pytest.mark.parametrize(
    ("heading", "way", "expected"),
    [
        # 100 and 110 at the ends of two months; a mean of 105; 2 × 100 and 3 × 110.
        ("headcount", ("--total-as", "closing"), 110),
        ("Closing balance", ("--total-as", "closing"), 110),
        ("load_rate", ("--total-as", "mean"), 105),
        ("Cost per trip", ("--total-as", "mean"), 105),
        ("price", ("--amount", "qty * price"), 530),
        ("price", ("--total-as", "sum"), 210),
        ("rates", (), 210),
    ],
)
def test_balances_and_rates_are_not_added_up_unless_that_is_said(
    desk: Desk, heading: str, way: tuple[str, ...], expected: int
) -> None:
    rows = [("2026-01-31", "Fuel", 2, 100), ("2026-02-28", "Fuel", 3, 110)]
    desk.write("b.csv", rows, ("date", "item", "qty" if heading == "price" else "berths", heading))
    words = ("table", "b.csv", *BY, "--versus", "none")
    named = () if heading == "price" else ("--amount", heading)
    if way:
        said = desk.refused(*words, *named)
        assert way[1] in said and "--total-as sum" in said
    assert by_label(desk.figures(*words, *named, *way))["Fuel"]["current"] == expected


def test_running_totals_do_not_add_up(desk: Desk) -> None:
    # Fuel is 100 a month, and 110 in the budget: to June 600 and 660.
    rows = [(f"2026-{month:02}-01", "Fuel", side, net * month)
            for side, net in (("actual", 100), ("budget", 110)) for month in range(1, 7)]  # fmt: skip
    desk.write("r.csv", rows, ("date", "item", "scenario", "net_ytd"))
    desk.write("w.csv", [("Fuel", 100, 200, 301)], ("item", "Jan 2026 YTD", "Feb 2026 YTD", "Mar 2026 YTD"))
    desk.write("y.csv", [("Fuel", 290, 301)], ("item", "YTD Mar 2025", "YTD Mar 2026"))
    for name, closing in (("r.csv", 600), ("w.csv", 301)):
        said = desk.refused("table", name, *BY)
        assert "runs to date by its heading" in said and "--total-as closing" in said
        assert by_label(desk.figures("table", name, *BY, "--total-as", "closing"))["Fuel"]["current"] == closing
    assert by_label(desk.figures("table", "r.csv", *BY, "--for", "2026-04"))["Fuel"]["base"] == 440
    assert by_label(desk.figures("table", "y.csv", *BY))["Fuel"]["base"] == 290
    assert "--total-as closing" in desk.run("survey", "r.csv").out


def test_versions_of_a_budget_do_not_add_up(desk: Desk) -> None:
    rows = [(f"2026-0{month}-01", side, version, "Fuel", net) for month in (1, 2)
            for side, version, net in (("actual", "", 100), ("budget", "9", 90), ("budget", "10", 110))]  # fmt: skip
    heads = ("date", "scenario", "Version", "item", "net")
    desk.write("v.csv", rows, heads)
    desk.write("a.csv", [(*row[:2], row[2] or "9", *row[3:]) for row in rows], heads)
    desk.write("d.csv", [row for row in rows if row[2] != ("9" if row[0] == "2026-01-01" else "10")], heads)
    assert "--where 'Version!=9'" in desk.refused("table", "v.csv", *BY)
    assert by_label(desk.figures("table", "v.csv", *BY, "--where", "Version!=9"))["Fuel"]["base"] == 220
    # Where actuals have that version too, each side is a source of its own.
    assert "actual=a.csv budget=a.csv --where budget=Version=10" in desk.refused("table", "a.csv", *BY)
    sides = ("actual=a.csv", "budget=a.csv", "--where", "budget=Version=10")
    assert by_label(desk.figures("table", *sides, *BY))["Fuel"]["base"] == 220
    # One version for each month, or none of them on a side, is nothing to ask about: 110 + 90.
    assert by_label(desk.figures("table", "d.csv", *BY))["Fuel"]["base"] == 200
    assert desk.run("table", "v.csv", *BY, "--versus", "none").status == 0


def test_income_and_costs_that_are_both_positive_are_no_total(desk: Desk) -> None:
    # 165 − 46 − 58 = 61, and 150 − 40 − 60 = 50: a list of them has no total of 269.
    sides = ("Budget", "Actual")
    desk.write("p.csv", [("Revenue", 150, 165), ("Fuel cost", 40, 46), ("Crew wages", 60, 58)], ("Line", *sides))
    desk.write("k.csv", [("Income", "Fares", 150, 165), ("Cost", "Fuel", 40, 46)], ("Type", "Line", *sides))
    said = desk.refused("table", "p.csv")
    assert "'Revenue' is income and 'Fuel cost' a cost" in said and "--write statement --account Line" in said
    assert desk.run("begin", "p.csv", "--write", "statement", "--account", "Line", "-o", "s.toml").status == 0
    found = by_label(desk.figures("table", "p.csv", "--statement", "s.toml", "--account", "Line"))
    assert (found["Result"]["current"], found["Result"]["base"]) == (61, 50)
    assert desk.figures("table", "p.csv", "--statement", "none")["points"][-1]["current"] == 269
    assert "'Income' is income and 'Cost' a cost" in desk.refused("table", "k.csv")
    alone = ("draw", "waterfall", "p.csv", "--amount", "Actual", "-o", "p.png")
    assert "--deductions 'Fuel cost,Crew wages'" in desk.refused(*alone)
    assert desk.figures(*alone, "--deductions", "Fuel cost,Crew wages")["points"][-1]["current"] == 61
    assert desk.figures("table", "k.csv", "--where", "Type=Cost")["points"][-1]["current"] == 46
    assert "--write statement --account Line" in desk.run("survey", "p.csv").out
    sections = [("Income", "", ""), ("Fares", 150, 165), ("Costs", "", ""), ("Fuel", 40, 46)]
    desk.write("c.csv", sections, ("Line", *sides))
    assert "'Income' is income and 'Costs' a cost" in desk.refused("table", "c.csv")
    # What a name does not say is not guessed: 165 − 46 − 10 = 109.
    desk.write("q.csv", [("Revenue", 150, 165), ("Fuel", 40, 46), ("Rent", 10, 10)], ("Line", *sides))
    desk.run("begin", "q.csv", "--write", "statement", "--account", "Line", "-o", "q.toml")
    words = ("table", "q.csv", "--statement", "q.toml", "--account", "Line")
    assert "line 'Fuel': kind cannot be '?'" in desk.refused(*words)
    text = (desk.folder / "q.toml").read_text()
    (desk.folder / "q.toml").write_text(text.replace('kind = "?"', 'kind = "cost"'))
    assert by_label(desk.figures(*words))["Result"]["current"] == 109
    # Costs that are stored as negative, and departments, add up to what they say.
    desk.write("n.csv", [("Revenue", 150, 165), ("Fuel cost", -40, -46)], ("Line", "Budget", "Actual"))
    desk.write("d.csv", [("Sales", 50, 51), ("People", 40, 46), ("Engines", 60, 58)], ("Team", "Budget", "Actual"))
    assert [desk.figures("table", one)["points"][-1]["current"] for one in ("n.csv", "d.csv")] == [119, 155]


def test_days_in_a_row_without_rows_are_told(desk: Desk) -> None:
    days = [date(2024, 11, 1) + timedelta(days=at) for at in range(730)]  # to 31 October 2026
    closed = [(date(year, 12, 24), date(year + 1, 1, 2)) for year in (2024, 2025)]
    lost = (date(2026, 8, 10), date(2026, 8, 16))
    for gaps, told in ((closed, []), ([*closed, lost], ["data has no rows from 2026-08-10 to 2026-08-15"])):
        open_days = [day for day in days if day.weekday() < 6 and not any(one <= day <= end for one, end in gaps)]
        desk.write("d.csv", [(day, "Fuel", 5) for day in open_days], ("date", "item", "net"))
        found = desk.figures("table", "d.csv", *BY, "--for", "2025-11/2026-10", "--versus", "2024-11/2025-10")
        assert [one.partition(", and")[0] for one in found["cautions"] if "no rows from" in one] == told
    assert "no rows from" not in desk.run("table", "d.csv", *BY, "--for", "2026-Q2").out


@pytest.mark.parametrize("step", [1, 7])
def test_days_or_weeks_that_one_name_lacks_are_told(desk: Desk, step: int) -> None:
    days = [date(2025, 1, 6) + timedelta(days=at) for at in range(0, 664, step)]  # to 31 October 2026, or the 26th
    lost, late = (date(2026, 6, 8), date(2026, 6, 28)), (date(2026, 10, 5), date.max)

    def told(closed: dict[str, tuple[date, date]], *words: str) -> list[str]:
        rows = [
            (day, name, 5)
            for name in ("North", "South", "East", "West")
            for day in days
            if not (name == "West" and day.month == 8)  # closed each August
            and not (name == "East" and day.weekday() == 6)
            and not (name in closed and closed[name][0] <= day <= closed[name][1])
        ]
        desk.write("d.csv", rows, ("date", "item", "net"))
        with sqlite3.connect(desk.folder / "d.db") as books:
            books.execute("DROP TABLE IF EXISTS d")
            books.execute("CREATE TABLE d (date DATE, item TEXT, net NUMERIC)")
            books.executemany("INSERT INTO d VALUES (?, ?, ?)", [(str(row[0]), *row[1:]) for row in rows])
        found = [
            [
                one.partition(": ")[2]
                for one in desk.figures("table", *source, *BY, *words)["cautions"]
                if "no rows" in one
            ]
            for source in (("d.csv",), ("sqlite:///d.db", "--table", "d"))
        ]
        assert found[0] == found[1]
        return found[0]

    assert told({}) == []
    (one,) = told({"North": lost, "West": late}, "--for", "2026-01/2026-08")
    assert one.startswith(
        f"North has no rows from 2026-06-08 to {'2026-06-28' if step == 1 else '2026-06-22'}, where"
    )
    (one,) = told({"West": late, "East": late})
    assert one.startswith("East, West have no rows from 2026-10-05 on, as if not all were there yet")
    assert "--as-of 2026-10-04" in desk.run("table", "d.csv", *BY).err
    assert not [
        one for one in desk.figures("table", "d.csv", *BY, "--as-of", "2026-10-04")["cautions"] if "East" in one
    ]


def test_what_is_told_of_first_rows_is_told_of_those_after_a_thousand(desk: Desk) -> None:
    months = [f"{year}-{month:02d}" for year in (2025, 2026) for month in range(1, 11)]
    names = [f"Place {number:02d}" for number in range(60)]
    # In order of its names: of the last 20 places October is not booked yet.
    rows = [(name, month, "posted", "N", 5) for name in names for month in months]
    part = [row for row in rows if row[0] < "Place 40" or row[1] != "2026-10"]
    heads = ("item", "month", "Status", "is_total", "net")

    def asked(*more: tuple[Any, ...], of: list[tuple[Any, ...]] = rows) -> tuple[int, str]:
        desk.write("d.csv", [*of, *more], heads)
        done = desk.run("table", "d.csv", *BY)
        return done.status, done.err

    assert asked() == (0, asked()[1]) and "caution" not in asked()[1]
    assert "2026-10 has no amount of Place 40, Place 41, Place 42, Place 43 and 16 more" in asked(of=part)[1]
    assert "rows whose Status is void count" in asked(("Place 07", "2026-03", "void", "N", 5))[1]
    assert "is_total marks rows" in asked(("Place 07", "2026-03", "posted", "Y", 9))[1]
    assert "1 cell of net is #N/A" in asked(("Place 07", "2026-03", "posted", "N", "#N/A"))[1]
    status, said = asked(("Opening balance", "2026-01", "posted", "N", 900))
    assert status == 2 and "item Opening balance is a balance by name" in said


def test_a_column_of_which_the_first_thousand_rows_say_one_thing_is_looked_at_on(desk: Desk) -> None:
    months = [f"2026-{month:02d}" for month in range(1, 11)]
    names = [f"Place {number:03d}" for number in range(120)]
    rows = [(name, month, 5) for name in names for month in months]
    # Actuals that say no scenario, then a budget, or the other way round: 120 × 10 × 5, and 120 × 10 × 4.
    actual, budget = [(*row, "") for row in rows], [(*row[:2], 4, "Budget") for row in rows]
    for heading, of in product(("Scenario", "Data"), ((actual, budget), (budget, actual))):
        both = [one for some in of for one in some]
        desk.write("d.csv", both, ("item", "month", "net", heading))
        with sqlite3.connect(desk.folder / "d.db") as books:
            books.execute(
                f"CREATE TABLE IF NOT EXISTS {heading} (item TEXT, month DATE, net NUMERIC, {heading} TEXT)"
            )
            books.execute(f"DELETE FROM {heading}")
            books.executemany(
                f"INSERT INTO {heading} VALUES (?, ?, ?, ?)",
                [(one[0], f"{one[1]}-01", one[2], one[3] or None) for one in both],
            )
        for source in (("d.csv",), ("sqlite:///d.db", "--table", heading)):
            whole = desk.figures("table", *source, *BY, "--verify")["points"][-1]
            assert (whole["current"], whole["base"]) == (6000, 4800)
        assert (
            "10 rows of actual"
            in desk.run("trace", "sqlite:///d.db", "--table", heading, *BY, "--at", "Place 003").out
        )
    desk.write("p.csv", [*rows, ("Place 001", "2026-10", "12%")], ("item", "month", "net"))
    assert "percentages such as '12%' among amounts" in desk.refused("table", "p.csv", *BY)
    desk.write("n.csv", [*rows, ("place 001", "2026-10", 5)], ("item", "month", "net"))
    assert "passes place 001 by" in desk.run("table", "n.csv", *BY, "--where", "item=Place 001").err


def test_rows_without_a_currency_beside_others_are_told(desk: Desk) -> None:
    rows = [("2026-01", "", "Fuel", 5), ("2026-01", "USD", "Crew", 7), ("2026-02", "USD", "Crew", 7)]
    desk.write("c.csv", rows, ("month", "Currency", "item", "net"))
    assert "rows without a Currency count with those of USD" in desk.figures("table", "c.csv", *BY)["cautions"][0]
    found = desk.figures("table", "c.csv", *BY, "--where", "Currency=USD")
    assert (found["points"][-1]["current"], found["cautions"]) == (14, [])
    desk.write("c.csv", [(*row[:1], "USD", *row[2:]) for row in rows], ("month", "Currency", "item", "net"))
    assert desk.figures("table", "c.csv", *BY)["cautions"] == []


def test_the_first_month_of_a_year_is_a_month(desk: Desk) -> None:
    # 100 in January against 110; the budget, and the forecast of 105, have all twelve months.
    def rows(of: str, net: int, months: range = range(1, 13)) -> list[tuple[Any, ...]]:
        return [(f"2026-{month:02}-01", "Fuel", of, net) for month in months]

    table = [*rows("budget", 110), *rows("forecast", 105), *rows("actual", 100, range(1, 2))]
    head = ("date", "item", "scenario", "net")
    desk.write("l.csv", table, head)
    found = desk.figures("table", "l.csv", *BY)
    assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (100, 110)
    assert "actual has one date, 2026-01-01, taken for the month as those of budget are" in found["cautions"][-1]
    year = ("--of", "actual+forecast", "--for", "2026")
    for axis in (BY, ("--every", "month")):
        assert desk.figures("table", "l.csv", *year, *axis)["points"][-1]["current"] == 100 + 11 * 105
    # The first week of weeks is one as well.
    weeks = [
        (f"2026-01-{day:02}", "Fuel", of, 7)
        for of, days in (("budget", (5, 12, 19)), ("actual", (5,)))
        for day in days
    ]
    desk.write("w.csv", weeks, head)
    found = desk.figures("table", "w.csv", *BY)
    assert (found["points"][-1]["current"], found["points"][-1]["base"], found["current"]["to"]) == (
        7,
        7,
        "2026-01-11",
    )
    # A day of a table by day, a year's one figure, and a file of its own, are not taken for a month; nor is January's
    # figure for the quarter.
    desk.write("y.csv", [*rows("budget", 110), *rows("actual", 1200, range(1, 2))], head)
    desk.write("d.csv", [*rows("budget", 110), *rows("actual", 4, range(1, 2))], head)
    quarters = [(f"2026-{month:02}-01", "Fuel", "budget", 330) for month in (1, 4, 7)]
    desk.write("q.csv", [*quarters, *rows("actual", 100, range(1, 2))], head)
    assert "--as-of 2026-03-31 says so" in desk.refused("table", "q.csv", *BY)
    desk.write("a.csv", rows("actual", 100, range(1, 2)), head)
    desk.write("b.csv", rows("budget", 110), head)
    for source in (("y.csv",), ("d.csv",), ("l.csv", "--as-of", "2026-01-01"), ("actual=a.csv", "budget=b.csv")):
        assert "If 2026-01-01 stands for its month, --as-of 2026-01-31 says so" in desk.refused("table", *source, *BY)
    found = desk.figures("table", "actual=a.csv", "budget=b.csv", *BY, "--as-of", "2026-01-31")
    assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (100, 110)


@pytest.mark.parametrize(
    ("heading", "starts", "year"), [("Month", (), "2026"), ("Period", ("--year-starts", "april"), "2027")]
)
def test_numbers_of_periods_are_of_the_year_that_a_call_says(
    desk: Desk, heading: str, starts: tuple[str, ...], year: str
) -> None:
    # Of a year from January, or of the one from April 2026 that is called 2027: month 1 to 3 are 6, 7 and 8.
    first = 4 if starts else 1
    desk.write("a.csv", [(f"2026-{first + n:02}-01", "A", 5) for n in range(3)], ("date", "item", "net"))
    desk.write("b.csv", [(n, "A", 5 + n) for n in range(1, 13)], (heading, "item", "net"))
    sources = ("actual=a.csv", "budget=b.csv", "--every", "month", *starts)
    assert "--year budget=2026" in desk.refused("table", *sources)
    found = desk.figures("table", *sources, "--year", f"budget={year}")["points"]
    assert [(one["current"], one["base"]) for one in found] == [(5, 6), (5, 7), (5, 8), (15, 21)]
