"""The ordinary shapes of tables: thousands, products, lookups, two columns of a date, sides in words, signs, noise."""

from __future__ import annotations

import gzip
import json
import shlex
import shutil
from decimal import Decimal
from pathlib import Path
from typing import Any

import duckdb
import pytest
import xlsxwriter

from conftest import Desk, by_label

NONE = ("--versus", "none")


def text(desk: Desk, name: str, content: str) -> str:
    (desk.folder / name).write_text(content, encoding="utf-8")
    return name


def test_a_sheet_in_thousands_is_read_as_money(desk: Desk) -> None:
    rows = "Fares,1200,1211\nFuel,300,309\n"
    text(desk, "k.csv", f"EUR '000,Budget,Actual\n{rows}")
    text(desk, "t.csv", f"Results in thousands,,\nItem,Budget,Actual\n{rows}")
    text(desk, "p.csv", f"Item,Budget,Actual\n{rows}")
    # A threshold of 10k is ten thousand: fares are 11 thousand more, fuel 9.
    band = ("--band", "Much: change > 10k", "--band", "Rest: otherwise")
    for source, words in (("k.csv", ()), ("t.csv", ()), ("p.csv", ("--amounts-in", "k"))):
        points = by_label(desk.figures("table", source, *band, *words))
        assert (points["Fares"]["current"], points["Fares"]["band"], points["Fuel"]["band"]) == (
            1211000,
            "Much",
            "Rest",
        )
    assert by_label(desk.figures("table", "k.csv", "--amounts-in", "one"))["Fuel"]["current"] == 309
    assert "Fares" in desk.run("trace", "k.csv", "--at", "Fares").out
    assert "1,211,000" in desk.run("trace", "k.csv", "--at", "Fares").out


def test_an_amount_is_worked_out_row_by_row(desk: Desk) -> None:
    text(desk, "q.csv", 'item,quantity,unit price\nA,3,"1.10"\nA,4,1.25\nB,2,7.05\nB,,9\n')
    words = ("table", "q.csv", "--by", "item", *NONE, "--amount")
    # 3 × 1.10 + 4 × 1.25 = 8.30; 2 × 7.05 = 14.10, and nothing where there is no quantity.
    found = by_label(desk.figures(*words, 'quantity * "unit price"'))
    assert (found["A"]["current"], found["B"]["current"]) == (Decimal("8.30"), Decimal("14.10"))
    # (3 + 4) × 2 − 7 ÷ 2 … = 3 × (2 − 1) + 1 ÷ 4 per row: 3.25 + 4.25.
    assert by_label(desk.figures(*words, "quantity * (2 - 1) + 1 / 4"))["A"]["current"] == Decimal("7.5")
    assert "cannot be read at '* 2'" in desk.refused(*words, "quantity ** 2")
    assert "Did you mean quantity?" in desk.refused(*words, "quantty * 2")
    text(desk, "r.csv", "item,quantity,price\nA,3,1.10\nB,x,2\n")
    assert "'x' is not a figure" in desk.refused(
        "table", "r.csv", "--by", "item", *NONE, "--amount", "quantity * price"
    )
    # Nothing is rounded on the way, and 100 ÷ 0 is no figure: 1,000,000 × 1.23456789; 2 ÷ 3 × 3,000,000.
    text(desk, "f.csv", "item,quantity,price,rate\nA,1000000,3000000,1.23456789\nB,2,3000000,0\n")
    words = ("table", "f.csv", "--by", "item", *NONE, "--amount")
    assert by_label(desk.figures(*words, "quantity * rate"))["A"]["current"] == Decimal("1234567.89")
    assert by_label(desk.figures(*words, "quantity / 3 * price"))["B"]["current"] == 2_000_000
    assert "row 3, quantity / rate: 'a division by 0' is not a figure" in desk.refused(*words, "quantity / rate")
    assert "more than 38 digits" in desk.refused(*words, " * ".join(["price"] * 6))
    # 2 × 1,117 is 2.234 with a decimal comma, 2,234 with a point; what it is read back as is never asked.
    text(desk, "c.csv", "item;quantity;price\nA;2;1,117\n")
    words = ("table", "c.csv", "--by", "item", *NONE, "--amount", "quantity * price")
    for numbers, right in (("comma", Decimal("2.234")), ("point", 2234)):
        assert by_label(desk.figures(*words, "--numbers", numbers))["A"]["current"] == right
    assert "price: '1,117' and all others could have" in desk.refused(*words)


def test_a_lookup_keeps_every_row_and_names_what_it_lacks(desk: Desk) -> None:
    ledger = [("2026-01-05", "A", "5"), ("2026-01-06", "B", "7"), ("2026-01-07", "Z", "9"), ("2026-01-08", "A", "2")]
    desk.write("l.csv", ledger, ("date", "code", "net"))
    desk.write("c.csv", [("A", "Anchors"), ("B", "Buoys")], ("code", "name"))
    words = ("table", "l.csv", "--lookup", "c.csv", "--by", "name", *NONE)
    found = desk.figures(*words)
    assert {label: point["current"] for label, point in by_label(found).items()} == {
        "Anchors": 7,
        "Buoys": 7,
        "(none)": 9,
        "Total": 23,
    }
    assert "l.csv: the lookup has no code Z (9)" in found["cautions"]
    traced = desk.run("trace", *words[1:], "--at", "Anchors").out
    assert "l.csv, row 2" in traced and "l.csv, row 5" in traced
    desk.write("d.csv", [("A", "Anchors"), ("A", "Axes")], ("code", "name"))
    assert "has code 'A' twice" in desk.refused(*words[:3], "d.csv", *words[4:])
    desk.write("e.csv", [("A", "2026-01-05", "x")], ("code", "date", "name"))
    assert "share code, date" in desk.refused(*words[:3], "e.csv", *words[4:])
    assert by_label(desk.figures(*words[:3], "e.csv:code", *words[4:]))["x"]["current"] == 7


@pytest.mark.parametrize("months", [("1", "2"), ("Jan", "Feb")])
def test_a_year_and_a_month_stand_in_two_columns(desk: Desk, months: tuple[str, str]) -> None:
    rows = [(year, month, 10 * place + year % 10) for year in (2025, 2026) for place, month in enumerate(months)]
    desk.write("y.csv", rows, ("Year", "Month", "net"))
    for words in ((), ("--date", "Year,Month")):
        points = by_label(desk.figures("table", "y.csv", "--every", "month", *words))
        assert (points["2026-02"]["current"], points["2026-02"]["base"]) == (16, 15)


@pytest.mark.parametrize(
    ("headings", "current"),
    [
        (("Last year", "This year"), "This year"),
        (("Prior year", "Current year"), "Current year"),
        (("Previous", "Current"), "Current"),
        (("Planned", "Actual"), "Actual"),
        (("Target", "Actual"), "Actual"),
        (("Soll", "Ist"), "Ist"),
        (("Budget sales", "Actual sales"), "Actual"),
    ],
)
def test_sides_are_told_by_the_words_of_their_headings(desk: Desk, headings: tuple[str, str], current: str) -> None:
    desk.write("h.csv", [("North", 10, 12), ("South", 20, 19)], ("Area", *headings))
    found = desk.figures("table", "h.csv")
    assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (31, 30)
    assert found["current"]["scenario"] == current


def test_headings_that_are_alike_but_for_their_year(desk: Desk) -> None:
    desk.write("h.csv", [("North", 10, 12), ("South", 20, 19)], ("Area", "Sales 2024", "Sales 2025"))
    found = desk.figures("table", "h.csv")
    assert (found["points"][-1]["current"], found["points"][-1]["base"], found["current"]["from"]) == (
        31,
        30,
        "2025-01-01",
    )
    desk.write("v.csv", [("North", 10, 12, 2), ("South", 20, 19, -1)], ("Area", "Budget", "Actual", "Variance"))
    assert "as scenarios, each row as Area, not Variance" in desk.run("table", "v.csv").err


STATEMENT = """[statement]
name = "Profit and loss"
[[line]]
label = "Fares"
accounts = ["Fares"]
kind = "income"
[[line]]
label = "Freight"
accounts = ["Freight"]
kind = "income"
[[line]]
label = "Fuel"
accounts = ["Fuel"]
kind = "cost"
[[line]]
label = "Result"
total_of = ["Fares", "Freight", "Fuel"]
"""


def test_two_sources_that_sign_their_lines_in_opposite_ways(desk: Desk) -> None:
    head = ("date", "account", "net")
    day = "2026-01-31"
    desk.write("l.csv", [(day, "Fares", -900), (day, "Freight", -300), (day, "Fuel", 310)], head)
    desk.write("b.csv", [(day, "Fares", 950), (day, "Freight", 280), (day, "Fuel", 300)], head)
    text(desk, "s.toml", STATEMENT)
    words = ("table", "actual=l.csv", "budget=b.csv", "--statement", "s.toml")
    message = desk.refused(*words)
    assert "sign Fares, Freight in opposite ways" in message
    assert "--source-sign actual=credit" in message
    # 900 + 300 − 310 = 890 against 950 + 280 − 300 = 930.
    points = by_label(desk.figures(*words, "--source-sign", "actual=credit"))
    assert (points["Result"]["current"], points["Result"]["base"]) == (890, 930)
    assert "opposite ways" in desk.refused(*words[:3], "--by", "account")
    kept = by_label(
        desk.figures(
            *words[:3], "--by", "account", "--source-sign", "actual=credit", "--where", "budget=account!=Fuel"
        )
    )
    assert (kept["Fares"]["current"], kept["Fuel"]["base"]) == (900, 0)


def test_binary_figures_lose_their_noise(desk: Desk) -> None:
    duckdb.sql(
        "COPY (SELECT * FROM (VALUES ('A', 412522.0000000001::DOUBLE), ('B', 0.1::DOUBLE + 0.2::DOUBLE), "
        f"('C', -1272909.49::DOUBLE)) t(item, net)) TO '{desk.folder / 'n.parquet'}'"
    )
    cells = [("A", 412522.0000000001), ("B", 0.1 + 0.2), ("C", -1272909.49)]
    (desk.folder / "n.json").write_text(json.dumps([{"item": item, "net": net} for item, net in cells]))
    with gzip.open(desk.folder / "n.parquet.gz", "wb") as packed, (desk.folder / "n.parquet").open("rb") as plain:
        shutil.copyfileobj(plain, packed)
    for source in ("n.parquet", "n.parquet.gz", "n.json"):
        points = by_label(desk.figures("table", source, *NONE))
        figures = [str(points[label]["current"]) for label in ("A", "B", "C", "Total")]
        assert [Decimal(one) for one in figures] == [
            412522,
            Decimal("0.3"),
            Decimal("-1272909.49"),
            Decimal("-860387.19"),
        ]
        assert all("00000" not in one for one in figures)


def test_percentages_are_not_summed_in_silence(desk: Desk) -> None:
    text(desk, "p.csv", "Route,Budget,Actual\nA,45.5%,44%\nB,61%,66.25%\n")
    assert "percentages, which do not add up" in desk.refused("table", "p.csv")
    shown = desk.run("table", "p.csv", "--total-as", "mean").out
    assert "44.00%" in shown and "−1.50 pts" in shown


def test_a_survey_goes_on_where_a_role_is_unclear(desk: Desk) -> None:
    text(desk, "f.csv", "name,north,south\nA,1,2\nB,5,6\n")
    said = desk.run("survey", "f.csv", "-o", "s.json")
    found = json.loads((desk.folder / "s.json").read_text())
    assert said.status == 0 and any("could each be the amount" in one for one in found["cautions"])
    for command in found["next"]:
        assert desk.run(*command.split()[1:]).status == 0, command
    text(desk, "n.csv", "name,colour\nA,red\nB,blue\n")
    assert desk.run("survey", "n.csv").status == 0


@pytest.mark.parametrize(
    ("headings", "cells", "told"),
    [
        (("Currency", "Net"), [("EUR", 1), ("SEK", 2)], "--where Currency=EUR"),
        (("Route", "NPS"), [("North", 1), ("South", 2)], "--total-as mean"),
        (("D/C", "Net"), [("D", 5), ("C", 2)], ""),
        (("Version", "Net"), [("Ledger", 5), ("Submission", 2)], "--of Ledger"),
        (("Route", "Net"), [("North", 1), ("South", 2), ("", 3)], "--where 'Route!=(none)'"),
        (("Scale", "Net"), [("1", 7), ("1000", 2)], "--amount 'Net * Scale'"),
        (("Epoch", "Net"), [("1704283200", 7), ("1705492800", 2)], "--by Epoch"),
        (("Id",), [(10,), (20,)], "--total-as count"),
    ],
)
def test_what_a_survey_says_to_run_next_runs(
    desk: Desk, headings: tuple[str, ...], cells: list[tuple[str | int, ...]], told: str
) -> None:
    months = [f"2025-{month:02}-{day}" for month in range(1, 13) for day in ("03", "17")]
    rows = [(month, name, *(at * net for net in rest)) for at, month in enumerate(months, 37)
            for name, *rest in cells]  # fmt: skip
    dates = headings[0] != "Epoch"
    desk.write("s.csv", rows if dates else [row[1:] for row in rows[:2]], ("Day", *headings) if dates else headings)
    done = desk.run("survey", "s.csv", "-o", "s.json")
    following = json.loads((desk.folder / "s.json").read_text())["next"]
    assert done.status == 0 and following and all(told in one for one in following)
    for command in following:
        assert desk.run(*shlex.split(command)[1:]).status == 0, command


def test_a_text_file_with_a_footer_and_a_total_among_long_rows(desk: Desk) -> None:
    text(desk, "foot.csv", "date,item,net\n2026-01-05,A,5\n2026-01-06,B,6\n\nRows: 2\n")
    assert desk.figures("table", "foot.csv", "--by", "item", *NONE)["points"][-1]["current"] == 11
    rows = [("Sales", 520, 501), ("Cost of sales", -231, -229), ("Gross profit", 289, 272)]
    facts = [(f"2026-0{month}-28", name, row[month - 1]) for month in (1, 2) for name, *row in rows]
    desk.write("long.csv", facts, ("date", "line", "net"))
    # 520 + 501 − 231 − 229 = 561.
    assert by_label(desk.figures("table", "long.csv", *NONE))["Gross profit"]["current"] == 561
    many = f"SELECT own.* FROM '{desk.folder / 'long.csv'}' own, range(4000)"  # no sheet has so many
    duckdb.sql(f"COPY ({many}) TO '{desk.folder / 'long.parquet'}'")
    assert "Gross profit would be counted with its own" in desk.refused(
        "table", "long.parquet", "--by", "line", *NONE
    )


def test_totals_that_go_round_or_count_a_line_twice_are_refused(desk: Desk) -> None:
    desk.write("l.csv", [("Fares", 9, 8)], ("account", "Budget", "Actual"))
    doubled = "".join(
        f'[[line]]\nlabel = "{name}{n}"\ntotal_of = ["T{n - 1}", "U{n - 1}"]\n' for n in range(1, 61) for name in "TU"
    )
    circle = '[[line]]\nlabel = "A"\ntotal_of = ["B"]\n[[line]]\nlabel = "B"\ntotal_of = ["A"]\n'
    start = '[[line]]\nlabel = "T0"\naccounts = ["Fares"]\nkind = "income"\n'
    for content, words in (
        (start + circle, "go round in a circle"),
        (f'{start}[[line]]\nlabel = "A"\ntotal_of = ["T0", "T0"]\n', "names 'T0' twice"),
        (f'{start}[[line]]\nlabel = "U0"\ntotal_of = ["T0"]\n{doubled}', "twice"),
    ):
        text(desk, "s.toml", content)
        assert words in desk.refused("table", "l.csv", "--statement", "s.toml")


def test_the_tables_of_the_demo_are_read_as_they_are(desk: Desk) -> None:
    data = Path(__file__).parent.parent.parent / "src" / "marvex" / "demo" / "data"
    # October of the sheet is October of the ledger, to the thousand; the parts of the rounded sheet count.
    sheet = by_label(desk.figures("table", str(data / "october.csv")))
    words = ("table", str(data / "ledger.csv.gz"), "--statement", str(data / "statement.toml"), "--for", "2026-10")
    ledger = by_label(desk.figures(*words, "--versus", "budget"))
    assert abs(sheet["Net result"]["current"] - ledger["Net result"]["current"]) < 3000
    months = by_label(desk.figures("table", str(data / "results.csv"), *NONE))
    assert abs(months["Gross margin"]["current"] - 3041000) < 1000


def test_a_column_of_differences_by_itself_is_drawn_as_changes(desk: Desk) -> None:
    desk.write("v.csv", [("Fares", 20), ("Fuel", -41)], ("Item", "Variance"))
    found = desk.figures("draw", "variance", "v.csv", *NONE, "-o", "v.png")
    told = [(point["label"], point["current"], point["change"], point["tone"]) for point in found["points"]]
    assert told == [("Fares", None, 20, "better"), ("Fuel", None, -41, "worse")]
    assert "--versus none draws a column of differences" in desk.refused("draw", "variance", "v.csv")


@pytest.mark.parametrize(
    ("rows", "result", "sides"),
    [
        # A cost without a figure is a heading: the profit is then its one income, and not added to it.
        ("Sales,100,120\nCosts,,\nProfit,100,120", "Profit", (120, 100)),
        # A name with a line break, and costs stored negative.
        ('"Sales\nof tickets",100,120\nCosts,-60,-70\nProfit,40,50', "Profit", (50, 40)),
        # Round figures, a section, a total of two: 1000 − 500 = 500.
        ("Revenue,1000,1100\nExpenses,,\nWages,400,420\nRent,100,100\nTotal expenses,500,520\nNet income,500,580",
         "Net income", (580, 500)),
        # Headcount is of another unit, and stands below the result.
        ("Sales,100,120\nCosts,60,70\nProfit,40,50\n\nHeadcount,5,6", "Profit", (50, 40)),
        # Two lines of one name in two sections are two lines.
        ("Income,,\nFares,700,720\nOther,31,37\nTotal income,731,757\nCosts,,\nFuel,210,231\nOther,19,23\n"
         "Total costs,229,254\nResult,502,503", "Result", (503, 502)),
        # A total that is set to the right of its parts.
        ("Fares,711,723\nFreight,219,204\n   Total,930,927\nFuel,-310,-322\nResult,620,605", "Result", (605, 620)),
    ],
)  # fmt: skip
def test_small_statements_with_something_odd(desk: Desk, rows: str, result: str, sides: tuple[int, int]) -> None:
    text(desk, "o.csv", f"Line,Budget,Actual\n{rows}\n")
    found = desk.figures("table", "o.csv")
    point = by_label(found)[result]
    assert (point["current"], point["base"]) == sides
    assert found["structure"]["result"] == result
    labels = [one["label"] for one in found["points"]]
    assert len(set(labels)) == len(labels)


def test_an_account_list_of_a_ledger_and_of_a_sheet_follow_one_statement(desk: Desk) -> None:
    # Two files of the same statement, the one with costs negative: each is turned as its own totals prove.
    text(desk, "a.csv", "Line,Jan 2026\nSales,5010\nCosts,-2290\nProfit,2720\n")
    text(desk, "b.csv", "Line,Jan 2026\nSales,5200\nCosts,2310\nProfit,2890\n")
    points = by_label(desk.figures("table", "actual=a.csv", "budget=b.csv"))
    assert (points["Costs"]["current"], points["Costs"]["base"]) == (2290, 2310)
    assert (points["Profit"]["current"], points["Profit"]["base"]) == (2720, 2890)
    # What is said of one source is of that one alone.
    desk.write("names.csv", [("Costs", "All costs"), ("Sales", "Fares")], ("name", "shown"))
    only = ("--totals", "budget=keep", "--name-map", "actual=names.csv", "--by", "Line", "--statement", "none")
    kept = by_label(desk.figures("table", "actual=a.csv", "budget=b.csv", *only))
    assert (kept["Fares"]["current"], kept["Sales"]["base"], kept["Profit"]["base"]) == (5010, 5200, 2890)
    # A list beside it has no such lines, and adding costs up with sales is refused.
    text(desk, "c.csv", "Line,Jan 2026\nSales,5200\nCosts,2310\n")
    message = desk.refused("table", "actual=c.csv", "budget=b.csv")
    assert "b.csv is a statement with lines that are subtracted" in message


def test_a_total_that_an_option_names_stays_and_a_list_takes_its_order(desk: Desk) -> None:
    rows = [("Deck", 410, 422), ("Galley", 188, 201), ("Total vessels", 598, 623), ("Desk", 96, 91), ("Post", 74, 88)]
    desk.write("d.csv", [*rows, ("Total shore", 170, 179), ("Grand total", 768, 802)], ("Team", "Budget", "Actual"))
    named = desk.figures("table", "d.csv", "--where", "Team=Total vessels,Total shore")
    assert [point["label"] for point in named["points"]] == ["Total vessels", "Total shore", "Total"]
    ordered = desk.figures("table", "d.csv", "--order", "change")
    # 14 more, 13, 12, and 5 less: the teams alone, without their totals.
    assert [point["label"] for point in ordered["points"]] == ["Post", "Galley", "Deck", "Desk", "Total"]
    assert ordered["points"][-1]["current"] == 802
    costs = by_label(desk.figures("table", "d.csv", "--better", "down"))
    assert costs["Grand total"]["tone"] == "worse" and costs["Desk"]["tone"] == "better"


def test_a_workbook_of_months_with_a_margin_in_per_cent_and_a_full_year(desk: Desk) -> None:
    months = {"Revenue": (41200.1, 39850.2), "Cost of sales": (16480.7, 15890.1), "Overheads": (15140.2, 14985.3)}
    margin = [sales - cost for sales, cost in zip(months["Revenue"], months["Cost of sales"], strict=True)]
    rows = [
        ("Revenue", *months["Revenue"]),
        ("Cost of sales", *months["Cost of sales"]),
        ("Gross margin", *margin),
        ("Gross margin %", *(one / sales for one, sales in zip(margin, months["Revenue"], strict=True))),
        ("Overheads", *months["Overheads"]),
        ("Net profit", *(one - cost for one, cost in zip(margin, months["Overheads"], strict=True))),
    ]
    with xlsxwriter.Workbook(desk.folder / "pl.xlsx") as book:
        sheet = book.add_worksheet("Results")
        sheet.write_row(0, 0, ("", "Jan 2026", "Feb 2026", "Full year"))
        for place, (label, *figures) in enumerate(rows, 1):
            whole = sum(margin) / sum(months["Revenue"]) if label.endswith("%") else sum(figures)
            sheet.write_row(place, 0, (label, *figures, whole))
    said = desk.run("table", "pl.xlsx", *NONE).err
    assert "column D 'Full year' is the sum of columns B–C and was left out" in said
    points = by_label(desk.figures("table", "pl.xlsx", *NONE))
    # 24719.4 + 23960.1 = 48679.5, of 81050.3 (0.60060851); less 30125.5 of overheads. No figure ends in …0001.
    assert points["Gross margin"]["current"] == Decimal("48679.5")
    assert points["Gross margin %"]["current"] == Decimal("0.600609")
    assert points["Net profit"]["current"] == 18554


def test_months_that_say_no_year_are_of_the_year_above_them_or_that_is_said(desk: Desk) -> None:
    months = ("Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec", "Jan", "Feb", "Mar")
    sizes = [10 + place for place in range(12)]  # April 10 … December 18, January 19 … March 21
    rows = [("Fares", *sizes), ("Cargo", *(2 * one for one in sizes))]

    def total(source: str, month: str, *words: str) -> Decimal | None:
        points = desk.figures("table", source, "--by", "Line", "--for", month, "--versus", "none", *words)["points"]
        return next(point["current"] for point in points if point["label"] == "Total")

    desk.write("two.csv", [("Line", *months), *rows], ("Budget 2026/27",))
    desk.write("one.csv", [("Line", *months), *rows], ("Budget 2026",))
    desk.write("over.csv", [("Line", *months), *rows], ("", "2026-27", *[""] * 11))
    desk.write("none.csv", rows, ("Line", *months))
    of_both = ("two.csv",), ("over.csv",), ("one.csv", "--year", "2026/27"), ("none.csv", "--year", "2026-27")
    for source, *words in of_both:
        assert (total(source, "2026-04", *words), total(source, "2027-01", *words)) == (30, 57)
        said = desk.run("table", source, "--by", "Line", *words).err
        assert "Apr 2026 … Mar 2027 are of two years: --year-starts april makes them one" in said
        # 10 + … + 21 = 186, three times.
        assert total(source, "FY2027", "--year-starts", "april", *words) == 558
    said = desk.refused("table", "one.csv", "--by", "Line")
    assert "Apr … Mar run past December" in said and "--year 2025/26 or --year 2026/27" in said
    assert "--year 2026" in desk.refused("table", "none.csv")
    desk.write("fy.csv", [("Line", *months), *rows], ("", "FY2027", *[""] * 11))
    assert "--year-starts april" in desk.refused("table", "fy.csv")
    assert total("fy.csv", "2027-01", "--year-starts", "april") == 57
    # The same months down a column, and those of a year that ends with December.
    down = [(month, "Fares", size) for month, size in zip(months, sizes, strict=True)]
    desk.write("down.csv", down, ("Month", "Line", "Net"))
    assert "--year-starts" in desk.refused("table", "down.csv", "--year", "2026/27")
    assert total("down.csv", "2027-01", "--year", "2026/27", "--year-starts", "april") == 19
    assert total("down.csv", "2026-01", "--year", "2026") == 19
    desk.write("civil.csv", [(name, *its[-3:], *its[:9]) for name, *its in rows], ("Line", *months[-3:], *months[:9]))
    assert total("civil.csv", "2026", "--year", "2026") == 558
    for source, words in (("two.csv", "26"), ("down.csv", "2026/28"), ("one.csv", "x")):
        assert "is no year" in desk.refused("table", source, "--year", words)
    desk.write("list.csv", [("Fares", 1), ("Cargo", 2)], ("Line", "Net"))
    assert total("list.csv", "2026", "--year", "2026") == 3
    assert "Leave --year out" in desk.refused("table", "list.csv", "--year", "2025/26")


def test_rows_whose_names_come_again_are_named_by_what_tells_them_apart(desk: Desk) -> None:
    rows = [("Deck", "Wages", 100, 90), ("Deck", "Travel", 20, 25), ("Engine", "Wages", 150, 160),
            ("Engine", "Travel", 10, 12), ("Shore", "Wages", 80, 70), ("Shore", "Travel", 5, 9)]  # fmt: skip
    desk.write("d.csv", rows, ("Department", "Account", "Actual", "Budget"))
    points = by_label(desk.figures("table", "d.csv"))
    assert [*points] == [*(f"{department} / {account}" for department, account, *_ in rows), "Total"]
    assert (
        points["Engine / Wages"]["change"] == -10 and "Engine / Wages was 10" in desk.run("commentary", "d.csv").out
    )
    # Facts that no names tell apart are added up: North 10 + 5 + 11, South 12 + 7 + 9.
    facts = [("North", "Fares", 10), ("North", "Cargo", 5), ("South", "Fares", 12), ("North", "Fares", 11),
             ("South", "Cargo", 7), ("South", "Cargo", 9)]  # fmt: skip
    desk.write("f.csv", facts, ("Region", "Product", "Net"))
    assert {name: one["current"] for name, one in by_label(desk.figures("table", "f.csv")).items()} == {
        "North": 26, "South": 28, "Total": 54
    }  # fmt: skip


def test_a_pivot_table_of_months_within_years_is_read_with_its_totals_left_out(desk: Desk) -> None:
    rows = [
        ("", "2025", "", "2025 Total", "2026", "", "2026 Total", "Grand Total"),
        ("Row Labels", "Jan", "Feb", "", "Jan", "Feb", "", ""),
        ("Fares", 10045, 20100, 30145, 11078, 22000, 33078, 63223),
        ("Cargo", 5011, 6022, 11033, 6022, 7011, 13033, 24066),
        ("Grand Total", 15056, 26122, 41178, 17100, 29011, 46111, 87289),
    ]
    desk.write("p.csv", rows, ("Sum of Net", "Column Labels"))
    found = by_label(desk.figures("table", "p.csv", "--every", "month", "--versus", "year-ago"))
    assert {name: (one["current"], one["base"]) for name, one in found.items()} == {
        "2026-01": (17100, 15056), "2026-02": (29011, 26122), "Total": (46111, 41178)
    }  # fmt: skip


ACTUAL, BUDGET = [("Fares", 100, 110), ("Cargo", 50, 55)], [("Fares", 105, 108), ("Cargo", 45, 60)]
MONTHS = ("Line", "Jan 2026", "Feb 2026")


def test_blocks_of_one_sheet_under_names_of_their_own_are_told_apart(desk: Desk) -> None:
    # Fares 210 against 213, cargo 105 against 105: under titles, under sections, behind other first headings.
    sheets = {
        "titles": [("Actual",), MONTHS, *ACTUAL, (), ("Budget",), MONTHS, *BUDGET],
        "sections": [MONTHS, ("Actual",), *ACTUAL, ("Budget",), *BUDGET],
        "headings": [("Actual", *MONTHS[1:]), *ACTUAL, (), ("Budget", *MONTHS[1:]), *BUDGET],
    }
    for name, (first, *rows) in sheets.items():
        desk.write(f"{name}.csv", rows, first)
        points = by_label(desk.figures("table", f"{name}.csv"))
        assert {one: (its["current"], its["base"]) for one, its in points.items()} == {
            "Fares": (210, 213), "Cargo": (105, 105), "Total": (315, 318)
        }, name  # fmt: skip
    # Regions are a column of their own, with or without totals of each; of one statement they are its headings.
    plain = [("North",), *ACTUAL, ("South",), *BUDGET]
    summed = [*plain[:3], ("Total North", 150, 165), *plain[3:], ("Total South", 150, 168)]
    for name, regions in (("plain", plain), ("summed", summed)):
        desk.write(f"{name}.csv", regions, ("Line", "2025", "2026"))
        found = by_label(desk.figures("table", f"{name}.csv", "--statement", "none"))
        names = [f"{region} / {line}" for region in ("North", "South") for line in ("Fares", "Cargo")]
        assert [*found] == [*names, "Total"] and found["Total"]["current"] == 333
        found = by_label(desk.figures("table", f"{name}.csv", "--by", "section", "--statement", "none"))
        assert (found["North"]["current"], found["South"]["current"]) == (165, 168)
    desk.write("whole.csv", [*summed, ("Grand total", 300, 333)], ("Line", "2025", "2026"))
    assert [point["label"] for point in desk.figures("table", "whole.csv")["points"]][:3] == [
        "Fares (North)", "Cargo (North)", "Total North"
    ]  # fmt: skip
    # Two statements below one another are one, with two sides: 24720 + 23960 against 24000 + 24400.
    actual = [("Revenue", 41200, 39850), ("Cost of sales", 16480, 15890), ("Gross margin", 24720, 23960)]
    budget = [("Revenue", 40000, 40500), ("Cost of sales", 16000, 16100), ("Gross margin", 24000, 24400)]
    desk.write("two.csv", [("Actual",), *actual, ("Budget",), *budget], MONTHS)
    margin = by_label(desk.figures("table", "two.csv"))["Gross margin"]
    assert (margin["current"], margin["base"], margin["kind"]) == (48680, 48400, "total")
    # The months of two years would be taken for those of one.
    desk.write("years.csv", [("Line", "Jan", "Feb"), *ACTUAL, ("2026",), ("Line", "Jan", "Feb"), *BUDGET], ("2025",))
    said = desk.refused("table", "years.csv")
    assert "the rows of '2026' stand under the same headings as those of '2025'" in said and "--cells A2:C4" in said


def test_exports_of_a_month_each_are_of_the_months_in_their_names(desk: Desk) -> None:
    for month, size in (("2025-02", 90), ("2026-01", 100), ("2026-02", 120)):
        desk.write(f"trial_{month}.csv", [("North", size), ("South", 2 * size)], ("Route", "Net"))
    words = ("table", "glob:trial_*.csv", "--by", "Route", "--for", "2026-02", "--versus", "year-ago")
    assert {name: (one["current"], one["base"]) for name, one in by_label(desk.figures(*words)).items()} == {
        "North": (120, 90), "South": (240, 180), "Total": (360, 270)
    }  # fmt: skip
    assert "the names of the files are read as date, 2025-02 … 2026-02" in desk.run(*words).err
    # Dates within the files go before those of their names.
    desk.write("dated_2026-01.csv", [("2026-03-05", 1)], ("Day", "Net"))
    desk.write("dated_2026-02.csv", [("2026-04-05", 2)], ("Day", "Net"))
    points = by_label(desk.figures("table", "glob:dated_*.csv", "--every", "month", "--for", "2026-03/2026-04"))
    assert [one["current"] for one in points.values()] == [1, 2, 3]


def test_headings_that_are_dates_in_numbers_weeks_or_units(desk: Desk) -> None:
    rows = [("Fares", 100, 110, 105), ("Cargo", 50, 55, 52)]
    desk.write("d.csv", rows, ("Line", "31/01/2026", "28/02/2026", "31/03/2026"))
    february = by_label(desk.figures("table", "d.csv", "--for", "2026-02", "--versus", "prior"))["Total"]
    assert (february["current"], february["base"]) == (165, 150)
    desk.write("d.csv", rows, ("Line", "01/01/2026", "01/02/2026", "01/03/2026"))
    assert "--dates dmy" in desk.refused("table", "d.csv")
    assert by_label(desk.figures("table", "d.csv", "--dates", "dmy", "--for", "2026-02"))["Total"]["current"] == 165
    for headings, words, label in (
        (("Wk 1", "Wk 2", "Wk 3"), ("--year", "2026"), "2026-W02"),
        (("Q1", "Q2", "Q3"), ("--year", "2026"), "2026-Q2"),
        (("Q1", "Q2", "Q3"), ("--year", "2025/26", "--year-starts", "april"), "FY2026-Q2"),
    ):
        desk.write("p.csv", rows, ("Line", *headings))
        assert f"{headings[0]} … {headings[2]} have no year" in desk.refused("table", "p.csv")
        found = by_label(desk.figures("table", "p.csv", "--by", "Line", "--for", label, "--versus", "none", *words))
        assert found["Total"]["current"] == 165
    # A row of units below the headings, as printed accounts have it.
    for unit in ("£000", "EUR 000", "£'000"):
        desk.write("u.csv", [("", "", unit, unit), ("Turnover", 2, 4120, 3985), ("Rent", 3, 50, 40)],
                   ("Line", "Note", "2026", "2025"))  # fmt: skip
        found = desk.run("table", "u.csv", "--where", "Line=Turnover", "--figures", "figures.json")
        assert "figures are in thousands" in found.err
        assert desk.read_figures()["points"][0]["current"] == 4_120_000
    desk.write("u.csv", [("", "£000"), ("Fares", 4120), ("Cargo", 50)], ("Line", "Net"))
    assert by_label(desk.figures("table", "u.csv", "--by", "Line"))["Cargo"]["current"] == 50_000


def test_months_down_and_years_across_are_dates(desk: Desk) -> None:
    rows = [("Jan", 100, 110, 120), ("Feb", 105, 115, ""), ("Mar", 110, 118, ""), ("Total", 315, 343, 120)]
    desk.write("s.csv", rows, ("Month", "2024", "2025", "2026"))
    found = by_label(desk.figures("table", "s.csv", "--for", "2025-01/2025-03"))
    assert {name: (one["current"], one["base"]) for name, one in found.items()} == {
        "2025-01": (110, 100), "2025-02": (115, 105), "2025-03": (118, 110), "Total": (343, 315)
    }  # fmt: skip
    assert by_label(desk.figures("table", "s.csv"))["Total"]["base"] == 110  # January against January
    desk.write("s.csv", [("Jan", 1, "1x"), ("Feb", 2, 3), ("Mar", 4, 5)], ("Month", "2024", "2025"))
    assert "s.csv, row 2, amount: '1x' is not a figure" in desk.refused("table", "s.csv")


def test_years_down_and_months_or_quarters_across_are_dates(desk: Desk) -> None:
    rows = [
        ("Fares", 2025, 90, 95, 99),
        ("Fares", 2026, 100, 110, ""),
        ("Fuel", 2025, 9, 5, 8),
        ("Fuel", 2026, 7, 6, ""),
    ]
    desk.write("y.csv", rows, ("Line", "Year", "Jan", "Feb", "Mar"))
    total = desk.figures("table", "y.csv", "--by", "Line")["points"][-1]
    # January and February of both, March 2026 not being there: 100 + 110 + 7 + 6 against 90 + 95 + 9 + 5.
    assert (total["current"], total["base"]) == (223, 199)
    desk.write("q.csv", [row[1:4] for row in rows[:2]], ("Year", "Q1", "Q2"))
    assert desk.figures("table", "q.csv")["points"][-1]["current"] == 210
    said = desk.refused("table", "y.csv", "--year", "2026")
    assert "Year says the years of its rows" in said and "--where Year=2026" in said
    assert desk.figures("table", "y.csv", "--year", "2026", "--where", "Year=2026")["points"][-1]["current"] == 223


@pytest.mark.parametrize(
    ("years", "months"), [((2025, 2026), ("Jan", "Feb", "Mar")), (("FY25", "FY26"), ("Nov", "Dec", "Jan"))]
)
def test_a_month_of_which_a_cell_cannot_be_read_is_not_left_out(
    desk: Desk, years: tuple[object, object], months: tuple[str, ...]
) -> None:
    desk.write("y.csv", [(years[0], "A", 1, "9x", 3), (years[1], "A", 1, 2, 3)], ("Year", "Line", *months))
    assert "'9x' is not a figure" in desk.refused("table", "y.csv", "--by", "Line")


def test_columns_that_come_to_one_beside_them_are_its_parts(desk: Desk) -> None:
    rows = [("Jan 2026", 100, 50, 150), ("Feb 2026", 110, 55, 165)]
    desk.write("r.csv", rows, ("Month", "North", "South", "Total"))
    found = by_label(desk.figures("table", "r.csv"))
    assert {name: one["current"] for name, one in found.items()} == {"North": 210, "South": 105, "Total": 315}
    desk.write("r.csv", [row[:3] for row in rows], ("Month", "North", "South"))
    assert "North and South could each be the amount" in desk.refused("table", "r.csv")


def test_a_column_beside_its_budget_is_set_against_it(desk: Desk) -> None:
    rows = [("Fuel", 90, 100, 10, "90%"), ("Crew", 55, 50, -5, "110%")]
    desk.write("b.csv", rows, ("Line", "Spend", "Budget", "Remaining", "Used %"))
    done = desk.run("table", "b.csv", "--figures", "figures.json")
    assert "look like costs (Spend)" in done.err
    total = desk.read_figures()["points"][-1]
    assert (total["current"], total["base"]) == (145, 150)
    assert desk.read_figures()["headline"].startswith("Spend 145, 5 below budget")
    for other in ("Note", "Qty", "Headcount", "Priority"):
        desk.write("n.csv", [("Fuel", 2, 90), ("Crew", 3, 55)], ("Line", other, "Budget"))
        assert f"--current {other} --base Budget" in desk.refused("table", "n.csv")
    desk.write("w.csv", [("2026-01-05", 100, 90), ("2026-02-05", 110, 95)], ("Day", "Sales", "Target"))
    assert by_label(desk.figures("table", "w.csv", "--every", "month"))["2026-02"]["change"] == 15


@pytest.mark.parametrize("is_after", [True, False])
def test_the_totals_of_a_query_with_roll_ups_are_left_out(desk: Desk, is_after: bool) -> None:
    rows = [("Dock", "Design", 100, 90), ("Dock", "Build", 500, 560), ("Dock", "", 600, 650),
            ("Slip", "Design", 50, 55), ("Slip", "Build", 250, 240), ("Slip", "", 300, 295),
            ("", "", 900, 945)]  # fmt: skip
    desk.write("r.csv", rows if is_after else rows[::-1], ("Project", "Phase", "Budget", "Actual"))
    found = by_label(desk.figures("table", "r.csv"))
    assert found["Total"]["current"] == 945 and len(found) == 5 and found["Dock / Build"]["change"] == 60
    # A phase that is not known is none of them.
    desk.write("r.csv", [rows[0], ("Dock", "", 500, 560), *rows[3:5]], ("Project", "Phase", "Budget", "Actual"))
    assert by_label(desk.figures("table", "r.csv"))["Dock / (none)"]["change"] == 60


def sides(found: dict[str, Any]) -> tuple[Any, Any]:
    total = by_label(found)["Total"]
    return total["current"], total["base"]


def test_reporting_years_down_and_their_months_across(desk: Desk) -> None:
    """Apr … Mar of two years: 1 … 12 in the first, 101 … 112 in the second; Jan to Mar are the last three."""
    months = ["Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec", "Jan", "Feb", "Mar"]
    for first, second in (("2024/25", "2025/26"), ("FY25", "FY26")):
        rows = [(year, "Fares", *(n + more for n in range(1, 13))) for year, more in ((first, 0), (second, 100))]
        desk.write("w.csv", rows, ("Year", "Line", *months))
        words = ("table", "w.csv", "--by", "Line", "--for", "2026-01/2026-03", "--versus", "year-ago")
        assert sides(desk.figures(*words)) == (333, 33)
        # of all: 78 + 1200 against 78
        year = desk.figures("table", "w.csv", "--by", "Line", "--year-starts", "april", "--for", "FY2026")
        assert sides(year) == (1278, 78)
        assert f"--where Year={second}" in desk.refused("table", "w.csv", "--year", "2025/26")
    desk.write(
        "l.csv", [("2024/25", "Apr", 5), ("2024/25", "Jan", 7), ("2025/26", "Apr", 9)], ("Year", "Month", "Net")
    )
    assert "--year-starts april" in desk.refused("table", "l.csv")
    found = desk.figures("table", "l.csv", "--year-starts", "april", "--for", "2025-01", "--versus", "none")
    assert sides(found) == (7, None)
    # A year that is one of the calendar and months that run past December do not say which: none is taken for both.
    desk.write("c.csv", [(2025, "Fares", *range(12)), (2026, "Fares", *range(12))], ("Year", "Line", *months))
    assert "--where Year=2026" in desk.refused("table", "c.csv", "--year", "2025/26")


def test_months_of_two_figures(desk: Desk) -> None:
    desk.write("w.csv", [("Fares", 1, 2, 4), ("Freight", 8, 16, 32)], ("Line", "11/25", "12/25", "01/26"))
    assert sides(desk.figures("table", "w.csv", "--for", "2025-12/2026-01", "--versus", "none")) == (54, None)
    rows = [(f"{month:02}/{year}", "Fares", month * year) for year in (25, 26) for month in (1, 2, 3)]
    desk.write("l.csv", rows, ("Month", "Line", "Net"))
    found = desk.figures("table", "l.csv", "--by", "Line", "--for", "2026-01/2026-03", "--versus", "year-ago")
    assert sides(found) == (156, 150)  # 26 × 6 against 25 × 6
    # Days of two months, which are no months of three years.
    desk.write("d.csv", [(f"{month:02}/{day}", day) for month in (1, 2) for day in (26, 27, 28)], ("Date", "Net"))
    assert "2028" not in desk.run("table", "d.csv").out


@pytest.mark.parametrize("other", ["[$$-409]#,##0", '#,##0 "USD"', "[$€-2] #,##0"])
def test_currencies_that_formats_alone_show_are_not_added_up(desk: Desk, other: str) -> None:
    with xlsxwriter.Workbook(str(desk.folder / "c.xlsx")) as book:
        sheet = book.add_worksheet()
        sheet.write_row(0, 0, ("Route", "2026", "2025"))
        for row, form in enumerate(("[$€-2] #,##0", other), 1):
            shown = book.add_format({"num_format": form})
            sheet.write(row, 0, f"Route {row}")
            for column in (1, 2):
                sheet.write(row, column, -100 * row - column, shown)
    if "€" in other:
        assert sides(desk.figures("table", "c.xlsx")) == (-302, -304)
    else:
        assert "holds several currencies" in desk.refused("table", "c.xlsx")


BLOCKS = [("North", 10, 12), ("South", 20, 23)], [("North", 5, 6), ("South", 7, 7)]


def under_one_another(desk: Desk, names: tuple[str, str], titles: tuple[str, str] | None = None) -> str:
    """Two blocks of the same lines, each behind its own first heading; or each below a title, and a blank line."""
    rows: list[tuple[object, ...]] = []
    for at, block in enumerate(BLOCKS):
        rows += [*([(), (titles[at],), ()] if titles else []), (names[at], 2025, 2026), *block]
    first, *others = rows[1:] if titles else rows
    return desk.write("b.csv", others, tuple(map(str, first)))


def test_years_above_a_block_are_none_of_its_figures(desk: Desk) -> None:
    found = by_label(desk.figures("table", under_one_another(desk, ("Domestic", "International")), "--by", "section"))
    assert {name: (one["current"], one["base"]) for name, one in found.items()} == {
        "Domestic": (35, 30), "International": (13, 12), "Total": (48, 42),
    }  # fmt: skip
    desk.write(
        "o.csv", [("Adult", 10), ("Child", 20), ("South", 2026), ("Adult", 5), ("Child", 7)], ("North", "2026")
    )
    assert by_label(desk.figures("table", "o.csv"))["Total"]["current"] == 42
    desk.write("y.csv", [("A", 2025, 2026), ("B", 2020, 2021)], ("Item", "2025", "2026"))  # which are amounts
    assert by_label(desk.figures("table", "y.csv"))["Total"]["current"] == 4047


@pytest.mark.parametrize(("names", "titles", "said"), [
    (("Sales", "Costs"), None, "'Sales / North' is income and 'Costs / North' a cost"),
    (("Passengers", "Revenue"), None, "Passengers is a count or a rate by name"),
    (("Route", "Route"), ("Sales by route", "Costs by route"), "'Sales by route / North' is income"),
    (("Route", "Port"), ("Sales by route", "Dues by port"), "another table stands below the first, from row 7"),
])  # fmt: skip
def test_unlike_tables_below_one_another_are_not_added_up(
    desk: Desk, names: tuple[str, str], titles: tuple[str, str] | None, said: str
) -> None:
    assert said in desk.refused("table", under_one_another(desk, names, titles))


def test_another_table_below_its_title_is_told_of(desk: Desk) -> None:
    source = under_one_another(desk, ("Area", "Area"), ("Summary of fares", "Summary of guests"))
    done = desk.run("table", source)
    assert "row 7 begins another table, 'Summary of guests', which counts as well: --cells A3:C5" in done.err
    assert by_label(desk.figures("table", source, "--cells", "A3:C5"))["Total"]["current"] == 35
    lines = [*BLOCKS[0], (), ("Area", 2025, 2026), *BLOCKS[1]]
    said = desk.run("table", desk.write("s.csv", lines, ("Area", "2025", "2026"))).err
    assert "row 5 begins another table of the same lines, which counts as well: --cells A1:C3" in said
    money = under_one_another(desk, ("EUR", "USD"))
    assert "holds several currencies: EUR, USD" in desk.refused("table", money)
