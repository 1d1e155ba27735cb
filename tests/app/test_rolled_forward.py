"""Lists that roll forward: opening, movements and closing of every period, as a cash flow has them."""

from __future__ import annotations

from itertools import accumulate

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import Desk, by_label

FIGURES = st.integers(-900, 900)
MONTHS = st.lists(st.tuples(FIGURES, FIGURES, FIGURES), min_size=1, max_size=5)


@settings(max_examples=20)
@given(start=st.integers(1000, 9000), months=MONTHS, off=st.sampled_from([0, 7]), is_below=st.booleans())
def test_a_window_goes_from_its_first_opening_to_its_last_closing(
    desk: Desk, start: int, months: list[tuple[int, int, int]], off: int, is_below: bool
) -> None:
    at = list(accumulate(map(sum, months), initial=start))
    opening = ["Opening cash", *at[:-1]]
    if len(months) > 1:
        opening[-1] += off  # the last month does not start from what the one before it came to
    rows = [[name, *of] for name, of in zip(("Tickets", "Fuel", "Crew"), zip(*months, strict=True), strict=True)]
    lines = [*rows, opening] if is_below else [opening, *rows]
    heading = ("Line", *(f"2026-{month:02}" for month in range(1, len(months) + 1)))
    desk.write("t.csv", [*lines, ["Closing cash", *at[1:]]], heading)
    call = ("draw", "waterfall", "t.csv", "--walk", "movement", "-o", "w.svg")
    if off and len(months) > 1:
        said = f"Opening cash of 2026-{len(months):02} is {at[-2] + off:,}, and Closing cash"
        assert said in desk.run(*call).err
        assert desk.run(*call, "--for", f"2026-{len(months):02}").status == 2  # that month does not foot either
        return
    points = desk.figures(*call)["points"]
    assert [(one["label"], one["base"] if one["kind"] == "opening" else one["current"]) for one in points] == [
        ("Opening cash", start),
        *((name, sum(of)) for name, *of in rows),
        ("Closing cash", at[-1]),
    ]


CASH_FLOW = """Cash flow,Jan 2026,Feb 2026
Net profit,5200,4100
Depreciation,1500,1500
Net cash from operating activities,6700,5600
Purchase of vessels,-3000,-7400
Net cash used in investing activities,-3000,-7400
Loan drawn,0,5000
Loan repaid,-1000,-1000
Net cash from financing activities,-1000,4000
Net increase in cash,2700,2200
Cash at beginning of period,20000,22700
Cash at end of period,22700,24900
"""


def test_a_cash_flow_statement_becomes_a_walk_from_cash_to_cash(desk: Desk) -> None:
    (desk.folder / "t.csv").write_text(CASH_FLOW)
    found = desk.figures("draw", "waterfall", "t.csv", "-o", "w.svg")
    assert [(one["label"], one["kind"], one["end"]) for one in found["points"]] == [
        ("Cash at beginning of period", "opening", 20000),
        ("Net profit", "step", 29300),  # 20000 + 5200 + 4100
        ("Depreciation", "step", 32300),
        ("Purchase of vessels", "step", 21900),
        ("Loan drawn", "step", 26900),
        ("Loan repaid", "step", 24900),
        ("Cash at end of period", "closing", 24900),
    ]
    assert found["headline"].startswith("Cash at end of period 24,900, 4,900 above Cash at beginning of period")
    both = "Cash flow!=Cash at beginning of period,Cash at end of period"
    assert f"--where '{both}'" in desk.refused("table", "t.csv")
    points = {one["label"]: one["current"] for one in desk.figures("table", "t.csv", "--where", both)["points"]}
    assert points["Net increase in cash"] == 4900  # and nothing is counted with its total


@pytest.mark.parametrize("way", [(), ("--by", "Line")])
def test_balances_among_the_rows_of_a_ledger_are_no_movements(desk: Desk, way: tuple[str, ...]) -> None:
    lines = (("Opening cash", 100, 120), ("Receipts", 60, 40), ("Payments", -40, -70), ("Closing cash", 120, 90))
    rows = [(f"2026-0{month}", name, of[month - 1]) for month in (1, 2) for name, *of in lines]
    desk.write("t.csv", rows, ("Month", "Line", "Net"))
    assert "Closing cash, Opening cash are balances by name" in desk.refused("table", "t.csv", *way)


def test_what_stands_below_the_closing_is_not_added_to_it(desk: Desk) -> None:
    rows = [("Opening", 9, 7), ("Paid", -2, -3), ("Closing", 7, 4), ("Interest", 1, 2)]
    desk.write("t.csv", rows, ("Loan", "Jan 2026", "Feb 2026"))
    said = desk.refused("draw", "waterfall", "t.csv")
    assert "Interest stands below Closing" in said and "--where 'Loan!=Interest'" in said


def test_totals_beside_what_is_walked_are_not_steps_of_it(desk: Desk) -> None:
    quarter = [("Receipts", 32, 28, 36, 96), ("Payments", -25, -33, -28, -86)]  # of which the last is the sum
    desk.write("t.csv", quarter, ("Line", "Jan 2026", "Feb 2026", "Mar 2026", "Q1 2026"))
    assert desk.figures("draw", "waterfall", "t.csv", "-o", "w.svg")["points"][-1]["end"] == 96 - 86
    kinds = ("Provision", "At 1 Jan 2026", "Charged", "Used", "At 31 Dec 2026")
    both = [("Warranty", 500, 120, -90, 530), ("Legal", 200, 300, -50, 450)]
    desk.write("t.csv", both, kinds)
    across = ("draw", "waterfall", "t.csv", "--headings-are", "Movement", "-o", "w.svg")
    assert desk.figures(*across)["points"][-1]["end"] == 980  # 530 + 450
    desk.write("t.csv", [*both, ("Total", 700, 420, -140, 980)], kinds)
    assert desk.figures(*across)["points"][-1]["end"] == 980  # and its total is no third provision
    assert "At 1 Jan 2026 is a balance by its heading" in desk.refused("table", "t.csv")


def test_a_register_of_cost_and_depreciation_is_a_statement_of_what_is_left(desk: Desk) -> None:
    rows = [
        *(("Cost at 1 January", 50000, 20000), ("Additions", 6000, 500), ("Disposals", -2000, 0)),
        *(("Cost at 31 December", 54000, 20500), ("Depreciation at 1 January", 20000, 6000)),
        *(("Charge for the year", 2500, 500), ("Disposals", -1500, 0), ("Depreciation at 31 December", 21000, 6500)),
        ("Net book value", 33000, 14000),
    ]
    desk.write("t.csv", [(*one, one[1] + one[2]) for one in rows], ("Asset", "Vessels", "Piers", "Total"))
    assert desk.run("table", "t.csv").out.startswith("Net book value 47,000")
    said = desk.refused("draw", "waterfall", "t.csv", "--walk", "movement", "-o", "w.svg")
    assert (
        "'Depreciation at 31 December' is 27,500, but the running total before it is 102,000" in said
    )  # 74,500 too much


def test_a_pack_says_no_sum_of_a_list_that_holds_its_own_closing(desk: Desk) -> None:
    desk.write("t.csv", [("Opening", 164), ("Hires", 31), ("Leavers", -17), ("Closing", 178)], ("Step", "Crew"))
    (desk.folder / "p.toml").write_text('[source]\nfile = "t.csv"\n[[view]]\ndraw = "waterfall"\nname = "crew"\n')
    assert desk.run("pack", "p.toml").status == 0
    page = (desk.folder / "p" / "index.html").read_text()
    assert ">178<" in page and ">356<" not in page and "356" not in (desk.folder / "p/figures/crew.json").read_text()


@pytest.mark.parametrize(("first", "last"), [("Budget", "Available"), ("Opening", "Remaining"), ("Grant", "Unspent")])
def test_what_is_left_of_a_first_amount_is_not_added_to_it(desk: Desk, first: str, last: str) -> None:
    # 5217 - 1031 - 1274 = 2912: a total of all four would be twice the first.
    desk.write("l.csv", [(first, 5217), ("Boats", 1031), ("Piers", 1274), (last, 2912)], ("Item", "Amount"))
    told = desk.refused("table", "l.csv")
    assert f"'{last}' is {first} − Boats − Piers, and would count beside them" in told
    assert "A waterfall with --deductions Boats,Piers shows how it comes about" in told
    drawn = desk.figures("draw", "waterfall", "l.csv", "--deductions", "Boats,Piers", "-o", "l.svg")
    assert [one["end"] for one in drawn["points"]] == [5217, 4186, 2912, 2912]
    desk.write("l.csv", [(first, 5217), ("Boats", 1031), ("Piers", 1274), (last, 2913)], ("Item", "Amount"))
    assert desk.run("table", "l.csv").status == 0


def test_what_is_outstanding_of_round_amounts_is_not_added_to_them(desk: Desk) -> None:
    desk.write("l.csv", [("Invoiced", 5000), ("Paid", 3000), ("Outstanding", 2000)], ("Item", "Amount"))
    assert "'Outstanding' is Invoiced − Paid, and would count beside them" in desk.refused("table", "l.csv")
    desk.write("l.csv", [("North", 5000), ("South", 3000), ("Balance", 1200)], ("Region", "Amount"))
    assert by_label(desk.figures("table", "l.csv"))["Total"]["current"] == 9200
