"""Sheets that people keep by hand: bars drawn from columns, pivot tables, bridges across, columns that no total is of."""

from __future__ import annotations

import csv
import shlex
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from conftest import Desk, by_label

STEPS = ("Fares", "Freight", "Fuel", "Crew", "Berths", "Kiosk")
PAIRS = (("Up", "Down"), ("Rise", "Fall"), ("Increase", "Decrease"), ("Positive", "Negative"), ("Var +", "Var -"))
AMOUNTS = ("Amount", "Value", "Net cash flow", "Movement 2026", None)


@given(
    opening=st.integers(2_500, 9_000),  # and no year
    moves=st.lists(st.integers(-90, 90).filter(bool), min_size=3, max_size=len(STEPS)),
    pair=st.sampled_from(PAIRS),
    amount=st.sampled_from(AMOUNTS),
    empty=st.sampled_from(["", "0"]),
    falls_as=st.sampled_from([1, -1]),
    data=st.data(),
)
@settings(max_examples=60)
def test_a_waterfall_is_read_from_the_columns_that_it_was_drawn_from(
    desk: Desk,
    opening: int,
    moves: list[int],
    pair: tuple[str, str],
    amount: str | None,
    empty: str,
    falls_as: int,
    data: st.DataObject,
) -> None:
    """Each step is what the amounts say, or, where the sheet has none, what rises less what falls."""
    assume(min(moves) < 0 < max(moves) and sum(moves))  # else the same with all turned
    ends = [opening + sum(moves[:at]) for at in range(len(moves) + 1)]
    assume(min(ends) > 100)
    columns: dict[str, list[Any]] = {
        "Ends": [opening, *[empty] * len(moves), ends[-1]],
        "Base": [empty, *(min(ends[at], ends[at + 1]) for at in range(len(moves))), empty],
        pair[0]: [empty, *(move if move > 0 else empty for move in moves), empty],
        pair[1]: [empty, *(-move * falls_as if move < 0 else empty for move in moves), empty],
    }
    order = data.draw(st.permutations(sorted(columns)))
    if amount is not None:
        order, columns[amount] = [amount, *order], [opening, *moves, ends[-1]]
    names = ("Opening", *STEPS[: len(moves)], "Closing")
    rows = [[name, *(columns[one][at] for one in order)] for at, name in enumerate(names)]
    source = desk.write("drawn.csv", rows, ("Item", *order))
    figures = desk.figures("draw", "waterfall", source)
    steps = [(point["label"], point["current"]) for point in figures["points"] if point["kind"] == "step"]
    assert steps == list(zip(STEPS, moves, strict=False))
    assert figures["points"][-1]["end"] == ends[-1]


@given(
    groups=st.lists(
        st.lists(st.tuples(st.integers(0, 999), st.integers(1, 999)), min_size=2, max_size=3), min_size=2
    ),
    own=st.tuples(st.integers(1, 99), st.integers(1, 99)) | st.none(),
    is_above=st.booleans(),
    mark=st.sampled_from([":", " - ", " / ", ">"]),
    view=st.sampled_from([("table",), ("draw", "waterfall")]),
)
@settings(max_examples=50)
def test_an_account_above_others_by_its_path_is_their_sum_or_a_line(
    desk: Desk, groups: list, own: tuple[int, int] | None, is_above: bool, mark: str, view: tuple[str, ...]
) -> None:
    """What is counted is what was posted once: to the accounts below, and to one above that is not their sum."""
    rows: list[tuple[Any, ...]] = []
    for name, parts in zip(STEPS, groups[: len(STEPS)], strict=False):
        lines = [(f"{name}{mark}{at}", *part) for at, part in zip("NSW", parts, strict=False)]
        above = (name, *(own or map(sum, zip(*parts, strict=True))))
        rows += [above, *lines] if is_above else [*lines, above]
    counted = [row for row in rows if mark in row[0] or own is not None]
    assume(all(own != tuple(map(sum, zip(*parts, strict=True))) for parts in groups))
    source = desk.write("t.csv", rows, ("Account", "2025", "2026"))
    done = desk.run(*view, source, "--better", "down", "--figures", "figures.json")
    if done.status == 0:  # figures that fit in other ways too may be asked about
        *_, whole = desk.read_figures()["points"]
        assert whole["current"] == sum(row[2] for row in counted), done.err


LEFT_OUT = """
Item,Amount,Up,Down|Fares,120,120,|Fuel,-95,,90|Crew,-40,,40|Post,5,5,|Kiosk,7,7, >> columns draw are not those of Amount, as in row 3 >> Amount −3
Month,Sales,Above target,Below target,Target|Jan 2026,120,120,0,100|Feb 2026,90,0,90,100|Mar 2026,13,13,0,11 >> draw the bars of Sales >> Sales 223, 12 above target
Bay,2025,2026,Increase,Decrease|Bow,12,10,,2|Holm,9,8,0,1 >> draw the bars of 2025 and 2026 >> Total 18, 3 below
Month,Sales,Costs,Profit,Profit up,Profit down|Jan 2026,9,5,4,,|Feb 2026,9,6,3,,3|Mar 2026,9,2,7,7, >> bars of Profit >> Profit 14
Month,Sales,Costs,Profit,Sales trend,Profit (gain)|Jan 2026,9,5,4,9,4|Feb 2026,9,6,3,9,3|Mar 2026,9,2,7,9,7 >> bars of Sales and Profit >> Profit 14
Bay,2025,2026,Won,Lost|Bow,2212,1859,0,353|Holm,4127,4013,0,114|Marle,127,113,0,14 >> not Won, Lost >> Total 5,985, 481 below
Item,Start,End,Delta|Opening,0,500,500|Fares,500,620,120|Fuel,620,530,-90|Closing,0,530,530 >> draw the bars of Delta >> Delta 530
Month,Sales,Cumulative,Target,Cumulative target|Jan 2026,10,10,9,9|Feb 2026,12,22,11,20|Mar 2026,9,31,11,31 >> as scenarios, not Cumulative target >> Sales 31, level with target
Item,Takings,Cumulative|Fares,12,12|Post,9,21|Kiosk,4,25 >> 'Cumulative' is the running total of Takings >> Takings 25
Bay,Actual,Budget,Up,Down|Bow,12,10,2,|Holm,9,10,,1|Marle,4,3,1, >> draw the bars of Actual and Budget >> Total 25, 2 above
Service,Actual,Budget,Busiest day|Fares,120,100,14|Post,90,100,9|Kiosk,13,11,17|Total,223,211,17 >> sum of rows 2–4 >> Total 223, 12 above
Service,Amount,Target days|Fares,120,30|Post,90,30|Kiosk,13,60|Total,223,45 >> sum of rows 2–4 >> Amount 223
Service,Tonnes,Rate|Fish,120,30|Post,90,30|Slate,13,60|Total,223,45 >> sum of rows 2–4 >> Tonnes 223 >> --amount Tonnes
Service,Tonnes,Rate|Fish,10,3|Post,9,3|Slate,1,6|Total,20,3.15 >> sum of rows 2–4 >> Tonnes * Rate 63 >> --amount 'Tonnes * Rate'
Month,Fares,Post,Total,Target|Jan 2026,20,12,32,30|Feb 2026,22,13,35,36|Total,42,25,67,66 >> sum of rows 2–3 >> Total 67, 1 above target >> --current Total --base Target
Month,Opening,Cash in,Cash out,Closing|Jan 2026,10,5,3,12|Feb 2026,12,4,7,9|Total,10,9,10,9 >> sum of rows 2–3 >> Cash in - Cash out −1 >> --amount '"Cash in" - "Cash out"'
Item,Value,Type|Fares,12,increase|Fuel,9,decrease|Crew,2,decrease >> count as negative where Type is decrease >> Value 1
Port,Budget,Price,Volume,Actual|Bow,100,10,-5,105|Holm,200,5,-9,196 >> columns C–D lead from Budget to Actual >> Total 301, 1 above budget
Bay,Q1 Budget,Q1 Actual,Q2 Budget,Q2 Actual|Bow,10,11,10,9|Holm,5,5,6,7 >> took Q1 2026 Budget … Q2 2026 Actual as periods >> Total 32, 1 above budget >> --year 2026
Bay,Q1 Budget,Q1 Actual,Q2 Budget,Q2 Actual|Bow,10,11,10,9|Holm,5,5,6,7 >> its quarters say no year >> Total 32, 1 above budget
ITEM,BUDGET,ACTUAL|Fares,100,120|Post,50,45 >> took BUDGET and ACTUAL as scenarios >> Total 165, 15 above BUDGET
Line,Actual,Budget,Comment|Fares,400,430,Fewer trips|Post,200,210,No mail|Fuel,-90,-95,Low price|Result,510,545,As told >> the result is Result >> Result 510, 35 below budget (−6.4%), led by Fares
Pier,Line,Actual,Budget,Bay,|Bow,Fares,4,7,N,The boat was in dock in May|Bow,Post,2,1,N,More mail went by the boat >> each row as Line >> Total 6, 2 below budget (−25.0%), led by Fares (−3)
Bay,Line,Scenario,Jul 2026|N,Fares,Actual,10|N,,Budget,9|S,Fares,Actual,5|S,,Budget,6 >> an empty Line goes on with the one above it (2 rows) >> Total 15, level with budget >> --by Line
Bay,2025,2026,Note|N,10,12,a|S,20,23,|Bay,2025,2026,|E,5,6,b >> 1 row of repeated headings: left out >> Total 41, 6 above
Month,Line,Net,Remark|2026-01,Fares,12,Total of the bills|2026-02,Fares,13, >> took Month as date >> Net 25
Bay,EUR k,2025,2026|N,Fares,7,9|N,Post,2,3|S,Fares,4,5 >> each row as EUR k >> N 12,000, 3,000 above last year (+33.3%), led by Fares >> --where Bay=N
Month,Fares,Tickets|Jan 2026,20,12|Feb 2026,22,13 >> not Tickets >> Fares 42
Line,Jan,Feb,Mar,Average,Max,Min|Fares,1,2,6,3,6,1|Fuel,2,2,2,2,2,2 >> not Average, Max, Min >> Total 15 >> --amount Jan,Feb,Mar
Region,Revenue,Costs,Profit|North,310,270,40|South,342,324,18|East,298,279,19|Total,950,873,77 >> row 5 'Total' is the sum of rows 2–4 >> Profit 77
Region,Revenue,Costs,Profit|North,310,270,40|South,342,324,18|Mainland,652,594,58|East,298,279,19|Total,950,873,77 >> row 4 'Mainland' is the sum of rows 2–3 >> Profit 77
Month,Revenue Actual,Revenue Budget,Costs Actual,Costs Budget,Profit Actual,Profit Budget|Jan 2026,310,300,270,260,40,40|Feb 2026,342,360,324,310,18,50 >> side by side for Actual, Budget >> Profit 58, 32 below budget
Bay,Revenue Actual,Costs Actual,Profit Actual,Revenue Budget,Costs Budget,Profit Budget|Bow,310,270,40,330,280,50|Holm,342,324,18,350,330,20|Total,652,594,58,680,610,70 >> row 4 'Total' is the sum >> Profit 58, 12 below budget
Scenario,Line,Jan 2026,Feb 2026|Actual,Revenue,310,342|Actual,Costs,270,324|Actual,Profit,40,18|Budget,Revenue,300,360|Budget,Costs,260,310|Budget,Profit,40,50 >> the result is Profit >> Profit 58, 32 below budget
Cash flow,2025,2026|Sales,500,560|Wages,-90,-45|Cash from operations,410,515|Capex,-200,-230|Cash from investing,-200,-230|Net change in cash,210,285 >> 3 totals; the result is Net change in cash >> Net change in cash 285, 75 above
Cost centre,Budget,Committed,Actual|Bow,12,1,9|Holm,9,2,8 >> a budget that is spent (column 'Cost centre') >> Total 17, 4 below
Service,Budget,Committed,Actual|Bow,12,1,9|Holm,9,2,8 >> a budget that is spent (column 'Committed') >> Total 17, 4 below
Concepto,Presupuesto,Real,Año anterior|Billetes,10,11,9|Fletes,5,5,4|Kiosco,7,8,8 >> took Presupuesto … Año anterior as scenarios >> Total 24, 2 above presupuesto
Line,Actual,Budget|Sales,592,649|Goods,200,230|Gross profit,392,419|Gross margin,66.2,64.6|Rent,150,160|Operating profit,242,259 >> 2 totals, 1 ratio >> Operating profit 242, 17 below
Years,Months,Port,Sum of Actual,Sum of Budget|2026,Jan,Bow,10,11|,,Holm,5,6|,Jan Total,,15,17|,Feb,Bow,12,13|,,Holm,7,8|,Feb Total,,19,21|2026 Total,,,34,38|Grand Total,,,34,38 >> row 9 'Grand Total' is the sum of rows 2–6 >> Total 34, 4 below budget
,2025,,2026,,Total Sum of Actual,Total Sum of Budget|Row Labels,Sum of Actual,Sum of Budget,Sum of Actual,Sum of Budget,,|Bow,10,11,12,13,22,24|Holm,5,6,7,8,12,14|Grand Total,15,17,19,21,34,38 >> 'Total Sum of Budget' is the sum of columns C, E >> Total 19, 2 below budget
Month,Actual,Forecast|Jan 2026,10,|Feb 2026,11,|Mar 2026,,12 >> --of Actual+Forecast goes on with it >> Total 21
Month,Actual,Forecast|Jan 2026,10,|Feb 2026,11,|Mar 2026,,12 >> took Month as date >> Total 21 >> --spread even
,Actual,Actual,Forecast,Total|EUR,2026-01-01,2026-02-01,2026-03-01,FY 2026|Fares,4,5,6,15|Post,2,2,3,7 >> --of Actual+Forecast >> Total 13, Jan–Feb 2026
Line,Jan-26 Actual,Feb-26 Actual,Mar-26 Forecast,FY 2026|Fares,5,7,2,14|Post,2,5,3,10 >> 'FY 2026' is the sum of columns B–D >> Total 19, Jan–Feb 2026
Line,Jan 2026,Feb 2026,Mar 2026,Apr 2026,Q1 2026|Fares,5,7,2,9,14|Post,2,5,3,8,10 >> 'Q1 2026' is the sum of columns B–D >> Total 41, Jan–Apr 2026
,P10,,Cumulative,|Line,Actual,Target,Actual,Target|Freight,78,96,746,684|Post,52,55,548,710 >> is read as October 2026 >> Total 130, 21 below target >> --year 2026
Notes|,2026-10,,Jan to Oct 2026,,2026|Line,Act,Var %,Act,Bud,Bud|Fares,8,5%,94,93,152|Post,9,-8%,58,98,876 >> took Jan to Oct 2026 Act and Jan to Oct 2026 Bud >> Total 152, 39 below >> --amount 'Jan to Oct 2026 Act,Jan to Oct 2026 Bud'
Line,Actual,Budget,Year Budget|Fares,40000,41000,43101|Post,38000,39000,44210 >> as scenarios, each row as Line >> Total 78,000, 2,000 below >> --current Actual --base Budget
Date,Item,Amount,Limit to date|2026-04-05,Fares,10,99|2026-05-25,Post,12,120 >> took Date as date, Amount as amount >> Amount 22 >> --for 2026
Account,2025,2026|Travel,90,95|Travel:Air,40,35|Travel:Rail,50,60|Rent,70,90 >> row 2 'Travel' is the sum of rows 3–4 >> Total 185, 25 above
Pier,2025,2026|Holm,90,130|Holm - Bow,40,35|Holm - Skar,50,60 >> each row as Pier >> Total 225, 45 above
Account,Jan - Oct 2026,Jan - Oct 2025 (PY),Change|Fares,12,10,2|Post,4,5,-1 >> as periods, each row as Account, not Change >> Total 16, 1 above last year
Measure,Unit,2025,2026|Fares,EUR k,12,13 >> figures are in thousands, as Unit says >> Total 13,000, 1,000 above
Pier,2026-W40,2026-W41|Holm,10,11|Bow,4,5 >> took 2026-W40 and 2026-W41 >> Total 30, 28 Sept–11 Oct 2026
Pier,2026-W40,2026-W41|Holm,10,11|Bow,4,5 >> 2026-09-28 to 2026-10-11 >> Total 16 in week 41 of 2026, 2 above >> --every week --versus prior
Pier,Q1A,Q2A,Q3F|Holm,10,11,12|Bow,4,5,6 >> took Q1 2026 A … Q3 2026 F >> Total 30, Jan–Jun 2026 >> --year 2026
Item,Qty 2025,Price 2025,Sales 2025,Qty 2026,Price 2026,Sales 2026|Day,10,3,30,12,4,48|Car,5,9,45,4,8,32 >> stand side by side for 2025, 2026 >> Sales per Qty 5 >> --amount Sales --per Qty --by Item
Item,Qty 2025,Price 2025,Qty 2026,Price 2026|Day,10,3,12,4|Car,5,9,4,8|Total,15,,16, >> row 4 'Total' is the sum >> Qty * Price 80, 5 above >> --amount 'Qty * Price' --by Item
Month,Item,Sales Actual,Qty Actual,Sales Budget,Qty Budget|Jan 2026,Day,48,12,30,10|Jan 2026,Car,32,4,45,5 >> stand side by side for Actual, Budget >> Sales 80, 5 above budget >> --amount Sales --by Item
""".strip().splitlines()
ASKED = """
Bar,Red,Green,White|Bow,4,1,7|Holm,5,2,6|Marle,6,1,5 >> could each be the amount
Item,Increase,Decrease|Fuel,10,|Crew,,5 >> --amount 'Increase - Decrease'
Item,Before,After,Increase,Decrease|Rope,10,13,3,|Paint,20,16,,4|Oil,5,4,,1 >> could each be the amount
Item,Opening,Increase,Decrease,Closing|Rope,10,3,,13|Paint,20,,4,16|Oil,5,,1,4 >> --amount 'Increase - Decrease'
Year,Opening,Drawn down,Paid back,Closing|2024,50,10,5,55|2025,55,0,8,47 >> --headings-are step --deductions 'Paid back' says so
Month,Opening,Joiners,Leavers,Closing|Jan 2026,50,10,-5,55|Feb 2026,55,1,-8,48 >> --headings-are step leads from Opening to Closing
Line,Oct 2026,YTD 2026,YTD 2025|Fares,4,39,37|Post,1,13,12 >> --current 'YTD 2026' --base 'YTD 2025' >> --for year-to-date
Line,Oct 2026 Actual,Oct 2026 Budget,YTD Actual|Fares,4,5,39|Post,1,2,13 >> --for 2026-10 is of what was taken >> --column 2026-10 --column year-to-date
Line,Oct-26 Act,Oct-26 Bud,Jan-Oct 2026 Bud,Jan-Oct 2026 Act|Fares,4,5,39,41|Post,1,2,13,12 >> --current 'Jan-Oct 2026 Act' --base 'Jan-Oct 2026 Bud' >> --for 2026
Line,Oct-26 Act,Oct-26 Bud,YTD Bud,YTD Act|Fares,4,5,39,41|Post,1,2,13,12 >> --current 'YTD Act' --base 'YTD Bud' >> --for 2026
Line,Oct 2026,YTD 2026|Fares,5,50 >> Say which, such as --amount 'Oct 2026'.
Line,9M 2026 Budget,9M 2026 Actual|Fares,39,41|Post,13,12 >> --current '9M 2026 Actual' --base '9M 2026 Budget'
Line,This month Act,This month Bud,YTD 2026 Act,YTD 2026 Bud|Fares,4,5,39,41|Post,1,2,13,12 >> --current 'YTD 2026 Act' --base 'YTD 2026 Bud'
Line,Jan-26 Actual,Feb-26 Actual,Mar-26 Forecast,FY 2026|Fares,5,7,2,14|Post,2,5,3,11 >> FY 2026 says no scenario beside others that do
Region,2026 In,2026 Out,2026 Closing,2025 In,2025 Out,2025 Closing|N,10,-4,6,9,-3,6|S,7,-2,5,6,-2,4 >> In, Out
Line,2026 Month,2026 YTD,2025 Month,2025 YTD|Fares,4,39,5,41|Post,1,13,2,12 >> '2026 Month' is of a part of its year
Line,Period Act,Period Bud,YTD Act,YTD Bud,YTD Var|Fares,4,5,39,41,-2|Post,1,2,13,12,1 >> Period Act and YTD Act have each a column to be set against
Account,Jan Act,Feb Act,Mar Fcst|Fares,4,5,6|Post,1,2,3 >> the months Jan Act … Mar Fcst have no year
Account,Jan Act,Feb Act,Mar Fcst,FY26 Fcst,FY26 Bud|Fares,4,5,6,50,60|Post,1,2,3,20,25 >> the months Jan Act … Mar Fcst have no year
Item,Q1 Act,Q1 Bud,Q2 Act,Q2 Bud,H1 Act,H1 Bud,FY Bud|Fares,1,2,3,4,4,6,9|Post,1,2,3,5,4,7,9 >> the quarters Q1 Act … Q2 Bud have no year
Bay,2025,2026|Bow,12,125 bps|Holm,9,34 bps >> cell C2: '125 bps' is not a figure
Line,2025,2026|Fares,12,13 >> the call names 2026 for something else too >> --amount 2025,2026 --volume 2026
Line,2025,2026|Fares,12,13 >> --amount names 2025 twice >> --amount 2025,2025
Line,2025,2026|Fares,12,13 >> --base names 2025 twice >> --current 2025 --base 2025
Line,2025,2026|Fares,12,13 >> names no column >> --amount '2025 + 2026,2025'
Item,Qty 2025,Yield 2025,Sales 2025,Qty 2026,Yield 2026,Sales 2026|Day,10,3,30,12,4,48 >> --amount 'Sales 2025,Sales 2026'
Item,Qty 2025,Sales 2025,Qty 2026,Sales 2026|Day,10,30,12,48 >> --amount Sales --volume Qty takes what each side has >> --amount 'Sales 2025,Sales 2026' --volume 'Qty 2025'
Service,Actual,Budget,Busiest day|Fares,120,100,14|Post,90,100,9|Kiosk,13,11,17|Total,223,201,17 >> row 5 'Total' is 201 in Budget
Service,Amount,Target days|Fares,120,30|Post,90,30|Kiosk,13,60|Total,244,120 >> row 5 'Total' is 244 in Amount
Month,Fares,Post,Total,Target|Jan 2026,20,12,32,30|Feb 2026,22,13,35,36 >> or --current Total --base Target
Month,Fares,Freight,Fuel|Jan 2026,20,12,6|Feb 2026,22,13,6 >> --headings-are line compares them all
,Opening,Fares,Fuel,Closing|Amount,500,120,-90,530 >> --headings-are step leads from Opening to Closing
Item,Value,Effect|Fares,12,Positive|Fuel,9,Negative|Crew,2,Negative >> would be added up
""".strip().splitlines()


@pytest.mark.parametrize("case", LEFT_OUT)
def test_a_column_that_is_no_amount_says_nothing_of_the_amounts(desk: Desk, case: str) -> None:
    table, said, headline, *words = case.split(" >> ")
    (desk.folder / "t.csv").write_text(table.replace("|", "\n"))
    found = desk.run("table", "t.csv", *shlex.split(" ".join(words)))
    assert said in found.err and found.out.startswith(headline)
    headings, *rows = csv.reader(table.split("|"))
    if len({*headings} - {""}) == len(headings) == len(rows[-1]):  # as a program hands it on
        for kind in ("json", "parquet", "sqlite"):
            found = desk.run("table", *desk.keep(kind, rows, headings), *shlex.split(" ".join(words)))
            assert found.out.startswith(headline) and (said in found.err or kind != "json")  # rows count from another


@pytest.mark.parametrize("case", ASKED)
def test_what_may_be_an_amount_is_asked_about(desk: Desk, case: str) -> None:
    table, said, *words = case.split(" >> ")
    (desk.folder / "t.csv").write_text(table.replace("|", "\n"))
    assert said in desk.refused("table", "t.csv", *shlex.split(" ".join(words)))


@pytest.mark.parametrize("port", ["Port", ""])
def test_columns_that_lead_from_one_side_to_the_other_are_steps_where_that_is_asked(desk: Desk, port: str) -> None:
    rows = [("Bow", 100, 10, -5, 105), ("Holm", 200, 5, -9, 196), ("Total", 300, 15, -14, 301)]
    source = desk.write("t.csv", rows, (port, "FY2025", "Price", "Volume", "FY2026"))
    figures = desk.figures("draw", "waterfall", source, "--headings-are", "step")
    steps = [(one["label"], one["kind"], one["end"]) for one in figures["points"]]
    assert steps == [
        ("FY2025", "opening", 300), ("Price", "step", 315), ("Volume", "step", 301), ("FY2026", "closing", 301),
    ]  # fmt: skip
    desk.write("t.csv", [*rows[:1], ("Holm", 200, 5, -9, 190)], (port, "FY2025", "Price", "Volume", "FY2026"))
    assert "row 3: FY2025 + Price + Volume miss FY2026, which is 6 less" in desk.refused(
        "draw", "waterfall", source, "--headings-are", "step"
    )
    desk.write("t.csv", [("Bow", 100, 10, 5, 105)], (port, "Opening", "Joiners", "Leavers", "Closing"))
    call = ("draw", "waterfall", source, "--headings-are", "step")
    assert "Closing is Opening + Joiners less Leavers, and all would be added up" in desk.refused(*call)
    assert desk.figures(*call, "--deductions", "Leavers")["points"][-1]["end"] == 105


def test_a_condition_may_be_on_what_a_lookup_says_of_the_lines_of_a_sheet(desk: Desk) -> None:
    kinds = desk.write("kinds.csv", [("Fares", "in"), ("Fuel", "out"), ("Crew", "out")], ("Line", "Way"))
    rows = [("Fares", 12, 13), ("Fuel", 4, 5), ("Crew", 5, 6), ("Total", 21, 24)]
    source = desk.write("t.csv", rows, ("Line", "2025", "2026"))
    points = desk.figures("table", source, "--lookup", kinds, "--where", "Way=out")["points"]
    assert [(one["label"], one["current"]) for one in points] == [("Fuel", 5), ("Crew", 6), ("Total", 11)]


def test_a_list_without_dates_is_of_the_year_that_is_said(desk: Desk) -> None:
    days = [(f"2026-{month:02}-28", name, 10 * month) for month in (1, 2, 3) for name in ("Bow", "Holm")]
    ledger = desk.write("ledger.csv", [*days, ("2026-03-31", "Bow", 7)], ("Date", "Port", "Amount"))
    plan = desk.write("plan.csv", [("Bow", 1200), ("Holm", 120)], ("Port", "Annual budget"))
    call = ("table", f"actual={ledger}", f"budget={plan}", "--by", "Port")
    assert "--year budget=2026" in desk.refused(*call)
    figures = desk.figures(*call, "--year", "budget=2026", "--spread", "even")
    # Of twelve even months three: 1,200 ÷ 4 and 120 ÷ 4, against 10 + 20 + 30, and 7 more.
    assert [(one["current"], one["base"]) for one in figures["points"]][:2] == [(67, 300), (60, 30)]


BELOW = [("Fares", 500, 560), ("Freight", 120, 131), ("Total revenue", 620, 691), ("Fuel", 200, 231), ("Crew", 80, 90),
         ("Total costs", 280, 321), ("Profit", 340, 370), ("Passengers", 4100, 4300), ("Sailings", 120, 118)]  # fmt: skip


def test_what_counts_something_else_below_a_total_is_none_of_its_amounts(desk: Desk) -> None:
    """Passengers below a result of money in thousands are neither money nor thousands."""
    heads = ("EUR '000", "2025", "2026")
    for off, told in (
        (0, "row 11 'Check' is a check that comes to nothing"),
        (3, "but comes to 3 in column C and not"),
    ):
        source = desk.write(f"{off}.csv", [*BELOW, ("Check", 0, off)], heads)
        done = desk.run("table", source, "--figures", "figures.json")
        assert told in done.err and "rows 9 'Passengers', 10 'Sailings' are counts or rates by name" in done.err
        points = by_label(desk.read_figures())
        assert points["Profit"]["current"] == 370_000 and {"Passengers", "Sailings", "Check"}.isdisjoint(points)
        assert "may be no amount of money" in desk.refused("table", source, "--where", "EUR '000=Passengers")
        kept = desk.figures("table", source, "--where", "EUR '000=Passengers", "--amounts-in", "one")
        assert kept["matched"]["current"] == 4300
        across = [("Jan 2026", *(row[1] for row in BELOW), off), ("Feb 2026", *(row[2] for row in BELOW), 0)]
        source = desk.write(f"across-{off}.csv", across, ("Month", *(row[0] for row in BELOW), "Check"))
        done = desk.run("table", source, "--figures", "figures.json")
        assert "columns I 'Passengers', J 'Sailings' are counts" in done.err
        assert ("'Check' was left out, as a check, but comes to 3 in row 2" in done.err) is bool(off)
        assert {*by_label(desk.read_figures())} == {row[0] for row in BELOW[:7]}
    # One of the name of a line that is money is told apart from it by standing in no total.
    rows = [("Sales", 900, 960), ("Members", 100, 110), ("Total income", 1000, 1070), ("Wages", 700, 730)]
    desk.write("m.csv", [*rows, ("Surplus", 300, 340), ("Members", 2100, 2200)], ("Line", "2025", "2026"))
    kept = by_label(desk.figures("table", "m.csv"))
    assert kept["Members"]["current"] == 110 and not any("Members" in one for one in kept.keys() - {"Members"})
    # A count that a total is made of is an amount of it, and without a total nothing tells what the others are.
    desk.write("t.csv", [("Passengers", 12, 13), ("Cars", 5, 6), ("Total", 17, 19)], ("Line", "2025", "2026"))
    assert by_label(desk.figures("table", "t.csv"))["Passengers"]["current"] == 13
    desk.write("n.csv", [("Fuel", 120, 131), ("Office", 70, 72), ("Passengers", 41, 43)], ("Line", "2025", "2026"))
    assert "Passengers is a count or a rate by name" in desk.refused("table", "n.csv")
    rows = [("Opening cash", 500), ("Fares", 300), ("Fuel", -120), ("Closing cash", 680), ("Headcount", 12)]
    points = desk.figures("draw", "waterfall", desk.write("w.csv", rows, ("Item", "Amount")))["points"]
    assert [(one["label"], one["kind"]) for one in points][-1] == ("Closing cash", "closing")
