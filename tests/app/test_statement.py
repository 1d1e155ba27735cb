"""Statements and walks: lines from accounts, totals and ratios, and bars that foot, each against figures by hand."""

from __future__ import annotations

import json
import re
from decimal import Decimal
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import DEMO, Desk, by_label, typed

STATEMENT = """
[statement]
name = "Profit and loss"
cost_sign = "{costs}"
{lines}
[[line]]
label = "Fares"
accounts = ["4000-4099", "41*"]
kind = "income"
[[line]]
label = "Fuel"
accounts = ["5100"]
kind = "cost"
[[line]]
label = "Gross margin"
total_of = ["Fares", "Fuel"]
[[line]]
label = "Gross margin %"
ratio_of = ["Gross margin", "Fares"]
[[line]]
label = "Wages"
accounts = ["6*"]
kind = "cost"
[[line]]
label = "Refunds from suppliers"
accounts = ["69"]
kind = "cost"
[[line]]
label = "All costs"
total_of = ["Fuel", "Wages"]
kind = "cost"
[[line]]
label = "Result"
total_of = ["Gross margin", "Wages"]
"""
# account, budget, actual; costs as positive amounts
ROWS = [("4010", 700, 760), ("4150", 300, 280), ("5100", 400, 500), ("6010", 350, 320)]
P_AND_L = "pl.toml"


def prepared(desk: Desk, costs: str = "positive", rows: list[tuple[str, object, object]] | None = None) -> None:
    sign = -1 if costs == "negative" else 1
    text = STATEMENT.format(costs=costs, lines="").replace(
        '[[line]]\nlabel = "Refunds from suppliers"\naccounts = ["69"]\nkind = "cost"\n', ""
    )
    (desk.folder / P_AND_L).write_text(text)
    written = []
    for account, budget, actual in rows or ROWS:
        turned = sign if account[0] in "56" else 1
        written += [
            ("2026-06-17", account, "budget", turned * budget),
            ("2026-06-17", account, "actual", turned * actual),
        ]
    desk.write("l.csv", written, ("date", "account", "scenario", "net"))


def test_a_statement_whose_costs_come_out_below_zero_stops(desk: Desk) -> None:
    """Or they would be added to the result: 1040 + 500 + 320, instead of 1040 − 820."""
    prepared(desk, "negative")
    words = ("table", "l.csv", "--statement", P_AND_L, "--versus", "budget")
    assert by_label(desk.figures(*words))["Result"]["current"] == 220
    text = (desk.folder / P_AND_L).read_text()
    (desk.folder / P_AND_L).write_text(text.replace('cost_sign = "negative"', 'cost_sign = "positive"'))
    said = desk.refused(*words)
    assert "by which Fuel, Wages of l.csv (actual) are below zero" in said and "cost_sign = 'negative'" in said
    (desk.folder / P_AND_L).write_text(text.replace('kind = "cost"', 'kind = "cost"\nsign = "positive"', 2))
    assert by_label(desk.figures(*words))["Result"]["current"] == 1860  # so it is meant
    prepared(desk, "negative")
    assert "Choose the one of positive" in desk.refused(*words, "--source-sign", "positive")
    assert by_label(desk.figures(*words, "--source-sign", "effect"))["Result"]["current"] == 220


def rounded(found: dict[str, dict[str, object]], *keys: str) -> dict[str, tuple[object, ...]]:
    return {label: tuple(point[key] for key in keys) for label, point in found.items()}


@pytest.mark.parametrize("costs", ["positive", "negative"])
def test_lines_totals_and_ratios_by_hand(desk: Desk, costs: str) -> None:
    prepared(desk, costs)
    found = desk.figures("table", "l.csv", "--statement", P_AND_L, "--versus", "budget")
    points = by_label(found)
    # Budget: 1,000 − 400 = 600, 60%; 600 − 350 = 250. Actual: 1,040 − 500 = 540, 51.9231%; 540 − 320 = 220.
    assert rounded(points, "kind", "base", "current", "change", "band") == {
        "Fares": ("line", 1000, 1040, 40, "Favourable"),
        "Fuel": ("line", 400, 500, 100, "Adverse"),
        "Gross margin": ("total", 600, 540, -60, "Adverse"),
        "Gross margin %": ("ratio", Decimal("0.6"), Decimal("0.519231"), Decimal("-0.080769"), "Adverse"),
        "Wages": ("line", 350, 320, -30, "Favourable"),
        "All costs": ("total", 750, 820, 70, "Adverse"),
        "Result": ("total", 250, 220, -30, "Adverse"),
    }
    assert points["Gross margin %"]["change_ratio"] is None
    assert {check["name"]: check["ok"] for check in found["checks"]} == {"ties out": True, "statement complete": True}
    words = ("table", "l.csv", "--statement", P_AND_L, "--versus", "budget", "--lines", "Wages,Fuel")
    assert desk.figures(*words)["headline"] == "Wages 320, 30 under budget (−8.6%)"
    # The same where both sides of an account are columns.
    sign = -1 if costs == "negative" else 1
    sides = [(one, *((sign if one > "5" else 1) * size for size in sizes)) for one, *sizes in ROWS]
    desk.write("w.csv", sides, ("account", "plan", "now"))
    beside = by_label(desk.figures("table", "w.csv", "--statement", P_AND_L, "--current", "now", "--base", "plan"))
    assert rounded(beside, "current", "base", "band") == rounded(points, "current", "base", "band")
    rule = ("--band", "Off [worse]: adverse > 8%", "--band", "Dear: change > 50", "--band", "Fine: otherwise")
    bands = rounded(by_label(desk.figures("table", "l.csv", "--statement", P_AND_L, *rule)), "band")
    # A percentage asks a ratio line for points, −8.08; an amount means nothing to it. −60 on 600 is 10%.
    assert bands["Gross margin %"] == bands["Gross margin"] == ("Off",)
    assert bands["Wages"] == ("Fine",)


def test_a_statement_that_does_not_fit_is_refused(desk: Desk) -> None:
    prepared(desk, rows=[*ROWS, ("7000", 5, 6)])
    call = ("table", "l.csv", "--statement", P_AND_L)
    assert "no line for account 7000 (11)" in desk.refused(*call)
    spare = by_label(desk.figures(*call, "--unmapped", "Rest"))
    assert (spare["Rest"]["current"], spare["Result"]["current"]) == (6, 226)
    text = (desk.folder / P_AND_L).read_text()
    for old, new, message in (
        ('"5100"', '"5100", "6010"', "is on two lines, Fuel and Wages"),
        ('total_of = ["Fares", "Fuel"]', 'total_of = ["Fares", "Fule"]', "no line 'Fule'"),
        ('label = "Wages"', 'label = "Fuel"', "the line 'Fuel' twice"),
        ('kind = "income"', 'kind = "incom"', "line 'Fares': kind cannot be 'incom'"),
        ('name = "Profit and loss"', "name = 5", "[statement]: name cannot be 5"),
        ('kind = "income"', 'kind = "income"\nindent = true', "indent cannot be true"),
        ('kind = "income"', 'kind = "income"\nindnt = 1', "Did you mean indent?"),
        ('accounts = ["6*"]', 'acounts = ["6*"]', "no key 'acounts'"),
        ("[statement]", "[statment]", "Did you mean [statement]?"),
    ):
        (desk.folder / P_AND_L).write_text(text.replace(old, new, 1))
        assert message in desk.refused(*call, "--unmapped", "Rest"), old
    (desk.folder / P_AND_L).write_text(text)
    for words in (("--by", "account"), ("--order", "name"), ("--total-as", "mean")):
        assert "Leave" in desk.refused(*call, *words), words
    # A total is traced into its lines, a ratio into the two that it divides.
    traced = desk.run("trace", *call[1:], "--unmapped", "R", "--at", "Gross margin").out
    assert re.search(r"[+] +Fares", traced) and re.search(r"− +Fuel", traced)
    divided = desk.run("trace", *call[1:], "--unmapped", "R", "--at", "Gross margin %").out
    assert re.search(r"÷ +Fares", divided) and "51.9231%" in divided


def test_signs_that_are_not_expected_and_ratios_that_mean_nothing(desk: Desk) -> None:
    prepared(desk, rows=[("4010", 0, 0), ("5100", 10, -4), ("6010", 1, 1)])
    found = desk.figures("table", "l.csv", "--statement", P_AND_L)
    points = by_label(found)
    assert any("Fuel has a sign" in caution for caution in found["cautions"])
    ratio = points["Gross margin %"]
    assert (ratio["current"], ratio["change"], ratio["state"]) == (None, None, "no base")
    assert (points["Fuel"]["band"], points["Result"]["base"], points["Result"]["current"]) == ("Favourable", -11, 3)


def test_the_effect_of_each_line_leads_from_result_to_result(desk: Desk) -> None:
    prepared(desk, "negative")
    call = ("draw", "waterfall", "l.csv", "--statement", P_AND_L, "-o", "w.png")
    found = desk.figures(*call, "--subtotal-after", "Fuel")
    bars = [(point["label"], point["kind"], point["start"], point["end"], point["band"]) for point in found["points"]]
    assert bars == [
        ("Budget", "opening", 0, 250, None),
        ("Fares", "step", 250, 290, "Favourable"),
        ("Fuel", "step", 290, 190, "Adverse"),
        ("After Fuel", "subtotal", 0, 190, None),
        ("Wages", "step", 190, 220, "Favourable"),
        ("Actual", "closing", 0, 220, None),
    ]
    down = desk.figures(*call, "--versus", "none")
    bars = [(point["label"], point["kind"], point["start"], point["end"]) for point in down["points"]]
    assert [bar[0] for bar in bars] == ["Fares", "Fuel", "Gross margin", "Wages", "Result"]
    assert bars[1:3] == [("Fuel", "step", 1040, 540), ("Gross margin", "subtotal", 0, 540)]
    assert bars[-1] == ("Result", "closing", 0, 220)


cents = st.integers(-(10**6), 10**6).map(lambda n: Decimal(n).scaleb(-2))
account = st.sampled_from(["4010", "4150", "5100", "6010", "6200"])


@settings(max_examples=25)
@given(ledger=st.lists(st.tuples(account, st.sampled_from(["budget", "actual"]), cents), min_size=1, max_size=30))
def test_any_statement_foots(desk: Desk, ledger: list[tuple[str, str, Decimal]]) -> None:
    prepared(desk)
    # Amounts by chance can be below zero in all of a kind: each line says that it is meant so.
    text = (desk.folder / P_AND_L).read_text()
    (desk.folder / P_AND_L).write_text(re.sub(r"(accounts = .*)", r'\1\nsign = "positive"', text))
    ledger = [
        *ledger,
        *((one, side, Decimal(1)) for one in ("4010", "5100", "6010") for side in ("budget", "actual")),
    ]
    desk.write("l.csv", [("2026-06-17", *row) for row in ledger], ("date", "account", "scenario", "net"))
    # And they can be turned in all of one side: that they are as they are is said.
    found = desk.figures("draw", "waterfall", "l.csv", "--statement", P_AND_L, "--source-sign", "positive")
    result = {
        side: sum((1 if one[0] == "4" else -1) * Fraction(net) for one, of, net in ledger if of == side)
        for side in ("budget", "actual")
    }
    opening, *steps, closing = found["points"]
    assert (Fraction(opening["end"]), Fraction(closing["end"])) == (result["budget"], result["actual"])
    assert opening["end"] + sum(step["end"] - step["start"] for step in steps) == closing["end"]


MOVED = ("item", "amount")
COSTS = ("Fuel", "Crew", "Total costs")
MOVES = [("Opening", 120), ("Hires", 14), ("Leavers", -11), ("Closing", 123)]


def test_a_list_of_movements_closes_by_arithmetic(desk: Desk) -> None:
    desk.write("m.csv", MOVES, ("item", "crew"))
    draw = ("draw", "waterfall", "m.csv", "-o", "m.png")
    found = desk.figures(*draw)
    assert [(point["kind"], point["end"]) for point in found["points"]] == [
        ("opening", 120),
        ("step", 134),
        ("step", 123),
        ("closing", 123),
    ]
    assert [point["band"] for point in found["points"]] == [None, "Rise", "Fall", None]
    # Told not to, the last row is a step like any other, and the list is added up.
    kept = desk.figures(*draw, "--standing", "none", "--closing-name", "Sum")["points"]
    assert [(point["label"], point["end"]) for point in kept[-2:]] == [("Closing", 246), ("Sum", 246)]
    desk.write("m.csv", [*MOVES[:-1], ("Closing", 130)], ("item", "crew"))
    standing = (*draw[:-1], "n.png", "--standing", "Opening,Closing")
    assert "'Closing' is 130, but the running total before it is 123: +7 is missing" in desk.refused(*standing)
    plugged = by_label(desk.figures(*standing, "--plug", "Unexplained"))
    assert (plugged["Unexplained"]["start"], plugged["Unexplained"]["end"]) == (123, 130)
    assert "there is no row 'Hire'" in desk.refused(*draw[:-1], "o.png", "--deductions", "Hire")


@pytest.mark.parametrize(
    ("rows", "standing"),
    [
        # 900 − 310 − 280 = 310, and 310 − 70 = 240: by name, and by arithmetic alone.
        ([900, -310, -280, ("Subtotal", 310), -70, ("Total", 240)], ["Subtotal", "Total"]),
        ([900, -310, -280, ("Gross profit", 310), -70, ("Net result", 240)], ["Gross profit", "Net result"]),
        # The third row happens to equal the two before it, but the list closes only without it.
        ([("Opening", 10), 5, 15, ("Closing", 30)], ["Opening", "Closing"]),
    ],
)
def test_totals_within_a_list_stand_and_are_not_added_again(desk: Desk, rows: list[Any], standing: list[str]) -> None:
    named = [row if isinstance(row, tuple) else (f"Step {place}", row) for place, row in enumerate(rows)]
    desk.write("m.csv", named, MOVED)
    points = desk.figures("draw", "waterfall", "m.csv", "-o", "m.png")["points"]
    assert [point["label"] for point in points if point["kind"] != "step"] == standing
    assert points[-1]["end"] == named[-1][1]


def test_a_list_that_does_not_come_to_its_closing_is_refused(desk: Desk) -> None:
    desk.write("m.csv", [("Opening", 100), ("Up", 50), ("Closing", 155)], MOVED)
    message = desk.refused("draw", "waterfall", "m.csv")
    assert "'Closing' is 155, but Opening + Up come to 150: 5 more" in message and "--plug NAME" in message
    # 30 − 10 = 20 is what the steps come to, and no balance.
    desk.write("n.csv", [("Opening", 100), ("Up", 30), ("Down", -10), ("Subtotal", 20), ("Closing", 120)], MOVED)
    found = desk.figures("draw", "waterfall", "n.csv", "-o", "n.png")
    assert [point["label"] for point in found["points"]] == ["Opening", "Up", "Down", "Closing"]
    assert any("'Subtotal'" in caution for caution in found["cautions"])
    # A total above its rows: 2 + 3 = 5.
    desk.write("t.csv", [("Total", 5), ("A", 2), ("B", 3)], MOVED)
    above = desk.figures("draw", "waterfall", "t.csv", "--closing-name", "Sum", "-o", "t.png")["points"]
    assert [(point["label"], point["end"]) for point in above] == [("A", 2), ("B", 5), ("Sum", 5)]
    # The same of costs: 310 + 280 = 590, stored as they are or turned.
    for costs, words in (((-310, -280, -590), ()), ((310, 280, 590), ("--deductions", "Fuel,Crew"))):
        rows = [
            ("Fares", 900),
            ("Freight", 300),
            ("Total income", 1200),
            *zip(COSTS, costs, strict=True),
            ("Result", 610),
        ]
        desk.write("p.csv", rows, MOVED)
        points = desk.figures("draw", "waterfall", "p.csv", *words, "-o", "p.png")["points"]
        kinds = [(point["label"], point["kind"]) for point in points if point["kind"] != "step"]
        assert kinds == [("Total income", "subtotal"), ("Result", "closing")]
        assert len(points) == 6


def test_costs_of_a_plain_list_point_downward_and_cross_zero(desk: Desk) -> None:
    desk.write("d.csv", [("Revenue", 900), ("Fuel", 700), ("Margin", 200), ("Tax", 260)], ("item", "amount"))
    words = ("--standing", "Margin", "--deductions", "Fuel,Tax", "--closing-name", "Net")
    found = desk.figures("draw", "waterfall", "d.csv", *words, "-o", "d.png")
    bars = [(point["label"], point["start"], point["end"]) for point in found["points"]]
    assert bars == [("Revenue", 0, 900), ("Fuel", 900, 200), ("Margin", 0, 200), ("Tax", 200, -60), ("Net", 0, -60)]


def test_month_end_balances_walk_from_the_first_to_the_last(desk: Desk) -> None:
    ends = [("2026-01-31", 46), ("2026-02-28", 50), ("2026-03-31", 47)]
    desk.write("b.csv", ends, ("month_end", "people"))
    words = ("draw", "waterfall", "b.csv", "--total-as", "closing", "--every", "month", "-o", "b.png")
    found = desk.figures(*words)
    assert [(point["label"], point["start"], point["end"]) for point in found["points"]] == [
        ("Jan 2026", 0, 46),
        ("2026-02", 46, 50),
        ("2026-03", 50, 47),
        ("Closing Mar 2026", 0, 47),
    ]
    assert "takes no base" in desk.refused(*words[:-1], "c.png", "--walk", "balance", "--versus", "prior")


def test_brackets_name_the_groups_of_steps(desk: Desk) -> None:
    words = ("draw", "waterfall", str(DEMO), "--by", "account_name", "--versus", "year-ago", "--keep", "top:8")
    assert desk.run(*words, "--brackets", "kind", "-o", "k.svg").status == 0
    svg = (desk.folder / "k.svg").read_text(encoding="utf-8")
    assert ">income</text>" in svg and ">cost</text>" in svg
    assert "is in 5 groups" in desk.refused(*words, "--brackets", "route", "-o", "n.svg")


def test_a_bar_stands_behind_a_step_or_a_group(desk: Desk) -> None:
    grouped = [("Opening", "", 120), ("Hires", "in", 14), ("Transfers", "in", 6), ("Leavers", "out", -11)]
    desk.write("g.csv", grouped, ("item", "group", "crew"))
    words = ("draw", "waterfall", "g.csv", "-o", "g.png", "--brackets", "group")
    found = desk.figures(*words, "--subtotal-after", "in", "--subtotal-after", "Leavers")
    assert [(point["label"], point["kind"], point["end"]) for point in found["points"]] == [
        ("Opening", "opening", 120),
        ("Hires", "step", 134),
        ("Transfers", "step", 140),
        ("After in", "subtotal", 140),
        ("Leavers", "step", 129),
        ("After Leavers", "subtotal", 129),
        ("Total", "closing", 129),
    ]
    assert "there is no step 'inn'" in desk.refused(*words[:4], "h.png", *words[5:], "--subtotal-after", "inn")


def test_costs_stored_either_way_give_the_same_picture(desk: Desk) -> None:
    pictures = []
    for costs in ("positive", "negative"):
        prepared(desk, costs)
        for words in (("waterfall",), ("waterfall", "--versus", "none"), ("statement",), ("against",)):
            call = ("draw", *words[:1], "l.csv", "--statement", P_AND_L, *words[1:], "-o", "p.png")
            assert desk.run(*call).status == 0, words
            pictures.append((desk.folder / "p.png").read_bytes())
    assert pictures[:4] == pictures[4:]


@settings(max_examples=25)
@given(moves=st.lists(cents, min_size=1, max_size=15), balances=st.lists(cents, min_size=1, max_size=11))
def test_any_movements_and_balances_foot(desk: Desk, moves: list[Decimal], balances: list[Decimal]) -> None:
    desk.write("m.csv", [(f"Step {n}", amount) for n, amount in enumerate(moves)], ("item", "amount"))
    found = desk.figures("draw", "waterfall", "m.csv", "--walk", "movement", "--standing", "none")
    *steps, closing = found["points"]
    assert Fraction(closing["end"]) == sum(Fraction(amount) for amount in moves)
    assert sum(step["end"] - step["start"] for step in steps) == closing["end"]
    balances = [*balances, Decimal(7)]  # nothing at the end would be taken as not known yet
    months = [(f"2026-{month:02}-01", amount) for month, amount in enumerate(balances, 1)]
    desk.write("b.csv", months, ("month", "stock"))
    words = ("--total-as", "closing", "--every", "month", "--walk", "balance", "--dates", "ymd", "--for", "2026")
    opening, *steps, closing = desk.figures("draw", "waterfall", "b.csv", *words)["points"]
    assert (opening["end"], closing["end"]) == (balances[0], balances[-1])
    assert opening["end"] + sum(step["end"] - step["start"] for step in steps) == closing["end"]


def test_a_statement_stands_side_by_side_for_month_and_year(desk: Desk) -> None:
    statement = str(DEMO.parent / "statement.toml")
    words = ("draw", "statement", str(DEMO), "--statement", statement, "--for", "2026-10", "--for", "2026")
    done = desk.run(*words, "--versus", "budget", "--versus", "year-ago", "-o", "s.svg", "--figures", "s.json")
    assert done.status == 0, done.err
    found = json.loads((desk.folder / "s.json").read_text())
    assert len(found["comparisons"]) == 4
    assert {point["comparison"] for point in found["points"] if point["label"] == "Net result"} == {0, 1, 2, 3}
    svg = (desk.folder / "s.svg").read_text(encoding="utf-8")
    for text in ("Oct 2026", "Jan–Oct 2026", "Running the boats", "Gross margin %", "−6.1 pts"):
        assert f">{text}</text>" in svg, text


def test_two_stretches_share_the_bar_between_them(desk: Desk) -> None:
    rows = [("Fares", 1000, 1040, 1015), ("Fuel", -400, -470, -455)]
    sides = ("budget", "forecast", "actual")
    written = [(name, side, amount) for name, *amounts in rows for side, amount in zip(sides, amounts, strict=True)]
    desk.write("t.csv", written, ("item", "scenario", "net"))
    words = ("draw", "waterfall", "t.csv", "--by", "item", "--versus", "budget", "-o", "t.png")
    found = desk.figures(*words, "--via", "forecast")
    assert [(point["kind"], point["label"], point["end"]) for point in found["points"]] == [
        ("opening", "budget", 600),
        ("step", "Fares", 640),
        ("step", "Fuel", 570),
        ("subtotal", "forecast", 570),
        ("step", "Fares", 545),
        ("step", "Fuel", 560),
        ("closing", "actual", 560),
    ]
    assert "Did you mean forecast?" in desk.refused(*words[:-1], "n.png", "--via", "forcast")
    assert "another scenario" in desk.refused(*words[:-1], "n.png", "--via", "budget")


def test_a_first_statement_is_begun_from_a_list_of_accounts(desk: Desk) -> None:
    accounts = str(DEMO.parent / "accounts.csv")
    assert desk.run("begin", accounts, "--write", "statement", "-o", "s.toml").status == 0
    text = (desk.folder / "s.toml").read_text()
    (desk.folder / "s.toml").write_text(text.replace('cost_sign = "positive" ', 'cost_sign = "negative" '))
    ours = desk.figures("table", str(DEMO), "--statement", "s.toml")
    theirs = desk.figures("table", str(DEMO), "--statement", str(DEMO.parent / "statement.toml"))
    assert by_label(ours)["Result"]["current"] == by_label(theirs)["Net result"]["current"]
    # Of a ledger its own amounts say how it stores them.
    named = ("--account", "account_name")
    assert desk.run("begin", str(DEMO), "--write", "statement", *named, "-o", "d.toml").status == 0
    ours = desk.figures("table", str(DEMO), "--statement", "d.toml", *named)
    assert by_label(ours)["Result"]["current"] == by_label(theirs)["Net result"]["current"]
    desk.write("l.csv", MOVES, ("item", "crew"))
    assert "no column of accounts" in desk.refused("begin", "l.csv", "--write", "statement", "-o", "t.toml")
    assert "a pack begins from a table" in desk.refused("begin", "-o", "t.toml")


def by_hand(rows: list[tuple[str, str, int]]) -> dict[str, dict[str, int]]:
    """What each line of the statement comes to by month, worked out from (month, account, amount)."""
    found: dict[str, dict[str, int]] = {}
    for month, account, amount in rows:
        line = {"4": "Fares", "5": "Fuel", "6": "Wages"}[account[0]]
        for name, sign in ((line, 1), ("Result", 1 if line == "Fares" else -1)):
            found.setdefault(name, {}).setdefault(month, 0)
            found[name][month] += sign * amount
    return found


def test_along_time_each_period_is_a_statement(desk: Desk) -> None:
    prepared(desk)
    rows = [
        (f"{year}-{month:02}", account, place * 10 + month + year % 10)
        for year in (2025, 2026)
        for month in (1, 2, 3)
        for place, account in enumerate(("4010", "5100", "6010"), 1)
    ]
    written = [(f"{month}-15", account, "actual", amount) for month, account, amount in rows]
    desk.write("l.csv", written, ("date", "account", "scenario", "net"))
    words = ("--statement", P_AND_L, "--every", "month", "--for", "2026-Q1", "--versus", "year-ago")
    found = desk.figures("table", "l.csv", *words)
    expected = by_hand(rows)
    for point in found["points"]:
        if point["panel"] in expected and point["kind"] != "ratio" and point["label"].startswith("2026"):
            month = point["label"]
            assert point["current"] == expected[point["panel"]][month], point
            assert point["base"] == expected[point["panel"]][month.replace("2026", "2025")], point
    ratios = [p for p in found["points"] if p["panel"] == "Gross margin %" and p["label"] == "2026-01"]
    fares, fuel = expected["Fares"]["2026-01"], expected["Fuel"]["2026-01"]
    assert abs(Fraction(ratios[0]["current"]) - Fraction(fares - fuel, fares)) < Fraction(1, 10**6)
    # The profit-and-loss trend: a panel a line, ratio lines left out of a scale of amounts.
    drawn = desk.figures("draw", "trend", "l.csv", *words, "-o", "t.png")
    assert list(dict.fromkeys(point["panel"] for point in drawn["points"])) == [
        *("Fares", "Fuel", "Gross margin", "Wages", "All costs", "Result")
    ]


@pytest.mark.parametrize("panels", ["route", "quarter"])
def test_each_panel_is_a_statement_of_its_own(desk: Desk, panels: str) -> None:
    prepared(desk)
    # One route has the name of an account, which must not make it a line.
    rows = [
        ("2026-02-10", "4010", "5100", "budget", 100), ("2026-02-11", "4010", "5100", "actual", 80),
        ("2026-02-12", "5100", "5100", "budget", 30), ("2026-02-27", "5100", "5100", "actual", 50),
        ("2026-05-10", "4010", "North", "budget", 60), ("2026-05-11", "4010", "North", "actual", 90),
        ("2026-06-12", "6010", "North", "budget", 20), ("2026-06-30", "6010", "North", "actual", 25),
    ]  # fmt: skip
    desk.write("l.csv", rows, ("date", "account", "route", "scenario", "net"))
    (desk.folder / "r.toml").write_text(
        "[rules.fares]\nbands = ['Short [worse]: change < 0', 'Fine: otherwise']\napplies_to = ['Fares']\n"
        "[rules.rest]\nbands = ['Any: otherwise']\n"
    )
    first, second = ("5100", "North") if panels == "route" else ("2026-Q1", "2026-Q2")
    words = ("--statement", P_AND_L, "--panels-by", panels, "--for", "2026-H1")
    found = desk.figures("draw", "statement", "l.csv", *words, "--rule", "r.toml", "-o", "s.png")
    seen = {(p["panel"], p["label"]): (p["base"], p["current"], p["band"]) for p in found["points"]}
    # 100 − 30 = 70, 80 − 50 = 30, of 80 that is 37.5%; 60 − 20 = 40, 90 − 25 = 65.
    assert seen[first, "Fares"] == (100, 80, "Short") and seen[second, "Fares"] == (60, 90, "Fine")
    assert seen[first, "Gross margin"] == seen[first, "Result"] == (70, 30, "Any")
    assert seen[first, "Gross margin %"] == (Decimal("0.7"), Decimal("0.375"), "Any")
    assert seen[second, "Result"] == (40, 65, "Any") and (second, "Fuel") not in seen
    walk = desk.figures("draw", "waterfall", "l.csv", *words, "-o", "w.png")
    ends = [(p["panel"], p["kind"], p["end"]) for p in walk["points"] if p["kind"] in ("opening", "closing")]
    assert ends == [
        *((first, "opening", 70), (first, "closing", 30)),
        *((second, "opening", 40), (second, "closing", 65)),
    ]
    assert all(check["ok"] for check in walk["checks"])
    desk.run("draw", "waterfall", "l.csv", *words, "--own-scale", "-o", "w.svg")
    said = (desk.folder / "w.svg").read_text()
    assert f"Profit and loss, a panel for each {panels}, " in said and "Each panel has a scale of its own" in said


def test_chained_statements_claim_no_total_change(desk: Desk) -> None:
    words = ("--statement", str(DEMO.parent / "statement.toml"), "--every", "quarter", "--versus")
    first = {how: desk.run("table", str(DEMO), *words, how).out.splitlines()[0] for how in ("prior", "budget")}
    # Of the quarter that has begun there is October, and the quarter before has July to set beside it.
    assert (
        first["prior"].startswith("Net result ") and "in Oct 2026" in first["prior"] and "Jul 2026" in first["prior"]
    )
    # What moved most is named by its line, not as the total that it is along time.
    assert first["budget"].endswith("led by Fuel, 206.2k over (20.2%)")


def test_statement_tables_say_points_rules_and_remarks(desk: Desk) -> None:
    statement = str(DEMO.parent / "statement.toml")
    words = ("table", str(DEMO), "--statement", statement, "--remark", "Fuel: dearer since March")
    done = desk.run(*words, "-o", "t.md", "-o", "t.csv", "--figures", "t.json")
    assert done.status == 0, done.err
    terminal = desk.run(*words).out.splitlines()
    assert any(line.strip() == "Running the boats" for line in terminal)
    assert any(line.startswith("  Gross margin %") and "−6.1 pts" in line for line in terminal)
    assert any(line.startswith("Fuel [1]") for line in terminal)
    assert any(line.strip() == "[1] dearer since March" for line in terminal)
    markdown = (desk.folder / "t.md").read_text()
    assert "| **Net result** | **957** | **1,492** | **−535** | **−35.9%** | **▼ Adverse** |" in markdown
    lines = (desk.folder / "t.csv").read_text().splitlines()
    assert next(line for line in lines if line.startswith("Gross margin %")).split(",")[1:5] == [
        *("0.417009", "0.478359", "-0.061350", "")
    ]
    found = json.loads((desk.folder / "t.json").read_text())
    fuel = next(point for point in found["points"] if point["label"] == "Fuel")
    assert (fuel["remark"], fuel["kind"]) == ("dearer since March", "line")


def test_commentary_and_rules_take_the_lines_of_a_statement(desk: Desk) -> None:
    statement = str(DEMO.parent / "statement.toml")
    told = desk.run("commentary", str(DEMO), "--statement", statement)
    assert told.status == 0, told.err
    assert told.out.startswith("Net result 957k, 535k below budget (−35.9%), led by Fuel, 206k over (20.2%).")
    assert "Fuel was 206k over budget (20.2%)" in told.out and "Passenger fares were 138k below budget" in told.out
    assert "Gross margin was" not in told.out  # a total is made of lines that are told of
    (desk.folder / "p.toml").write_text(
        '[rules.lines]\nbands = ["Off [worse fails]: adverse > 10% and adverse > 100k", "Fine: otherwise"]\n'
    )
    words = ("table", str(DEMO), "--statement", statement, "--rule", "p.toml")
    found = desk.figures(*words, status=1)
    off = [point["label"] for point in found["points"] if point["band"] == "Off"]
    assert off == ["Fuel", "Maintenance and repairs", "Gross margin", "Operating result", "Net result"]
    tried = desk.run("rule", "p.toml", str(DEMO), "--statement", statement)
    # Five are off; only the two lines among them are added up, since totals hold them already: 206 + 139.
    assert any("5            +345" in line and line.startswith("Off (fails)") for line in tried.out.splitlines()), (
        tried.out
    )


def test_a_ledger_and_an_account_list_may_name_accounts_by_name(desk: Desk) -> None:
    text = (
        '[statement]\nname = "By name"\ncost_sign = "negative"\n'
        '[[line]]\nlabel = "Fares"\naccounts = ["*fares"]\nkind = "income"\n'
        '[[line]]\nlabel = "Fuel bill"\naccounts = ["FUEL"]\nkind = "cost"\n'
        '[[line]]\nlabel = "Rest"\naccounts = ["Freight"]\nkind = "income"\nsign = "negative"\n'
        '[[line]]\nlabel = "Result"\ntotal_of = ["Fares", "Fuel bill", "Rest"]\n'
    )
    (desk.folder / "n.toml").write_text(text)
    words = (
        "table",
        str(DEMO),
        *typed("--statement n.toml --where"),
        "account_name=Passenger fares,Vehicle fares,Fuel,Freight",
    )
    named = by_label(desk.figures(*words, "--account", "account_name", "--unmapped", "Spare"))
    found = by_label(desk.figures(*words))
    plain = by_label(desk.figures("table", str(DEMO), "--by", "account_name"))
    assert found["Fares"]["current"] == plain["Passenger fares"]["current"] + plain["Vehicle fares"]["current"]
    assert found["Fuel bill"]["current"] == -plain["Fuel"]["current"]
    assert found["Rest"]["current"] == -plain["Freight"]["current"]  # as the line says, whatever the statement does
    assert {name: point["current"] for name, point in named.items()} == {
        name: point["current"] for name, point in found.items()
    }
