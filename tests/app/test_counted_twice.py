"""What would count twice, or not belong together, though no name says so: each sheet made by hand."""

from __future__ import annotations

import json
import random
import sqlite3
import unicodedata
from datetime import date, timedelta
from decimal import Decimal

import duckdb
import pytest
import xlsxwriter

from conftest import Desk, by_label
from marvex.core.structure.running import runs_to_date

TABLE = ("Date", "Account", "Net")
TABLE_OF_ROUTES = ("Date", "Account", "Route", "Net")


def months(amounts: dict[str, int], *, years: tuple[int, ...] = (2025, 2026)) -> list[tuple[str, str, int]]:
    """Each account's amount in each of six months, a little more in every month."""
    rows = []
    for at, (year, month) in enumerate((year, month) for year in years for month in range(1, 7)):
        grown = {name: size * (97 + at * place) // 97 for place, (name, size) in enumerate(amounts.items(), 3)}
        rows += [(f"{year}-{month:02}-01", name, size) for name, size in grown.items()]
    return rows


def with_sums(rows: list[tuple[str, str, int]], sums: dict[str, tuple[str, ...]]) -> list[tuple[str, str, int]]:
    """The rows with those that are sums of others, before their parts."""
    found = []
    for day in dict.fromkeys(row[0] for row in rows):
        own = {name: net for its, name, net in rows if its == day}
        for name, net in own.items():
            found += [(day, of, sum(own[part] for part in parts)) for of, parts in sums.items() if name == parts[0]]
            found.append((day, name, net))
    return found


LEAVES = {"5110": 234567, "5120": 123456, "5200": 98765, "6000": 45678}
NAMED = {"Fares": 234567, "Cargo": 123456, "Fuel": 98765, "Wages": 45678, "Dues": 7777}


@pytest.mark.parametrize(
    ("amounts", "sums"),
    [(LEAVES, {"5000": ("5110", "5120", "5200"), "5100": ("5110", "5120")}),
     (NAMED, {"Ticket office": ("Fares", "Cargo"), "On board": ("Fuel", "Wages", "Dues")})],
)  # fmt: skip
def test_an_account_that_is_the_sum_of_others_is_not_added_up_with_them(
    desk: Desk, amounts: dict[str, int], sums: dict[str, tuple[str, ...]]
) -> None:
    leaves = months(amounts)
    rows = with_sums(leaves, sums)
    desk.write("l.csv", rows, TABLE)
    with sqlite3.connect(desk.folder / "l.db") as books:
        books.execute("CREATE TABLE l (Date TEXT, Account TEXT, Net INTEGER)")
        books.executemany("INSERT INTO l VALUES (?, ?, ?)", rows)
    calls = [("l.csv", *call) for call in ((), ("--by", "Account"), ("--every", "quarter"))]
    for call in (*calls, ("sqlite:///l.db", "--table", "l")):
        said = desk.refused("table", *call, "--for", "2026")
        assert all(one in said for one in sums) and "with their own parts, as their figures say" in said
    without = ("--where", f"Account!={','.join(sums)}", "--for", "2026")
    # Sums that only one of the scenarios of a file has are as wrong on its side.
    both = [(*row, "actual") for row in rows] + [(*row, "budget") for row in leaves]
    desk.write("s.csv", both, (*TABLE, "Scenario"))
    for sources in (("s.csv",), ("actual=s.csv", "budget=s.csv")):
        assert "as their figures say" in desk.refused("table", *sources, "--for", "2026")
    kept = by_label(desk.figures("table", "l.csv", "--by", "Account", *without))
    assert kept["Total"]["current"] == sum(net for day, _, net in leaves if day > "2026")
    assert "counts with" in desk.run("table", "l.csv", "--for", "2026", "--totals", "keep").err
    # What is off in one month is no sum.
    if amounts is NAMED:
        off = [(day, name, net + (name == "On board" and day == "2025-03-01")) for day, name, net in rows]
        desk.write("l.csv", [row for row in off if row[1] != "Ticket office"], TABLE)
        assert desk.run("table", "l.csv", "--for", "2026").status == 0


def test_three_months_of_small_figures_tell_a_sum_of_others_and_so_do_paths_and_outlines(desk: Desk) -> None:
    few = [("North", 512, 498, 541), ("South", 377, 402, 366), ("Quay", 129, 131, 118)]
    whole = ("Terminals", *(sum(one[at] for one in few[:2]) for at in (1, 2, 3)))
    rows = [(f"2026-0{at}-01", one[0], one[at]) for at in (1, 2, 3) for one in (whole, *few)]
    desk.write("l.csv", rows, TABLE)
    assert "--where 'Account!=Terminals'" in desk.refused("table", "l.csv")
    # Of one month they may meet by chance, but a path or an outline's number says it.
    one = [("1", "Terminals", "T", 8901), ("1.1", "North", "T:North", 5127), ("1.2", "South", "T:South", 3774)]
    desk.write("m.csv", [("2026-01-01", name, net) for _, name, _, net in one], TABLE)
    assert desk.run("table", "m.csv").status == 0
    desk.write("p.csv", [("2026-01-01", path, net) for _, _, path, net in one], TABLE)
    assert "'Account!=T'" in desk.refused("table", "p.csv")
    desk.write("w.csv", [("2026-01-01", at, name, net) for at, name, _, net in one], ("Date", "WBS", "Task", "Net"))
    assert "'WBS!=1'" in desk.refused("table", "w.csv")


def test_amounts_that_hold_those_of_the_months_before_are_running_totals(desk: Desk) -> None:
    chance = random.Random(7)
    wide: dict[str, list[int]] = {}
    for name in ("Fuel", "Wages", "Dues", "Rent"):
        added = [chance.randrange(600, 1400) for _ in range(18)]
        # Twelve months to the end of 2025, then six from the beginning.
        wide[name] = [sum(added[:n]) for n in range(1, 13)] + [sum(added[12:n]) for n in range(13, 19)]
    dates = [f"{2025 + at // 12}-{at % 12 + 1:02}" for at in range(18)]
    desk.write("l.csv", [(day, name, nets[at]) for name, nets in wide.items() for at, day in enumerate(dates)], TABLE)
    desk.write("w.csv", [(name, *nets) for name, nets in wide.items()], ("Account", *dates))
    for source in ("l.csv", "w.csv"):
        said = desk.refused("table", source)
        assert "holds those before it, as running totals do" in said and "--total-as closing" in said
        closing = desk.figures("table", source, "--by", "Account", "--total-as", "closing")
        assert by_label(closing)["Fuel"]["current"] == wide["Fuel"][-1]
        assert (closing["closing_date"], closing["base_closing_date"]) == ("2026-06-30", "2025-06-30")
        assert desk.run("table", source, "--total-as", "sum").status == 0
    # Fares that rise from winter to summer, and a firm that grows by a third each month, are no running totals.
    season = (100, 105, 130, 170, 240, 320, 450)
    assert not runs_to_date([{at: size * one for at, one in enumerate(season)} for size in (3, 5, 8, 2)])
    assert not runs_to_date([{at: size * 1.33**at for at in range(8)} for size in (3, 5, 8, 2)])


def test_counts_and_rates_are_not_added_up_with_money(desk: Desk) -> None:
    rows = [("Ticket revenue", 1000, 1100), ("Number of trips", 350, 360), ("Revenue per trip", 3, 3)]
    desk.write("k.csv", rows, ("Line", "2025", "2026"))
    desk.write("l.csv", [(f"2026-0{n}", name, net) for n in (1, 2) for name, net, _ in rows[:2]], TABLE)
    for source, column in (("k.csv", "Line"), ("l.csv", "Account")):
        said = desk.refused("table", source)
        assert "by name, and would be added up with 'Ticket revenue'" in said and f"{column}!=Number of trips" in said
        assert desk.run("table", source, "--where", f"{column}=Number of trips").status == 0
        assert desk.run("table", source, "--total-as", "sum").status == 0
    desk.write("p.csv", [("Foot", 1000, 5, 1100, 6)], ("Item", "Qty 2025", "Price 2025", "Qty 2026", "Price 2026"))
    assert "Price and Qty are unlike" in desk.refused("table", "p.csv")
    desk.write(
        "f.csv", [("Deck", 12, 13, 480, 540)], ("Department", "FTE 2025", "FTE 2026", "Salary 2025", "Salary 2026")
    )
    assert "FTE is a count or a rate" in (said := desk.refused("table", "f.csv"))
    assert "--amount 'Salary 2025,Salary 2026'" in said
    assert desk.figures("table", "f.csv", "--amount", "Salary 2025,Salary 2026")["points"][-1]["current"] == 540
    desk.write("m.csv", [("Revenue", 41, 43), ("Passengers", 5, 6)], ("KPI", "2025", "2026"))
    assert "each KPI is of something else" in desk.refused("table", "m.csv")
    desk.write("m.csv", [("Revenue", 41, 43), ("Passengers", 5, 6)], ("Line", "2025", "2026"))
    # How a source signs its amounts says nothing of what they are, nor that they are a plain list.
    for words in ((), ("--source-sign", "positive"), ("--statement", "none")):
        assert "Passengers is a count or a rate by name" in desk.refused("table", "m.csv", *words)
    desk.write("m.csv", [("Passengers", 41, 43), ("Cars", 5, 6)], ("Line", "2025", "2026"))
    assert by_label(desk.figures("table", "m.csv"))["Total"]["current"] == 49
    rows = [("2026-01-05", "Fares", "", 500, 1500), ("2026-01-12", "Fuel", 200, "", 1300)]
    desk.write("b.csv", rows, ("Date", "Text", "Debit", "Credit", "Balance"))
    assert "--amount 'Debit - Credit'" in desk.refused("table", "b.csv")
    desk.write("t.csv", [("A", "", 120, "", 131), ("B", 12, "", 13, "")],
               ("Name", "2025 Debit", "2025 Credit", "2026 Debit", "2026 Credit"))  # fmt: skip
    assert "--amount 'Debit - Credit'" in desk.refused("table", "t.csv")


def test_rows_of_no_day_are_told_under_what_leaves_them_out(desk: Desk) -> None:
    rows = [*months(NAMED), ("", "Fares", 400), ("", "Fuel", 12)]
    desk.write("l.csv", rows, TABLE)
    assert "2 rows without a date are in no window: 412 in all" in desk.run("table", "l.csv").out


def test_income_and_costs_are_not_added_up_along_time_or_by_something_else(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows = [
        (f"{year}-0{month}-01", account, kind, route, size)
        for year in (2025, 2026)
        for month in (1, 2)
        for route in ("North", "South")
        for account, kind, size in (("Revenue", "income", 500 + month), ("Fuel costs", "cost", 100))
    ]
    heads = ("Month", "Account", "Kind", "Route", "Net")
    desk.write("l.csv", rows, heads)
    for words in ((), ("--by", "Route"), ("--every", "month")):
        assert "'Revenue' is income and 'Fuel costs' a cost" in desk.refused("table", "l.csv", *words)
    assert desk.figures("table", "l.csv", "--where", "Account=Revenue")["matched"]["current"] == 2006
    for sign in ("positive", "credit", "negative"):  # which is what is wrong, and turns both
        assert "is income and" in desk.refused("table", "l.csv", "--source-sign", sign)
    assert desk.figures("table", "l.csv", "--statement", "none")["matched"]["current"] == 2406
    desk.write("n.csv", [(*row[:4], row[4] * (-1 if row[2] == "cost" else 1)) for row in rows], heads)
    assert desk.figures("table", "n.csv")["matched"]["current"] == 1606
    desk.write("p.csv", [(row[0], row[1], row[4]) for row in rows], ("Month", "Account", "Net"))
    for words in ((), ("--keep", "top:1"), ("--keep", "top:1,alone")):  # also of what Other holds
        assert "'Revenue' is income and" in desk.refused("table", "p.csv", "--by", "Account", *words)
    # Where names say nothing, a column of kinds does.
    desk.write("k.csv", [(row[0], row[1][0], *row[2:]) for row in rows], heads)
    assert "'income' is income and 'cost' a cost" in desk.refused("table", "k.csv")
    told = desk.run("survey", "l.csv").out
    assert "marvex begin l.csv --write statement --account Account -o statement.toml" in told
    # Rows without dates, or too many to ask about all of them, are told by the first.
    desk.write("u.csv", [row[1:] for row in rows], heads[1:])
    assert "'Revenue' is income and 'Fuel costs' a cost" in desk.refused("table", "u.csv", "--by", "Route")
    monkeypatch.setattr("marvex.sources.engine.doubtful_rows._FEW_ROWS", 3)
    assert "'Revenue' is income and 'Fuel costs' a cost" in desk.refused("table", "l.csv")
    assert desk.figures("table", "n.csv")["matched"]["current"] == 1606
    desk.write(
        "p.csv", [(row[0], row[1].replace("Fuel costs", "Passengers"), *row[3:]) for row in rows], TABLE_OF_ROUTES
    )
    assert "Passengers is a count or a rate by name" in desk.refused("table", "p.csv")


def test_a_month_that_is_there_twice_is_told(desk: Desk) -> None:
    rows = [(day, name, net) for day, name, net in months(NAMED)]
    more = [(day, name, net + 1) for day, name, net in rows]
    march = [row for row in (*rows, *more) if row[0] == "2026-03-01"]
    desk.write("l.csv", [*rows, *more, *march], TABLE)
    told = "20 rows of 2026-03 are the same as another, as if they had been loaded twice"
    assert f"caution: l.csv: {told}" in desk.run("table", "l.csv").err
    # It stands under all that shows the month, and under nothing that does not.
    for window, is_shown in (("2026-03", True), ("2026-Q1", True), ("2026-02", False)):
        words = ("l.csv", "--by", "Account", "--for", window, "--versus", "none")
        assert not desk.run("draw", "against", *words, "-o", "p.svg").status
        written = (desk.folder / "p.svg").read_text()
        for shown in (written, desk.run("table", *words).out, desk.run("commentary", *words).out):
            assert (told in shown) is is_shown, window
    desk.write("l.csv", [row for row in (*rows, *more) for _ in "ab"], TABLE)
    assert "every row is there twice" in desk.run("table", "l.csv").err
    # Tickets of one price on one day are alike in every month.
    desk.write("l.csv", [(day, "Fares", 12) for day, *_ in rows], TABLE)
    assert "twice" not in desk.run("table", "l.csv").err


def test_names_that_a_reader_takes_for_one_are_told(desk: Desk) -> None:
    pairs = [("0410", "410"), ("Île Verte", unicodedata.normalize("NFD", "Île Verte")), ("Port dues", "Port-dues")]
    desk.write("a.csv", [(one, 10) for one, _ in pairs], ("Account", "Net"))
    desk.write("b.csv", [(other, 10) for _, other in pairs], ("Account", "Net"))
    said = desk.run("table", "actual=a.csv", "budget=b.csv").err
    for what in ("leading zeros", "signs that are not seen", "marks between words"):
        assert f"are alike but for {what}, and were kept apart: --name-map FILE" in said


def test_a_pivot_table_is_read_with_the_names_that_it_does_not_repeat(desk: Desk) -> None:
    rows: list[tuple[object, ...]] = [
        ("North", "A", "Fares", 1010, 1120), ("", "", "Cargo", 301, 320), ("", "A Total", "", 1311, 1440),
        ("", "B", "Fares", 2010, 2120), ("", "", "Cargo", 401, 420), ("", "B Total", "", 2411, 2540),
        ("North Total", "", "", 3722, 3980), ("South", "C", "Fares", 777, 787), ("", "", "Cargo", 101, 102),
        ("", "C Total", "", 878, 889), ("South Total", "", "", 878, 889), ("Grand Total", "", "", 4600, 4869),
    ]  # fmt: skip
    for name, off in (("p.xlsx", 0), ("q.xlsx", 1)):
        with xlsxwriter.Workbook(desk.folder / name) as book:
            sheet = book.add_worksheet()
            sheet.write_row(0, 0, ("Region", "Route", "Kind", "2025", "2026"))
            for at, row in enumerate(rows, 1):
                sheet.write_row(at, 0, row if at != 7 else (*row[:3], 3722 + 40 * off, 3980))
    for by, first in (("Region", ("North", 3980, 3722)), ("Route", ("B", 2540, 2411)), ("Kind", ("Cargo", 842, 803))):
        found = by_label(desk.figures("table", "p.xlsx", "--by", by))
        assert (found[first[0]]["current"], found[first[0]]["base"]) == first[1:]
        assert (found["Total"]["current"], found["Total"]["base"]) == (4869, 4600)
    assert "an empty Region goes on with the one above it (4 rows)" in desk.run("table", "p.xlsx", "--by", "Kind").err
    desk.refused("table", "q.xlsx", "--by", "Region")  # one of its totals is wrong
    dated = [("2026-01-31", "Fuel", 20), ("", "Crew", 40), ("2026-02-28", "Fuel", 6), ("", "Crew", 8)]
    desk.write("d.csv", dated, TABLE)
    assert by_label(desk.figures("table", "d.csv", "--by", "Account"))["Crew"]["current"] == 48
    # A name that is not known among many is no group's.
    names = ("Fuel", "", "Crew", "Rent", "Dues", "Ice", "Rope", "Oil")
    desk.write("u.csv", [("2026-01-31", one, 5) for one in names], TABLE)
    assert by_label(desk.figures("table", "u.csv", "--by", "Account"))["(none)"]["current"] == 5


def test_the_letter_behind_a_year_is_its_scenario(desk: Desk) -> None:
    desk.write("m.csv", [("Fuel", 100, 90, 110), ("Crew", 50, 55, 60)], ("Account", "2025A", "FY26A", "2026B"))
    found = by_label(desk.figures("table", "m.csv"))
    assert (found["Fuel"]["current"], found["Fuel"]["base"]) == (90, 110)
    desk.write("e.csv", [("Fuel", 100, 90), ("Crew", 50, 55)], ("Account", "2025A", "2026E"))
    found = by_label(desk.figures("table", "e.csv", "--for", "2026", "--of", "estimate"))
    assert (found["Crew"]["current"], found["Crew"]["base"]) == (55, 50)


def test_credits_that_are_stored_as_positive_lower_a_sum(desk: Desk) -> None:
    rows = [
        ("2026-01-05", "D", "100"),
        ("2026-01-09", "C", "40"),
        ("2026-02-09", "C", "(5)"),
        ("2026-02-10", "C", "50.5"),
    ]
    rows += [("2026-02-05", "C", "1")] * 9
    desk.write("l.csv", rows, ("Date", "D/C", "Net"))
    desk.write("n.csv", [(day, "Invoice" if side == "D" else "Credit note", net) for day, side, net in rows],
               ("Date", "Document type", "Net"))  # fmt: skip
    duckdb.sql(f"COPY (SELECT * REPLACE (abs(replace(replace(Net, '(', '-'), ')', '')::DECIMAL(9, 2)) AS Net) FROM "
               f"'{desk.folder / 'l.csv'}') TO '{desk.folder / 'l.parquet'}'")  # fmt: skip
    # 100 − 40 + 5 (a credit that was taken back) − 50.5 − 9 × 1; in Parquet without a sign that is −5.
    for source, total in (("l.csv", "5.5"), ("n.csv", "5.5"), ("l.parquet", "-4.5")):
        assert desk.figures("table", source, "--verify")["points"][-1]["current"] == Decimal(total)
    assert "count as negative where D/C is C" in desk.run("table", "l.csv").err
    # The nine of 1 are rows 6 to 14 of the file.
    surveyed = " ".join(desk.run("survey", "l.csv").out.split())
    assert "8 rows are the same as an earlier one, the first at row 7" in surveyed
    # What is signed already stays; a deck is no side of a ledger.
    signed = [("2026-01-05", "D", 100), ("2026-01-09", "C", -40)]
    desk.write("s.csv", signed, ("Date", "D/C", "Net"))
    desk.write("d.csv", [(day, side, abs(net)) for day, side, net in signed], ("Date", "Deck", "Net"))
    for source, total in (("s.csv", 60), ("d.csv", 140)):
        assert desk.figures("table", source)["points"][-1]["current"] == total
    desk.write("m.csv", [*signed, ("2026-01-10", "C", 7)], ("Date", "D/C", "Net"))
    assert "1 are negative and 1 positive" in desk.refused("table", "m.csv")
    with sqlite3.connect(desk.folder / "l.db") as books:
        books.execute('CREATE TABLE l (Date TEXT, "D/C" TEXT, Net INTEGER)')
        books.executemany("INSERT INTO l VALUES (?, ?, ?)", [(day, side, abs(net)) for day, side, net in signed])
    assert "credits would be added to debits" in desk.refused("table", "sqlite:///l.db", "--table", "l")


def test_balances_among_movements_and_dates_that_are_none(desk: Desk) -> None:
    rows = [
        ("2026-01-01", "Opening balance", 1000),
        ("2026-01-05", "Receipt", 100),
        ("2026-01-31", "Balance c/f", 1100),
    ]
    desk.write("l.csv", rows, ("Date", "Text", "Net"))
    said = desk.refused("table", "l.csv")
    assert "--where 'Text!=Balance c/f,Opening balance'" in said
    assert desk.figures("table", "l.csv", "--where", "Text=Receipt")["points"][-1]["current"] == 100
    desk.write("l.csv", [("1900-01-01", "Fuel", 500), ("2026-01-01", "Fuel", 9), ("2026-01-02", "Fuel", 9)], TABLE)
    assert "'1900-01-01' is 126 years before the next date" in desk.run("table", "l.csv", "--for", "2026").err


def test_lists_in_two_files_are_compared_by_their_names(desk: Desk) -> None:
    desk.write("a.csv", [("Fuel", 10), ("Crew", 20)], ("Item", "Net"))
    desk.write("b.csv", [("Crew", 21), ("Rent", 3), ("Fuel", 11)], ("Item", "Net"))
    found = by_label(desk.figures("table", "actual=a.csv", "budget=b.csv"))
    assert {name: (one["current"], one["base"]) for name, one in found.items()} == {
        "Fuel": (10, 11), "Crew": (20, 21), "Rent": (0, 3), "Total": (30, 35)}  # fmt: skip
    # A sheet of months and a ledger, by what names the rows of the sheet.
    desk.write("w.csv", [("Fuel", 10, 12), ("Crew", 20, 20)], ("Item", "Jan 2026", "Feb 2026"))
    ledger = [(f"2026-0{n}", name, net) for n in (1, 2) for name, net in (("Crew", 21), ("Fuel", 13))]
    desk.write("l.csv", ledger, ("Month", "item", "Net"))
    found = by_label(desk.figures("table", "actual=w.csv", "budget=l.csv"))
    assert (found["Fuel"]["current"], found["Fuel"]["base"]) == (22, 26)


def test_a_statement_is_begun_from_whatever_says_what_is_a_cost(desk: Desk) -> None:
    rows = [(4000, "Fares", "income", 100), (4100, "Freight", "income", 20), (5000, "Fuel", "cost", 70)]
    desk.write("k.csv", rows, ("code", "name", "kind", "net"))
    desk.write("l.csv", [(code, net) for code, _, _, net in rows], ("code", "net"))
    desk.write("a.csv", [(code, name, kind) for code, name, kind, _ in rows], ("code", "name", "kind"))
    for words, begun in (
        (("k.csv", "--by", "name"), ("k.csv", "--write", "statement", "--account", "code")),
        (("l.csv", "--lookup", "a.csv", "--by", "kind"), ("a.csv", "--write", "statement")),
    ):
        assert f"marvex begin {' '.join(begun)} writes" in desk.refused("table", *words)
        desk.run("begin", *begun, "-o", "s.toml", "--overwrite")
        assert by_label(desk.figures("table", words[0], "--statement", "s.toml"))["Result"]["current"] == 50
    # Where an account is of several names, none of them is its label.
    desk.run("begin", "k.csv", "--write", "statement", "--account", "kind", "-o", "s.toml", "--overwrite")
    found = by_label(desk.figures("table", "k.csv", "--statement", "s.toml", "--account", "kind"))
    assert found["income"]["current"] == 120 and found["Fuel"]["current"] == 70


def test_a_budget_of_a_year_is_not_set_against_a_month(desk: Desk) -> None:
    desk.write(
        "w.csv", [("Fuel", 10, 12, 132), ("Crew", 20, 20, 240)], ("Item", "Jan 2026", "Feb 2026", "Budget 2026")
    )
    desk.write("a.csv", [("Fuel", 10, 12), ("Crew", 20, 20)], ("Item", "Jan 2026", "Feb 2026"))
    desk.write("b.csv", [("Fuel", 2026, 132), ("Crew", 2026, 240)], ("Item", "Year", "Net"))
    for sources in (("w.csv",), ("actual=a.csv", "budget=b.csv")):
        assert "udget is kept by year, and no whole year lies in" in desk.refused("table", *sources, "--by", "Item")
        spread = by_label(desk.figures("table", *sources, "--by", "Item", "--spread", "even"))
        assert (spread["Fuel"]["current"], spread["Fuel"]["base"]) == (22, 22)
    # A quarter's is one of a quarter.
    desk.write("q.csv", [("Fuel", 10, 12, 13, 33)], ("Item", "Jan 2026", "Feb 2026", "Mar 2026", "Q1 2026 Budget"))
    found = by_label(desk.figures("table", "q.csv", "--by", "Item"))
    assert (found["Fuel"]["current"], found["Fuel"]["base"]) == (35, 33)


def test_rows_without_a_scenario_beside_a_budget_are_actual(desk: Desk) -> None:
    rows = [("2026-01", "", 100), ("2026-02", "", 110), ("2026-01", "Budget", 90), ("2026-02", "Budget", 95)]
    desk.write("l.csv", rows, ("Month", "Scenario", "Net"))
    total = desk.figures("table", "l.csv", "--verify")["points"][-1]
    assert (total["current"], total["base"]) == (210, 185)
    assert "rows without a Scenario are taken as actual" in desk.run("table", "l.csv").err
    desk.write("l.csv", [*rows, ("2026-01", "Actual", 1)], ("Month", "Scenario", "Net"))
    assert desk.figures("table", "l.csv", "--for", "2026-01")["points"][-1]["current"] == 1


def test_a_survey_and_a_pack_go_on_where_a_table_stops(desk: Desk) -> None:
    rows = with_sums(months(NAMED), {"Ticket office": ("Fares", "Cargo")})
    desk.write("l.csv", rows, TABLE)
    desk.write(
        "w.csv", [("Fuel", 10, 12, 132), ("Crew", 20, 20, 240)], ("Item", "Jan 2026", "Feb 2026", "Budget 2026")
    )
    for source, key in (("l.csv", 'where = "Account!=Ticket office"'), ("w.csv", 'spread = "even"')):
        assert "taken here with --" in " ".join(desk.run("survey", source).out.split())
        assert desk.run("begin", source, "-o", "p.toml", "--overwrite").status == 0
        assert key in (desk.folder / "p.toml").read_text()
        assert desk.run("pack", "p.toml", "--only", "table").status == 0


def test_a_heading_of_several_months_is_no_month_and_a_sheet_of_one_month_no_year(desk: Desk) -> None:
    for now, then in (("2026 YTD", "2025 YTD"), ("LTM Oct 2026", "LTM Oct 2025"), ("9M 2026", "9M 2025")):
        desk.write("y.csv", [("Fuel", 1200, 900, 850), ("Crew", 2400, 1800, 1700)], ("Line", "FY 2025", now, then))
        assert f"--current '{now}' --base '{then}'" in desk.refused("table", "y.csv")
        sides = desk.figures("table", "y.csv", "--current", now, "--base", then)
        assert (sides["points"][-1]["current"], sides["points"][-1]["base"]) == (2700, 2550)
    desk.write("y.csv", [("Fuel", 900, 850), ("Crew", 1800, 1700)], ("Line", "YTD Oct 2026", "YTD Oct 2025"))
    assert desk.figures("table", "y.csv")["current"]["label"] == "Jan–Oct 2026"
    desk.write("m.csv", [("Fuel", 90, 85), ("Crew", 180, 170)], ("Line", "Oct 2026", "Oct 2025"))
    found = desk.figures("table", "m.csv")
    assert (found["current"]["label"], found["base"]["label"]) == ("Oct 2026", "Oct 2025")
    # Where January has rows a year before, the year so far is what was asked about.
    desk.write("m.csv", [("Fuel", 90, 85, 7), ("Crew", 180, 170, 7)], ("Line", "Oct 2026", "Oct 2025", "Jan 2025"))
    assert desk.figures("table", "m.csv")["current"]["label"] == "Jan–Oct 2026"
    desk.write("h.csv", [("Fuel", 6, 5, 12), ("Crew", 7, 7, 15)], ("Line", "H1 2026", "H1 2025", "2025"))
    assert "--amount 'H1 2026,H1 2025'" in desk.refused("table", "h.csv")


def test_one_posting_a_month_on_its_last_working_day_is_of_the_month(desk: Desk) -> None:
    rows = []
    for year, last in ((2025, 12), (2026, 5)):
        for month in range(1, last + 1):
            day = date(year + month // 12, month % 12 + 1, 1) - timedelta(1)
            day -= timedelta(max(0, day.weekday() - 4))
            rows.append((str(day), "Fuel", 100))
    desk.write("l.csv", rows, TABLE)
    # 29 May 2026 is a Friday; in 2025 it was 30 May, which is later in the year.
    found = desk.figures("table", "l.csv", "--by", "Account")
    assert (found["current"]["label"], found["points"][-1]["base"]) == ("Jan–May 2026", 500)
    assert desk.figures("table", "l.csv", "--by", "Account", "--for", "latest")["current"]["label"] == "May 2026"


def test_rows_that_a_status_calls_void_are_told(desk: Desk) -> None:
    desk.write("l.csv", [("2026-01-05", "Posted", 10), ("2026-01-06", "Cancelled", 7)], ("Date", "Status", "Net"))
    assert "--where 'Status!=Cancelled' leaves them out" in desk.run("table", "l.csv").err
    assert "leaves them out" not in desk.run("table", "l.csv", "--where", "Status=Posted").err
    desk.write(
        "e.csv", [("2026-01-05", "1.23457E+11", 10), ("2026-01-06", "1.23457E+11", 7)], ("Date", "Code", "Net")
    )
    assert "cells of Code such as '1.23457E+11' have lost their last digits" in desk.run("table", "e.csv").err


def test_columns_of_tickets_and_of_revenue_are_not_added_up(desk: Desk) -> None:
    headings = ("Route", "Tickets 2025", "Tickets 2026", "Revenue 2025", "Revenue 2026")
    desk.write("t.csv", [("A", 10, 12, 100, 130), ("B", 5, 6, 50, 66)], headings)
    for call in ((), ("--by", "Route"), ("--headings-are", "what", "--by", "what")):
        said = desk.refused("table", "t.csv", *call)
        assert "Tickets and Revenue are unlike" in said and "--amount 'Revenue 2025,Revenue 2026'" in said
    found = desk.figures("table", "t.csv", "--amount", "Tickets 2025,Tickets 2026")["points"][-1]
    assert (found["current"], found["base"]) == (18, 15)
    desk.write(
        "n.csv",
        [("A", 10, 12, 100, 130)],
        [one.replace("Tickets", "North").replace("Revenue", "South") for one in headings],
    )
    assert desk.run("table", "n.csv").status == 0


def test_two_tables_side_by_side_are_not_one(desk: Desk) -> None:
    left = [("Account", "2025", "2026"), ("Fuel", 100, 110), ("Crew", 200, 210)]
    right = [("Route", "2023", "2024"), ("North", 70, 80), ("South", 230, 250)]
    with xlsxwriter.Workbook(desk.folder / "s.xlsx") as book:
        sheet = book.add_worksheet()
        for at, rows in enumerate(zip(left, right, strict=True)):
            sheet.write_row(at, 0, (*rows[0], "", *rows[1]))
    said = desk.refused("table", "s.xlsx")
    assert "another table stands beside the first, from column E ('Route')" in said and "--cells A1:C3" in said
    assert desk.figures("table", "s.xlsx", "--cells", "E1:G3")["points"][-1]["current"] == 330


def test_a_row_of_variances_beside_both_sides_is_of_neither(desk: Desk) -> None:
    rows = [("Actual", 100, 200), ("Budget", 90, 210), ("Prior year", 80, 190), ("Var vs budget", 10, -10)]
    desk.write("c.csv", [*rows, ("Var %", "11%", "-5%")], ("Metric", "Jan 2026", "Feb 2026"))
    total = desk.figures("table", "c.csv")["points"][-1]
    assert (total["current"], total["base"]) == (300, 300)


def test_the_two_sides_of_a_balance_sheet_and_rates_by_year_are_not_added_up(desk: Desk) -> None:
    rows = [("Cash", 100, 120), ("Debtors", 50, 60), ("Total assets", 150, 180)]
    rows += [("Creditors", 70, 90), ("Equity", 80, 90), ("Total liabilities and equity", 150, 180)]
    desk.write("b.csv", rows, ("Item", "2025", "2026"))
    found = by_label(desk.figures("table", "b.csv"))
    assert (found["Total assets"]["current"], found["Total liabilities and equity"]["current"]) == (180, 180)
    assert "Total" not in found
    for what, way in (
        ("Load factor", "--total-as mean"),
        ("Average fare", "--total-as mean"),
        ("Headcount", "closing"),
    ):
        periods = ("Jan 2026", "Feb 2026") if what == "Headcount" else ("2025", "2026")
        desk.write("r.csv", [("A", 7, 8), ("B", 5, 6)], ("Route", *(f"{what} {one}" for one in periods)))
        assert way in desk.refused("table", "r.csv")


def test_of_two_budgets_side_by_side_none_is_taken_in_silence(desk: Desk) -> None:
    rows = [("Fuel", 100, 110, 105), ("Crew", 200, 190, 195)]
    desk.write("b.csv", rows, ("Item", "Budget", "Revised budget", "Actual"))
    assert "--current Actual --base 'Revised budget'" in desk.refused("table", "b.csv")
    found = desk.figures("table", "b.csv", "--current", "Actual", "--base", "Revised budget")["points"][0]
    assert (found["current"], found["base"]) == (105, 110)
    for second, said in (("Revised Budget", "against Budget, not Revised Budget"), ("", "against Budget v1")):
        named = [("Budget" if second else "Budget v1", 90), ("Actual", 100), *([(second, 95)] if second else [])]
        desk.write("l.csv", [("2026-01", name, net) for name, net in named], ("Month", "Scenario", "Net"))
        done = desk.run("table", "l.csv", "--figures", "f.json")
        assert said in done.err and json.loads((desk.folder / "f.json").read_text())["points"][-1]["base"] == 90
    rows = [("2026-01", name, 90) for name in ("Actual", "Budget v1", "Budget v2")]
    desk.write("l.csv", rows, ("Month", "Scenario", "Net"))
    assert "--versus 'Budget v2'" in desk.refused("table", "l.csv")


# Groups above their members: fares of two routes, cargo of one, wages of two grades within two departments.
OUTLINE = [
    ("Fares", 300145, 330478), ("North", 100045, 110178), ("South", 200100, 220300),
    ("Cargo", 50111, 60222), ("North", 50111, 60222),
    ("Wages", 421050, 401525), ("Deck", 121050, 121525), ("Crew", 100050, 100500), ("Masters", 21000, 21025),
    ("Shore", 300000, 280000), ("Crew", 200000, 190000), ("Office", 100000, 90000),
]  # fmt: skip
MEMBERS = {"North (Fares)": 110178, "South": 220300, "North (Cargo)": 60222, "Crew (Deck)": 100500, "Masters": 21025,
           "Crew (Shore)": 190000, "Office": 90000}  # fmt: skip
WHOLE = ("Grand Total", 771306, 792225)  # 330478 + 60222 + 401525


def test_the_groups_of_a_pasted_pivot_table_are_not_added_up_with_their_members(desk: Desk) -> None:
    # As a spreadsheet pastes it: the levels are gone, and only the figures still tell them.
    headings = ("Row Labels", "2025", "2026")
    desk.write("p.csv", OUTLINE, headings)
    points = by_label(desk.figures("table", "p.csv"))
    assert {name: one["current"] for name, one in points.items()} == {**MEMBERS, "Total": WHOLE[2]}
    desk.write("t.csv", [*OUTLINE, WHOLE], headings)
    assert by_label(desk.figures("table", "t.csv", "--statement", "none"))["Total"]["current"] == WHOLE[2]
    found = desk.figures("table", "t.csv")
    points = by_label(found)
    assert [points[name]["kind"] for name in ("Fares", "Cargo", "Deck", "Wages", "Grand Total")] == ["total"] * 5
    assert {name: points[name]["current"] for name in MEMBERS} == MEMBERS and found["headline"].startswith(
        "Grand Total"
    )
    # What is off by one is no group, and the grand total says so.
    off = [(name, net, now + (name == "Wages")) for name, net, now in (*OUTLINE, WHOLE)]
    desk.write("o.csv", off, headings)
    assert "'Grand Total'" in desk.refused("table", "o.csv")
    # Hundreds of groups whose members have the same few names, as those of facts have.
    names = [f"Berth {at:03}" for at in range(300)]
    many = [row for at, name in enumerate(names, 1) for row in ((name, at * 17), ("Fuel", at * 10), ("Dues", at * 7))]
    desk.write("m.csv", many, ("Row Labels", "2026"))
    assert by_label(desk.figures("table", "m.csv", "--keep", "top:3"))["Total"]["current"] == 17 * 300 * 301 // 2


def test_a_lone_line_that_is_the_sum_of_the_two_below_it_is_asked_about(desk: Desk) -> None:
    headings = ("Line", "2025", "2026")
    desk.write("l.csv", [*OUTLINE[:3], ("Cargo", 50113, 60220)], headings)
    said = desk.refused("table", "l.csv")
    assert "row 2 'Fares' is the sum of North and South below it" in said and "Line!=Fares" in said
    # 110178 + 220300 + 60220
    assert by_label(desk.figures("table", "l.csv", "--where", "Line!=Fares"))["Total"]["current"] == 390698
    # A group of one, set in below it, is no line of its own; an actual is no group of its budget and variance.
    rows = [("Fares", 33, 35), ("  North", 11, 12), ("  South", 22, 23), ("Cargo", 5, 6), ("  East", 5, 6)]
    desk.write("i.csv", rows, headings)
    assert by_label(desk.figures("table", "i.csv"))["Total"]["current"] == 41
    sides = [(f"{name} {side}", *row[1:]) for name in ("Fares", "Cargo")
             for side, row in zip(("actual", "budget", "variance"), OUTLINE[:3], strict=True)]  # fmt: skip
    desk.write("v.csv", sides, headings)
    said = desk.refused("table", "v.csv")
    assert "'Fares actual' and 'Fares budget' are sides of one amount by name" in said and "Line~*actual" in said
    kept = by_label(desk.figures("table", "v.csv", "--where", "Line~*actual"))
    assert [one["current"] for one in kept.values()] == [330478, 330478, 660956]


def test_numbered_groups_above_their_lines_make_a_statement_with_its_result(desk: Desk) -> None:
    lines = [("A. Income", 152345, 168901), ("1. Fares", 101234, 112345), ("2. Cargo", 51111, 56556),
             ("B. Costs", 91919, 100432), ("1. Fuel", 60808, 66321), ("2. Crew", 31111, 34111)]  # fmt: skip
    result = ("C. Result (A-B)", 60426, 68469)
    desk.write("s.csv", [*lines, result], ("Line", "2025", "2026"))
    names = ("Income", "Fares", "Cargo", "Costs", "Fuel", "Crew", "Result")
    codes = ("1", "1.1", "1.2", "2", "2.1", "2.2", "3")
    rows = [(code, name, *row[1:]) for code, name, row in zip(codes, names, [*lines, result], strict=True)]
    desk.write("c.csv", rows, ("Code", "Line", "2025", "2026"))
    for source, labels in (("s.csv", ("A. Income", "B. Costs", "C. Result (A-B)")), ("c.csv", names[0::3])):
        points = by_label(desk.figures("table", source))
        assert [points[label]["kind"] for label in labels] == ["total"] * 3 and points[labels[2]]["current"] == 68469
        assert [one["effect"] for one in points.values() if one["kind"] == "line"] == [11111, 5445, -5513, -3000]
    # A group of one line, and a gross profit that is what overheads and the profit below come to.
    more = [*lines[:3], ("Direct costs", 31111, 34111), ("Crew", 31111, 34111), ("Gross profit", 121234, 134790),
            ("Overheads", 91919, 100432), ("Rent", 60808, 66321), ("IT", 31111, 34111),
            ("Net profit", 29315, 34358)]  # fmt: skip
    for set_in in ("", "  "):
        heads = ("A. Income", "Direct costs", "Gross profit", "Overheads", "Net profit")
        desk.write(
            "g.csv",
            [(name if name in heads else set_in + name, *nets) for name, *nets in more],
            ("Line", "2025", "2026"),
        )
        points = by_label(desk.figures("table", "g.csv"))
        assert [points[name]["kind"] for name in heads] == ["total"] * 5 and points["Net profit"]["current"] == 34358
    # Where no name says that the last is a result, it is asked about: it would be added up with what it is left of.
    plain = [("Tickets", *lines[0][1:]), *lines[1:3], ("Running", *lines[3][1:]), *lines[4:], ("Left", *result[1:])]
    desk.write("s.csv", plain, ("Line", "2025", "2026"))
    assert "row 8 'Left' is Tickets − Running, and would count beside them" in desk.refused("table", "s.csv")


def test_the_totals_of_customers_are_not_added_up_with_their_invoices(desk: Desk) -> None:
    rows = [("Anne", 1001, 100), ("Anne", 1002, 50), ("Anne total", "", 150),
            ("Bert", 1003, 70), ("Bert total", "", 70), ("Grand total", "", 220)]  # fmt: skip
    desk.write("i.csv", rows, ("Customer", "Invoice", "Amount"))
    found = by_label(desk.figures("table", "i.csv", "--statement", "none", "--by", "Customer"))
    assert {name: one["current"] for name, one in found.items()} == {"Anne": 150, "Bert": 70, "Total": 220}
    assert by_label(desk.figures("table", "i.csv"))["Grand total"]["current"] == 220


# Of one company each, a row that is the sum of others marked with a star.
SHEETS = """
Account|Travel,90,95*|Travel:Air,40,35|Travel:Rail,50,60|Rent,70,90
Line|Fares,500,520*|- cars,200,210|- foot,300,310|Freight,100,90
Line|Fares,33,35*|  North,11,12|  South,22,23|Cargo,5,6*|  East,5,6
Route|10,97876,99105|40,54521,12441|35,54022,36734|TOTAL,206419,148280*
Project,Phase|Dock,Design,100,90|Dock,Build,500,560|Dock,,600,650*|Slip,Design,50,55|Slip,Build,250,240|Slip,,300,295*|,,900,945*
Item|Ferries,6010,6722|Harbour,1003,1211|Shops,2004,2210|,9017,10143*
""".strip().splitlines()


@pytest.mark.parametrize("sheet", SHEETS)
def test_what_each_company_has_is_added_up_as_its_own_sheet_is(desk: Desk, sheet: str) -> None:
    headings, *lines = (line.split(",") for line in sheet.split("|"))
    whole = {
        name: [[*line[:-2], *(str(int(one.strip("*")) * size) for one in line[-2:])] for line in lines]
        for name, size in (("Ostrey", 1), ("Skarn", 3))
    }
    counted = {
        name: sum(int(row[-1]) for row, line in zip(rows, lines, strict=True) if "*" not in line[-1])
        for name, rows in whole.items()
    }
    rows, heads = [(name, *row) for name, its in whole.items() for row in its], ("Company", *headings, "2025", "2026")
    desk.write("t.csv", rows, heads)
    for source in (["t.csv"], *(desk.keep(kind, rows, heads) for kind in ("parquet", "sqlite"))):
        for name, words in ((None, ()), *((one, ("--where", f"Company={one}")) for one in counted)):
            found = by_label(desk.figures("table", *source, *words))
            assert found["Total"]["current"] == (counted[name] if name else sum(counted.values()))
    found = by_label(desk.figures("table", "t.csv", "--by", "Company"))
    assert {name: found[name]["current"] for name in counted} == counted


@pytest.mark.parametrize("is_once", [True, False])
def test_a_statement_of_each_company_is_that_of_all(desk: Desk, is_once: bool) -> None:
    lines = ("Fares", "Freight", "Total income", "Fuel", "Crew", "Profit")
    ostrey = ((52010, 49870), (18300, 17220), (70310, 67090), (21940, 20555), (30115, 28410), (18255, 18125))
    skarn = ((33120, 31005), (9045, 9990), (42165, 40995), (12380, 11875), (17760, 18230), (12025, 10890))
    rows = [
        (company if at == 0 or not is_once else "", name, *figures)
        for company, its in (("Ostrey", ostrey), ("Skarn", skarn))
        for at, (name, figures) in enumerate(zip(lines, its, strict=True))
    ]
    desk.write("t.csv", rows, ("Company", "Line", "2026", "2025"))
    for words, profit in (((), (30280, 29015)), (("--where", "Company=Ostrey"), (18255, 18125))):
        found = by_label(desk.figures("table", "t.csv", *words))["Profit"]
        assert (found["current"], found["base"]) == profit
    assert "--where Line=Profit compares Profit alone" in desk.refused("table", "t.csv", "--by", "Company")
    found = by_label(desk.figures("table", "t.csv", "--by", "Company", "--where", "Line=Profit"))
    assert (found["Skarn"]["current"], found["Total"]["base"]) == (12025, 29015)
