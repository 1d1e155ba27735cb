"""Nothing is added up with its own parts, whatever is compared and wherever the totals stand."""

from __future__ import annotations

import random
import sqlite3
from collections.abc import Sequence

import duckdb
import pytest
import xlsxwriter

from conftest import Desk, by_label

HEADS = ("day", "region", "line", "net")
CALLS = ("--by line", "--by region", "--by region,line", "--every quarter", "--by line --total-as mean")


def rows(*, of_region: str = "", of_line: str | None = None) -> list[Sequence[object]]:
    """24 months of three regions and three lines, 1 to 9 each month: 45; with totals of regions or of lines."""
    found: list[Sequence[object]] = []
    for month in range(24):
        day = f"{2025 + month // 12}-{month % 12 + 1:02}-15"
        cells = {(r, n): 3 * r + n + 1 for r in range(3) for n in range(3)}
        found += [(day, f"R{r}", f"L{n}", net) for (r, n), net in cells.items()]
        if of_region:
            found += [(day, of_region, f"L{n}", sum(cells[r, n] for r in range(3))) for n in range(3)]
        if of_line is not None:
            found += [(day, f"R{r}", of_line, sum(cells[r, n] for n in range(3))) for r in range(3)]
    return found


def times_of(kind: str) -> int:
    """How often each row is there: so many are no sheet."""
    return 40 if kind.startswith("large") else 300 if kind == "facts" else 1


def source(desk: Desk, kind: str, data: list[Sequence[object]]) -> list[str]:
    data = [row for row in data for _ in range(times_of(kind))]
    if "sqlite" in kind:
        with sqlite3.connect(desk.folder / "t.db") as books:
            books.execute("CREATE TABLE t (day TEXT, region TEXT, line TEXT, net NUMERIC)")
            books.executemany("INSERT INTO t VALUES (?, ?, ?, ?)", data)
        return ["sqlite:///t.db", "--table", "t"]
    path = str(desk.folder / desk.write("t.csv", data, HEADS))
    if kind in ("small", "large"):
        return ["t.csv"]
    duckdb.execute(f"COPY (FROM read_csv('{path}')) TO '{desk.folder / 't.parquet'}'")
    return ["t.parquet"]


@pytest.mark.parametrize("call", CALLS)
@pytest.mark.parametrize("kind", ["small", "large", "sqlite", "large sqlite", "parquet", "facts"])
@pytest.mark.parametrize("totals", [{"of_region": "Total"}, {"of_region": "All regions"}, {"of_line": ""}])
def test_totals_are_left_out_or_stop_the_call(desk: Desk, kind: str, call: str, totals: dict[str, str]) -> None:
    asked = [*source(desk, kind, rows(**totals)), *call.split(), "--for", "2026", "--versus", "2025"]
    done = desk.run("table", *asked, "--figures", "figures.json")
    times = times_of(kind)
    if done.status == 0:  # 12 × 45 in a year, or a mean of 5, as there is none of the totals among the rows
        whole = desk.read_figures()["points"][-1]
        assert whole["current"] == (5 if "mean" in call else 12 * 45 * times), done.err
        return
    says = ("is the sum of all others and would be counted twice", "would be counted with its own parts")
    assert done.status == 2 and any(one in done.err for one in says)
    # The way out that is named is one.
    mend = done.err.split("--where '")[1].split("'")[0]
    again = desk.figures("table", *asked, "--where", mend)["points"][-1]
    assert again["current"] == (5 if "mean" in call else 12 * 45 * times)
    if "mean" not in call:
        kept = desk.run("table", *asked, "--totals", "keep")
        assert "Added up with their own parts" in kept.out


def test_what_is_called_a_total_and_is_none_stops_the_call(desk: Desk) -> None:
    data = [*rows(of_region="Total"), ("2026-12-31", "Total", "L0", 7)]
    asked = ["table", *source(desk, "large sqlite", data), "--every", "quarter", "--for", "2026", "--versus", "2025"]
    assert "region 'Total' has the name of a total and is 21,880, but all others come to 21,600." in desk.refused(
        *asked
    )


def test_ordinary_names_are_no_totals(desk: Desk) -> None:
    # A customer called Total, and blanks that are no sums.
    named = {"L2": "", "L1": "Total Ferries"}
    data = [(day, region, named.get(str(line), line), net) for day, region, line, net in rows()]
    desk.write("o.csv", data, HEADS)
    for call in CALLS[:4]:
        found = desk.figures(
            "table", desk.write("o.csv", data, HEADS), *call.split(), "--for", "2026", "--versus", "2025"
        )
        assert found["points"][-1]["current"] == 540


def test_a_column_that_one_of_two_sources_has(desk: Desk) -> None:
    desk.write("b.csv", [(day, region, net) for day, region, _, net in rows()], ("day", "region", "net"))
    asked = ("table", "--by", "region", "--for", "2026", "--versus", "budget", "budget=b.csv")
    desk.write("blank.csv", [(*row[:2], row[2] if row[2] != "L2" else "", row[3]) for row in rows()], HEADS)
    assert desk.figures(*asked, "actual=blank.csv")["points"][-1]["current"] == 540
    desk.write("with.csv", rows(of_line="Total"), HEADS)
    done = desk.run(*asked, "actual=with.csv", "--figures", "figures.json")
    assert "line 'Total' is the sum of all others" in done.err or desk.read_figures()["points"][-1]["current"] == 540


def test_a_result_among_rows_is_told_as_it_is(desk: Desk) -> None:
    month = [("Wages", 211), ("Rent", 64), ("Operating profit", 231), ("Sales", 903), ("Cost of goods", 397)]
    month.append(("Gross profit", 506))
    more = {"Sales": 70, "Gross profit": 47, "Operating profit": 33, "Cost of goods": 23, "Wages": 11, "Rent": 3}
    data = [(f"{year}-{n:02}-15", "R", line, net + n * more[line] * (year - 2024))
            for year in (2025, 2026) for n in range(1, 13) for line, net in month]  # fmt: skip
    asked = source(desk, "facts", data)
    for call in ("--by line", "--every quarter"):
        said = desk.refused("table", *asked, *call.split(), "--for", "2026", "--versus", "2025")
        assert "line 'Gross profit' is Sales less Cost of goods, which would all be added up" in said


def test_lines_that_are_alike_or_take_each_other_back_are_no_groups(desk: Desk) -> None:
    heads, none = ("item", "net"), ("--versus", "none")
    pairs = [("Adult", 2037), ("Senior", 2037), ("Child", 1013), ("Student", 1013), ("Dog", 517), ("Bike", 517)]
    # A return ticket is twice a single one; an accrual is taken back.
    doubles = [
        ("Return", 290),
        ("Out", 145),
        ("Home", 145),
        ("Return, night", 490),
        ("Out, late", 245),
        ("Early", 245),
    ]
    back = [("Rent", -88311), ("Fee", 73824), ("Refund", 88311), ("Charge", 73824), ("Sundry", 37418)]
    for rows in (pairs, doubles, back, [(name, 256) for name in "BABA"]):
        desk.write("l.csv", rows, heads)
        found = desk.figures("table", "l.csv", *none)
        assert (found["points"][-1]["current"], found["structure"]) == (sum(net for _, net in rows), None)
    # What the figures alone tell, or only suggest, is told to whoever is sent the table.
    groups = [("North", 30507), ("N1", 20371), ("N2", 10136), ("South", 9952), ("S1", 5174), ("S2", 4778)]
    for rows, whole, told in (
        (groups, 40459, "North, South are left out as sums of other lines"),
        (groups[::-1], 40459, "South, North are left out as sums of other lines"),
        ([("N1", 2037), ("N2", 1013), ("North", 3050), ("S1", 517), ("S2", 401)], 7018, "North comes to the lines"),
        ([("K", 7), *pairs[1:3], ("Total", 3050)], 3057, "K is not in 'Total' of the table, and counts here"),
        (pairs, 7134, "Each line is the same as the one after it"),
    ):
        desk.write("l.csv", rows, heads)
        done = desk.run("table", "l.csv", *none)
        assert told in done.out and f"{whole:,}" in done.out
    # A total at the end proves a subtotal that nothing calls one.
    desk.write(
        "l.csv", [("N1", 2037), ("N2", 1013), ("North", 3050), ("S1", 517), ("S2", 401), ("Total", 3968)], heads
    )
    assert by_label(desk.figures("table", "l.csv", *none))["Total"]["current"] == 3968


@pytest.mark.parametrize("way", ["outline", "indent"])
@pytest.mark.parametrize("is_above", [True, False])
def test_groups_of_a_workbook_are_no_lines_beside_their_parts(desk: Desk, way: str, is_above: bool) -> None:
    groups = {"Fares": [("Adult", 60, 50), ("Child", 40, 45)], "Cargo": [("Cars", 30, 33), ("Vans", 20, 22)]}
    with xlsxwriter.Workbook(str(desk.folder / "g.xlsx")) as book:
        sheet, set_in = book.add_worksheet(), book.add_format({"indent": 1})
        sheet.write_row(0, 0, ("Line", "Actual", "Budget"))
        row = 1
        for name, parts in groups.items():
            whole = (name, *(sum(part[side] for part in parts) for side in (1, 2)))
            for line in (whole, *parts) if is_above else (*parts, whole):
                sheet.write_row(row, 0, line)
                if line is not whole and way == "outline":
                    sheet.set_row(row, None, None, {"level": 1, "hidden": True})
                if line is not whole and way == "indent":
                    sheet.write(row, 0, line[0], set_in)
                row += 1
    total = by_label(desk.figures("table", "g.xlsx"))["Total"]
    assert (total["current"], total["base"]) == (150, 150)  # 60 + 40 + 30 + 20 against 50 + 45 + 33 + 22


@pytest.mark.parametrize("formula", ["=SUM({0}2:{0}3)", "={0}2+{0}3", "=SUBTOTAL(9,{0}$2:{0}$3)"])
def test_a_row_that_a_workbook_adds_up_is_no_line_beside_its_parts(desk: Desk, formula: str) -> None:
    """5 + 3 are 8 by chance in one sheet of many: that they are added up is said by the sheet alone."""
    with xlsxwriter.Workbook(str(desk.folder / "f.xlsx")) as book:
        sheet = book.add_worksheet()
        for row, line in enumerate([("Line", "2026", "2025"), ("Fares", 5, 4), ("Cargo", 3, 3), ("At sea", 8, 7),
                                    ("Parking", 1, 2)]):  # fmt: skip
            sheet.write_row(row, 0, line)
        for column, result in (("B", 8), ("C", 7)):
            sheet.write_formula(f"{column}4", formula.format(column), None, result)
    said = desk.refused("table", "f.xlsx")
    assert "row 4 'At sea' is by its formulas the sum of rows 2, 3" in said and "--where 'Line!=At sea'" in said
    total = by_label(desk.figures("table", "f.xlsx", "--where", "Line!=At sea"))["Total"]
    assert (total["current"], total["base"]) == (9, 9)
    kept = by_label(desk.figures("table", "f.xlsx", "--totals", "keep"))["Total"]
    assert kept["current"] == 17


@pytest.mark.parametrize("last", ["Total", "TOTAL", ""])
@pytest.mark.parametrize("names", [(101, 102, 103), (1, 2, 3), (10, 40, 35)])
def test_names_may_be_numbers(desk: Desk, names: tuple[int, ...], last: str) -> None:
    rows = [(97_876, 99_105), (54_521, 12_441), (54_022, 36_734)]  # 206,419 and 148,280
    lines = [(name, *row) for name, row in zip(names, rows, strict=True)] + [(last, 206_419, 148_280)]
    asked = ("table", desk.write("n.csv", lines, ("Route", "Jan 2026", "Feb 2026")), "--versus", "none")
    assert by_label(desk.figures(*asked))["Total"]["current"] == 354_699
    found = by_label(desk.figures(*asked, "--by", "Route"))
    assert found[str(names[0])]["current"] == 196_981 and found["Total"]["current"] == 354_699


def test_numbers_that_name_rows_are_shown_before_texts_that_do_not(desk: Desk) -> None:
    lines = [(101, "A", 9, 8), (102, "B", 5, 6), (103, "A", 4, 4), ("Total", "", 18, 18)]
    found = desk.figures("table", desk.write("s.csv", lines, ("Store", "Type", "Actual", "Budget")))
    assert [one["label"] for one in found["points"]] == ["101", "102", "103", "Total"]
    blocks = [("North", 5, 6), ("South", 7, 8), (205, 2025, 2026), ("North", 9, 10), ("South", 11, 12)]
    found = desk.figures("table", desk.write("b.csv", blocks, ("101", "2025", "2026")))
    names = [f"{block} / {line}" for block in (101, 205) for line in ("North", "South")]
    assert [one["label"] for one in found["points"]] == [*names, "Total"] and found["points"][-1]["current"] == 36


def test_amounts_of_a_period_are_no_dates(desk: Desk) -> None:
    """190506 and 201903 are no days and no months below 'Q1 2026', which is left out as the sum of its months."""
    heads = ("Item", "Jan 2026", "Feb 2026", "Mar 2026", "Q1 2026", "2026")
    rows = [("North", 41_061, 81_412, 79_430), ("South", 95_206, 8_642, 86_658)]
    lines = [(), heads, *((*row, sum(row[1:]), sum(row[1:])) for row in rows)]
    desk.write("q.csv", lines, ("Ostrey Sound Ferries",))
    found = by_label(desk.figures("table", "q.csv", "--by", "Item", "--versus", "none"))
    assert [found[name]["current"] for name in ("North", "South", "Total")] == [201_903, 190_506, 392_409]


@pytest.mark.parametrize(("lines", "total"), [
    ([("A", 10, 12), ("B", 20, 22), ("C", 30, 33), ("", 60, 67)], 60),
    ([("A", 10, 12), ("B", 20, 22), ("", 30, 34), ("C", 30, 33), ("D", 4, 4), ("", 34, 37)], 64),
    ([("A", 10), ("B", 20), ("C", 31), ("", 61)], 61),  # an amount alone is no note
    ([("A", 10), ("B", 20), ("", 75)], 105),
    ([("", 60, 67), ("A", 10, 12), ("B", 20, 22), ("C", 30, 33)], 60),
    ([("A", 10, 12), ("-", 10, 12), ("B", 20, 22), ("C", 5, 7), ("-", 25, 29), ("-", 35, 41)], 35),
])  # fmt: skip
def test_a_total_may_have_no_name(desk: Desk, lines: list[tuple[object, ...]], total: int) -> None:
    heads = ("Item", "Actual", "Budget")[: len(lines[0])]
    numbered = [(at, *row) for at, row in enumerate(lines, 1)]
    for source in (desk.write("u.csv", lines, heads), desk.write("n.csv", numbered, ("Nr", *heads))):
        assert by_label(desk.figures("table", source, "--by", "Item"))["Total"]["current"] == total


def test_a_row_without_a_name_is_asked_about_where_it_may_be_a_total(desk: Desk) -> None:
    heads, lines = ("Item", "2025", "2026"), [("A", 1, 1), ("B", 1, 1), ("", 2, 2)]
    assert "row 4 has no name, and is the sum of rows 2–3" in desk.refused("table", desk.write("u.csv", lines, heads))
    lines = [("A", 10, 12), ("B", 20, 22), ("", 30, 34), ("C", 5, 6), ("", 35, 40)]  # 30 + 5 and 34 + 6
    assert by_label(desk.figures("table", desk.write("u.csv", lines, heads)))["C"]["current"] == 6
    lines[-1] = ("", 36, 41)
    assert "row 6 has no name, as row 4 has" in desk.refused("table", desk.write("u.csv", lines, heads))
    total = by_label(desk.figures("table", "u.csv", "--where", "Item!=(none)"))["Total"]
    assert (total["current"], total["base"]) == (40, 35)
    near = [("A", 100, 90), ("B", 50, 60), ("", 150, 151)]
    assert "row 4 has no name, and is 151 in 2026, where all others come to 150" in desk.refused(
        "table", desk.write("n.csv", near, heads)
    )
    result = [
        ("Fares", 100, 90),
        ("Freight", 50, 60),
        ("", 150, 150),
        ("Fuel", 30, 25),
        ("Crew", 40, 45),
        ("", 70, 70),
    ]
    said = desk.refused("table", desk.write("r.csv", [*result, ("", 80, 80)], heads))
    assert "row 8 has no name, and is row 4 less row 7, which have none either" in said


def test_totals_without_a_name_among_rows_that_two_columns_name(desk: Desk) -> None:
    lines = [("Ann", "Retail", 100, 120), ("Ann", "Trade", 50, 60), ("", "", 150, 180), ("Bob", "Retail", 10, 20),
             ("Bob", "Trade", 30, 40), ("", "", 40, 60), ("", "", 190, 240)]  # fmt: skip
    asked = ("table", desk.write("t.csv", lines, ("Customer", "Type", "2025", "2026")))
    for by in ("Customer", "Type", "Customer,Type"):
        total = by_label(desk.figures(*asked, "--by", by))["Total"]
        assert (total["current"], total["base"]) == (240, 190)
    days = [("2026-01-01", "A", 10), ("", "B", 20), ("", "", 30), ("2026-01-02", "A", 5), ("", "B", 7), ("", "", 12)]
    desk.write("d.csv", [*days, ("", "", 42)], ("Date", "Item", "Net"))
    assert [one["current"] for one in desk.figures("table", "d.csv", "--versus", "none")["points"]] == [30, 12, 42]


def test_names_of_groups_go_on_past_totals_without_one(desk: Desk) -> None:
    lines = [("North", "A", 10, 12), ("", "B", 20, 21), ("", "", 30, 33), ("South", "C", 5, 6), ("", "D", 7, 8),
             ("", "", 12, 14), ("", "", 42, 47)]  # fmt: skip
    found = by_label(
        desk.figures("table", desk.write("g.csv", lines, ("Area", "Store", "Actual", "Budget")), "--by", "Area")
    )
    assert {name: (one["current"], one["base"]) for name, one in found.items()} == {
        "North": (30, 33), "South": (12, 14), "Total": (42, 47),
    }  # fmt: skip


def test_a_column_without_a_heading_may_be_the_total_of_others(desk: Desk) -> None:
    with xlsxwriter.Workbook(str(desk.folder / "c.xlsx")) as book:
        sheet = book.add_worksheet()
        for row, line in enumerate([("Month", "Adult", "Child"), ("Jan 2026", 10, 12, 22), ("Feb 2026", 20, 22, 42)]):
            sheet.write_row(row, 0, line)
    found = by_label(desk.figures("table", "c.xlsx", "--headings-are", "Kind", "--by", "Kind"))
    assert {name: one["current"] for name, one in found.items()} == {"Adult": 30, "Child": 34, "Total": 64}


@pytest.mark.parametrize("name", ["", "999"])
def test_totals_of_each_month_without_a_name_or_under_a_code_stop_the_call(desk: Desk, name: str) -> None:
    months = (1017, 2023), (1118, 2554), (1213, 2654)  # 10,579 in all
    data = [(f"2026-{month:02}", store, net) for month, nets in enumerate(months, 1)
            for store, net in (("101", nets[0]), ("102", nets[1]), (name, sum(nets)))]  # fmt: skip
    asked = ("table", desk.write("m.csv", data, ("Month", "Store", "Net")), "--amount", "Net", "--versus", "none")
    for call in (("--every", "month"), ("--by", "Store")):
        said = desk.refused(*asked, *call)
        assert "would be counted with its own parts" in said and f"--where 'Store!={name or '(none)'}'" in said
        kept = by_label(desk.figures(*asked, *call, "--where", f"Store!={name or '(none)'}"))
        assert kept["Total"]["current"] == 10_579


def test_totals_of_a_sheet_in_millions_are_found_below_one_too(desk: Desk) -> None:
    heads, lines = ("EUR m", "Jan 2026", "Feb 2026"), [("Fares", 0.71, 0.65), ("Freight", 0.12, 0.14)]
    totals = desk.write("t.csv", [*lines, ("Total", 0.83, 0.79)], heads)
    for call in ((), ("--every", "month"), ("--by", "EUR m")):  # 830,000 and 790,000
        assert by_label(desk.figures("table", totals, *call, "--versus", "none"))["Total"]["current"] == 1_620_000
    costs = [("Revenue", 0.83, 0.79), ("Fuel", 0.3, 0.33), ("Crew", 0.25, 0.25), ("Total costs", 0.55, 0.58)]
    desk.write("p.csv", [*lines, *costs, ("Operating profit", 0.28, 0.21)], heads)
    found = by_label(desk.figures("table", "p.csv", "--versus", "none"))["Operating profit"]
    assert (found["kind"], found["current"]) == ("total", 490_000)
    rates = desk.write("r.csv", [("Load factor", 0.71, 0.65), ("On time", 0.92, 0.94), ("Margin", 0.12, 0.15)],
                       ("Ratio", "Jan 2026", "Feb 2026"))  # fmt: skip
    assert "rates do not add up" in desk.refused("table", rates)


def test_an_export_of_seventy_columns_is_read_and_a_total_in_the_last_of_them_seen(desk: Desk) -> None:
    drawn = random.Random(4)
    made = [
        (f"2026-{month:02d}-15", amount, *(drawn.choice("ab") for _ in range(69)), part)
        for month in range(1, 11)
        for part, amount in (("Bow", 100 + month), ("Stern", 207 + 3 * month), ("Total", 307 + 4 * month))
    ]
    headings = ("date", "amount", *(f"field {at}" for at in range(69)), "part")
    desk.write("wide.csv", [row for row in made if row[-1] != "Total"], headings)
    asked = ("table", "wide.csv", "--every", "month", "--for", "2026", "--versus", "none")
    # 10 × 307 and 4 × (1 + … + 10) = 220
    assert [one["current"] for one in desk.figures(*asked)["points"] if one["kind"] == "total"] == [3290]
    desk.write("wide.csv", made, headings)
    assert "part 'Total' is the sum of all others" in desk.refused(*asked)


# As they are once a sheet has been sorted by its first figures, and a total stands nowhere near its lines.
SORTED = """
item,net|Volume,360|Closing balance,290|Price,50|Routes,-120 >> 'Closing balance' is the sum of all others
Month,Heads|End of year,234|Start of year,214|Joiners,37|Leavers,-22|Hired,5 >> 'End of year' is the sum of all others
Line,Actual,Budget|Closing stock,5503,5723|Opening stock,5210,5077|In,3164,3290|Sold,2871,2644 >> are balances by name
Unit,2026,2025|Group,1290,1250|N,790,750|N A,500,450|S,500,500|S A,380,300|N B,290,300|S B,120,200 >> their own totals
Item,Actual,Budget|-,35,41|-,25,29|B,20,22|A,10,12|-,10,12|C,5,7 >> their own totals
Item,Actual,Budget|Bow,30117,29226|Fleet,71234,69345|Holm,22005,21003|Skarn,19112,19116 >> 'Fleet' is the sum of all
""".strip().splitlines()


@pytest.mark.parametrize("case", SORTED)
def test_a_total_that_sorting_has_moved_stops_the_call(desk: Desk, case: str) -> None:
    table, said = case.split(" >> ")
    (desk.folder / "t.csv").write_text(table.replace("|", "\n"))
    assert said in desk.refused("table", "t.csv")


def test_amounts_that_are_all_alike_are_no_sums(desk: Desk) -> None:
    rents = [(name, "12345.67", "12244.66") for name in ("Bow", "Holm", "Skarn", "Calder", "Finmouth", "Quay")]
    for count in (3, 4, 6):
        assert desk.figures("table", desk.write("r.csv", rents[:count], ("Site", "Actual", "Budget")))
