"""Tables as analysts keep them, with totals among their lines: what is found, and what is never added up twice."""

from __future__ import annotations

import json
import random
import shutil
from collections.abc import Sequence
from decimal import Decimal
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import Desk, by_label
from made_tables import no_statement, spoilt, statement, verdict
from marvex.core.structure.finder import found_structure

TABLES = Path(__file__).parent.parent / "tables"
NONE = ("--versus", "none")


def table(desk: Desk, name: str) -> str:
    shutil.copy(TABLES / f"{name}.csv", desk.folder)
    return f"{name}.csv"


# The lines of each table by hand: current and base.
FOUND = {
    # 5010 + 2285 − 4702 = 2593, − 1498 − 409 = 686, − 189 = 497; 2690, 763 and 667 of the budget.
    "costs-negative": ("Profit before tax", {"Gross margin": (2593, 2690), "Interest": (189, 96)}, (497, 667)),
    # 3385 + 1190 = 4575, less 2145 + 455 + 610 = 3210, is 1365; grants were in the year before alone.
    "costs-positive": ("Surplus", {"Total costs": (3210, 2885), "Grants": (None, 200)}, (1365, 1730)),
    # January to March: 41200 + 39850 + 44120 = 125170, and so on; 75090 ÷ 125170 = 0.599904.
    "months": ("Net profit", {"Gross margin %": (Decimal("0.599904"), None), "Rent": (9600, None)}, (29255, None)),
    # Of October, not of the year to date: 865 + 298 − 431 − 349 = 383.
    "month-and-year-to-date": ("Surplus", {"Total income": (1163, 1130), "Boats": (431, 402)}, (383, 373)),
    # Totals above their parts: 7254 + 2477 = 9731, less 4702 + 3594 = 8296.
    "totals-above": ("Operating profit", {"Income": (9731, 9400), "Costs": (8296, 8120)}, (1435, 1280)),
    # Both entities together: 778 + 522 = 1300 against 985 + 410.
    "two-entities": ("Net profit", {"Sales": (8275, 8300), "Cost of sales": (3845, 3790)}, (1300, 1395)),
    # 4443 − 1815 − 1550 = 1078.
    "cash-flow": ("Net change in cash", {"Payments to staff": (5390, 5105)}, (1078, 245)),
    # Decimal commas: 131872.50 − 51310.75 = 80561.75, − 40125.40 − 9600 = 30836.35, − 1418.20.
    "german": ("Ergebnis vor Steuern", {"Rohertrag": (Decimal("80561.75"), 77200)}, (Decimal("29418.15"), 26550)),
    # Rounded thousands: the parts count, 1311 + 402 + 97 = 1810 where the sheet says 1809.
    "thousands": ("Operating profit", {"Total income": (1810000, 1779000)}, (609000, 614000)),
    # 5022 − 1340 − 1077 − 431 = 2174; EBITDA 2174 + 431 = 2605 stands beside the result.
    "years": ("Net profit", {"EBITDA": (2605, 2368), "Tax": (499, 439)}, (1498, 1316)),
    # Months down, accounts across: 985 + 778 + 1082 = 2845.
    "months-down": ("Net profit", {"Gross profit": (8625, None), "Overheads": (5780, None)}, (2845, None)),
    "balance-sheet": (
        "Total liabilities and equity",
        {"Total assets": (47616, 47489), "Total equity": (26728, 25869)},
        (47616, 47489),
    ),
    # 422 + 201 = 623, 91 + 88 + 53 = 232.
    "departments": ("Grand total", {"Total vessels": (623, 598), "Total shore": (232, 222)}, (855, 820)),
}


@pytest.mark.parametrize("name", FOUND)
def test_the_structure_of_a_table_is_found_without_an_option(desk: Desk, name: str) -> None:
    result, lines, sides = FOUND[name]
    found = desk.figures("table", table(desk, name))
    points = by_label(found)
    for label, (current, base) in {**lines, result: sides}.items():
        assert (points[label]["current"], points[label]["base"]) == (current, base), label
    assert found["structure"]["result"] == result
    assert all(check["ok"] for check in found["checks"])


def test_a_small_statement_in_round_figures_is_found(desk: Desk) -> None:
    rows = [("Fares", 1200, 1100), ("Freight", 400, 390), ("Revenue", 1600, 1490), ("Crew", -700, -650),
            ("Fuel", -300, -290), ("Costs", -1000, -940), ("EBITDA", 600, 550)]  # fmt: skip
    desk.write("s.csv", rows, ["Line", "Budget", "Actual"])
    told = by_label(desk.figures("table", "s.csv"))
    assert [told[one]["effect"] for one in ("Fares", "Crew", "Costs", "EBITDA")] == [-100, 50, 60, -50]
    rows[5] = ("Costs", -1000, -930)  # by 10, which the result does not have
    desk.write("s.csv", rows, ["Line", "Budget", "Actual"])
    assert "EBITDA" in desk.refused("table", "s.csv")


def test_a_wrong_total_is_refused_with_the_difference_and_three_ways_on(desk: Desk) -> None:
    message = desk.refused("table", table(desk, "wrong-total"))
    assert (
        "row 7 'Gross margin' is 24,920 in Jan 2026, but Revenue − Cost of sales come to 24,720: 200 more" in message
    )
    left_out = desk.figures("table", "wrong-total.csv", "--where", "column 1!=Gross margin")
    assert by_label(left_out)["Net profit"]["current"] == 29255
    kept = desk.run("table", "wrong-total.csv", "--totals", "keep")
    assert "Added up with their own parts: Gross margin" in kept.out and "counts with its own parts" in kept.err


def test_a_bad_cell_is_told_before_what_does_not_add_up_for_want_of_it(desk: Desk) -> None:
    rows = [("Fares", 500, "51..0"), ("Fuel", -200, -230), ("Gross margin", 300, 280)]
    desk.write("b.csv", rows, ("Line", "Budget", "Actual"))
    assert "cell C2: '51..0' is not a figure" in desk.refused("table", "b.csv")
    assert "'Gross margin' is" in desk.refused("table", "b.csv", "--bad-cells", "blank")


def test_costs_are_worse_upward_and_the_walk_closes_at_the_result(desk: Desk) -> None:
    source = table(desk, "costs-negative")
    bars = desk.figures("draw", "waterfall", source, "-o", "w.png")["points"]
    assert [(bar["label"], bar["kind"], bar["end"]) for bar in (bars[0], bars[-1])] == [
        ("Budget", "opening", 667),
        ("Actual", "closing", 497),
    ]
    # Goods sold 92 more, people 27 less, premises 7 more, interest 93 more.
    assert [(bar["label"], bar["end"] - bar["start"], bar["tone"]) for bar in bars[1:-1]] == [
        ("Shop sales", -190, "worse"),
        ("Online sales", 185, "better"),
        ("Goods sold", -92, "worse"),
        ("People", 27, "better"),
        ("Premises", -7, "worse"),
        ("Interest", -93, "worse"),
    ]
    down = desk.figures("draw", "waterfall", source, *NONE, "-o", "d.png")["points"]
    assert [bar["end"] for bar in down if bar["kind"] in ("subtotal", "closing")] == [2593, 686, 497]
    told = desk.run("commentary", source).out
    assert "Goods sold was 92 over budget" in told and "Gross margin was" not in told
    assert "People" in desk.run("trace", source, "--at", "Operating profit").out
    verbose = desk.run("table", source, "-v").err
    assert "found a statement: 2 income lines, 4 costs, 3 totals; the result is Profit before tax" in verbose
    assert "Operating profit = Gross margin + People + Premises" in verbose


def test_a_headcount_walk_opens_and_closes(desk: Desk) -> None:
    source = table(desk, "headcount")
    # 214 + 37 − 22 + 5 = 234, and not 468 with its own closing.
    assert desk.figures("table", source)["points"][-1]["current"] == 234
    bars = desk.figures("draw", "waterfall", source, "-o", "h.png")["points"]
    assert [(bar["kind"], bar["end"]) for bar in (bars[0], bars[-1])] == [("opening", 214), ("closing", 234)]


def test_no_total_among_rows_is_a_step_beside_what_it_is_of(desk: Desk) -> None:
    def said(name: str, *words: str) -> str:
        return " ".join(desk.refused("draw", "waterfall", table(desk, name), *words).split())

    # In another order the closing was a step, and the list came to 468.
    assert "'End of year' is a total of other rows of a list, and --order takes" in said(
        "headcount", "--order", "change"
    )
    assert "and --keep takes" in said("headcount", "--keep", "top:2")
    # As a plain list the steps were revenue, its costs and its margin: 325,432 with the margin in per cent.
    as_list = ("--statement", "none")
    assert "'Gross margin' is worked out from other rows, which do not lead up to it" in said("months", *as_list)
    lower = ("--deductions", "Cost of sales,Wages,Rent,Other overheads", "-o", "w.png")
    bars = by_label(desk.figures("draw", "waterfall", table(desk, "months"), *as_list, *lower))
    # 125170 − 50080 = 75090, − 29750 − 9600 − 6485 = 29255; the margin in per cent is no movement.
    ends = {name: (one["kind"], one["end"]) for name, one in bars.items() if one["kind"] != "step"}
    assert ends == {"Gross margin": ("subtotal", 75090), "Net profit": ("closing", 29255)}
    assert "leaves out Cost of sales, Rent, Other overheads" in said("months", "--lines", "Revenue,Wages,Net profit")
    # A group's rows under the names of its parts', told apart by two columns, are no steps either.
    rows = [
        ("North", "Fares", 101, 103),
        ("North", "Fuel", 52, 54),
        ("South", "Fares", 102, 104),
        ("South", "Fuel", 58, 50),
    ]
    rows += [("Group", "Fares", 203, 207), ("Group", "Fuel", 110, 104)]
    desk.write("g.csv", rows, ("Region", "Line", "Jan 2026", "Feb 2026"))
    # 101 + 103 + 52 + 54 + 102 + 104 + 58 + 50 = 624
    assert desk.figures("draw", "waterfall", "g.csv", "-o", "w.png")["points"][-1]["end"] == 624
    # What is financed is not added to what it is financed by.
    assert "lines that its result does not contain" in desk.refused(
        "table", table(desk, "balance-sheet"), "--keep", "top:3"
    )


def test_what_a_list_comes_to_is_left_out_by_name_or_told_by_its_figures(desk: Desk) -> None:
    def added_up(*last: object) -> tuple[object, str]:
        desk.write("l.csv", [("Volume", 360), ("Routes", -120), ("Price", 50), last], ("item", "net"))
        return desk.figures("table", "l.csv")["points"][-1]["current"], desk.run("table", "l.csv").err

    # 360 − 120 + 50 = 290, which no opening stands before.
    for name in ("Closing balance", "Carried forward", "End balance", "End of year"):
        assert added_up(name, 290)[0] == 290
    whole, said = added_up("Closing costs", 290)
    assert whole == 580 and "Closing costs comes to the lines before it, and counts beside them" in said
    whole, said = added_up("Closing balance", 1290)
    assert whole == 1580 and "is taken for a line like the others, though its name is a total's" in said
    # 1200 + 150 − 40 + 30 = 1340: what is entered at the end of a year closes no list.
    rows = [
        ("Budget result", 1200),
        ("Volume", 150),
        ("Price", -40),
        ("Closing entries", 30),
        ("Actual result", 1340),
    ]
    desk.write("l.csv", rows, ("item", "net"))
    bars = desk.figures("draw", "waterfall", "l.csv", "-o", "w.png")["points"]
    assert [bar["kind"] for bar in bars] == ["opening", "step", "step", "step", "closing"]
    # What stands besides goes on standing in the way on that is offered: 1200 + 150 + 30 = 1380.
    rows = [("Budget result", 1200), ("Volume", 150), ("Closing stock", 30), ("Actual result", 1380)]
    desk.write("l.csv", rows, ("item", "net"))
    assert "--standing 'Budget result,Actual result' takes it for a step" in desk.refused(
        "draw", "waterfall", "l.csv"
    )
    way = ("--standing", "Budget result,Actual result", "-o", "w.png")
    bars = desk.figures("draw", "waterfall", "l.csv", *way)["points"]
    assert [bar["kind"] for bar in bars] == ["opening", "step", "step", "closing"]
    # A quarter is one among quarters, though it be as large as those before it: 100 + 150 + 250 = 500.
    for last, comes_to in (("Q3", 500), ("H1", 250), ("2026", 250)):
        desk.write("l.csv", [("Q1", 100), ("Q2", 150), (last, 250)], ("item", "net"))
        assert desk.figures("draw", "waterfall", "l.csv", "-o", "w.png")["points"][-1]["end"] == comes_to
    # A row between that is as large as what leads to it stands, and is told.
    rows = [("Plan", 1585), ("Fuel", -389), ("Crew", -302), ("Before one-offs", 894), ("One-offs", -320)]
    desk.write("l.csv", rows, ("item", "net"))
    bars = desk.figures("draw", "waterfall", "l.csv", "-o", "w.png")
    assert (bars["points"][3]["kind"], bars["points"][-1]["end"]) == ("subtotal", 574)
    assert "'Before one-offs' is the sum of the rows before it, and stands" in bars["cautions"][0]


def test_one_plain_total_is_left_out_and_makes_no_statement(desk: Desk) -> None:
    desk.write("n.csv", [("North", 12, 14), ("South", 7, 9), ("Total", 19, 23)], ("Area", "Budget", "Actual"))
    found = desk.figures("table", "n.csv")
    assert found["structure"] is None and found["points"][-1]["current"] == 23
    assert "row 4 'Total' is the sum of rows 2–3 and was left out" in desk.run("table", "n.csv").err


def test_a_statement_is_no_list_unless_that_is_asked(desk: Desk) -> None:
    source = table(desk, "years")
    assert "lines that are subtracted, and --order is about a list" in desk.refused(
        "table", source, "--order", "change"
    )
    listed = desk.run("table", source, "--statement", "none", "--order", "change").err
    assert "added up as in a list, though totals of the table subtract them" in listed
    one = desk.figures("table", source, "--lines", "Gross profit")
    assert [point["label"] for point in one["points"]] == ["Gross profit"]
    assert "no line 'Gros profit'. Nothing" in " ".join(
        desk.refused("table", source, "--lines", "Gros profit").split("\n")
    )


def test_a_line_of_the_statement_over_time(desk: Desk) -> None:
    found = desk.figures(
        "draw", "trend", table(desk, "months"), "--every", "month", "--lines", "Net profit", "-o", "t.png"
    )
    # 24720 − 9800 − 3200 − 2140 = 9580, and so on.
    assert [(point["label"], point["current"]) for point in found["points"]] == [
        ("2026-01", 9580),
        ("2026-02", 8975),
        ("2026-03", 10700),
    ]


def test_entities_side_by_side_have_a_panel_each(desk: Desk) -> None:
    words = ("--headings-are", "entity", "--panels-by", "entity", "-o", "e.png")
    found = desk.figures("draw", "waterfall", table(desk, "two-entities"), *words)
    ends = [(p["panel"], p["end"]) for p in found["points"] if p["kind"] == "closing"]
    assert ends == [("North", 778), ("South", 522)]


@pytest.mark.parametrize("name", ["costs-negative", "totals-above", "years", "thousands"])
def test_a_found_statement_is_written_out_and_reads_the_same(desk: Desk, name: str) -> None:
    source = table(desk, name)
    desk.run("begin", source, "--write", "statement", "-o", "s.toml")
    found = desk.figures("table", source)["points"]
    again = desk.figures("table", source, "--statement", "s.toml")["points"]
    keys = ("label", "kind", "current", "base", "tone", "effect")
    assert [[one.get(key) for key in keys] for one in again] == [[one.get(key) for key in keys] for one in found]


@pytest.mark.parametrize(
    ("rows", "opening", "closing"),
    [
        ((("Budgeted profit", 500), ("Fares", 40), ("Fuel", -25), ("Actual profit", 515)), 500, 515),
        ((("Sales 2024", 400), ("New", 120), ("Lost", -23), ("Sales 2025", 497)), 400, 497),
        ((("2024", 400), ("New", 120), ("Lost", -23), ("2025", 497)), 400, 497),
        ((("Initial", 10), ("In", 5), ("Final", 15)), 10, 15),
    ],
)
def test_a_list_opens_and_closes_by_likeness(
    desk: Desk, rows: Sequence[tuple[str, int]], opening: int, closing: int
) -> None:
    desk.write("l.csv", rows, ("Item", "Amount"))
    bars = desk.figures("draw", "waterfall", "l.csv", "-o", "l.png")["points"]
    assert (bars[0]["kind"], bars[0]["end"], bars[-1]["kind"], bars[-1]["end"]) == (
        "opening",
        opening,
        "closing",
        closing,
    )
    assert sum(bar["kind"] == "step" for bar in bars) == len(rows) - 2
    wrong = [*rows[:-1], (rows[-1][0], closing + 3)]
    desk.write("m.csv", wrong, ("Item", "Amount"))
    assert f"come to {closing}: 3 more" in desk.refused("draw", "waterfall", "m.csv")
    assert f"come to {closing}: 3 more" in desk.refused("table", "m.csv")


@settings(max_examples=60)
@given(seed=st.integers(0, 10**9), columns=st.sampled_from([1, 2, 3, 6, 12, 24]))
def test_random_statements_are_found_or_asked_about(seed: int, columns: int) -> None:
    made = statement(random.Random(seed), columns)
    found = verdict(made, found_structure(made.lines))
    assert found in ("right", "asked", "ratio left out") or (columns == 1 and found == "wrong ratio")


# The same tables each time: in one of ten thousand a sum holds by chance, as `benchmarks/structures.py` counts.
@settings(max_examples=60, derandomize=True)
@given(seed=st.integers(0, 10**9))
def test_no_statement_is_found_in_random_tables_and_no_wrong_total_is_taken(seed: int) -> None:
    random_ = random.Random(seed)
    assert not found_structure(no_statement(random_)).sums
    made = statement(random_, random_.choice((2, 3, 12)))
    at = spoilt(random_, made)
    found = found_structure(made.lines)
    assert found.asked is not None or at not in found.totals


def test_what_is_found_is_in_the_figures(desk: Desk) -> None:
    desk.run("table", table(desk, "months"), "--figures", "f.json")
    structure = json.loads((desk.folder / "f.json").read_text())["structure"]
    assert structure["totals"][0] == {"label": "Gross margin", "total_of": ["Revenue", "Cost of sales"]}
    assert structure["ratios"] == [{"label": "Gross margin %", "ratio_of": ["Gross margin", "Revenue"]}]
    assert {one["label"]: one["kind"] for one in structure["lines"]}["Wages"] == "cost"
