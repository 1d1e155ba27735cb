"""A column whose few values say the same numbers in several versions or ways: never added up in silence."""

from __future__ import annotations

import random
import sqlite3
from collections.abc import Callable

import pytest
import xlsxwriter

from conftest import Desk, by_label

HEADINGS = ("Month", "Route", "Kind", "Net")
TABLE = ("Month", "Line", "Amount")
Rows = list[tuple[str, str, str, int]]


def ledger(values: list[str], amount: Callable[[int, str, int], int] = lambda own, _, __: own) -> Rows:
    """A row for each month of 2024 and 2025, route and value; `amount` is of the figure, the value and the month."""
    at_random = random.Random(7)
    return [
        (f"{year}-{month:02}", route, value, amount(own, value, month))
        for year in (2024, 2025)
        for month in range(1, 13)
        for route in ("North", "South")
        for own in [at_random.randint(1000, 9999)]
        for value in values
    ]


def added_up(rows: Rows, kind: str) -> int:
    return sum(net for month, _, its, net in rows if month.startswith("2025") and its == kind)


@pytest.mark.parametrize(
    ("current", "base", "also"),
    [("ACT", "BUD", []), ("Actuals", "BGT", []), ("FY Actual", "FY Budget", []), ("Act", "Fcst", []),
     ("Outturn", "Budget", []), ("Actual costs", "Planned costs", []), ("ACTUALS", "BUDGET", ["ENCUMBRANCE"]),
     ("ACT", "BUD", ["RF1", "RF2"]), ("Real", "Presupuesto", []), ("Actual", "LE", [])],
)  # fmt: skip
def test_short_and_long_names_of_scenarios_are_sides(desk: Desk, current: str, base: str, also: list[str]) -> None:
    names = [current, base, *also]
    rows = ledger(names, lambda own, value, _: own * (10 + names.index(value)) // 10)
    desk.write("l.csv", rows, HEADINGS)
    with sqlite3.connect(desk.folder / "l.db") as books:
        books.execute("CREATE TABLE l (Month TEXT, Route TEXT, Kind TEXT, Net INTEGER)")
        books.executemany("INSERT INTO l VALUES (?, ?, ?, ?)", rows)
    for source in (("l.csv",), ("sqlite:///l.db", "--table", "l")):
        told = by_label(desk.figures("table", *source, "--by", "Route", "--for", "2025"))["Total"]
        assert (told["current"], told["base"]) == (added_up(rows, current), added_up(rows, base))


@pytest.mark.parametrize("words", ["Menge Preis Umsatz", "Quantité Prix Ventes", "Zahl Tarif Summe7", "Q X Y"])
def test_a_quantity_its_price_and_their_product_are_not_added_up(desk: Desk, words: str) -> None:
    heads = ["Item", *(f"{one} {side}" for one in words.split() for side in ("Budget", "Actual"))]
    rows = [("Ferry", 100, 110, 10.00, 10.50, 1000, 1155), ("Freight", 50, 45, 20.00, 21.00, 1000, 945)]
    desk.write("q.csv", rows, heads)
    last = words.split()[-1]
    assert f"--amount '{last} Budget,{last} Actual'" in desk.refused("table", "q.csv")
    total = by_label(desk.figures("table", "q.csv", "--amount", f"{last} Budget,{last} Actual"))["Total"]
    assert (total["current"], total["base"]) == (2100, 2000)


@pytest.mark.parametrize("version", ["RF2", "8+4", "8+4 Forecast", "Board plan", "Forecast (8+4)"])
def test_a_version_across_is_a_side_that_can_be_named(desk: Desk, version: str) -> None:
    desk.write("v.csv", [("North", 100, 120, 130), ("South", 50, 40, 45)], ["Route", "Budget", version, "Actual"])
    for words, sides in (((), (175, 150)), (("--versus", version), (175, 160)), (("--of", version), (160, 150))):
        total = by_label(desk.figures("table", "v.csv", *words))["Total"]
        assert (total["current"], total["base"]) == sides
    desk.write(
        "y.csv", [("North", 100, 500, 130), ("South", 50, 700, 45)], ["Route", "Budget", "FY Budget", "Actual"]
    )
    assert "FY Budget" in desk.refused("table", "y.csv", "--versus", "FY Budget")  # of another span
    desk.write("p.csv", [("North", 100, 120, 90)], ["Route", "Budget 2026", f"{version} 2026", "Actual 2025"])
    if not version.endswith("plan"):
        total = by_label(desk.figures("table", "p.csv", "--of", version, "--for", "2026", "--versus", "Budget"))[
            "Total"
        ]
        assert (total["current"], total["base"]) == (120, 100)


def test_versions_one_after_the_other_in_a_long_table_are_seen_or_asked_about(desk: Desk) -> None:
    rows = [(f"2025-{at % 12 + 1:02}", "North", "ACT", at) for at in range(3000)]
    rows += [(month, route, "BUD", net + 1) for month, route, _, net in rows]
    desk.write("l.csv", rows, HEADINGS)
    with sqlite3.connect(desk.folder / "l.db") as books:  # of which the first rows alone are looked at
        books.execute("CREATE TABLE l (Month TEXT, Route TEXT, Kind TEXT, Net NUMERIC)")
        books.executemany("INSERT INTO l VALUES (?, ?, ?, ?)", rows)
    stored = ("sqlite:///l.db", "--table", "l")
    assert "--scenario Kind" in desk.refused("table", *stored)
    for source in (("l.csv",), (*stored, "--scenario", "Kind")):
        total = by_label(desk.figures("table", *source, "--by", "Route"))["Total"]
        assert (total["current"], total["base"]) == (4_498_500, 4_501_500)  # 0 + … + 2999, and 1 more for each


def test_of_several_budgets_one_is_asked_for_and_a_starter_pack_takes_one(desk: Desk) -> None:
    desk.write("l.csv", ledger(["Actual", "Original budget", "Revised budget"]), HEADINGS)
    outcome = desk.run("table", "l.csv", "--by", "Route")
    assert outcome.status == 2 and "--versus 'Revised budget'" in outcome.err
    begun = desk.run("begin", "l.csv", "-o", "p.toml")
    assert begun.status == 0 and 'taken here with versus = "Revised budget"' in begun.err
    assert 'versus = "Revised budget"' in (desk.folder / "p.toml").read_text()
    desk.write("u.csv", [("North", "1.234", "1.301"), ("South", "2.100", "2.345")], ("Route", "2025", "2026"))
    assert "'1.234' and all others could have" in desk.run("begin", "u.csv", "-o", "u.toml").err


@pytest.mark.parametrize("heads", [("Act", "Bud"), ("Act", "Fcst", "Var"), ("Jan-25 Act", "Jan-25 Bud")])
def test_short_headings_are_sides(desk: Desk, heads: tuple[str, ...]) -> None:
    desk.write(
        "l.csv", [("North", *(70, 50, 20)[: len(heads)]), ("South", *(5, 9, -4)[: len(heads)])], ("Route", *heads)
    )
    points = by_label(desk.figures("table", "l.csv"))
    assert (points["North"]["current"], points["North"]["base"]) == (70, 50)
    assert (points["Total"]["current"], points["Total"]["base"]) == (75, 59)


@pytest.mark.parametrize("month", ["", "Jan-25 "])
def test_a_budget_goes_before_the_year_before_and_of_two_one_is_asked_for(desk: Desk, month: str) -> None:
    desk.write(
        "l.csv",
        [("North", 70, 50, 60), ("South", 5, 9, 8)],
        ("Route", *(month + one for one in ("Act", "Bud", "PY"))),
    )
    assert by_label(desk.figures("table", "l.csv"))["Total"]["base"] == 59
    heads = (month + one for one in ("Actual", "Original budget", "Revised budget"))
    desk.write("l.csv", [("North", 70, 50, 60), ("South", 5, 9, 8)], ("Route", *heads))
    assert "--versus 'Revised budget'" in desk.refused("table", "l.csv")
    assert by_label(desk.figures("table", "l.csv", "--versus", "Revised budget"))["Total"]["base"] == 68


def test_sheets_with_short_names_are_not_added_up(desk: Desk) -> None:
    book = xlsxwriter.Workbook(desk.folder / "b.xlsx")
    for title, factor in (("ACT", 2), ("BUD", 1)):
        sheet = book.add_worksheet(title)
        for at, row in enumerate([("Route", "Net"), ("North", 10 * factor), ("South", 7 * factor)]):
            sheet.write_row(at, 0, row)
    book.close()
    total = by_label(desk.figures("table", "b.xlsx", "--sheet", "ACT,BUD"))["Total"]
    assert (total["current"], total["base"]) == (34, 17)


def to_date(own: int, value: str, month: int) -> int:
    return own * month if value in ("YTD", "Cumulative") else own


@pytest.mark.parametrize(
    ("column", "values", "amount"),
    [("Period type", ["MTD", "YTD"], to_date), ("View", ["Periodic", "Cumulative"], to_date),
     ("Currency type", ["Local", "Group"], lambda own, value, _: own * 2 if value == "Local" else own),
     ("Ledger", ["IFRS", "Local GAAP"], lambda own, value, _: own - 9 * (value == "IFRS")),
     ("Basis", ["Reported", "Constant currency"], lambda own, value, _: own - 9 * (value == "Reported")),
     ("Type", ["Amount", "Quantity"], lambda own, value, _: own // 9 if value == "Quantity" else own),
     ("Flow", ["Opening", "Movement", "Closing"], lambda own, value, _: own - 3 * len(value)),
     ("Price", ["Net", "Gross", "Tax"], lambda own, value, _: own - 3 * len(value)),
     ("Round", ["BP2", "BP1"], lambda own, value, _: own - int(value[-1])),
     ("Type", ["Actual", "Commitment"], lambda own, value, _: own - 3 * len(value)),
     ("Extract", ["E2", "E1"], lambda own, value, _: own - int(value[-1])),
     ("is_budget", ["0", "1"], lambda own, value, _: own + 7 * int(value)),
     ("Total flag", ["N", "Y"], lambda own, value, _: own * 2 if value == "Y" else own),
     ("Load", ["first", "second"], lambda own, _, __: own)],
)  # fmt: skip
def test_the_same_numbers_in_several_ways_stop_until_one_is_kept(
    desk: Desk, column: str, values: list[str], amount: Callable[[int, str, int], int]
) -> None:
    rows = ledger(values, amount)
    desk.write("l.csv", rows, ("Month", "Route", column, "Net"))
    for call in (("--by", "Route"), ("--every", "month"), ("--by", "Route", "--for", "2025")):
        outcome = desk.run("table", "l.csv", *call)
        assert outcome.status == 2 and "--total-as sum adds" in outcome.err, outcome.err
    kept = by_label(
        desk.figures("table", "l.csv", "--by", "Route", "--for", "2025", "--where", f"{column}={values[0]}")
    )
    assert kept["Total"]["current"] == added_up(rows, values[0])
    both = by_label(desk.figures("table", "l.csv", "--by", "Route", "--for", "2025", "--total-as", "sum"))
    assert both["Total"]["current"] == sum(added_up(rows, value) for value in values)


def test_levels_of_a_hierarchy_are_not_added_up_with_or_without_a_column_that_names_them(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    leaves = [(month, route, net) for month, route, _, net in ledger([""])]
    sums = {month: sum(net for its, _, net in leaves if its == month) for month, _, _ in leaves}
    rows = [("Route", *leaf) for leaf in leaves]
    rows += [(level, month, "", net) for level in ("Division", "Company") for month, net in sums.items()]
    desk.write("l.csv", rows, ("Level", "Month", "Route", "Net"))
    assert "each Level (Route, Division, Company) has the same amounts" in desk.run("table", "l.csv").err
    # In a file of 120,000 rows no less; of one that is longer than is looked through, that is said.
    desk.write("m.csv", rows * 1250, ("Level", "Month", "Route", "Net"))
    assert "each Level (Route, Division, Company) has the same amounts" in desk.run("table", "m.csv").err
    monkeypatch.setattr("marvex.sources.engine.doubtful_rows._FEW_ROWS", len(rows) * 1250 - 1)
    assert "whether its 120,000 rows say the same twice was asked of names alone" in desk.run("table", "m.csv").err
    desk.write("l.csv", [row[1:] for row in rows], ("Month", "Route", "Net"))
    outcome = desk.run("table", "l.csv")
    assert outcome.status == 2 and "come to 2 times all others" in outcome.err, outcome.err
    total = by_label(desk.figures("table", "l.csv", "--for", "2025", "--where", "Route!=(none)"))["Total"]
    assert total["current"] == sum(net for month, net in sums.items() if month.startswith("2025"))


@pytest.mark.parametrize(
    ("column", "values"),
    [("Pass", ["Monthly", "Annual"]), ("Way", ["Est", "Ouest", "Nord"]), ("State", ["ACT", "NSW", "VIC"]),
     ("Ledger", ["Local GAAP", "IFRS adjustments"]), ("Plan", ["Plan A", "Plan B"]), ("Class", ["Foot", "Car"]),
     ("Board", ["Incl. breakfast", "Excl. breakfast"]), ("Season", ["High", "Low"]),
     ("Type", ["Single", "Return"]), ("Type", ["Deposit", "Payment"]),
     ("Customer", ["Current", "Target", "Lapsed"])],
)  # fmt: skip
def test_what_only_sounds_alike_is_added_up(desk: Desk, column: str, values: list[str]) -> None:
    rows = ledger(values, lambda own, value, _: own * 100 // (ord(value[0]) + ord(value[-1])))
    desk.write("l.csv", rows, ("Month", "Route", column, "Net"))
    total = by_label(desk.figures("table", "l.csv", "--by", "Route", "--for", "2025"))["Total"]
    assert total["current"] == sum(added_up(rows, value) for value in values)


def test_lines_that_end_in_two_ways_are_read(desk: Desk) -> None:
    (desk.folder / "l.csv").write_bytes(
        b'Month,Route,Net\r\n2025-01,North,4\n2025-02,"No\nrth",5\r\n2025-03,North,6\n'
    )
    points = by_label(desk.figures("table", "l.csv", "--by", "Route"))
    assert (points["North"]["current"], points["Total"]["current"]) == (10, 15)


SHEET = {
    "Cash": [40, 55, 30], "Receivables": [20, 25, 35], "Vessels": [900, 890, 880], "Total assets": [960, 970, 945],
    "Payables": [60, 90, 75], "Equity": [900, 880, 870], "Total liabilities and equity": [960, 970, 945],
}  # fmt: skip


def test_months_of_a_balance_sheet_are_not_added_up(desk: Desk) -> None:
    desk.write("s.csv", [(name, *figures) for name, figures in SHEET.items()], ("", "Jan-25", "Feb-25", "Mar-25"))
    of_dates = [
        (f"2025-{at:02}", name, -net if name in ("Payables", "Equity") else net)
        for name, figures in SHEET.items()
        for at, net in enumerate(figures, 1)
        if "Total" not in name
    ]
    desk.write("l.csv", of_dates, ("Month", "Account", "Amount"))
    desk.write("b.csv", [row for row in of_dates if row[1] == "Cash"], ("Month", "Account", "ARR"))
    for source in ("s.csv", "l.csv", "b.csv"):
        assert "--total-as closing" in desk.refused("table", source, "--for", "2025")
        assert desk.run("table", source, "--for", "2025-03", "--versus", "2025-02").status == 0  # a date a side
    assert by_label(desk.figures("table", "s.csv", "--total-as", "closing"))["Total assets"]["current"] == 945
    assert by_label(desk.figures("table", "s.csv", "--total-as", "sum"))["Cash"]["current"] == 125
    told = desk.run("table", "s.csv", "--for", "2025-03", "--versus", "2025-02").out
    assert "Payables looks like a debt, and up was taken as good news" in told
    assert desk.run("begin", "s.csv", "-o", "p.toml").status == 0  # there is no year before: against the month before
    assert (desk.folder / "p.toml").read_text().count('versus = "prior"') > 2


def test_postings_to_accounts_of_a_balance_sheet_are_added_up(desk: Desk) -> None:
    moves = {"Cash": [40, -15, 30], "Receivables": [-20, 25, -10], "Payables": [-20, -10, -20]}
    rows = [(f"2025-{at:02}", name, net) for name, its in moves.items() for at, net in enumerate(its, 1)]
    desk.write("l.csv", rows, ("Month", "Account", "Amount"))
    assert by_label(desk.figures("table", "l.csv", "--by", "Account"))["Cash"]["current"] == 55


def test_a_percentage_among_amounts_is_not_added_up_with_them(desk: Desk) -> None:
    desk.write("l.csv", [("2025-01", "Load", "12%"), ("2025-01", "Net", 900), ("2025-02", "Net", 950)], TABLE)
    assert "percentages such as '12%' among amounts" in desk.refused("table", "l.csv")
    assert "taken here with --total-as count" in " ".join(desk.run("survey", "l.csv").out.split())
    assert by_label(desk.figures("table", "l.csv", "--where", "Line!=Load"))["Total"]["current"] == 1850


@pytest.mark.parametrize(
    ("plus", "minus"),
    [("Sale", "Refund"), ("Receipts", "Payments"), ("Joiner", "Leaver"), ("+", "-"), ("Gain", "Loss")],
)
def test_what_takes_from_the_rest_is_turned_where_all_is_positive(desk: Desk, plus: str, minus: str) -> None:
    rows = ledger([plus, minus], lambda own, value, _: own if value == plus else own // 3)
    desk.write("l.csv", rows, HEADINGS)
    outcome = desk.run("table", "l.csv", "--by", "Route", "--for", "2025")
    assert f"amounts count as negative where Kind is {minus}" in outcome.err
    total = by_label(desk.figures("table", "l.csv", "--by", "Route", "--for", "2025"))["Total"]
    assert total["current"] == added_up(rows, plus) - added_up(rows, minus)
    signed = [(*row[:3], row[3] if row[2] == plus else -row[3]) for row in rows]
    desk.write("s.csv", signed, HEADINGS)
    assert by_label(desk.figures("table", "s.csv", "--by", "Route", "--for", "2025"))["Total"] == total


@pytest.mark.parametrize(
    "pair", [("In", "Out"), ("Purchase", "Sale"), ("Invoice", "Payment"), ("Revenue", "Discount")]
)
def test_opposites_whose_sum_depends_on_the_question_are_asked_about(desk: Desk, pair: tuple[str, str]) -> None:
    rows = ledger(list(pair), lambda own, value, _: own - ord(value[0]))
    desk.write("l.csv", rows, HEADINGS)
    assert "both are positive, and would be added up" in desk.refused("table", "l.csv", "--by", "Route")
    call = ("table", "l.csv", "--by", "Route", "--for", "2025")
    assert by_label(desk.figures(*call, "--total-as", "sum"))["Total"]["current"] == sum(
        added_up(rows, one) for one in pair
    )
    kept = by_label(desk.figures(*call, "--where", f"Kind={pair[0]}"))["Total"]
    assert kept["current"] == added_up(rows, pair[0])


def test_rows_of_short_sides_across_months_are_sides_or_asked_about(desk: Desk) -> None:
    heads = ("Line", "Jan-25", "Feb-25")
    desk.write("l.csv", [("ACT", 100, 120), ("BUD", 90, 110)], heads)
    total = by_label(desk.figures("table", "l.csv"))["Total"]
    assert (total["current"], total["base"]) == (220, 200)
    desk.write(
        "l.csv", [("Fares act", 100, 120), ("Fares bud", 90, 110), ("Fuel act", 5, 6), ("Fuel bud", 7, 8)], heads
    )
    assert "are sides of one amount by name" in desk.refused("table", "l.csv")


@pytest.mark.parametrize("pair", [("Receipts", "Payments"), ("Joiners", "Leavers"), ("Sales", "Discounts")])
def test_opposites_among_the_lines_of_a_list_are_asked_about(desk: Desk, pair: tuple[str, str]) -> None:
    desk.write("l.csv", [(pair[0], 500), ("Other", 20), (pair[1], 300)], ("Line", "2025"))
    assert "take from one another by name" in desk.refused("table", "l.csv")
    assert f"--deductions {pair[1]}" in desk.refused("draw", "waterfall", "l.csv", "-o", "w.png")
    drawn = desk.figures("draw", "waterfall", "l.csv", "-o", "w.png", "--deductions", pair[1])
    assert drawn["points"][-1]["end"] == 220  # 500 + 20 − 300
    desk.write("l.csv", [(pair[0], 500), ("Other", 20), (pair[1], -300)], ("Line", "2025"))
    assert by_label(desk.figures("table", "l.csv"))["Total"]["current"] == 220


@pytest.mark.parametrize(
    ("months", "late", "first"),
    [(12, 0, False), (12, 0, True), (12, 3, False), (6, 0, True), (6, 1, False), (3, 2, False)],
)
def test_totals_of_a_period_among_its_months_are_not_added_up(
    desk: Desk, months: int, late: int, first: bool
) -> None:
    rows = [(month, route, net) for month, route, _, net in ledger([""])]
    totals = []
    for year in (2024, 2025):
        for start in range(late, 12 + late, months):  # of a reporting year that may begin later
            of = [f"{year + at // 12}-{at % 12 + 1:02}" for at in range(start, start + months)]
            for route in ("North", "South"):
                whole = sum(net for month, its, net in rows if its == route and month in of)
                totals.append((of[0] if first else of[-1], route, whole))
    for routes in (("North", "South"), ("North",)):
        dated = [(f"{month}-01", route, net) for month, route, net in rows + totals if route in routes]
        desk.write("t.csv", dated, ("Day", "Route", "Net"))
        with sqlite3.connect(desk.folder / "t.db") as books:
            books.execute("DROP TABLE IF EXISTS t")
            books.execute("CREATE TABLE t (Day TEXT, Route TEXT, Net INTEGER)")
            books.executemany("INSERT INTO t VALUES (?, ?, ?)", dated)
        for source in (("t.csv",), ("sqlite:///t.db", "--table", "t")):
            told = desk.refused("table", *source, "--for", "2025")
            assert f"is the sum of the others of its { {12: 'year', 6: 'half', 3: 'quarter'}[months] }" in told
            assert (" from 202" in told) is (late > 0) and ", as in" in told
        found = desk.figures("table", "t.csv", "--every", "year", "--for", "2025", "--total-as", "sum")
        assert found["points"][0]["current"] == sum(net for day, _, net in dated if day.startswith("2025"))


def test_payments_that_happen_to_be_the_sum_of_others_are_added_up(desk: Desk) -> None:
    # Half of each of ten contracts at first and the rest in three equal parts; a month that is the sum of three days.
    paid = [(day, f"Contract {at}", (3 if day == "2025-01-05" else 1) * (1711 + 97 * at))
            for at in range(10) for day in ("2025-01-05", "2025-02-05", "2025-02-20", "2025-03-05")]  # fmt: skip
    days = [
        ("2025-01-02", "", 3),
        ("2025-01-09", "", 4),
        ("2025-01-13", "", 5),
        ("2025-01-20", "", 12),
        ("2025-02-02", "", 9),
    ]
    for rows in (paid, days):
        desk.write("p.csv", rows, ("Day", "Contract", "Net"))
        found = desk.figures("table", "p.csv", "--every", "year", "--for", "2025")
        assert found["points"][0]["current"] == sum(net for *_, net in rows)
