"""Statements of trades whose results no list of names knows: found with every line, or asked about; never half."""

from __future__ import annotations

import random
from collections.abc import Mapping

import pytest

from conftest import Desk, by_label

HEADINGS = ("Line", "Actual", "Budget")
Lines = Mapping[str, Mapping[str, int]]  # each line, in order, and what it comes to: parts and signs

# A line with parts is what its formula says, one without is drawn at random; the last is the result.
TRADES = {
    "bank": "Interest income|Interest expense|Net interest income = Interest income - Interest expense|Fee income|"
    "Fee expense|Net fee income = Fee income - Fee expense|Net trading income|Operating income = Net interest income "
    "+ Net fee income + Net trading income|Staff|Premises|Operating expenses = Staff + Premises|"
    "Profit before tax = Operating income - Operating expenses",
    "insurer": "Gross written premiums|Ceded premiums|Net written premiums = Gross written premiums - Ceded premiums|"
    "Claims incurred|Acquisition|Underwriting result = Net written premiums - Claims incurred - Acquisition|"
    "Investment return|Profit before tax = Underwriting result + Investment return",
    "builder": "Contract revenue|Subcontractors|Materials|Direct costs = Subcontractors + Materials|"
    "Contract margin = Contract revenue - Direct costs|Overheads|Net margin = Contract margin - Overheads",
    "landlord": "Rental income|Service charges|Outgoings|Left of the properties = Rental income + Service charges - "
    "Outgoings|Administration|Revaluation|Operating profit = Left of the properties - Administration + Revaluation",
    "charity": "Gifts|Legacies|Incoming = Gifts + Legacies|Raising funds|Giving|Outgoing = Raising funds + Giving|"
    "Net movement = Incoming - Outgoing|Gains on investments|Surplus = Net movement + Gains on investments",
    "restaurant": "Food sales|Bar sales|Total sales = Food sales + Bar sales|Food cost|Bar cost|Cost of sales = "
    "Food cost + Bar cost|Gross profit = Total sales - Cost of sales|Wages|Payroll tax|Total labour = Wages + "
    "Payroll tax|Prime cost = Cost of sales + Total labour|Lease|Operating profit = Gross profit - Total labour - "
    "Lease",
    "farm": "Milk|Livestock|Farm income = Milk + Livestock|Feed|Vet|Variable costs = Feed + Vet|Gross margin = "
    "Farm income - Variable costs|Machinery|Net farm income = Gross margin - Machinery",
    "Erlöse": "Bruttoerlöse|Skonti|Nettoerlöse = Bruttoerlöse - Skonti|Variable Kosten|Deckungsbeitrag I = "
    "Nettoerlöse - Variable Kosten|Fixe Kosten|Vorläufiges Ergebnis = Deckungsbeitrag I - Fixe Kosten",
}

NAMELESS = ("insurer", "landlord", "charity")  # no name in them tells income from costs


def lines_of(text: str) -> Lines:
    found: dict[str, dict[str, int]] = {}
    for line in text.split("|"):
        label, _, formula = line.partition(" = ")
        words = (
            f"+ {formula}".replace(" - ", "|-").replace(" + ", "|+").replace("+ ", "+").split("|") if formula else []
        )
        found[label] = {word[1:]: 1 if word[0] == "+" else -1 for word in words}
    return found


def effects(lines: Lines) -> dict[str, int]:
    """How each line counts in the last, whatever stands between; one that is beside it is not among them."""
    found, waiting = {list(lines)[-1]: 1}, [list(lines)[-1]]
    while waiting:
        whole = waiting.pop()
        for part, sign in lines[whole].items():
            found[part] = found[whole] * sign
            waiting.append(part)
    return found


@pytest.mark.parametrize("way", ["positive", "as effects", "debits"])
@pytest.mark.parametrize("trade", TRADES)
def test_every_line_of_a_statement_counts_in_its_result(desk: Desk, trade: str, way: str) -> None:
    lines, chance = lines_of(TRADES[trade]), random.Random(trade)
    signs = effects(lines)
    amounts: dict[str, list[int]] = {}
    for label, parts in lines.items():
        size = 40_000 if not parts and signs[label] > 0 else 9_000  # so that each result is above zero
        drawn = [chance.randint(size // 2, size) for _ in range(2)]
        amounts[label] = [sum(s * amounts[one][at] for one, s in parts.items()) for at in (0, 1)] if parts else drawn
    if way == "debits" and trade in NAMELESS:
        rows = [(one, *(-signs[one] * x for x in amounts[one])) for one in lines]
        desk.write("s.csv", rows, HEADINGS)
        assert "would raise it in a sheet of debits" in desk.run("table", "s.csv").err
        return
    signs |= {one: -1 for one in lines if one not in signs}  # what is beside the result is of costs
    turned = {label: 1 if way == "positive" else signs[label] for label in lines}
    flip = -1 if way == "debits" else 1
    desk.write("s.csv", [(one, *(flip * turned[one] * x for x in amounts[one])) for one in lines], HEADINGS)
    points = {one["label"]: one for one in desk.figures("table", "s.csv")["points"]}
    assert {label: [points[label]["current"], points[label]["base"]] for label in lines} == amounts
    for label, sign in signs.items():
        change = amounts[label][0] - amounts[label][1]
        if not lines[label] and change:
            assert points[label]["effect"] == sign * change, label
            assert points[label]["tone"] == ("better" if sign * change > 0 else "worse"), label
    assert desk.read_figures()["structure"]["result"] == list(lines)[-1]


@pytest.mark.parametrize("trade", TRADES)
def test_a_statement_of_one_row_a_line_and_month_is_found(desk: Desk, trade: str) -> None:
    lines, chance = lines_of(TRADES[trade]), random.Random(trade)
    amounts: dict[str, list[int]] = {}
    for label, parts in lines.items():
        drawn = [chance.randint(4_000, 40_000) for _ in range(5)]
        amounts[label] = (
            [sum(s * amounts[one][at] for one, s in parts.items()) for at in range(5)] if parts else drawn
        )
    rows = [(f"2026-0{at + 1}", label, amounts[label][at]) for at in range(5) for label in lines]
    desk.write("l.csv", rows, ("Month", "Line", "Amount"))
    points = {one["label"]: one["current"] for one in desk.figures("table", "l.csv")["points"]}
    assert points == {label: sum(of_months) for label, of_months in amounts.items()}
    assert desk.read_figures()["structure"]["result"] == list(lines)[-1]


def test_what_is_left_without_a_name_of_its_own_is_asked_about(desk: Desk) -> None:
    # 48126 + 31077 = 79203, less 52914 is 26289; of the budget 47212 + 30018 − 50877 = 26353.
    rows = [("Output tax", 48126, 47212), ("Reverse charge", 31077, 30018), ("Due", 79203, 77230)]
    rows += [("Input tax", 52914, 50877), ("Payable", 26289, 26353)]
    desk.write("v.csv", rows, HEADINGS)
    assert "'Payable' is Due − Input tax, and would count beside them" in desk.refused("table", "v.csv")
    # Sales of fuel and shops would be a group; of costs and what is left they are none.
    rows = [("Sales", 61230, 60110), ("Fuel costs", 22871, 21055), ("Wages", 9815, 9777), ("Left over", 28544, 29278)]
    desk.write("s.csv", rows, HEADINGS)
    assert "'Sales' is the sum of Fuel costs, Wages, Left over below it" in desk.refused("table", "s.csv")
    # 107660 − 51532 = 56128.
    rows = [("Contract revenue", 101100, 107660), ("Subcontractors", 52328, 51532), ("Contract margin", 48772, 56218)]
    desk.write("w.csv", [*rows, ("Overheads", 36276, 27020), ("Net margin", 12496, 29198)], HEADINGS)
    assert "Contract revenue − Subcontractors come to 56,128: 90 more" in desk.refused("table", "w.csv")


def test_what_is_made_costs_what_went_into_it_less_what_is_left(desk: Desk) -> None:
    # 11045 + 36690 − 9815 = 37920, + 22728 + 30140 = 90788; 12031 + 34874 − 10272 = 36633, + 21090 + 29877 = 87600.
    rows = [("Opening materials", 11045, 12031), ("Purchases", 36690, 34874), ("Closing materials", 9815, 10272)]
    rows += [("Materials used", 37920, 36633), ("Labour", 22728, 21090), ("Factory overheads", 30140, 29877)]
    desk.write("m.csv", [*rows, ("Cost of goods made", 90788, 87600)], HEADINGS)
    found = desk.figures("table", "m.csv")
    points = {one["label"]: (one["current"], one["tone"]) for one in found["points"]}
    assert points["Materials used"] == (37920, "worse") and points["Cost of goods made"] == (90788, "worse")
    assert points["Closing materials"] == (9815, "worse")  # there is less of it left
    assert "it comes to costs less income" in desk.run("table", "m.csv").err
    # A roll-forward of stock is no sum of what came in and what went out.
    rows = [
        ("Opening stock", 5210, 5077),
        ("Deliveries", 3164, 3290),
        ("Sold", 2871, 2644),
        ("Closing stock", 5503, 5723),
    ]
    desk.write("r.csv", rows, HEADINGS)
    assert desk.figures("table", "r.csv")["structure"]["result"] == "Closing stock"


def test_a_line_in_no_total_is_told_and_one_that_says_less_is_not_added(desk: Desk) -> None:
    rows = [
        ("Containers", 5230, 5110),
        ("Fares", 61230, 60110),
        ("Freight", 8123, 8011),
        ("Total income", 69353, 68121),
    ]
    rows += [("Fuel", 22871, 21055), ("Profit", 46482, 47066), ("Headcount", 41, 42)]
    desk.write("p.csv", rows, HEADINGS)
    told = desk.run("table", "p.csv").err
    assert "p.csv: Containers is in no total of the table" in told and "row 8 'Headcount' is a count" in told
    rows = [("Gross sales", 61230), ("Less: Returns", 2871), ("Less: Discounts", 1815), ("Less than a load", 777)]
    desk.write("l.csv", rows, ("Line", "Amount"))
    told = desk.refused("draw", "waterfall", "l.csv", "-o", "w.png")
    assert "--deductions 'Less: Returns,Less: Discounts' names what lowers a total" in told
    bars = desk.figures("draw", "waterfall", "l.csv", "--deductions", "Less: Returns,Less: Discounts", "-o", "w.png")
    assert bars["points"][-1]["end"] == 57321  # 61230 − 2871 − 1815 + 777


def test_a_cost_centre_is_no_good_news_because_it_spends_more(desk: Desk) -> None:
    rows = [("Salaries", 31230, 30110), ("Agency staff", 2210, 1000), ("Total pay", 33440, 31110)]
    rows += [("Energy costs", 8120, 8800), ("Repair costs", 5310, 4900), ("Total non-pay", 13430, 13700)]
    # 33440 + 13430 = 46870, less 21000 is 25870; 31110 + 13700 − 20500 = 24310.
    desk.write("n.csv", [*rows, ("Income from berths", -21000, -20500), ("Total", 25870, 24310)], HEADINGS)
    points = {one["label"]: one for one in desk.figures("table", "n.csv")["points"]}
    tones = {"Total": "worse", "Total pay": "worse", "Energy costs": "better", "Income from berths": "better"}
    assert {label: points[label]["tone"] for label in tones} == tones and points["Total"]["current"] == 25870
    # Of costs alone nothing in the table says it.
    desk.write("c.csv", [*rows, ("Total", 46870, 44810)], HEADINGS)
    assert "and up was taken as good news" in desk.run("table", "c.csv").out
    # 1301 of recharges: 46470 = 22871 + 24900 − 1301, and 44305 = 21055 + 24500 − 1250.
    rows = [("Fares", 61230, 60110), ("Fuel", 22871, 21055), ("Crew", 24900, 24500), ("Recharges", -1301, -1250)]
    desk.write("r.csv", [*rows, ("Total costs", 46470, 44305), ("Profit", 14760, 15805)], HEADINGS)
    points = {one["label"]: one for one in desk.figures("table", "r.csv")["points"]}
    assert (points["Total costs"]["current"], points["Total costs"]["tone"]) == (46470, "worse")
    assert points["Recharges"]["tone"] == "better"


@pytest.mark.parametrize(
    ("rows", "result"),
    [  # the costs begin with the first that is one by its name: 40 + 30 are 70, and 100 less 70 are 30
        ([("Fares", 90), ("Charter", 10), ("Fuel", 40), ("Crew", 30), ("Total costs", 70), ("Result", 30)], 30),
        ([("Fares", 90), ("Fuel", 40), ("Crew", 30), ("Total expenses", 70), ("Surplus", 20)], 20),
    ],
)
def test_costs_that_no_total_of_income_parts_from_income_have_their_total(
    desk: Desk, rows: list[tuple[str, int]], result: int
) -> None:
    desk.write("t.csv", rows, ("Line", "Budget"))
    found = by_label(desk.figures("table", "t.csv"))
    costs = rows[-2][0]
    assert (found[costs]["current"], found[rows[-1][0]]["current"]) == (70, result)
    assert desk.figures("table", "t.csv")["structure"]["totals"][0]["total_of"] == ["Fuel", "Crew"]
    desk.write("t.csv", [*rows[:-2], (costs, 75), rows[-1]], ("Line", "Budget"))
    assert f"'{costs}' is 75" in desk.refused("table", "t.csv")


def test_a_statement_of_hundreds_of_accounts_has_its_result_though_no_name_tells_its_totals(desk: Desk) -> None:
    drawn = random.Random(7)
    income, costs = ([(drawn.randint(100, 99999), drawn.randint(100, 99999)) for _ in range(350)] for _ in range(2))
    turnover, spent = (tuple(map(sum, zip(*block, strict=True))) for block in (income, costs))
    left = tuple(now - then for now, then in zip(turnover, spent, strict=True))
    rows = [
        *((f"Route {place}", *one) for place, one in enumerate(income)),
        ("Turnover", *turnover),
        *((f"Outlay {place}", *one) for place, one in enumerate(costs)),
        ("Operating outlay", *spent),
        ("Surplus", *left),
    ]
    desk.write("long.csv", rows, HEADINGS)
    found = desk.figures("table", "long.csv")
    surplus = by_label(found)["Surplus"]
    assert (surplus["current"], surplus["base"], len(found["points"])) == (*left, 703)
    assert by_label(found)["Outlay 7"]["effect"] == -by_label(found)["Outlay 7"]["change"]


def test_a_long_block_in_thousands_may_miss_its_total_by_what_rounding_does_and_no_more(desk: Desk) -> None:
    drawn = random.Random(5)
    fares, costs = ([drawn.randint(1000, 999_999) for _ in range(250)] for _ in range(2))

    def sheet(more: int) -> str:
        lines = [(f"Fare {place}", round(one / 1000)) for place, one in enumerate(fares)]
        lines += [("Total fares", round(sum(fares) / 1000) + more)]
        lines += [(f"Cost {place}", round(one / 1000)) for place, one in enumerate(costs)]
        lines += [("Total costs", round(sum(costs) / 1000)), ("Profit", round((sum(fares) - sum(costs)) / 1000))]
        return desk.write("k.csv", lines, ("EUR '000", "Budget"))

    printed = sum(round(one / 1000) for one in fares), sum(round(one / 1000) for one in costs)
    found = desk.figures("table", sheet(0))
    assert by_label(found)["Profit"]["current"] == 1000 * (printed[0] - printed[1])
    assert any("which is taken for rounding" in one for one in found["cautions"])
    # Errors of half a unit at most, spread evenly: of 250 the sum has a deviation of √(250 ÷ 12) = 4.6.
    missed = round(sum(fares) / 1000) + 60 - printed[0]
    refused = desk.refused("table", sheet(60))
    assert "'Total fares' is" in refused and f": {missed} more" in refused
