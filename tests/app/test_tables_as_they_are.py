"""The tables analysts really have: sheets, shapes, written figures and dates, several sources, totals."""

from __future__ import annotations

import csv
import json
import re
import shlex
import zipfile
from collections.abc import Sequence
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

import duckdb
import pytest
import xlsxwriter
from babel.dates import get_month_names
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from python_calamine import CalamineWorkbook

from conftest import DEMO, Desk, by_label, typed
from marvex.sources.cells import Convention, FigureReading, is_absent, is_figure, value_of
from marvex.sources.columns import is_code_name
from marvex.sources.dates import read_days, written
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.month_names import LANGUAGES, NAMES, OTHERWISE
from marvex.sources.readers.sheets import sheets_of

DATA = DEMO.parent
NONE = ("--versus", "none")


def sheet(desk: Desk, name: str, rows: Sequence[Sequence[Any]], *more: Sequence[Sequence[Any]]) -> str:
    with xlsxwriter.Workbook(desk.folder / name, {"default_date_format": "yyyy-mm-dd"}) as book:
        for place, one in enumerate((rows, *more)):
            page = book.add_worksheet(f"Sheet {place + 1}")
            for row, cells in enumerate(one):
                for column, value in enumerate(cells):
                    if value is not None:
                        page.write(row, column, value)
    return name


def text(desk: Desk, name: str, content: str) -> str:
    (desk.folder / name).write_text(content, encoding="utf-8")
    return name


def amounts(figures: dict[str, Any]) -> dict[str, tuple[Any, Any]]:
    return {point["label"]: (point["current"], point["base"]) for point in figures["points"]}


MESSY = """Ostrey Sound Ferries,,,,
Budget 2026,,,,

Account,Jan,Feb,Mar,Q1
Fuel,"1,000","1,100",(200),"1,900"
Crew,500,-,700,"1,200"
Account,Jan,Feb,Mar,Q1
Café,50,60,70.50,180.50
Total,"1,550","1,160",570.50,"3,280.50"

Source: the finance team
"""


def test_a_sheet_with_titles_months_notes_and_totals(desk: Desk) -> None:
    # Fuel 1,000 + 1,100 − 200 = 1,900; Crew has nothing in February; the year stands in the title.
    done = desk.run("table", text(desk, "m.csv", MESSY), *NONE)
    assert "row 9 'Total' is the sum of rows 5–8 and was left out" in done.err
    assert "column E 'Q1' is the sum of columns B–D and was left out" in done.err
    found = desk.figures("table", "m.csv", "--by", "Account", "--for", "2026-02", *NONE)
    assert amounts(found) == {"Fuel": (1100, None), "Café": (60, None), "Total": (1160, None)}
    kept = desk.figures("table", "m.csv", "--by", "Account", "--for", "2026-01", "--totals", "keep", *NONE)
    assert kept["points"][-1]["current"] == 3100
    assert kept["points"][-2]["label"] == "Total"


def test_the_same_table_from_a_workbook_with_real_dates_and_merged_headings(desk: Desk) -> None:
    with xlsxwriter.Workbook(desk.folder / "two.xlsx") as book:
        page = book.add_worksheet("Months")
        page.write("B2", "Plan and outcome")
        for column, month in ((2, "Jan 2026"), (4, "Feb 2026")):
            page.merge_range(3, column, 3, column + 1, month)
        for place, heading in enumerate(("Account", "Budget", "Actual", "Budget", "Actual")):
            page.write(4, 1 + place, heading)
        for row, cells in enumerate((("Fuel", 10, 11.5, 12, 13), ("Crew", 20, 21, 22, 23))):
            page.write_row(5 + row, 1, cells)
        page.write_row(7, 1, ("Total",))
        for column, value in zip("CDEF", (30, 32.5, 34, 36), strict=True):
            page.write_formula(f"{column}8", f"=SUM({column}6:{column}7)", None, value)
        book.add_worksheet("Notes").write("A1", "Nothing to see")
    found = desk.figures("table", "two.xlsx", "--by", "Account")
    assert amounts(found) == {"Fuel": (Decimal("24.5"), 22), "Crew": (44, 42), "Total": (Decimal("68.5"), 64)}
    cut = desk.figures("table", "two.xlsx", "--by", "Account", "--cells", "B4:D6", "--for", "2026-01")
    assert amounts(cut)["Total"] == (Decimal("11.5"), 10)


def test_wide_by_scenario_with_decimal_commas(desk: Desk) -> None:
    content = "Konto;Budget;Actual;Variance\nFuel;1.000,50;1.100,25;99,75\nCrew;500,00;450,00;-50,00\n"
    found = desk.figures("table", text(desk, "s.csv", content))
    assert amounts(found)["Fuel"] == (Decimal("1100.25"), Decimal("1000.50"))
    assert amounts(found)["Total"] == (Decimal("1550.25"), Decimal("1500.50"))


def test_headings_as_categories_and_as_scenarios(desk: Desk) -> None:
    rows = [
        ("2026-01-31", "10", "20"),
        ("2026-02-28", "11", "21"),
        ("2025-01-31", "9", "19"),
        ("2025-02-28", "8", "18"),
    ]
    desk.write("c.csv", rows, ("date", "Fuel", "Crew"))
    for words in (("--amount", "Fuel,Crew"), ("--headings-are", "item", "--by", "item")):
        found = desk.figures("table", "c.csv", *words, "--for", "2026")
        assert amounts(found) == {"Fuel": (21, 17), "Crew": (41, 37), "Total": (62, 54)}
    plans = desk.write("p.csv", [("Fuel", "10", "12"), ("Crew", "20", "19")], ("Account", "Plan A", "Plan B"))
    found = desk.figures("table", plans, "--headings-are", "scenario", "--of", "Plan B", "--versus", "Plan A")
    assert amounts(found) == {"Fuel": (12, 10), "Crew": (19, 20), "Total": (31, 30)}


def test_lists_of_objects_keep_every_digit(desk: Desk) -> None:
    rows = [{"date": "2026-01-05", "route": "A", "net": 1.10}, {"date": "2026-01-06", "route": "B", "net": None}]
    (desk.folder / "o.json").write_text(json.dumps(rows).replace("1.1", "12345678901234567.10"))
    (desk.folder / "o.jsonl").write_text("\n".join(map(json.dumps, rows)) + "\n")
    assert amounts(desk.figures("table", "o.json", "--by", "route", *NONE))["A"][0] == Decimal("12345678901234567.10")
    assert list(amounts(desk.figures("table", "o.jsonl", "--by", "route", *NONE))) == ["A", "Total"]


def test_a_plain_sheet_of_facts_is_read_like_a_ledger(desk: Desk) -> None:
    rows = [
        ("date", "code", "route", "net"),
        (datetime(2026, 1, 5), 4010, "A", 0.1),
        (datetime(2026, 1, 6), 4010, "A", 0.2),
    ]
    sheet(desk, "f.xlsx", rows)
    found = desk.figures("table", "f.xlsx", "--by", "code", *NONE)
    assert amounts(found) == {"4010": (Decimal("0.3"), None), "Total": (Decimal("0.3"), None)}
    sheet(desk, "g.xlsx", [*rows, (datetime(2026, 1, 7), 4010, "B", "12..4")])
    message = desk.refused("table", "g.xlsx", "--by", "route", *NONE)
    assert "g.xlsx, sheet 'Sheet 1', cell D4: '12..4' is not a figure" in message


def test_what_could_be_read_two_ways_is_asked_about(desk: Desk) -> None:
    facts = "date,route,net\n{},A,5\n{},B,6\n"
    assert "--dates dmy" in desk.refused(
        "table", text(desk, "a.csv", facts.format("01/02/2026", "12/02/2026")), "--by", "route"
    )
    found = desk.figures(
        "table", text(desk, "b.csv", facts.format("01/02/2026", "13/02/2026")), "--by", "route", *NONE
    )
    assert found["current"]["from"] == "2026-01-01" and found["current"]["to"] == "2026-02-13"
    mdy = desk.figures("table", "a.csv", "--by", "route", "--dates", "mdy", "--for", "2026-12", *NONE)
    assert amounts(mdy) == {"B": (6, None), "Total": (6, None)}
    figures = text(desk, "c.csv", "date,route,net\n2026-01-01,A,1.234\n2026-01-02,A,5.678\n")
    assert "--numbers point" in desk.refused("table", figures, "--by", "route")
    for convention, total in (("point", Decimal("6.912")), ("comma", 6912)):
        found = desk.figures("table", figures, "--by", "route", "--numbers", convention, *NONE)
        assert found["points"][0]["current"] == total
    months = text(desk, "d.csv", "Account,Jan,Feb\nFuel,10,11\nCrew,20,21\n")
    assert "have no year" in desk.refused("table", months)
    both = sheet(desk, "e.xlsx", [("Item", "Amount"), ("a", 1), ("b", 2)], [("Item", "Amount"), ("a", 1), ("b", 2)])
    assert "--sheet 'Sheet 1'" in desk.refused("table", both)
    assert amounts(desk.figures("table", both, "--sheet", "Sheet 2", *NONE))["Total"] == (3, None)
    assert "has no sheet 'Shet 2'" in desk.refused("table", both, "--sheet", "Shet 2")
    currencies = text(desk, "f.csv", "date,route,currency,net\n2026-01-01,A,EUR,1\n2026-01-02,A,GBP,2\n")
    assert "several currencies: EUR, GBP" in desk.refused("table", currencies, "--by", "route")
    assert desk.run("table", currencies, "--by", "route", "--where", "currency=EUR").status == 0


FORMS = {
    "1,234.50": "1234.5", "1 234.50": "1234.5", "1\u202f234": "1234", "(1,234.5)": "-1234.5", "-1,234.0": "-1234",
    "1,234.5-": "-1234.5", "1,234.5 CR": "-1234.5", "1,234.5 DR": "1234.5", "€1,234.5": "1234.5",
    "EUR 1,234.5": "1234.5", "-€5": "-5", "12.5%": "0.125", "1.2k": "1200", "3m": "3000000", "1.5bn": "1500000000",
    "−7": "-7", "\u20117": "-7", "+8": "8", "1e3": "1000", "1.5E-3": "0.0015",
    "$ (1,234.5)": "-1234.5", "$(5)": "-5", "(1,234.5) €": "-1234.5", "$ 1,234.5": "1234.5",
}  # fmt: skip


def test_written_figures_mean_the_same_to_the_engine_and_to_a_sheet() -> None:
    engine = Engine(duckdb.connect())
    commas = {
        one.translate(str.maketrans(",.", ".,")): value for one, value in FORMS.items() if "e" not in one.lower()
    }
    commas |= {"EUR 1.234,5": "1234.5"}
    for convention, forms in ((Convention.POINT, FORMS), (Convention.COMMA, commas)):
        reading = FigureReading(6, is_wide=True, convention=convention)
        for form, value in forms.items():
            asked = Query(f"SELECT {reading.amount('t')} FROM (SELECT ?::VARCHAR AS t)", (form,))
            assert engine.rows(asked, "x")[0][0] == Decimal(value), form
            assert value_of(form, convention) == Decimal(value), form
    assert all(is_absent(one) for one in ("", " ", "-", "–", "n/a", "N/A", "null", " $ -  "))


DATES = {
    "2026-01-05": date(2026, 1, 5), "2026-01-05 10:22": date(2026, 1, 5), "5 Jan 2026": date(2026, 1, 5),
    "1-Jan-26": date(2026, 1, 1), "Jan-26": date(2026, 1, 1), "January 2026": date(2026, 1, 1),
    "2026M01": date(2026, 1, 1), "Q2 2026": date(2026, 4, 1), "2026-Q2": date(2026, 4, 1), "FY26 P3": date(2026, 3, 1),
    "2026-W14": date(2026, 3, 30), "2026": date(2026, 1, 1), "Jan 5, 2026": date(2026, 1, 5),
    "20260105": date(2026, 1, 5), "H2 2026": date(2026, 7, 1), "06/2026": date(2026, 6, 1),
    "29 Feb 2024": date(2024, 2, 29), "1Q26": date(2026, 1, 1), "2H 2026": date(2026, 7, 1),
    "KW 2/2026": date(2026, 1, 5), "May FY26": date(2026, 5, 1),
    "Week 14 2026": date(2026, 3, 30), "M03 2026": date(2026, 3, 1), "P03 2026": date(2026, 3, 1),
    "2026. 3. 31.": date(2026, 3, 31),
    "2026P03": date(2026, 3, 1), "003.2026": date(2026, 3, 1), "2026003": date(2026, 3, 1), "Q2 FY26": date(2026, 4, 1),
    "FY2025/26": date(2026, 1, 1), "2025-2026": date(2026, 1, 1), "2011/12": date(2011, 12, 1),
}  # fmt: skip


def test_written_dates() -> None:
    for form, day in DATES.items():
        found = written(form)
        assert found is not None and found.first == day, form
    for form in (
        "2026-02-30",
        "29 Feb 2026",
        "Mayor 2026",
        "12",
        "Fuel",
        "2026-W54",
        "Q5 2026",
        "2025/27",
        "P14 2026",
        "25/26",
        "5Q26",
        "0.26",
    ):
        assert written(form) is None, form
    # A spreadsheet's day 46027 is 5 January 2026; only a column that says date holds such days.
    assert read_days(["46027"], "auto", "date", serials=True)["46027"] == written("2026-01-05")
    assert read_days(["46027"], "auto", "net")["46027"] is None
    for form in ("31.3.2026", "31. 3. 2026", "31 03 2026", "31.3.26."):
        assert read_days([form], "auto", "date")[form] == written("2026-03-31")


def test_the_plan_workbook_gives_the_ledgers_budget_to_the_cent(desk: Desk) -> None:
    by = ("--by", "account_name")
    alone = desk.figures("table", str(DEMO), *by, "--for", "2026", "--versus", "budget")
    sources = (f"actual={DEMO}", f"budget={DATA / 'plan.xlsx'}")
    both = desk.figures("table", *sources, *by, "--by", "budget=Account", "--for", "2026")
    assert both["points"] == alone["points"]
    # The workbook's own year total, read by its cell: O36 holds the result of the year.
    rows = CalamineWorkbook.from_path(str(DATA / "plan.xlsx")).get_sheet_by_name("Budget 2026").to_python()
    whole = desk.figures("table", str(DATA / "plan.xlsx"), "--by", "Account", *NONE)
    assert whole["points"][-1]["current"] == Decimal(str(rows[35][14]))


def test_sources_are_matched_by_name_and_what_is_not_is_said(desk: Desk) -> None:
    desk.write("a.csv", [("2026-01-31", "Fuel oil", "5"), ("2026-01-31", "Crew", "7")], ("date", "item", "net"))
    text(desk, "b.csv", "Line,Jan 2026,Feb 2026\nFuel,4,4\nCafé,1,1\nCrew,6,6\n")
    words = ("table", "actual=a.csv", "budget=b.csv", "--by", "item", "--by", "budget=Line")
    found = desk.figures(*words)
    assert "only a.csv has Fuel oil" in found["cautions"]
    assert "only b.csv has Café, Fuel" in found["cautions"]
    desk.write("names.csv", [("Fuel oil", "Fuel")], ("name", "shown"))
    mapped = amounts(desk.figures(*words, "--name-map", "names.csv"))
    assert mapped["Fuel"] == (5, 4) and "Fuel oil" not in mapped
    assert "each another" in desk.refused("table", "a.csv", "b.csv", "--by", "item")
    assert "holds no scenario 'plan'" in desk.refused("table", f"plan={DEMO}", "budget=b.csv", "--by", "route")


TICKETS = [
    ("2026-01-05", "t1", "A", "10"), ("2026-01-05", "t1", "B", "4"), ("2026-02-10", "t1", "A", "6"),
    ("2026-02-11", "t2", "A", "8"), ("2026-03-01", "t3", "B", "7.5"), ("2026-03-31", "t3", "B", "2"),
]  # fmt: skip

# way, A, B, the total: t1 and t2 on A, t1 and t3 on B, but three tickets in all.
WAYS = [
    ("sum", "24", "13.5", "37.5"), ("count", "3", "3", "6"), ("distinct:ticket", "2", "2", "3"),
    ("mean", "8", "4.5", "6.25"), ("highest", "10", "7.5", "10"), ("lowest", "6", "2", "2"),
]  # fmt: skip


@pytest.mark.parametrize(("way", "a", "b", "total"), WAYS)
def test_ways_to_total_are_worked_out_from_the_rows(desk: Desk, way: str, a: str, b: str, total: str) -> None:
    desk.write("t.csv", TICKETS, ("date", "ticket", "route", "fare"))
    words = ("t.csv", "--by", "route", "--amount", "fare", "--total-as", way, "--for", "2026-Q1")
    found = desk.figures("table", *words, *NONE)
    assert [point["current"] for point in found["points"]] == [Decimal(a), Decimal(b), Decimal(total)]
    other = desk.figures("table", *words, *NONE, "--keep", "top:1")
    assert other["points"][-1]["current"] == Decimal(total)
    if way not in ("sum", "count"):
        assert found["points"][-1]["label"] == "Total (not a sum)"
        assert "does not add up" in desk.refused("draw", "waterfall", *words, *NONE)


def test_a_balance_is_taken_at_one_closing_date(desk: Desk) -> None:
    # Deck has no row on 28 February, the closing date of the quarter so far: nothing is carried forward.
    rows = [
        ("2026-01-31", "Deck", 40),
        ("2026-01-31", "Café", 20),
        ("2026-02-28", "Café", 22),
        ("2025-02-28", "Deck", 38),
    ]
    desk.write("h.csv", rows, ("month_end", "department", "people"))
    words = ("table", "h.csv", "--by", "department", "--total-as", "closing")
    found = desk.figures(*words, "--for", "2026-Q1", "--versus", "2025-Q1")
    assert amounts(found) == {"Deck": (None, 38), "Café": (22, None), "Total": (22, 38)}
    assert amounts(desk.figures(*words, "--for", "2026-01", *NONE))["Total"] == (60, None)


values = st.integers(-(10**8), 10**8).map(lambda n: Decimal(n).scaleb(-2))
WRITERS = (
    lambda n: f"{n}",
    lambda n: f"{n:,.2f}",
    lambda n: f"({-n:,.2f})" if n < 0 else f"{n:,.2f}",
    lambda n: f"€{n:,.2f}".replace("€-", "-€"),
    lambda n: f"{abs(n):,.2f}-" if n < 0 else f"{n:.2f}",
)


def are_opposite(rows: list[list[Decimal | None]]) -> bool:
    """Whether two columns have the opposite sign in several rows, and may be taken to be signed otherwise."""
    pairs = [[(row[a], row[b]) for row in rows if row[a] and row[b]] for a, b in ((0, 1), (0, 2), (1, 2))]
    return any(sum((one or 0) * (other or 0) < 0 for one, other in pair) > 1 for pair in pairs)


@settings(max_examples=40)
@given(
    rows=st.lists(st.lists(values | st.none(), min_size=3, max_size=3), min_size=2, max_size=8),
    form=st.integers(0, len(WRITERS) - 1),
    shape=st.sampled_from(["wide", "long", "scenarios"]),
    comma=st.booleans(),
)
def test_a_table_in_any_form_reads_back_as_it_was(
    desk: Desk, rows: list[list[Decimal | None]], form: int, shape: str, comma: bool
) -> None:
    assume(shape != "scenarios" or not are_opposite(rows))
    names = [f"Item {place}" for place in range(len(rows))]
    headings = ["Jan 2026", "Feb 2026", "Mar 2026"] if shape != "scenarios" else ["Actual", "Budget", "Forecast"]

    def cell(value: Decimal | None) -> str:
        if value is None:
            return "-"
        return WRITERS[form](value).translate(str.maketrans(",.", ".,")) if comma else WRITERS[form](value)

    table = [["Item", *headings], *([name, *map(cell, row)] for name, row in zip(names, rows, strict=True))]
    if shape == "long":
        table = [["Item", "Month", "Amount"]]
        table += [
            [n, h, cell(v)] for n, row in zip(names, rows, strict=True) for h, v in zip(headings, row, strict=True)
        ]
    with (desk.folder / "r.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file, delimiter=";").writerows(table)
    words = ("table", "r.csv", "--by", "Item", "--numbers", "comma" if comma else "point", "--totals", "keep", *NONE)
    present = [value for row in rows for value in row if value is not None]
    first = [row[0] for row in rows if row[0] is not None]
    if not present or (shape == "scenarios" and not first):
        return  # there is nothing to read
    window = () if shape == "scenarios" else ("--for", "2026-Q1", "--as-of", "2026-03-31")
    found = by_label(desk.figures(*words, *window))
    for name, row in zip(names, rows, strict=True):
        wanted = [row[0]] if shape == "scenarios" else row
        there = [value for value in wanted if value is not None]
        assert (found[name]["current"] if there else None) == (sum(there) if there else None)


def test_a_survey_says_what_an_analyst_would_ask(desk: Desk) -> None:
    rows = [("2026-01-31", "A", "5"), ("2026-01-31", "A", "5"), ("2026-03-31", "A", "7"), ("2026-03-31", "B", "n/a")]
    desk.write("d.csv", rows, ("date", "route", "net"))
    out = desk.run("survey", "d.csv").out
    assert "1 row is the same as an earlier one, the first at row 3" in out
    assert "2026-02" in out  # the month without rows
    done = desk.run("survey", str(DEMO), "-o", "s.json")
    assert done.status == 0, done.err
    survey = json.loads((desk.folder / "s.json").read_text())
    assert {one["name"]: one["role"] for one in survey["columns"]}["net"] == "amount"
    assert [one["dates"]["name"] for one in survey["scenarios"]] == ["actual", "budget", "forecast"]
    assert survey["scenarios"][0]["missing"] == ["2026-08-14"]
    assert len(survey["next"]) >= 2
    for name in ("tickets.csv.gz", "plan.xlsx", "headcount.csv"):
        shown = desk.run("survey", str(DATA / name)).out
        assert all(len(line) <= 100 or line.startswith("  marvex") for line in shown.splitlines()), name
        for line in (line for line in shown.splitlines() if line.startswith("  marvex")):
            ran = desk.run(*shlex.split(line)[1:])
            assert ran.status == 0, (line, ran.err)


def test_a_trace_shows_the_working_and_the_rows(desk: Desk) -> None:
    data = [
        ("2026-01-05", "North", "budget", "70"),
        ("2026-01-05", "North", "actual", "50"),
        ("2026-01-08", "North", "actual", "27"),
    ]
    desk.write("r.csv", [(d, "x", r, s, n) for d, r, s, n in data])
    words = (*typed("trace r.csv --by route --for 2026-01 --at north --band"), "Over [worse]: change >= 10%")
    out = desk.run(*words).out
    assert "77 − 70" in out and "7 ÷ |70|" in out and "because change >= 10%" in out
    assert desk.run(*words, "-o", "t.json").status == 0
    trace = json.loads((desk.folder / "t.json").read_text())
    assert (trace["change"], trace["change_ratio"], trace["band"]) == (7, 0.1, "Over")
    assert [row["amount"] for row in trace["current"]["largest"]] == [50, 27]
    assert trace["current"]["largest"][0]["place"] == "r.csv, row 3"
    assert "Did you mean North?" in desk.refused(*words[:-3], "Nroth")


ODS_CELL = {
    str: '<table:table-cell office:value-type="string"><text:p>{0}</text:p></table:table-cell>',
    float: '<table:table-cell office:value-type="float" office:value="{0}"><text:p>{0}</text:p></table:table-cell>',
    date: '<table:table-cell office:value-type="date" office:date-value="{0}"><text:p>{0}</text:p></table:table-cell>',
}
ODS_CONTENT = """<?xml version="1.0" encoding="UTF-8"?><office:document-content
 xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"
 xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"
 xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" office:version="1.2">
<office:body><office:spreadsheet><table:table table:name="Facts">{0}</table:table></office:spreadsheet></office:body>
</office:document-content>"""


def open_document(desk: Desk, name: str, content: str) -> None:
    kind = "application/vnd.oasis.opendocument.spreadsheet"
    manifest = (
        '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
        f'<manifest:file-entry manifest:full-path="/" manifest:media-type="{kind}"/></manifest:manifest>'
    )
    with zipfile.ZipFile(desk.folder / name, "w") as book:
        book.writestr("mimetype", kind)
        book.writestr("META-INF/manifest.xml", manifest)
        book.writestr("content.xml", content)


def test_an_open_document_sheet(desk: Desk) -> None:
    rows = [("date", "route", "net"), (date(2026, 1, 5), "A", 1.25), (date(2026, 1, 6), "B", 2.5)]
    lines = ("".join(ODS_CELL[type(cell)].format(cell) for cell in row) for row in rows)
    content = ODS_CONTENT.format("".join(f"<table:table-row>{line}</table:table-row>" for line in lines))
    open_document(desk, "f.ods", content)
    found = desk.figures("table", "f.ods", "--by", "route", *NONE)
    assert amounts(found) == {
        "A": (Decimal("1.25"), None),
        "B": (Decimal("2.5"), None),
        "Total": (Decimal("3.75"), None),
    }


def test_what_is_hidden_in_a_workbook_counts_and_is_told(desk: Desk) -> None:
    rows = (("Item", "Jan 2026", "Feb 2026"), ("A", 1, 2), ("B", 3, 4), ("C", 5, 6), ("D", 7, 8))
    with xlsxwriter.Workbook(desk.folder / "h.xlsx") as book:
        page = book.add_worksheet("Plan")
        for number, row in enumerate(rows):
            page.write_row(number, 0, row)
        page.set_row(2, options={"hidden": True})
        page.set_row(3, options={"hidden": True, "level": 1})  # folded up: what is seen then is its total
        page.set_column(2, 2, options={"hidden": True})
        page.set_column(4, 40, options={"hidden": True})
    cells = ["".join(ODS_CELL[str if isinstance(one, str) else float].format(one) for one in row) for row in rows]
    looks = ["", "", ' table:visibility="filter"', "", ""]
    lines = (f"<table:table-row{look}>{line}</table:table-row>" for look, line in zip(looks, cells, strict=True))
    columns = (
        '<table:table-column table:number-columns-repeated="2"/><table:table-column table:visibility="collapse"/>'
    )
    open_document(desk, "h.ods", ODS_CONTENT.format(columns + "".join(lines)))
    for name, sheet in (("h.xlsx", "Plan"), ("h.ods", "Facts")):
        found = desk.figures("table", name)
        assert found["points"][-1]["current"] == 36
        assert f"{name}: sheet '{sheet}': hidden row 3 counts as well" in found["cautions"]
        assert f"{name}: sheet '{sheet}': hidden column C counts as well" in found["cautions"]


def test_a_hidden_sheet_serves_where_no_other_does_or_all_are_of_a_month_each(desk: Desk) -> None:
    rows = (("Item", "Actual", "Budget"), ("A", 1, 2), ("B", 3, 4))
    for titles, current, told in (
        (("Plan", "Old"), 4, "sheet 'Old' is hidden, and was passed by"),
        (("Notes", "Old"), 4, "sheet 'Old' is hidden, and counts"),
        (("Jan 2026", "Feb 2026"), 8, "sheet 'Feb 2026' is hidden, and counts"),
    ):
        with xlsxwriter.Workbook(desk.folder / "h.xlsx") as book:
            for title in titles:
                page = book.add_worksheet(title)
                for number, row in enumerate(rows if title != "Notes" else ()):
                    page.write_row(number, 0, row)
            page.hide()
        found = desk.figures("table", "h.xlsx", "--by", "Item")
        assert found["points"][-1]["current"] == current and any(told in one for one in found["cautions"]), titles


def test_nothing_is_lost_or_counted_twice_in_silence(desk: Desk) -> None:
    # An unreadable figure in the last row is no note, and makes its column no other than Actual.
    text(desk, "a.csv", "Item,Plan,Actual\nFuel,10,12\nCrew,20,12..4\n")
    assert "a.csv, cell C3: '12..4' is not a figure" in desk.refused("table", "a.csv")
    # Nor in the first, where the row is no heading; and what stands above the headings is told.
    for odd in ("1,234.5*", "TBC", "#"):
        text(desk, "o.csv", f'Item,Actual\nFuel,"{odd}"\nCrew,20\nRent,30\n')
        assert f"o.csv, cell B2: '{odd}' is not a figure" in desk.refused("table", "o.csv")
    text(desk, "o.csv", "Item,Plan,Actual\nFuel,TBC,TBC\nCrew,20,21\n")
    assert "o.csv, cell B2: 'TBC' is not a figure (and 1 more)" in desk.refused("table", "o.csv")
    text(desk, "o.csv", "Firm,Ostrey\nItem,Actual\nFuel,10\nCrew,20\n")
    assert "row 1 (Firm, Ostrey) stands above the headings and was left out" in desk.run("table", "o.csv").err
    text(
        desk,
        "o.csv",
        "Item,Plan,Actual\nFares,100,110\n\nBalance sheet\nItem,Plan,Actual\nCash,900,950\nDebt,40,50\n",
    )
    caution, _ = desk.figures("table", "o.csv")["cautions"]
    assert "row 4 begins another table, 'Balance sheet', which counts as well: --cells A1:C2" in caution
    assert desk.figures("table", "o.csv", "--cells", "A1:C2")["points"][-1]["current"] == 110
    text(desk, "o.csv", "Debtors,0-30 days,31-60 days\nNorth,10,20\nSouth,30,40\n")
    assert desk.run("table", "o.csv", "--headings-are", "age").status == 0
    # 1.234 + 500 = 1.734 where the point comes with the thousands.
    text(desk, "b.csv", "Konto;Plan;Ist\nFuel;1.234;1.300\nCrew;500;400\nTotal;1.734;1.700\n")
    sides = ("--numbers", "comma", "--current", "Ist", "--base", "Plan")
    assert "row 4 'Total' is the sum of rows 2–3 and was left out" in desk.run("table", "b.csv", *sides).err
    # A row that is a total by its name, and that no arithmetic proves, is asked about: 1 + 3 = 4, and not 9.
    text(desk, "c.csv", "Konto;Plan;Ist\nFuel;1;2\nCrew;3;4\nTotal;9;9\n")
    message = desk.refused("table", "c.csv", "--current", "Ist", "--base", "Plan")
    assert "c.csv, row 4 'Total' is 9 in Plan, but Fuel + Crew come to 4: 5 more" in message
    # Beyond the first lines of a long file a category may be the total of the others.
    rows = [(f"2026-01-{1 + day % 9:02}", "North", 1) for day in range(6000)] + [("2026-01-09", "Total", 6000)]
    desk.write("d.csv", rows, ("date", "route", "net"))
    message = desk.refused("table", "d.csv", "--by", "route", *NONE)
    assert "'Total' is the sum of all others and would be counted twice" in message
    mended = shlex.split(message[message.index("--where") : message.index(", or")])
    assert desk.figures("table", "d.csv", "--by", "route", *NONE, *mended)["points"][-1]["current"] == 6000


def test_each_source_has_roles_of_its_own(desk: Desk) -> None:
    desk.write(
        "a.csv",
        [("2026-01-05", "Fuel", "7", "700"), ("2026-02-05", "Fuel", "5", "500")],
        ("day", "item", "net", "gross"),
    )
    text(desk, "b.csv", "Monat;Konto;Plan\n01/2026;fuel;-4,5\n02/2026;fuel;-6,0\n")
    desk.write("names.csv", [("fuel", "Fuel")], ("name", "shown"))
    words = ("table", "actual=a.csv", "plan=b.csv", "--amount", "actual=net", "--amount", "plan=Plan", "--by", "item")
    more = ("--by", "plan=Konto", "--date", "plan=Monat", "--source-sign", "plan=negative", "--name-map", "names.csv")
    found = desk.figures(*words, *more, "--for", "2026-01")
    # January alone: 7 against 4.5, turned to positive on reading.
    assert amounts(found) == {"Fuel": (7, Decimal("4.5")), "Total": (7, Decimal("4.5"))}
    assert found["source"]["name"] == "a.csv and b.csv"
    assert "--amount is given twice" in desk.refused(*words, "--amount", "net", "--amount", "gross")


def test_a_trace_of_what_is_new_of_the_total_and_of_a_wide_table(desk: Desk) -> None:
    words = ("trace", str(DEMO), "--by", "route", "--for", "2025", "--versus", "2024", "-q")
    new = desk.run(*words, "--at", "Merle–Finmouth").out
    assert "one side has no rows: new" in new and "No base" in new
    assert desk.run(*words, "--at", "Total", "-o", "t.json").status == 0
    trace = json.loads((desk.folder / "t.json").read_text(), parse_float=Decimal)
    assert trace["current"]["amount"] - trace["base"]["amount"] == trace["change"]
    assert (
        trace["current"]["rows"] == desk.figures("table", *words[1:-1])["source"]["rows_used"] - trace["base"]["rows"]
    )
    assert (
        desk.run("trace", str(DATA / "plan.xlsx"), "--by", "Account", "--at", "Fuel", *NONE, "-o", "p.json").status
        == 0
    )
    places = [row["place"] for row in json.loads((desk.folder / "p.json").read_text())["current"]["largest"]]
    assert places[0] == "plan.xlsx, sheet 'Budget 2026', cell J17"


def test_a_survey_finds_what_is_out_of_line(desk: Desk) -> None:
    days = [f"2026-01-{day:02}" for day in range(1, 31)]
    rows = [(day, "A", 100 + place % 7) for place, day in enumerate(days)] + [("2026-01-31", "A", 9_000)]
    desk.write("o.csv", rows, ("date", "route", "net"))
    # Row 32 of the file holds the one amount that is far from all others, whose median is 103.
    assert "9,000 is far from the usual 103 (row 32, 2026-01-31)" in " ".join(desk.run("survey", "o.csv").out.split())
    desk.write("empty.csv", [("2026-01-01", "A", "-")], ("date", "route", "net"))
    assert desk.refused("survey", "empty.csv", "-o", "s.txt").startswith("marvex: --output s.txt")
    assert "one by one" in desk.refused("survey", "a=o.csv", "b=empty.csv")


def test_a_long_workbook_is_the_table_that_its_text_is(desk: Desk) -> None:
    rows = [
        (date(2025 + place // 7_000, 1 + place % 12, 1 + place % 28), f"Route {place % 5}", place % 9_973 / 100)
        for place in range(14_000)
    ]
    rows[12_000:12_000] = [rows[0], rows[0]]
    headings = ("date", "route", "net")
    sheet(desk, "long.xlsx", [headings, *rows])
    desk.write("long.csv", [(day.isoformat(), route, f"{net:g}") for day, route, net in rows], headings)
    words = ("--by", "route", "--versus", "year-ago")
    assert amounts(desk.figures("table", "long.xlsx", *words)) == amounts(desk.figures("table", "long.csv", *words))
    surveys = []
    for name in ("long.xlsx", "long.csv"):
        assert desk.run("survey", name, "-o", "s.json").status == 0
        surveys.append(json.loads((desk.folder / "s.json").read_text()))
    # Row 2 stands again in rows 12,002 and 12,003, below the headings.
    assert surveys[0]["columns"] == surveys[1]["columns"]
    assert surveys[0]["duplicates"] == surveys[1]["duplicates"] == {"rows": 2, "place": "row 12002"}
    assert "no sheet 'Sheet 2'" in desk.refused("table", "long.xlsx", "--sheet", "Sheet 2", *words)
    (desk.folder / "broken.xlsx").write_bytes((desk.folder / "long.xlsx").read_bytes()[:200_000])
    assert desk.refused("survey", "broken.xlsx").startswith("marvex: broken.xlsx cannot be read")


ODS = """<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"
xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"
xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"
xmlns:calcext="urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0"><office:body><office:spreadsheet>
<table:table table:name="Sheet 1">{rows}</table:table></office:spreadsheet></office:body></office:document-content>"""
MANIFEST = '<manifest xmlns="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"></manifest>'
ERROR = 't="e"><v>#REF!</v></c>'
ODS_CELLS = {
    str: '<table:table-cell office:value-type="string"><text:p>{0}</text:p></table:table-cell>',
    int: '<table:table-cell office:value-type="float" office:value="{0}"><text:p>{0}</text:p></table:table-cell>',
    ValueError: '<table:table-cell office:value-type="string" office:string-value="" calcext:value-type="error">'
    "<text:p>{0}</text:p></table:table-cell>",
}


@pytest.mark.parametrize("long", [6, 20_000])
def test_a_cell_that_holds_an_error_is_not_taken_for_an_empty_one(desk: Desk, long: int) -> None:
    days = [(date(2026, 1 + place % 6, 1), "Merle", place) for place in range(long)]
    with xlsxwriter.Workbook(desk.folder / "broken.xlsx", {"default_date_format": "yyyy-mm-dd"}) as book:
        book.add_worksheet("Notes")
        page = book.add_worksheet("Ledger")
        for number, cells in enumerate((("date", "route", "net"), *days)):
            page.write_row(number, 1, cells)
        page.write_formula(4, 3, "=1/0", None, "#DIV/0!")
        page.write_formula(5, 3, "=NA()", None, "#N/A")  # as n/a, it says that there is nothing
    words = ("--by", "route", "--versus", "none")
    assert "cell D5: '#DIV/0!' is not a figure." in desk.refused("table", "broken.xlsx", *words)
    whole = desk.figures("table", "broken.xlsx", *words, "--bad-cells", "blank")
    assert amounts(whole)["Merle"][0] == sum(range(long)) - 3 - 4
    rows: list[tuple[Any, ...]] = [("date", "route", "net"), *((day.isoformat(), *rest) for day, *rest in days[:6])]
    rows[4] = (*rows[4][:2], ValueError("#REF!"))
    written = "".join(
        f"<table:table-row>{''.join(ODS_CELLS[type(one)].format(one) for one in row)}</table:table-row>"
        for row in rows
    )
    with zipfile.ZipFile(desk.folder / "broken.ods", "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("content.xml", ODS.format(rows=written))
        archive.writestr("META-INF/manifest.xml", MANIFEST)
    assert "cell C5: '#REF!' is not a figure." in desk.refused("table", "broken.ods", *words)


@pytest.mark.parametrize("error", ['t="e"><v>#REF!</v></c>', "t='e'><v>#REF!</v></c>", 't="e"/>', "prefixed"])
def test_an_error_is_found_however_the_workbook_is_written(desk: Desk, error: str) -> None:
    sheet(
        desk, "plain.xlsx", [("date", "route", "net"), *((date(2026, one, 1), "Merle", one) for one in range(1, 7))]
    )
    with zipfile.ZipFile(desk.folder / "plain.xlsx") as old, zipfile.ZipFile(desk.folder / "odd.xlsx", "w") as new:
        for name in old.namelist():
            content = old.read(name).decode()
            if name.endswith("sheet1.xml"):
                content = content.replace('"C4"><v>3</v></c>', f'"C4" {error if error[0] == "t" else ERROR}')
                if error == "prefixed":
                    content = re.sub(r"<(/?)(\w)", r"<\1x:\2", content).replace("xmlns=", "xmlns:x=", 1)
            new.writestr(name, content)
    words = ("odd.xlsx", "--by", "route", "--versus", "none")
    if error.endswith("/>"):  # it says nothing: a cell like an empty one, and not the next one's figure
        assert amounts(desk.figures("table", *words))["Merle"][0] == 21 - 3
    else:
        assert "cell C4: '#REF!' is not a figure." in desk.refused("table", *words)


def test_a_workbook_with_one_filled_sheet_says_what_that_lacks(desk: Desk) -> None:
    headings, row = ("date", "route", "net"), (date(2026, 1, 1), "Merle", 0)
    words = ("--by", "route", "--versus", "none")
    assert amounts(desk.figures("table", sheet(desk, "one.xlsx", [headings, row], []), *words))["Merle"] == (0, None)
    assert "has headings but no rows" in desk.refused("table", sheet(desk, "heads.xlsx", [headings]), *words)
    assert desk.refused("survey", sheet(desk, "none.xlsx", [])).startswith("marvex: none.xlsx is empty.")
    assert "sheet 'Sheet 2' is empty" in desk.refused("table", "one.xlsx", "--sheet", "Sheet 2", *words)


def test_a_sheet_starts_at_its_first_row_and_a_merged_cell_covers_the_rows_below(tmp_path: Path) -> None:
    path = tmp_path / "sheet.xlsx"
    with xlsxwriter.Workbook(path, {"default_date_format": "yyyy-mm-dd"}) as book:
        page = book.add_worksheet("Ledger")
        for number, value in ((2, 5), (3, True), (6, date(2026, 1, 5))):
            page.write(number, 1, value)
        page.merge_range(7, 1, 9, 1, "Merle")
        page.write(9, 2, "end")
    (found,) = sheets_of(path, "sheet.xlsx", None)
    rows = found.rows
    assert (found.title, {len(row) for row in rows}) == ("Ledger", {3})
    cells = ["", "", 5.0, True, "", "", date(2026, 1, 5), "Merle", "Merle", "Merle"]
    assert [row[1] for row in rows] == cells and rows[9][2] == "end"


def test_a_sheet_of_columns_reads_each_cell_by_itself_and_finds_its_far_total(desk: Desk) -> None:
    # Yes is not 1, a whole number is a code without a point, and the total stands far below the first rows.
    flags = (True, 1, "x", 2.5, 4010)
    rows = [(date(2026, 1 + place % 3, 1), "Merle", flags[place % 5], place / 4) for place in range(300)]
    assert sum(net for *_, net in rows) == 11212.5
    sheet(desk, "far.xlsx", [("date", "route", "flag", "net"), *rows, (None, "Total", None, 11212.5)])
    found = desk.run("table", "far.xlsx", "--by", "flag", "--figures", "f.json")
    assert "row 302 'Total' is the sum of rows 2–301 and was left out" in found.err
    points = by_label(json.loads((desk.folder / "f.json").read_text()))
    # Every fifth quarter: 0 + 5 + … + 295 = 60 · 147.5 = 8850 quarters, then 60 more with each step.
    assert {label: point["current"] for label, point in points.items()} == {
        "true": 2212.5,
        "1": 2227.5,
        "x": 2242.5,
        "2.5": 2257.5,
        "4010": 2272.5,
        "Total": 11212.5,
    }


@given(st.one_of(st.from_regex(one.pattern, fullmatch=True) for one in Convention))
def test_whatever_is_written_as_a_figure_is_taken_for_one(written_figure: str) -> None:
    assert is_figure(written_figure)


def test_months_are_read_in_the_languages_of_their_tables(desk: Desk) -> None:
    for place, names in enumerate(NAMES, 1):
        known = {
            name.casefold().strip(".")
            for language in LANGUAGES
            for width in ("wide", "abbreviated")
            for context in ("format", "stand-alone")
            for number, name in get_month_names(width, context, language).items()
            if number == place
        }
        assert set(names.split()) == {name for name in known if len(name) > 2} - OTHERWISE
    for text, day in (("15 de março de 2026", 15), ("15. Okt. 2026", 15), ("Mai 26", 1), ("2026 décembre", 1)):
        found = written(text)
        assert found is not None and (found.first.year, found.first.day) == (2026, day), text
    rows = [("Nord", 10, 12), ("Süd", 5, 4)]
    desk.write("m.csv", rows, ("Region", "März 2026", "Okt 2026"))
    found = desk.figures("table", "m.csv", "--by", "Region", "--for", "2026-10", "--versus", "2026-03")
    assert by_label(found)["Nord"]["change"] == 2
    assert "Okt. 2026" in desk.run("table", "m.csv", "--by", "Region", "--for", "2026-10", "--locale", "de_DE").out


def test_a_year_or_a_number_in_a_heading_may_be_an_amount_and_a_code_is_none(desk: Desk) -> None:
    for heading, is_code in {
        "account_code": True,
        "Year": True,
        "Posting month": True,
        "Ticket number": True,
        "Number of trips": False,
        "2026 Year": False,
        "Year to date": False,
        "This month": False,
    }.items():
        assert is_code_name(heading) is is_code, heading
    # The year beside its months is their sum, 10 + 20 + 40 and 5 + 6 + 7, and is left out and said.
    rows = [("North", 10, 20, 40, 70), ("South", 5, 6, 7, 18)]
    desk.write("y.csv", rows, ("Region", "Jan 2026", "Feb 2026", "Mar 2026", "2026 Year"))
    done = desk.run("survey", "y.csv", "-o", "y.json")
    (left_out,) = json.loads((desk.folder / "y.json").read_text())["left_out"]
    assert "'2026 Year' is the sum of columns" in left_out, done.err


def test_lines_that_are_a_part_of_the_one_above_are_left_out(desk: Desk) -> None:
    text(
        desk,
        "p.csv",
        "Item,Actual,Budget\nFuel,10234,8120\n of which diesel,7034,6020\nCrew,5111,6222\nTotal,15345,14342\n",
    )
    found = desk.figures("table", "p.csv")
    assert [(one["label"], one["current"]) for one in found["points"]] == [
        ("Fuel", 10234), ("Crew", 5111), ("Total", 15345)
    ]  # fmt: skip
    assert "row 3 'of which diesel' is a part of the line above it" in desk.run("table", "p.csv").err
    text(desk, "q.csv", "Item,Actual,Budget\nFuel,10234,8120\n of which diesel,7034,6020\nCrew,5111,6222\n")
    kept = desk.run("table", "q.csv", "--totals", "keep").out
    assert "22,379" in kept and "Added up with their own parts: of which diesel" in kept
    # A list is walked without it: 100 − 10 − 5; a ledger has no line above.
    text(desk, "w.csv", "Item,Amount\nOpening,100\nFuel,-10\ndavon Diesel,-7\nCrew,-5\nClosing,85\n")
    assert [one["end"] for one in desk.figures("draw", "waterfall", "w.csv", "-o", "w.svg")["points"]] == [
        100,
        90,
        85,
        85,
    ]
    text(desk, "d.csv", "date,line,net\n2025-01-01,Fuel,10\n2025-01-01,of which diesel,4\n2025-01-02,Crew,5\n")
    words = ("table", "d.csv", "--by", "line", "--versus", "none")
    assert "'of which diesel' is a part of another, as its name says" in desk.refused(*words)
    assert desk.figures(*words, "--where", "line!=of which diesel")["points"][-1]["current"] == 15


@pytest.mark.parametrize("month, to_date", [("Month", "YTD"), ("Oct", "year to date"), ("October", "Full year")])
def test_what_runs_to_date_is_not_added_to_its_month(desk: Desk, month: str, to_date: str) -> None:
    text(
        desk,
        "m.csv",
        f"Item,{month} Actual,{month} Budget,{to_date} Actual,{to_date} Budget\nFuel,10,8,100,90\nCrew,5,6,50,60\n",
    )
    total = desk.figures("table", "m.csv")["points"][-1]
    assert (total["current"], total["base"]) == (15, 14)
    words = ("--current", f"{to_date} Actual", "--base", f"{to_date} Budget")
    total = desk.figures("table", "m.csv", *words)["points"][-1]
    assert (total["current"], total["base"]) == (150, 150)


@pytest.mark.parametrize("headings", ["Item,Net,Net", "Item,Actual,Budget,Actual", "Item,Jan 2025,Feb 2025,Jan 2025"])
def test_a_heading_that_stands_twice_is_asked_about(desk: Desk, headings: str) -> None:
    row = ",".join("5" for _ in headings.split(",")[1:])
    text(desk, "t.csv", f"{headings}\nFuel,{row}\nCrew,{row}\n")
    assert "has two columns called" in desk.refused("table", "t.csv")
