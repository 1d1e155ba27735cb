"""What columns are called, as programs write names and as people do: amounts among them, their sides, codes."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import pytest

from conftest import Desk, by_label

MONTHS = [f"2026-{month:02d}" for month in range(1, 7)]


def table(desk: Desk, headings: Sequence[str], row: Callable[[int, int], Sequence[object]]) -> str:
    """A table of two routes over six months, each of its cells from its month's number and its route's place."""
    lines = [",".join(("Month", "Route", *headings))]
    for month, said in enumerate(MONTHS, 1):
        lines += [",".join(map(str, (said, route, *row(month, place)))) for place, route in enumerate("NS")]
    (desk.folder / "t.csv").write_text("\n".join(lines) + "\n")
    return "t.csv"


@pytest.mark.parametrize(
    "heading", ["LoadFactor", "load_factor", "OccupancyRate", "Avg.Fare", "ClosingBalance", "UnitPrice"]
)
def test_names_as_programs_write_them_are_of_rates_and_balances_too(desk: Desk, heading: str) -> None:
    source = table(desk, [heading], lambda month, place: [f"{month * 7 + 31 * place}.5"])
    assert "not add up" in desk.refused("table", source, "--by", "Route")


def test_sides_and_what_they_are_of_in_names_as_programs_write_them(desk: Desk) -> None:
    source = table(desk, ["ActualAmount", "BudgetAmount"], lambda month, place: [100 + month, 90 + 3 * place])
    found = by_label(desk.figures("table", source, "--by", "Route"))
    # 600 + 1 + … + 6 against 6 × 90 and 6 × 93.
    assert [(found[one]["current"], found[one]["base"]) for one in "NS"] == [(621, 540), (621, 558)]
    table(desk, ["CurrentYear", "PriorYear"], lambda month, place: [100 + month, 90 + 3 * place])
    assert by_label(desk.figures("table", source, "--by", "Route"))["S"]["base"] == 558


@pytest.mark.parametrize(
    ("one", "other", "side"),
    [
        ("Sales", "Sales LY", "LY"),
        ("Sales", "Last year sales", "Last year"),
        ("net_sales", "net_sales_budget", "budget"),
        ("Passengers", "Passengers (Target)", "Target"),
        ("Turnover", "Turnover VJ", "VJ"),
    ],
)
def test_a_column_is_set_against_its_own_base(desk: Desk, one: str, other: str, side: str) -> None:
    source = table(desk, [one, other, "Trips"], lambda month, place: [100 + month, 90 + 3 * place, 7])
    sheet = desk.run("table", source, "--by", "Route")
    assert sheet.status == 0
    assert f"against {side}".casefold() in sheet.out.casefold()
    assert sheet.out.startswith(one.replace("_", " ").capitalize())  # 1,242 against 6 × 90 + 6 × 93 = 1,098
    assert "1,242" in sheet.out
    assert "+144" in sheet.out


@pytest.mark.parametrize(
    ("headings", "said"),
    [
        (("Sales Actual", "Sales Budget"), "Sales"),
        (("Oct Actual", "Oct Budget", "YTD Actual", "YTD Budget"), "Total, Oct"),
        (("Actual YTD", "Actual YTD LY"), "Total, YTD"),
        (("Actual", "Budget"), "Total"),
    ],
)
def test_what_the_headings_of_both_sides_have_in_common_is_what_they_are_of(
    desk: Desk, headings: Sequence[str], said: str
) -> None:
    rows = [("N", 812, 790, 9, 8), ("S", 231, 240, 9, 8)]
    desk.write("s.csv", [row[: 1 + len(headings)] for row in rows], ("Route", *headings))
    assert desk.run("table", "s.csv").out.split("\n")[1].partition(", Actual")[0] == said
    desk.write("p.csv", [("Fares", 812, 790), ("Fuel", 231, 240), ("Profit", 581, 550)], ("Line", *headings[:2]))
    when = said.partition(", ")[2]
    assert desk.run("table", "p.csv").out.split("\n")[1].startswith(f"Statement, {when or 'Actual'}")


def test_a_side_of_which_a_cell_cannot_be_read_is_not_left_out(desk: Desk) -> None:
    (desk.folder / "h.csv").write_text("Item,Sales,Sales LY\nA,1x,0\nB,2,3\n")
    assert "'1x' is not a figure" in desk.refused("table", "h.csv")


def test_an_amount_among_counts_codes_and_balances(desk: Desk) -> None:
    for headings, cells, taken in (
        (["Qty", "unit_price", "discount", "net_sales"], (3, "1.10", 0, "3.30"), "net_sales"),
        (["CoCd", "Amount in local currency"], (1000, "3.30"), "Amount in local currency"),
        (["Amount", "Balance"], ("3.30", "100.30"), "Amount"),
        (["Hours", "Rate", "Fee"], (3, 80, 240), "Fee"),
    ):
        source = table(desk, headings, lambda month, place, cells=cells: [*cells[:-1], f"{month * 7 + 31 * place}.5"])
        if taken == "Amount":
            source = table(desk, headings, lambda month, place: [f"{month + place}.5", 100 + 3 * month * month])
        assert f"{taken} as amount" in desk.run("table", source).err
    source = table(desk, ["line", "pax", "fare_revenue"], lambda month, place: ["X5" if place else 4, 7 + month, 9])
    assert "--amount fare_revenue" in desk.refused("table", source)
    source = table(desk, ["East", "West", "Isles"], lambda month, place: [month, 9 * month + place, 50 - month])
    assert "--headings-are line compares them all" in desk.refused("table", source)


def test_codes_of_accounts_beside_both_sides_are_what_the_rows_are(desk: Desk) -> None:
    (desk.folder / "n.csv").write_text("Nominal,Budget,Actual\n4000,71,24\n4010,72,78\n5000,82,56\n")
    assert by_label(desk.figures("table", "n.csv"))["4010"]["change"] == 6
    assert "each row as Nominal\n" in desk.run("table", "n.csv").err


@pytest.mark.parametrize(
    ("column", "names"),
    [
        ("Vehicle", ["V-101", "V-02", "V3"]),
        ("Model", ["V1", "V2"]),
        ("Contract", ["Annual", "Rolling", "Monthly"]),
        ("Risk", ["Best", "Medium", "Worst"]),
        ("Show", ["Opening night", "Closing night"]),
        ("Account", ["Rental income", "Interest income", "Rent received"]),
    ],
)
def test_names_that_only_look_like_versions_balances_or_costs_are_compared(
    desk: Desk, column: str, names: Sequence[str]
) -> None:
    amounts = {name: [37 * (turn + 3) ** 2 % (41 + place) for turn in range(6)] for place, name in enumerate(names)}
    rows = [f"{month},{name},{amounts[name][turn]}" for turn, month in enumerate(MONTHS) for name in names]
    (desk.folder / "c.csv").write_text("\n".join((f"Month,{column},Net", *rows)) + "\n")
    found = by_label(desk.figures("table", "c.csv", "--by", column, "--versus", "none"))
    assert [found[name]["current"] for name in names] == [sum(amounts[name]) for name in names]


def test_a_year_and_a_quarter_say_their_year(desk: Desk) -> None:
    rows = [f"{year},Q{quarter},{year - 2000 + quarter}" for year in (2025, 2026) for quarter in (1, 2, 3)]
    (desk.folder / "q.csv").write_text("\n".join(("year,quarter,amount", *rows)) + "\n")
    sheet = desk.run("table", "q.csv")
    assert "says no year" not in sheet.err
    assert "84" in sheet.out  # 27 + 28 + 29 against 26 + 27 + 28


def test_a_profit_and_loss_of_debits_is_shown_as_income_and_costs(desk: Desk) -> None:
    rows = "Sales,-1200,-1300\nCost of sales,700,800\nAdmin,200,210\n"
    (desk.folder / "p.csv").write_text(f"Account,2025,2026\n{rows}Net profit,-300,-290\n")
    found = by_label(desk.figures("table", "p.csv", "--verify"))
    assert [(found[one]["current"], found[one]["band"]) for one in ("Sales", "Cost of sales", "Net profit")] == [
        (1300, "Favourable"),
        (800, "Adverse"),
        (290, "Adverse"),
    ]
    # Returns below zero beside larger sales are no such table: 5,000 − 400 − 900.
    (desk.folder / "r.csv").write_text(
        "Line,2025,2026\nGross fares,4800,5000\nSales returns,-300,-400\nCrew,-800,-900\nNet result,3700,3700\n"
    )
    found = by_label(desk.figures("table", "r.csv"))
    assert (found["Gross fares"]["current"], found["Net result"]["current"]) == (5000, 3700)
    # Where no name says income, what was taken for it is told: it may be a sheet of debits of a year with a loss.
    (desk.folder / "m.csv").write_text(
        "Line,2025,2026\nBerths,-262,-126\nWages,176,112\nRent,163,241\nNet profit,77,227\n"
    )
    assert "Taken for income, as the result adds them: Wages, Rent" in desk.run("table", "m.csv").out
    # What comes to a net expenditure is one of costs less income, whatever its lines are called.
    (desk.folder / "e.csv").write_text(
        "Service,Budget,Actual\nEmployees,5120,5471\nPremises,3010,3092\nGross expenditure,8130,8563\n"
        "Fees and charges,-1040,-981\nGrants,-2200,-2350\nGross income,-3240,-3331\nNet expenditure,4890,5232\n"
    )
    found = by_label(desk.figures("table", "e.csv", "--verify"))
    bands = {
        "Employees": "Adverse",
        "Fees and charges": "Adverse",
        "Grants": "Favourable",
        "Net expenditure": "Adverse",
    }
    assert {one: found[one]["band"] for one in bands} == bands
    totals = ("Gross income", "Gross expenditure", "Net expenditure")
    assert [found[one]["current"] for one in totals] == [3331, 8563, 5232]
    assert desk.run("begin", "e.csv", "--write", "statement", "-o", "e.toml").status == 0
    again = by_label(desk.figures("table", "e.csv", "--statement", "e.toml"))
    assert [again[one]["current"] for one in totals] == [3331, 8563, 5232]
    steps = desk.figures("draw", "waterfall", "e.csv", "-o", "e.png")["points"]
    assert [one["end"] for one in steps] == [4890, 5241, 5323, 5382, 5232, 5232]
    # So are those within a table that comes to a surplus: −110 of it, where the debits are 110 more.
    (desk.folder / "k.csv").write_text(
        "Line,2025,2026\nEmployees,5120,5471\nFees,-1040,-981\nNet cost of services,4080,4490\n"
        "Investment income,-200,-230\nPrecepts,150,150\nNet operating expenditure,4030,4410\n"
        "Council tax,-4100,-4300\nSurplus,-70,110\n"
    )
    found = by_label(desk.figures("table", "k.csv"))
    assert [found[one]["band"] for one in ("Employees", "Council tax", "Surplus")] == [
        "Adverse",
        "Favourable",
        "Adverse",
    ]
    assert (found["Net cost of services"]["current"], found["Surplus"]["current"]) == (4490, -110)
    (desk.folder / "i.csv").write_text("Service,Budget,Actual\nStaff,512,547\nGrants,-512,-547\nNet cost,0,0\n")
    assert by_label(desk.figures("table", "i.csv"))["Staff"]["band"] == "Adverse"
    # Without its total it is a list, and what more of it means is said.
    (desk.folder / "l.csv").write_text(f"Account,2025,2026\n{rows}")
    assert "more is bad news" in desk.run("table", "l.csv").err
    assert by_label(desk.figures("table", "l.csv", "--source-sign", "credit"))["Sales"]["change"] == 100


def test_what_rows_are_of_says_what_is_good_news_of_what_is_compared_by_something_else(desk: Desk) -> None:
    rows = [
        f"{year}-03-01,{name},{site},{year - 2000 + 3 * place}"
        for year in (2025, 2026)
        for place, name in enumerate(("Fuel", "Rent"))
        for site in "NS"
    ]
    (desk.folder / "c.csv").write_text("\n".join(("Date,Account,Site,Net", *rows)) + "\n")
    assert "these look like costs (Fuel, Rent)" in desk.run("table", "c.csv", "--by", "Site").err
    (desk.folder / "i.csv").write_text((desk.folder / "c.csv").read_text().replace("Rent", "Fares"))
    assert "look like costs" not in desk.run("table", "i.csv", "--by", "Site").err


def test_a_statement_that_is_begun_takes_what_comes_in_for_income(desk: Desk) -> None:
    names = ["Fare income", "Interest income", "Rent received", "Income tax", "Rent"]
    (desk.folder / "a.csv").write_text("Line,Budget,Actual\n" + "".join(f"{name},10,11\n" for name in names))
    assert desk.run("begin", "a.csv", "--write", "statement", "--account", "Line", "-o", "s.toml").status == 0
    kinds = [
        line.split('"')[1] for line in (desk.folder / "s.toml").read_text().splitlines() if line.startswith("kind")
    ]
    assert kinds[:5] == ["income", "income", "income", "cost", "cost"]


@pytest.mark.parametrize(
    "headings",
    [
        ("Sales2026", "Sales2025"),
        ("2026Sales", "2025Sales"),
        ("Actual2026", "Actual2025"),
        ("Jan26Act", "Jan26Bud"),
        ("CurrYr", "PriorYr"),
        ("CY Actual", "PY Actual"),
        ("CY Actual", "CY Budget", "PY Actual"),
        ("act_jan", "bud_jan"),
        ("Sales CY", "Sales PY"),
        ("Total this year", "Total (last year)"),
        ("CY YTD", "PY YTD"),
        ("Sales TY", "Budget", "Sales LY"),  # a budget goes before last year
    ],
)
def test_sides_and_periods_that_are_written_together(desk: Desk, headings: Sequence[str]) -> None:
    rows = [
        f"{name},{','.join(str(place * 100 + number * 7) for number in range(len(headings)))}"
        for place, name in enumerate("NS", 3)
    ]
    (desk.folder / "h.csv").write_text("\n".join((",".join(("Line", *headings)), *rows)) + "\n")
    found = by_label(desk.figures("table", "h.csv"))
    assert [(found[name]["current"], found[name]["base"]) for name in "NS"] == [(300, 307), (400, 407)]


@pytest.mark.parametrize("headings", [("Y1", "Y2"), ("Current month", "To date"), ("jan_act", "feb_bud")])
def test_what_may_not_be_names_is_not_offered_to_be_compared_as_such(desk: Desk, headings: Sequence[str]) -> None:
    source = table(desk, headings, lambda month, place: [month * 7, 90 - month * month + place])
    assert "could each be the amount" in (told := desk.refused("table", source))
    assert "compares them all" not in told


def test_months_between_their_quarters_are_all_there_is_of_a_sheet(desk: Desk) -> None:
    months = [[31 * team + 7 * month * month % 23 for month in range(6)] for team in (3, 4, 5)]
    rows = [[*of[:3], sum(of[:3]), *of[3:], sum(of[3:]), sum(of)] for of in months]
    for names, size in (
        (("Jan", "Feb", "Mar", "Q1", "Apr", "May", "Jun", "Q2", "H1"), 9),
        (("Jan", "Feb", "Mar", "Q1", "Apr", "May", "Jun", "Q2"), 8),
    ):
        lines = [",".join(("Team", *names))] + [
            f"T{place},{','.join(map(str, row[:size]))}" for place, row in enumerate(rows)
        ]
        (desk.folder / "m.csv").write_text("\n".join(lines) + "\n")
        assert "months say no year: --year" in desk.run("table", "m.csv").err
        found = desk.figures("table", "m.csv", "--by", "Team", "--year", "2026", "--versus", "none")
        assert [one["current"] for one in found["points"]][:3] == [sum(of) for of in months]
        assert desk.figures("table", "m.csv", "--versus", "none")["points"][-1]["current"] == sum(map(sum, months))
    # Two rows of small figures prove no total by themselves, but what is called a quarter of just these months is one.
    (desk.folder / "m.csv").write_text(
        "Team,Jan,Feb,Mar,Q1,Apr,May,Jun,Q2,H1\nOps,1,5,3,9,8,2,9,19,28\nIT,2,6,4,12,7,1,5,13,25\n"
    )
    found = desk.figures("table", "m.csv", "--versus", "none")
    assert found["points"][-1]["current"] == 28 + 25
    # One that is wrong is none: the year is asked for, and no month is offered for the amount.
    desk.write("m.csv", [("Ops", 1, 5, 3, 9), ("IT", 2, 6, 4, 13)], ("Team", "Jan", "Feb", "Mar", "Q1"))
    assert "the months Jan … Mar have no year" in desk.refused("table", "m.csv")


def test_seasons_are_periods_and_no_way_from_one_to_another(desk: Desk) -> None:
    (desk.folder / "s.csv").write_text("Season,Passengers\nSummer 2025,100\nWinter 2025/26,40\nSummer 2026,120\n")
    assert desk.figures("table", "s.csv")["points"][-1]["current"] == 260
    (desk.folder / "b.csv").write_text("Step,Passengers\nSales 2025,100\nNew,40\nLost,-20\nSales 2026,125\n")
    assert "5 more" in desk.refused("draw", "waterfall", "b.csv")


def test_a_pack_that_is_begun_of_debits_is_turned(desk: Desk) -> None:
    rows = [
        f"{year}-0{month}-05,{name},{sign * (100 + 7 * month + year - 2025)}"
        for year in (2025, 2026)
        for month in (1, 2, 3)
        for name, sign in (("Sales", -9), ("Wages", 4), ("Rent", 2))
    ]
    (desk.folder / "d.csv").write_text("\n".join(("Date,Account,Net", *rows)) + "\n")
    assert desk.run("begin", "d.csv", "-o", "p.toml").status == 0
    assert 'source_sign = "credit"' in (desk.folder / "p.toml").read_text()
    assert "signed as debits" in desk.run("table", "d.csv").err
    desk.write("c.csv", [("N", "Sales", -900, -990), ("N", "Wages", 400, 410), ("S", "Sales", -90, -95),
                         ("S", "Rent", 20, 22)], ("Region", "Account", "2025", "2026"))  # fmt: skip
    for words in (("--by", "Account", "--keep", "top:1"), ("--by", "Region"), ("--by", "Region", "--keep", "top:1")):
        assert "signed as debits" in desk.run("table", "c.csv", *words).err
    sheet = desk.run("table", "d.csv", "--source-sign", "credit")
    assert "signed as debits" not in sheet.err
    assert "1,035" in sheet.out  # 3 × (108 + 115 + 122): of each month's 100 + 7m + 1 thrice, as 9 − 4 − 2 are left


def test_a_result_bears_out_the_small_totals_that_it_is_what_is_left_of(desk: Desk) -> None:
    rows = "Wages,100,112\nRent,50,58\nCosts,150,170\nSurplus/(deficit),50,45\n"
    (desk.folder / "s.csv").write_text(f"Account,2025,2026\nTickets,120,130\nCafe,80,85\nRevenue,200,215\n{rows}")
    found = desk.figures("table", "s.csv")
    assert [one["label"] for one in found["points"] if one["kind"] == "total"] == [
        "Revenue",
        "Costs",
        "Surplus/(deficit)",
    ]
    alone = "Tickets,431,447\nWages,113,127\nRent,58,61\nCosts,171,188\nSurplus,260,259\n"
    (desk.folder / "s.csv").write_text(f"Account,2025,2026\n{alone}")
    assert by_label(desk.figures("table", "s.csv"))["Costs"]["kind"] == "total"
    # A margin as a fraction gives the amounts no decimals.
    margin = "Surplus %,0.25,0.2093\n"
    (desk.folder / "m.csv").write_text(
        f"Account,2025,2026\nTickets,120,130\nCafe,80,85\nRevenue,200,215\n{rows}{margin}"
    )
    assert " 215 " in (sheet := desk.run("table", "m.csv").out)
    assert "20.9%" in sheet
    # One figure that is not what the others come to: asked, not taken.
    (desk.folder / "s.csv").write_text(f"Account,2025,2026\nTickets,120,130\nCafe,80,85\nRevenue,200,216\n{rows}")
    assert desk.run("table", "s.csv").status == 2
