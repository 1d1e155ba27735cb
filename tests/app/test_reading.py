"""Reading: kinds of file, roles, exact sums, cells that cannot be read."""

from __future__ import annotations

import gzip
import json
import re
import zipfile
from decimal import Decimal
from fractions import Fraction

import duckdb
import pytest
import xlsxwriter
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import DEMO, Desk, by_label

SMALL = "date,route,net\n2026-01-01,A,0.1\n2026-01-02,A,0.2\n2026-01-02,B,12345678901234567890.05\n"
WORDS = ("--by", "route", "--versus", "none")


def test_the_same_rows_in_every_kind_of_file(desk: Desk) -> None:
    (desk.folder / "a.csv").write_text(SMALL)
    (desk.folder / "b.csv.gz").write_bytes(gzip.compress(SMALL.encode()))
    (desk.folder / "c.tsv").write_text(SMALL.replace(",", "\t"))
    (desk.folder / "d.txt").write_text("\ufeff" + SMALL.replace(",", ";"))
    duckdb.execute(
        f"COPY (SELECT date, route, net::DECIMAL(38, 2) AS net FROM read_csv('{desk.folder}/a.csv', "
        f"types = {{'net': 'VARCHAR'}})) TO '{desk.folder}/e.parquet'"
    )
    first = desk.figures("table", "a.csv", *WORDS)["points"]
    # 0.1 + 0.2 is 0.3 to the last digit, and twenty digits before the point are kept.
    assert [point["current"] for point in first[:2]] == [Decimal("0.3"), Decimal("12345678901234567890.05")]
    for name in ("b.csv.gz", "c.tsv", "d.txt", "e.parquet"):
        found = desk.figures("table", name, *WORDS)["points"]
        assert [one["current"] for one in found] == [one["current"] for one in first], name
    for feed in (SMALL.encode(), gzip.compress(SMALL.encode())):
        done = desk.run("table", "-", *WORDS, "-o", "out.csv", feed=feed)
        assert done.status == 0, done.err
        assert "12345678901234567890.05" in (desk.folder / "out.csv").read_text()


def test_binary_numbers_are_read_as_their_shortest_decimals(desk: Desk) -> None:
    duckdb.execute(
        "COPY (SELECT 'A' AS route, unnest([0.1, 0.2, 1e-5]) AS net) "
        f"TO '{desk.folder}/binary.parquet' (FORMAT parquet)"
    )
    found = desk.figures("table", "binary.parquet", *WORDS)
    assert found["points"][0]["current"] == Decimal("0.30001")


def test_codes_and_years_in_binary_figures_are_read_without_decimals(desk: Desk) -> None:
    """As a table with blanks among its whole numbers often leaves a program; figures of seven digits are those."""
    duckdb.execute(
        "COPY (SELECT unnest([2026, 2026, 2025]::DOUBLE[]) AS year, unnest([4010, 5100, NULL]::DOUBLE[]) AS code, "
        f"unnest([0.1, 2.2, 4]::FLOAT[]) AS net) TO '{desk.folder}/c.parquet'"
    )
    desk.write("codes.csv", [(4010, "Fares"), (5100, "Fuel")], ("code", "name"))
    words = ("table", "c.parquet", "--amount", "net", "--lookup", "codes.csv", "--by", "name", "--statement", "none")
    found = desk.figures(*words, "--for", "2025/2026", "--versus", "none")["points"]
    assert {one["label"]: one["current"] for one in found} == {
        "Fares": Decimal("0.1"),
        "Fuel": Decimal("2.2"),
        "(none)": 4,
        "Total": Decimal("6.3"),
    }


def test_a_cell_that_is_a_figure_is_one_in_any_convention(desk: Desk) -> None:
    """A person sees 1,234 where the workbook has 1.234, and says so; a text beside it may be a thousand."""
    (desk.folder / "a.json").write_text(
        '{"n": 2, "rows": [{"route": "A", "net": 1.234}, {"route": "B", "net": 2.345}]}'
    )
    for name, last in (("a.xlsx", ()), ("b.xlsx", (("C", "1.234,50"),))):
        with xlsxwriter.Workbook(desk.folder / name) as book:
            sheet = book.add_worksheet()
            for number, row in enumerate((("route", "net"), ("A", 1.234), ("B", 2.345), *last)):
                sheet.write_row(number, 0, row)
    for numbers in ("auto", "point", "comma"):
        for name in ("a.json", "a.xlsx"):
            found = by_label(desk.figures("table", name, *WORDS, "--numbers", numbers))
            assert [found[one]["current"] for one in ("A", "Total")] == [Decimal("1.234"), Decimal("3.579")]
        if numbers != "point":
            found = by_label(desk.figures("table", "b.xlsx", *WORDS, "--numbers", numbers))
            assert found["Total"]["current"] == Decimal("1238.079")
    assert "cell B4: '1.234,50' is not a figure" in desk.refused("table", "b.xlsx", *WORDS, "--numbers", "point")


amounts = st.decimals(min_value=-(10**9), max_value=10**9, places=3, allow_nan=False)


@settings(max_examples=25)
@given(rows=st.lists(st.tuples(st.sampled_from("ABC"), amounts), min_size=1, max_size=40))
def test_sums_are_exact_to_the_last_digit(desk: Desk, rows: list[tuple[str, Decimal]]) -> None:
    # Summed independently as fractions; written in plain, exponent and leading-plus forms.
    forms = (lambda n: f"{n:f}", lambda n: f"{n:E}", lambda n: f"{n:+f}")
    desk.write("r.csv", [(name, forms[i % 3](n)) for i, (name, n) in enumerate(rows)], ("route", "net"))
    found = by_label(desk.figures("table", "r.csv", *WORDS, "--numbers", "point"))
    for name in {name for name, _ in rows}:
        assert Fraction(found[name]["current"]) == sum(Fraction(n) for one, n in rows if one == name)


def test_the_roles_are_said_in_one_line(desk: Desk) -> None:
    done = desk.run("table", str(DEMO), "--by", "route")
    said = "ledger.csv.gz: took date as date, net as amount, scenario as scenario (actual, budget, forecast)"
    assert said in done.err
    assert "against budget" in done.err
    assert desk.run("table", str(DEMO), "--by", "route", "-q").err == ""


def test_unreadable_cells_stop_or_are_absent(desk: Desk) -> None:
    rows = [(f"2026-01-{day:02}", "A", "5") for day in range(1, 10)]
    rows[3] = (rows[3][0], "A", "12..4")
    rows[5] = (rows[5][0], "A", "oops")
    desk.write("bad.csv", rows, ("date", "route", "net"))
    message = desk.refused("table", "bad.csv", *WORDS)
    # The fourth row of data is row 5 of the file.
    assert "bad.csv, row 5, column net: '12..4' is not a figure (and 1 more)" in message
    assert "--bad-cells blank" in message
    found = desk.figures("table", "bad.csv", *WORDS, "--bad-cells", "blank")
    assert found["points"][0]["current"] == 35
    assert any("2 cells" in caution for caution in found["cautions"])


def test_an_unreadable_date_is_named_with_its_row(desk: Desk) -> None:
    rows = [("2026-01-01", "A", "5"), ("2026-02-30", "A", "5"), ("2026-03-01", "A", "5")]
    desk.write("bad.csv", rows, ("date", "route", "net"))
    assert "row 3, column date: '2026-02-30' is not a date" in desk.refused("table", "bad.csv", *WORDS)


def test_other_encodings_and_ragged_rows(desk: Desk) -> None:
    for name, encoding in (("w.csv", "cp1252"), ("u.csv", "utf-16")):
        (desk.folder / name).write_bytes("route;net\nCafé – 5 €;7\n".encode(encoding))
        assert desk.figures("table", name, *WORDS)["points"][0]["label"] == "Café – 5 €"
    (desk.folder / "ragged.csv").write_text("route,net,more\nA,1,2\nB,2\nC,3,4,5\n")
    message = desk.refused("table", "ragged.csv", *WORDS, "--amount", "net")
    assert "ragged.csv, row 4 has 4 cells where the headings have 3" in message


def test_bad_calls_and_bad_input_are_answered_in_one_short_message(desk: Desk) -> None:
    desk.write(
        "ledger.csv", [("2026-01-01", "1", "North", "actual", "5"), ("2026-01-01", "1", "North", "budget", "4")]
    )
    (desk.folder / "empty.csv").write_text("")
    desk.write("heads.csv", [])
    desk.write("two.csv", [("2026-01-01", "2026-02-01", "A", "5")], ("due", "paid", "route", "net"))
    by = ("--by", "route")
    cases = {
        ("table", "legder.csv", *by): "Did you mean ledger.csv?",
        ("table", "empty.csv", *by): "empty.csv is empty",
        ("table", "heads.csv", *by): "has headings but no rows",
        ("table", "ledger.csv", "--by", "rout"): "Did you mean route?",
        ("table", "ledger.csv", *by, "--amount", "ne"): "Did you mean net?",
        ("table", "ledger.csv", *by, "--of", "forecast"): "there are actual, budget",
        ("table", "ledger.csv", *by, "--versus", "budgt"): "Did you mean budget?",
        ("table", "ledger.csv", *by, "--for", "2027"): "actual runs from 2026-01-01 to 2026-01-01",
        ("table", "ledger.csv", *by, "--for", "2026-13"): "there is no month '2026-13'",
        ("table", "ledger.csv", *by, "--where", "route=Nroth"): "Did you mean North?",
        ("table", "ledger.csv", *by, "--where", "scenario=actual"): "--of and --versus",
        ("table", "ledger.csv", *by, "--for", "2026", "--for", "2025", "--every", "month"): "--for is given twice",
        ("table", "ledger.csv", *by, "--labels", "all"): "marvex table cannot use --labels",
        ("table", "ledger.csv", *by, "--ordre", "name"): "Did you mean --order?",
        ("table", "ledger.csv", *by, "--better", "north"): "There are up, down",
        ("table", "ledger.csv", *by, "-o", "nowhere/t.csv"): "there is no folder 'nowhere'",
        ("table", "ledger.csv", *by, "-o", "t.doc"): "must end in .csv, .json, .md",
        ("table", "ledger.csv", *by, "--band", "A: change > 0", "--rule", "effect"): "exclude one another",
        ("table", "two.csv", *by): "due and paid could each be the date",
        ("draw", "shift", "ledger.csv", *by, "--versus", "none"): "there is no base",
        ("draw", "waterfall", "ledger.csv", *by, "--versus", "none", "--walk", "change"): "needs a base",
        ("draw", "waterfal", "ledger.csv"): "Did you mean waterfall?",
        ("draw", "waterfall", "ledger.csv", *by, "--size", "12x9"): "The least is 200x150",
        ("tabel", "ledger.csv"): "Did you mean table?",
    }
    for words, expected in cases.items():
        assert expected in desk.refused(*words), words
    assert "standard input is empty" in desk.refused("table", "-", *by, feed=b"")


_LEAVES, _SIGNS = st.sampled_from(["a", "b", "c", "2", "0.25"]), st.sampled_from("+-*/")
_TERMS = st.recursive(
    _LEAVES, lambda some: st.tuples(some, _SIGNS, some).map(lambda one: f"({' '.join(one)})"), max_leaves=4
)


@pytest.mark.parametrize("kind", ["csv", "parquet"])
@settings(max_examples=25)
@given(
    expression=st.tuples(_TERMS, _SIGNS, _TERMS).map(" ".join).filter(lambda one: re.search("[abc]", one)),
    figures=st.lists(st.lists(st.decimals(-999, 999, places=2), min_size=3, max_size=3), min_size=1, max_size=3),
)
def test_what_is_worked_out_is_what_fractions_give(
    tmp_path_factory: pytest.TempPathFactory, kind: str, expression: str, figures: list[list[Decimal]]
) -> None:
    desk = Desk(tmp_path_factory.mktemp("worked"))
    desk.write("w.csv", [(f"i{at}", *row) for at, row in enumerate(figures)], ("item", "a", "b", "c"))
    if kind == "parquet":
        types = "{'item': 'VARCHAR', 'a': 'DECIMAL(9, 3)', 'b': 'DOUBLE', 'c': 'DECIMAL(30, 3)'}"
        read = f"read_csv('{desk.folder}/w.csv', columns = {types})"
        duckdb.sql(f"COPY (FROM {read}) TO '{desk.folder}/w.parquet'")
    words = ("table", f"w.{kind}", "--by", "item", "--versus", "none", "--amount", expression)
    plain = re.sub(r"[\d.]+", lambda number: f"Fraction('{number[0]}')", expression)
    known = [{"Fraction": Fraction, **dict(zip("abc", map(Fraction, row), strict=True))} for row in figures]
    try:
        exact = [eval(plain, names) for names in known]
    except ZeroDivisionError:
        assert "a division by 0" in desk.refused(*words)
        return
    found = by_label(desk.figures(*words))
    for at, value in enumerate(exact):
        # To the last digit where nothing is divided, else to twelve decimals, half even.
        right = round(value, 12) if "/" in expression else value
        assert Fraction(found[f"i{at}"]["current"]) == right


def test_rows_are_kept_by_figures_and_days_however_they_are_written(desk: Desk) -> None:
    rows = "2025-03-30 08:00,A,{}\n2025-03-31 10:00,A,{}\n2025-03-31 23:59,B,{}\n2025-04-01 00:00,B,{}\n"
    (desk.folder / "point.csv").write_text("day,item,net\n" + rows.format('"1,234.50"', "999.00", '"12,000.00"', "5"))
    (desk.folder / "comma.csv").write_text(
        ("day;item;net\n" + rows.replace(",", ";")).format("1.234,50", "999", "12.000,00", "5")
    )
    duckdb.sql(
        f"COPY (SELECT day::TIMESTAMP AS day, item, replace(net, ',', '')::DOUBLE AS net "
        f"FROM read_csv('{desk.folder}/point.csv', all_varchar = true)) TO '{desk.folder}/typed.parquet'"
    )
    # 1,234.50 and 12,000 are at least a thousand; all but the last are of March, the evening of the 31st too.
    right = {
        "net>=1k": [Decimal("1234.50"), 12000],
        "net<1000": [999, 5],
        "day<=2025-03-31": [Decimal("2233.50"), 12000],
        "day>2025-03": [5],
    }
    for source in ("point.csv", "comma.csv", "typed.parquet"):
        for where, amounts in right.items():
            found = desk.figures(
                "table", source, "--by", "item", "--versus", "none", "--for", "2025", "--where", where
            )
            assert [one["current"] for one in found["points"][:-1]] == amounts, (source, where)
    (desk.folder / "odd.csv").write_text("day,item,net\n31/03/2025,A,7\n28/03/2025,B,n/a\n30/03/2025,C,x\n")
    words = ("table", "odd.csv", "--by", "item", "--versus", "none", "--where")
    assert "compares days, which day has as '31/03/2025'" in desk.refused(*words, "day>=2025-03-01")
    caution = "net is no figure in 1 of the rows ('x'), which do not pass"
    assert caution in desk.run(*words, "net>=5").err
    assert "which holds amounts, with a text" in desk.refused("table", "point.csv", *WORDS[2:], "--where", "net>=ten")


def test_what_amounts_are_divided_by_is_read_as_they_are(desk: Desk) -> None:
    # 2.50 ÷ 1.117 + …: with a decimal comma in the amounts, 1,117 is no thousand.
    (desk.folder / "p.csv").write_text("item;net;volume\nA;2,50;1,117\nB;3,25;1,205\n")
    found = by_label(
        desk.figures("table", "p.csv", "--by", "item", "--versus", "none", "--amount", "net", "--per", "volume")
    )
    assert round(found["A"]["current"], 4) == Decimal("2.2381") and found["B"]["current"] < 3


def test_formulas_that_nothing_has_worked_out_stop_the_call(desk: Desk) -> None:
    for name, value in (("new.xlsx", 0), ("kept.xlsx", 10)):  # as a script writes them, without and with their values
        with xlsxwriter.Workbook(desk.folder / name) as book:
            sheet = book.add_worksheet("Plan")
            sheet.write_row(0, 0, ["item", "actual", "budget"])
            for row, item in enumerate(("Fuel", "Crew"), 1):
                sheet.write_row(row, 0, [item, 5])
                sheet.write_formula(row, 2, f"=B{row + 1}*2", None, value)
    found = desk.refused("table", "new.xlsx")
    assert "sheet 'Plan', cell C2: '=B2*2' was never worked out (and 1 more)" in found
    assert desk.figures("table", "kept.xlsx")["points"][-1]["base"] == 20
    with zipfile.ZipFile(desk.folder / "kept.xlsx") as kept, zipfile.ZipFile(desk.folder / "none.xlsx", "w") as none:
        for part in kept.namelist():
            none.writestr(part, kept.read(part).replace(b"<v>10</v>", b"<v></v>"))
    assert "'=B2*2' was never worked out" in desk.refused("table", "none.xlsx")


def test_a_time_with_a_zone_is_of_one_day_wherever_it_is_read(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    rows = "('2025-03-31 23:30:00+00', 5), ('2025-04-01 00:30:00+00', 7), ('2025-04-03 12:00:00+00', 1)"
    duckdb.sql(
        f"COPY (SELECT day::TIMESTAMPTZ AS day, net FROM (VALUES {rows}) AS t(day, net)) TO '{desk.folder}/z.parquet'"
    )
    monkeypatch.setenv("TZ", "Asia/Tokyo")
    done = desk.process(
        "table", "z.parquet", "--for", "2025-03-31/2025-04-03", "--versus", "none", "--figures", "f.json"
    )
    points = json.loads((desk.folder / "f.json").read_text())["points"]
    assert done.status == 0 and [one["current"] for one in points] == [5, 7, 1, 13], done.err


def test_a_period_beside_its_parts_is_asked_about(desk: Desk) -> None:
    rows = "2025-01,actual,1\n2025-02,actual,2\n2025-Q1,actual,4\n2024-Q4,actual,5\n2025-Q1,budget,4\n"
    (desk.folder / "m.csv").write_text("month,scenario,net\n" + rows)
    words = ("table", "m.csv", "--for", "2025", "--versus", "none")
    assert "'2025-Q1' stands beside '2025-01', which is a part of it" in desk.refused(*words)
    # The ways out that are named: 1 + 2 without the quarter, which no budget lacks; all of it, and said so.
    assert desk.figures(*words, "--where", "month!=2025-Q1")["points"][-1]["current"] == 3
    kept = desk.figures(*words, "--totals", "keep")
    assert kept["points"][-1]["current"] == 7 and "counts with its part" in kept["cautions"][0]
    year = rows.replace("2025-Q1,actual", "2025,actual")
    (desk.folder / "y.csv").write_text("month,scenario,net\n" + year)
    assert "'2025' stands beside '2025-01'" in desk.refused("table", "y.csv", "--for", "2025", "--versus", "none")


def test_rows_that_no_side_would_count_are_told(desk: Desk) -> None:
    head = "line,scenario,date,net\nFuel,Actual,2025-01-01,5\nFuel,Budget,2025-01-01,9\n"
    (desk.folder / "case.csv").write_text(head + "Fuel,actual,2025-01-02,7\n")
    assert "case.csv: Actual and actual are two names of one scenario" in desk.refused(
        "table", "case.csv", "--by", "line"
    )
    # The way out that is named takes both: 5 + 7 against 9.
    total = desk.figures("table", "actual=case.csv", "budget=case.csv", "--by", "line")["points"][-1]
    assert (total["current"], total["base"]) == (12, 9)
    (desk.folder / "blank.csv").write_text(head + "Fuel,,2025-01-02,7\n")
    assert "1 row without a scenario is on no side: 7 in all" in desk.run("table", "blank.csv", "--by", "line").err
    # Two categories of one name are told, not merged; blanks that look alike are named.
    (desk.folder / "two.csv").write_text("a,b,net\nA / B,C,5\nA,B / C,7\n")
    assert "both be shown as 'A / B / C'" in desk.refused("table", "two.csv", "--by", "a,b", "--versus", "none")
    (desk.folder / "hard.csv").write_text("line,date,net\nFuel\u00a0oil,2025-01-01,5\nFuel oil,2025-01-02,7\n")
    assert "alike but for blanks" in desk.run("table", "hard.csv", *WORDS[2:], "--by", "line").err


def test_a_threshold_in_thousands_is_money_in_a_sheet_of_thousands(desk: Desk) -> None:
    (desk.folder / "k.csv").write_text("Item,Net k€\nFuel,12\nCrew,5\nRent,30\n")
    words = ("table", "k.csv", "--versus", "none", "--where")
    assert desk.figures(*words, "Net k€>=10k")["points"][-1]["current"] == 42_000
    done = desk.figures(*words, "Net k€>=10")
    assert done["points"][-1]["current"] == 42_000 and "as they stand, in thousands" in done["cautions"][0]


def test_currencies_of_two_sources_are_not_compared(desk: Desk) -> None:
    for name, content in {
        "signs": "line,date,net\nFuel,2025-01-01,€4\n",
        "column": "line,date,net,ccy\nFuel,2025-01-01,4,EUR\n",
        "heading": "line,date,net USD\nFuel,2025-01-01,5\n",
        "plain": "line,date,net\nFuel,2025-01-01,6\n",
    }.items():
        (desk.folder / f"{name}.csv").write_text(content)

    def call(actual: str, budget: str, *words: str) -> tuple[str, ...]:
        return ("table", f"actual={actual}.csv", f"budget={budget}.csv", "--by", "line", *words)

    for one in ("signs", "column"):
        assert "heading.csv in USD, and they would be compared" in desk.refused(*call(one, "heading"))
        assert desk.figures(*call(one, "plain"))["points"][-1]["change"] == -2
    assert desk.figures(*call("signs", "column"))["points"][-1]["change"] == 0
    converted = desk.figures(*call("column", "heading", "--amount", 'budget="net USD" * 0.9'))
    assert converted["points"][-1]["base"] == Decimal("4.5")
    # Rows of several currencies are not made one by being worked out.
    (desk.folder / "rows.csv").write_text("line,net,n,ccy\nFuel,1,2,EUR\nCrew,1,2,USD\n")
    worked = desk.refused("table", "rows.csv", "--by", "line", "--versus", "none", "--amount", "net * n")
    assert "several currencies: EUR, USD" in worked
    (desk.folder / "rates.csv").write_text("line,net,rate,ccy\nFuel,1,1,EUR\nCrew,2,0.9,USD\n")
    by_rate = desk.figures("table", "rates.csv", "--by", "line", "--versus", "none", "--amount", "net * rate")
    assert by_rate["points"][-1]["current"] == Decimal("2.8")  # 1 × 1 + 2 × 0.9
    (desk.folder / "pay.csv").write_text("line,hours,rate,ccy\nFuel,1,1,EUR\nCrew,2,0.9,USD\n")
    paid = desk.refused("table", "pay.csv", "--by", "line", "--versus", "none", "--amount", "hours * rate")
    assert "several currencies: EUR, USD" in paid
    (desk.folder / "two.csv").write_text("line,net EUR,net USD\nFuel,1,2\n")
    assert "several currencies: EUR, USD" in desk.refused("table", "two.csv", "--amount", "net EUR,net USD")


def test_a_file_that_was_fetched_twice_does_not_count_twice(desk: Desk) -> None:
    (desk.folder / "a.csv").write_text(SMALL)
    (desk.folder / "b.csv").write_text(SMALL.replace("0.1", "0.3"))
    whole = desk.figures("table", "glob:*.csv", *WORDS)["points"]
    assert whole[0]["current"] == Decimal("0.8")  # 0.1 + 0.2 + 0.3 + 0.2
    (desk.folder / "a (1).csv").write_text(SMALL)
    assert "a (1).csv and a.csv hold the same, and would count twice" in desk.refused("table", "glob:*.csv", *WORDS)
    # A month beside its quarter, and two months, which share a row or two.
    rows = [(f"2026-0{month}-{day:02}", "A", day + month) for month in (1, 2, 3) for day in range(1, 11)]
    for name, own in (("q1", rows), ("m1", rows[:10]), ("m2", rows[9:20])):
        desk.write(f"{name}.csv", own, ("date", "route", "net"))
    assert "rows of m1.csv stand in q1.csv too" in desk.refused("table", "glob:[mq]1.csv", *WORDS)
    for name in ("m1", "q1"):
        (desk.folder / f"{name}.csv.gz").write_bytes(gzip.compress((desk.folder / f"{name}.csv").read_bytes()))
    assert "rows of m1.csv.gz stand in q1.csv.gz too" in desk.refused("table", "glob:*.gz", *WORDS)
    for name, own in (("n1", rows[:10]), ("n2", rows[10:20])):  # and of columns that are called as no other may be
        desk.write(f"{name}.csv", [(*one, "x") for one in own], ("date", "file", "n", "files"))
    assert desk.figures("table", "glob:n?.csv", "--by", "file", "--amount", "n")["points"][0]["current"] == 65 + 75
    both = desk.figures("table", "glob:m?.csv", *WORDS)
    assert both["points"][0]["current"] == 65 + 11 + 75
    assert not any("are the same" in one for one in both["cautions"])
    desk.write("m3.csv", rows[12:30], ("date", "route", "net"))
    cautions = desk.figures("table", "glob:m[23].csv", *WORDS)["cautions"]
    assert any("8 rows of m2.csv and m3.csv are the same" in one for one in cautions)


@pytest.mark.parametrize(
    "content, words, told",
    [
        ("Item,Actual k€,Budget €\nA,10,9000\n", ("Actual k€", "Budget €"), "'Actual k€' is in thousands"),
        ("Item,Actual,Budget m€\nA,10,9\n", ("Actual", "Budget m€"), "'Budget m€' is in millions"),
        ("Item,Unit,Actual,Budget\nSales,k€,10,9\nRent,€,3,4\n", (), "several units: k€, €"),
        ("Item,Unit,Actual,Budget\nSales,EUR,10,9\nOccupancy,%,3,4\n", (), "several units: %, EUR"),
    ],
)
def test_figures_of_unlike_units_are_not_added_up(
    desk: Desk, content: str, words: tuple[str, ...], told: str
) -> None:
    (desk.folder / "u.csv").write_text(content)
    words = ("--current", words[0], "--base", words[1]) if words else ()
    assert told in desk.refused("table", "u.csv", *words)
    # The ways out that are named.
    more = ("--amounts-in", "k") if words else ("--where", "Unit!=%", "--where", "Unit!=k€")
    right = 10_000 if words else 3 if "k€" in content else 10
    assert desk.figures("table", "u.csv", *words, *more)["points"][-1]["current"] == right
    (desk.folder / "b.csv").write_text("Item,Unit,Actual,Budget\nFreight,North,10,9\nRent,South,3,4\n")
    assert desk.figures("table", "b.csv")["points"][-1]["current"] == 13  # business units
    (desk.folder / "e.csv").write_text("Exposure,Actual,Budget\nEUR,10,9\nSEK,3,4\n")
    assert desk.figures("table", "e.csv")["points"][-1]["current"] == 13  # to currencies, in one of them


@pytest.mark.parametrize(
    ("column", "amount", "one", "other", "told"),
    [
        ("Trans. curr.", "Net", "EUR", "SEK", "several currencies: EUR, SEK"),
        ("Money", "Net", "EUR", "USD", "several currencies: EUR, USD"),
        ("UOM", "Qty", "L", "m3", "several units: L, m3"),
        ("Unit of measure", "Fuel consumption", "kg", "t", "several units: kg, t"),
        ("Scale", "Net", "1", "1000", "Scale says that rows are in 1, 1000"),
        ("Posting key", "Net", "40", "50", ""),
        ("Code", "Amount in group currency", "EUR", "SEK", None),
        ("Code", "Net EUR", "EUR", "SEK", None),
        ("Unit", "Net", "kg", "box", None),
        ("Unit", "Qty", "North", "South", None),
        ("Site", "Net", "EUR", "HQ", None),
    ],
)
def test_a_column_says_of_each_row_in_what_its_amount_is(
    desk: Desk, column: str, amount: str, one: str, other: str, told: str | None
) -> None:
    months = [f"2026-{month:02}" for month in range(1, 7)]
    rows = [(month, its, net) for at, month in enumerate(months) for its, net in ((one, 700 + at), (other, 31 + at))]
    desk.write("u.csv", rows, ("Month", column, amount))
    words = ("table", "u.csv", "--every", "month", "--for", "2026")
    if told:
        assert told in desk.refused(*words)
        kept = ("--where", f"{column}={one}")
        assert desk.figures(*words, *kept)["points"][-1]["current"] == 4215
        words += ("--amount", "Net * Scale") if column == "Scale" else kept
    # Of the six months 4,215 and 201, of which credits lower the sum and thousands are a thousand times as much.
    right = {"Scale": 4215 + 201_000, "Posting key": 4215 - 201}.get(column, 4215 + (0 if told else 201))
    assert desk.figures(*words)["points"][-1]["current"] == right


@pytest.mark.parametrize("heading", ["id", "CustomerID", "SKU", "Account", "Kontonummer", "zip_code", "OrderNo"])
def test_codes_are_not_added_up_even_where_nothing_else_is_a_figure(desk: Desk, heading: str) -> None:
    rows = [("North", 1250, 10), ("South", 2012, 20), ("Isle", 3390, 30)]
    desk.write("c.csv", [row[:2] for row in rows], ("route", heading))
    assert f"holds figures but {heading}, a code by its name" in desk.refused("table", "c.csv")
    assert "table c.csv --by route --total-as count" in desk.run("survey", "c.csv").out
    desk.write("c.csv", rows, ("route", heading, "Takings"))
    assert desk.figures("table", "c.csv", "--versus", "none")["points"][-1]["current"] == 60
    found = desk.figures("table", "c.csv", "--versus", "none", "--amount", heading)
    assert found["points"][-1]["current"] == 6652  # as she says


def test_cells_that_a_workbook_shows_in_per_cent_are_percentages(desk: Desk) -> None:
    with xlsxwriter.Workbook(desk.folder / "p.xlsx") as book:
        sheet = book.add_worksheet()
        shown = [book.add_format({"num_format": code}) for code in ("#,##0", "0.0%", '0.00" per 100%"')]
        sheet.write_row(0, 0, ["Item", "Actual", "Budget"])
        rows = (("Sales", 1000, 900, 0), ("Load", 0.75, 0.8, 1), ("Fees", 300, 310, 2))
        for row, (item, actual, budget, form) in enumerate(rows, 1):
            sheet.write(row, 0, item)
            sheet.write(row, 1, actual, shown[form])
            sheet.write(row, 2, budget, shown[form])
    found = desk.figures("table", "p.xlsx")
    # 75% of a load is nothing to be added to sales; what only speaks of per cent is a figure.
    assert [(one["label"], one["current"]) for one in found["points"]] == [
        ("Sales", 1000),
        ("Fees", 300),
        ("Total", 1300),
    ]
    assert "'Load' is in per cent, of no two lines, and was left out" in found["cautions"][0]


@pytest.mark.parametrize(
    ("title", "formats", "fares"),
    [
        # 1,211,000 shown as 1,211 under "EUR '000" is 1,211 thousand; shown as it is, it is a thousand times that.
        ("EUR '000", ["#,##0,"] * 4, 1211000),
        ("Results in millions", ['0.0,,"m"'] * 4, 1211000),
        ("EUR '000", ["#,##0"] * 4, 1211000000),
        ("Results", ["#,##0,"] * 4, 1211000),
        ("EUR '000", ["#,##0,", "#,##0,", "#,##0", "#,##0"], None),
    ],
)
def test_thousands_that_are_a_format_alone_do_not_count_twice(
    desk: Desk, title: str, formats: list[str], fares: int | None
) -> None:
    with xlsxwriter.Workbook(desk.folder / "s.xlsx") as book:
        page = book.add_worksheet()
        page.write(0, 0, title)
        page.write_row(1, 0, ("Item", 2025, 2026))
        rows = (
            ("Fares", 1200000, 1211000),
            ("Freight", 300000, 309000),
            ("Rent", 40000, 41000),
            ("Fuel", 9000, 9500),
        )
        for row, ((name, *figures), form) in enumerate(zip(rows, formats, strict=True), 2):
            page.write(row, 0, name)
            page.write_row(row, 1, figures, book.add_format({"num_format": form}))
    if fares is None:
        assert "column B: some figures are shown in thousands" in desk.refused("table", "s.xlsx")
        assert by_label(desk.figures("table", "s.xlsx", "--amounts-in", "one"))["Fares"]["current"] == 1211000
        return
    assert by_label(desk.figures("table", "s.xlsx"))["Fares"]["current"] == fares


def test_a_side_that_seems_to_be_in_thousands_is_told(desk: Desk) -> None:
    ones, thousands = (
        (("Fuel", 412000), ("Crew", 300500), ("Rent", 90000)),
        (("Fuel", 400), ("Crew", 310), ("Rent", 90)),
    )
    desk.write("a.csv", ones, ("item", "net"))
    desk.write("b.csv", thousands, ("item", "net"))
    for sides, told in ((("a.csv", "b.csv"), "actual is about 1,000 times budget"),
                        (("b.csv", "a.csv"), "budget is about 1,000 times actual")):  # fmt: skip
        words = ("table", f"actual={sides[0]}", f"budget={sides[1]}", "--by", "item")
        lesser = "budget=k" if sides[0] == "a.csv" else "actual=k"
        caution = next(one for one in desk.figures(*words)["cautions"] if told in one)
        assert f"--amounts-in {lesser}" in caution
        assert "times" not in desk.run(*words, "--amounts-in", lesser).err


def test_a_list_in_a_cell_of_parquet_is_text(desk: Desk) -> None:
    made = "SELECT [1, 2] AS a, {'x': 1} AS b, 5 AS net UNION ALL SELECT [3], NULL, 7"
    duckdb.sql(f"COPY ({made}) TO '{desk.folder}/l.parquet' (FORMAT parquet)")
    assert by_label(desk.figures("table", "l.parquet"))["[1, 2]"]["current"] == 5
    assert "l.parquet is no sheet" in desk.refused("table", "l.parquet", "--cells", "A1:B2")
