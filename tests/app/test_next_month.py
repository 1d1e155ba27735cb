"""What goes wrong when the next month comes in: other names, other signs, a version more, a total not carried on."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal

import pytest

from conftest import Desk, by_label

HEAD = ("date", "account", "account_name", "route", "scenario", "net")
FARES = (("4010", "Passenger fares"), ("4020", "Vehicle fares"), ("4030", "Freight"))
COSTS = (("5100", "Fuel"), ("5200", "Crew wages"))
ROUTES = ("Calder Bay", "Finmouth", "Harrow loop")
Rows = list[list[str]]


def ledger(*, with_costs: bool = False) -> Rows:
    """Actuals of three years to October 2026 and a budget of 2026, by account and route, all positive."""
    chance, rows = random.Random(4), []
    for year in (2024, 2025, 2026):
        for month in range(1, 13):
            for account, name in (*FARES, *(COSTS if with_costs else ())):
                for place, route in enumerate(ROUTES):
                    amount = (10000 + 4000 * place) * (1 + month % 6 / 10) * int(account[:2]) / 40
                    actual, budget = f"{amount * chance.uniform(0.93, 1.09):.2f}", f"{round(amount)}.00"
                    date = f"{year}-{month:02}-01"
                    if (year, month) <= (2026, 10):
                        rows.append([date, account, name, route, "actual", actual])
                    if year == 2026:
                        rows.append([date, account, name, route, "budget", budget])
    return rows


def the_last(rows: Rows) -> Rows:
    return [row for row in rows if row[0] == "2026-10-01" and row[4] == "actual"]


def named_otherwise(rows: Rows) -> None:
    for row in the_last(rows):
        row[4] = "Actuals"


def of_two_versions(rows: Rows) -> None:
    second = [[*row[:5], f"{float(row[5]) * 1.02:.2f}", "2"] for row in rows if row[4] == "budget"]
    for row in rows:
        row.append("1")
    rows += second


def of_two_systems(rows: Rows) -> None:
    second = [[*row[:5], f"{float(row[5]) * 1.001:.2f}", "Manual"] for row in rows if row[4] == "actual"]
    for row in rows:
        row.append("Books")
    rows += second


def signed_otherwise(rows: Rows) -> None:
    for row in rows:
        row[5] = f"-{row[5]}" if row[4] == "budget" else row[5]


def with_passengers(rows: Rows) -> None:
    rows += [[*row[:1], "9010", "Passengers", *row[3:5], "431"] for row in rows if row[1] == "4010"]


STOPPED: dict[str, tuple[Callable[[Rows], None], str]] = {
    "a scenario of two names": (named_otherwise, "Actuals and actual are two names of one scenario"),
    "a budget of two versions": (of_two_versions, "budget has rows of several versions (more 1, 2)"),
    "two loads of the same books": (of_two_systems, "each more (Books, Manual) has nearly the same amounts"),
    "a budget of the other sign": (signed_otherwise, "sign Calder Bay, Finmouth, Harrow loop in opposite ways"),
    "counts beside a code": (with_passengers, "Passengers is a count or a rate by name"),
}


@pytest.mark.parametrize("case", STOPPED)
def test_what_would_be_added_up_wrongly_stops(desk: Desk, case: str) -> None:
    rows = ledger()
    by = ("--by", "route")
    assert desk.run("table", desk.write("sound.csv", rows, HEAD), *by).err.count("caution") == 0
    spoil, told = STOPPED[case]
    spoil(rows)
    desk.write("spoilt.csv", rows, (*HEAD, "more")[: len(rows[0])])
    assert told in desk.refused("table", "spoilt.csv", *by)


def test_a_budget_in_two_parts_is_added_up(desk: Desk) -> None:
    """A column of which the budget has two values and the actuals none: each part is half of them."""
    rows = [[*row, ""] for row in ledger() if row[4] == "actual"]
    whole = [row for row in ledger() if row[4] == "budget"]
    rows += [[*row[:5], f"{float(row[5]) / 2:.2f}", part] for row in whole for part in ("out", "home")]
    desk.write("l.csv", rows, (*HEAD, "way"))
    total = desk.figures("table", "l.csv", "--by", "route")["points"][-1]
    ten_months = sum(Decimal(row[5]) for row in whole if row[0] <= "2026-10-01")
    assert total["base"] == sum(2 * round(Decimal(row[5]) / 2, 2) for row in whole if row[0] <= "2026-10-01")
    assert abs(total["base"] - ten_months) < 1


def test_a_source_said_to_hold_a_scenario_takes_it_under_each_of_its_names(desk: Desk) -> None:
    rows = ledger()
    sides = ("actual=l.csv", "budget=l.csv", "--by", "route")
    desk.write("l.csv", rows, HEAD)
    sound = desk.figures("table", *sides)["points"]
    named_otherwise(rows)
    desk.write("l.csv", rows, HEAD)
    assert desk.figures("table", *sides, "--verify")["points"] == sound
    trace = desk.run("trace", *sides, "--at", "Finmouth", "--trace-rows", "40").out
    # Ten months of three accounts, the last of them under its other name.
    assert trace.count(" actual ") == 1 + 27 and trace.count(" Actuals ") == 3


def test_income_and_costs_are_seen_by_their_names_though_codes_stand_before_them(desk: Desk) -> None:
    rows = ledger(with_costs=True)
    desk.write("l.csv", rows, HEAD)
    told = "Fuel, Crew wages look like costs, and up was taken as good news for all, with which they are added up"
    assert told in desk.run("table", "l.csv", "--by", "route").err
    for row in rows:
        row[2] = row[2].replace("Passenger fares", "Ticket revenue")
    desk.write("l.csv", rows, HEAD)
    assert "'Ticket revenue' is income and 'Crew wages' a cost" in desk.refused("table", "l.csv", "--by", "route")


def test_a_name_that_goes_on_under_another_is_not_lacking(desk: Desk) -> None:
    rows = ledger(with_costs=True)
    for row in the_last(rows):
        row[2] = row[2].replace("Fuel", "Fuel and oil")
    err = desk.run("table", desk.write("l.csv", rows, HEAD), "--by", "account_name").err
    assert "Fuel and oil begins in 2026-10 where Fuel ends" in err and "has no amount of" not in err


def test_a_month_that_holds_its_year_so_far_is_told(desk: Desk) -> None:
    rows = ledger()
    for row in the_last(rows):
        its = (one for one in rows if one[0][:4] == "2026" and one[1:5] == row[1:5])
        row[5] = str(sum(Decimal(one[5]) for one in its))
    err = desk.run("table", desk.write("l.csv", rows, HEAD), "--by", "route").err
    assert "2026-10 of actual holds the months of its year before it, for each route, as a year to date does" in err
    assert "2026-09 of" not in err


def test_a_day_among_firsts_of_months_is_told(desk: Desk) -> None:
    rows = [*ledger(), ["2025-12-31", "4010", "Passenger fares", "Finmouth", "actual", "-500.00"]]
    call = ("table", desk.write("l.csv", rows, HEAD), "--by", "route", "--versus", "year-ago")
    assert "is dated by the first of the month but for 2025-12-31, and so is taken by day" in desk.run(*call).err
    assert "Jan–Oct 2026 against Jan–Oct 2025" in desk.run(*call, "--as-of", "2026-10-31").out


@pytest.mark.parametrize("place", [0, 3])
def test_a_total_without_a_date_below_a_ledger_is_left_out_if_it_is_their_sum(desk: Desk, place: int) -> None:
    rows = [row for row in ledger() if row[4] == "actual"]
    by = ("--by", "route", "--for", "2026-10", "--versus", "none")
    sound = desk.figures("table", desk.write("l.csv", rows, HEAD), *by)["points"]
    whole = sum(Decimal(row[5]) for row in rows)
    last = ["Total" if at == place else "" for at in range(5)]
    desk.write("l.csv", [*rows, [*last, whole]], HEAD)
    done = desk.run("table", "l.csv", *by, "--figures", "figures.json")
    assert f"row {len(rows) + 2} 'Total' is the sum of rows 2–{len(rows) + 1} and was left out" in done.err
    assert desk.read_figures()["points"] == sound
    desk.write("l.csv", [*rows, [*last, whole + 1]], HEAD)
    assert f"'Total' is {whole + 1:,}, but the rows before it come to {whole:,}" in desk.refused(
        "table", "l.csv", *by
    )
    rows[4][5] = "12..4"
    desk.write("l.csv", [*rows, [*last, whole]], HEAD)
    assert "cell F6: '12..4' is not a figure" in desk.refused("table", "l.csv", *by)


LINES = ("Passenger fares", "Freight", "Total revenue", "Fuel", "Crew wages", "Total costs", "Gross profit")
REST = ("Rent", "Insurance", "Total overheads", "Operating profit")
TOTALS = ("Total revenue", "Total costs", "Gross profit", "Total overheads", "Operating profit")
MONTHS = tuple(f"2026-{month:02}" for month in range(1, 7))


def sheet(seed: int, **amounts: list[int]) -> dict[str, list[int]]:
    """A profit and loss by month, costs positive; lines as asked for in place of random ones."""
    chance = random.Random(seed)
    sizes = {"Passenger fares": 90, "Freight": 40, "Fuel": 42, "Crew wages": 50, "Rent": 8, "Insurance": 5}
    found = {
        line: [chance.randint(size * 900, size * 1100) for _ in MONTHS] for line, size in sizes.items()
    } | amounts

    def signed(*parts: tuple[str, int]) -> list[int]:
        return [sum(sign * found[line][at] for line, sign in parts if line in found) for at in range(len(MONTHS))]

    found["Total revenue"] = signed(("Passenger fares", 1), ("Freight", 1))
    found["Total costs"] = signed(("Fuel", 1), ("Bunker fuel", 1), ("Crew wages", 1))
    found["Gross profit"] = signed(("Total revenue", 1), ("Total costs", -1))
    found["Total overheads"] = signed(("Rent", 1), ("Insurance", 1))
    found["Operating profit"] = signed(("Gross profit", 1), ("Total overheads", -1))
    return found


def written(
    desk: Desk, name: str, found: Mapping[str, Sequence[float]], lines: tuple[str, ...] = (*LINES, *REST)
) -> str:
    return desk.write(name, [(line, *found[line]) for line in lines if any(found[line])], ("Line", *MONTHS))


@pytest.mark.parametrize(
    "line", [line for line in (*LINES, *REST) if line.split()[0] in ("Total", "Gross", "Operating")]
)
@pytest.mark.parametrize("is_carried_on", [True, False])
def test_a_total_that_its_lines_miss_in_one_month_stops(desk: Desk, line: str, is_carried_on: bool) -> None:
    """In the last month alone it is 3,000 more than its lines, and the totals after it have that or have not."""
    found = sheet(1)
    effects = {"Total revenue": 1, "Total costs": -1, "Gross profit": 1, "Total overheads": -1, "Operating profit": 1}
    found[line][-1] += 3000
    for later in ("Gross profit", "Operating profit"):
        if is_carried_on and (*LINES, *REST).index(later) > (*LINES, *REST).index(line):
            found[later][-1] += 3000 * effects[line]
    message = desk.refused("table", written(desk, "p.csv", found), "--for", "2026-06", "--versus", "prior")
    assert f"'{line}'" in message or not is_carried_on
    assert "3,000 more" in message or "3,000 less" in message


def test_two_statements_go_together_line_by_line(desk: Desk) -> None:
    """The budget has no insurance, and calls its fuel otherwise."""
    actual = sheet(1)
    budget = sheet(2, Insurance=[0] * 6)
    budget["Bunker fuel"] = budget.pop("Fuel")
    written(desk, "a.csv", actual)
    written(desk, "b.csv", budget, tuple(line.replace("Fuel", "Bunker fuel") for line in (*LINES, *REST)))
    call = ("table", "actual=a.csv", "budget=b.csv", "--verify")
    points = by_label(desk.figures(*call))
    # So do two files of one name.
    (desk.folder / "plan").mkdir()
    (desk.folder / "plan/a.csv").write_bytes((desk.folder / "b.csv").read_bytes())
    assert by_label(desk.figures("table", "actual=a.csv", "budget=plan/a.csv")) == points
    assert "only a.csv (actual) has Fuel" in desk.run("table", "actual=a.csv", "budget=plan/a.csv").err
    for line in TOTALS:
        assert (points[line]["current"], points[line]["base"]) == (sum(actual[line]), sum(budget[line]))
    assert points["Insurance"]["state"] == "not in base" and points["Bunker fuel"]["state"] == "not in current"
    # A ratio that the second of them has alone is shown, too.
    margin = [
        round(part / whole, 4) for part, whole in zip(actual["Gross profit"], actual["Total revenue"], strict=True)
    ]
    written(desk, "c.csv", actual | {"Gross margin %": margin}, (*LINES, "Gross margin %", *REST))
    ratio = by_label(desk.figures("table", "budget=b.csv", "actual=c.csv"))["Gross margin %"]
    profit, whole = (Decimal(sum(budget[line])) for line in ("Gross profit", "Total revenue"))
    assert (ratio["kind"], round(ratio["base"], 4)) == ("ratio", round(profit / whole, 4))
    desk.write("names.csv", [("Bunker fuel", "Fuel")], ("name", "shown"))
    points = by_label(desk.figures(*call, "--name-map", "budget=names.csv"))
    assert (points["Fuel"]["current"], points["Fuel"]["base"]) == (sum(actual["Fuel"]), sum(budget["Bunker fuel"]))
    assert "Bunker fuel" not in points
    assert points["Operating profit"]["base"] == sum(budget["Operating profit"])
    desk.write("names.csv", [("Bunker feul", "Fuel")], ("name", "shown"))
    told = "no name of --name-map names.csv is in b.csv: all are shown as they are"
    assert told in desk.run(*call, "--name-map", "budget=names.csv").err
    desk.write("names.csv", [("Rent", "Fuel")], ("name", "shown"))
    assert "a.csv: Fuel and Rent would both be Fuel, and do not count alike" in desk.refused(
        *call, "--name-map", "actual=names.csv"
    )
    written(desk, "b.csv", budget, tuple(line.replace("Fuel", "Bunker fuel") for line in LINES))
    assert "the result is Operating profit in the one, and Gross profit in the other" in desk.refused(*call)


def test_a_pack_says_a_mistake_of_several_views_once(desk: Desk) -> None:
    rows = ledger()
    desk.write("l.csv", rows, HEAD)
    assert desk.run("begin", "l.csv", "-o", "p.toml").status == 0
    named_otherwise(rows)
    desk.write("l.csv", rows, HEAD)
    done = desk.run("pack", "p.toml", "--only", "trend")
    assert done.status == 2 and "made 0 views, 0 had not changed" in done.err
    done = desk.run("pack", "p.toml")
    assert done.status == 2 and done.err.count("two names of one scenario") == 1 and " and 4 more: " in done.err


def test_a_plan_beside_a_ledger_is_narrowed_too_and_what_is_spread_is_not_doubted(desk: Desk) -> None:
    rows = ledger()
    desk.write("l.csv", [row for row in rows if row[4] == "actual"], HEAD)
    desk.write(
        "plan.csv", [(row[0], row[3], row[5]) for row in rows if row[4] == "budget"], ("Month", "Route", "Net")
    )
    call = ("table", "actual=l.csv", "budget=plan.csv", "--every", "month")
    one = ("--where", "actual=route=Finmouth")
    told = "only l.csv is narrowed by route=Finmouth: plan.csv has Route too"
    assert told in desk.run(*call, *one).err
    assert told not in desk.run(*call, *one, "--where", "budget=Route=Finmouth").err
    whole = {route: sum(Decimal(row[5]) for row in rows if row[3:5] == [route, "budget"]) for route in ROUTES}
    desk.write("plan.csv", list(whole.items()), ("Route", "FY 2026"))
    by = ("--by", "route", "--by", "budget=Route", "--spread", "even")
    done = desk.run("table", "actual=l.csv", "budget=plan.csv", *by, "--figures", "figures.json")
    assert "in one month of the year alone" not in done.err
    # Ten months of twelve.
    assert by_label(desk.read_figures())["Finmouth"]["base"] == round(whole["Finmouth"] * 10 / 12, 2)


def test_a_value_of_a_condition_that_no_row_has_is_told(desk: Desk) -> None:
    desk.write("l.csv", ledger(), HEAD)

    def told(condition: str) -> str:
        return desk.run("table", "l.csv", "--by", "account_name", "--where", condition, "--for", "2026-10").err

    assert "no row has Vehicle fare: did you mean Vehicle fares?" in told("account_name=Freight,Vehicle fare")
    assert "no row has" not in told("account_name=Freight,Vehicle fares") + told("account=4010,4020")
    assert "no row has" not in told("account_name!=Ropes,Freight")  # there may be none of them this month


def test_two_months_with_a_change_of_their_own_are_offered_as_sides(desk: Desk) -> None:
    desk.write("v.csv", [("Fares", 100, 110, 10), ("Fuel", 50, 45, -5)], ("Line", "Oct 2026", "Nov 2026", "Change"))
    told = "v.csv: Change is 2026-11 less 2026-10, which --for 2026-11 --versus 2026-10 compares"
    assert told in desk.run("table", "v.csv").err
    assert by_label(desk.figures("table", "v.csv", "--for", "2026-11", "--versus", "2026-10"))["Fuel"]["change"] == -5
    desk.write("v.csv", [("Fares", 100, 110, 10), ("Fuel", 50, 45, 5)], ("Line", "Oct 2026", "Nov 2026", "Change"))
    assert "compares" not in desk.run("table", "v.csv").err
