"""Windows, bases, the same part of the year, absent sides: worked cases through the installed command."""

from __future__ import annotations

import csv
import gzip
from decimal import Decimal

import pytest

from conftest import DEMO, Desk, by_label

LEDGER = (
    ("2025-01-15", "5100", "North", "actual", "70.00"),
    ("2025-03-31", "5100", "South", "actual", "-100"),
    ("2025-11-30", "5100", "North", "actual", "30.25"),
    ("2025-10-15", "5100", "Closed", "actual", "12.5"),
    ("2026-01-15", "5100", "North", "actual", "77.00"),
    ("2026-03-01", "5100", "South", "actual", "-80"),
    ("2026-10-31", "5100", "Opened", "actual", "5"),
    ("2026-01-01", "5100", "North", "budget", "75"),
    ("2026-03-01", "5100", "South", "budget", "-90"),
    ("2026-10-01", "5100", "South", "budget", "0"),
    ("2026-12-01", "5100", "South", "budget", "-90"),
)


def test_a_year_so_far_is_set_against_the_same_months(desk: Desk) -> None:
    # As of 31 October: 2026 is cut there, and so is 2025, which leaves out November's 30.25.
    desk.write("ledger.csv", LEDGER)
    found = desk.figures("table", "ledger.csv", "--by", "route", "--for", "2026", "--versus", "2025")
    assert found["current"]["label"] == "Jan–Oct 2026"
    assert (found["base"]["label"], found["base"]["to"]) == ("Jan–Oct 2025", "2025-10-31")
    points = by_label(found)
    # North 77.00 − 70.00 = 7.00, and 7/70 = 0.1; South −80 − −100 = +20, and 20/|−100| = 0.2.
    assert (points["North"]["change"], points["North"]["change_ratio"]) == (Decimal("7.00"), Decimal("0.100000"))
    assert (points["South"]["change"], points["South"]["change_ratio"]) == (20, Decimal("0.200000"))
    # 77 − 80 + 5 = 2.00; 70 − 100 + 12.5 = −17.50.
    assert (points["Total"]["current"], points["Total"]["base"]) == (Decimal("2.00"), Decimal("-17.50"))
    # Rows in both windows: three of 2026, three of 2025 to October.
    assert (found["source"]["rows_read"], found["source"]["rows_used"]) == (11, 6)


def test_absent_is_not_zero(desk: Desk) -> None:
    desk.write("ledger.csv", LEDGER)
    points = by_label(desk.figures("table", "ledger.csv", "--by", "route", "--versus", "year-ago"))
    opened, closed = points["Opened"], points["Closed"]
    assert (opened["base"], opened["change"], opened["state"], opened["band"]) == (None, None, "new", "No base")
    assert (closed["current"], closed["change"], closed["state"]) == (None, None, "ended")
    assert closed["band"] == "No current"


def test_the_whole_base_is_kept_only_where_asked_and_is_cautioned(desk: Desk) -> None:
    desk.write("ledger.csv", LEDGER)
    found = desk.figures("table", "ledger.csv", "--by", "route", "--versus", "2025", "--full-base")
    assert found["base"]["label"] == "2025"
    assert by_label(found)["North"]["base"] == Decimal("100.25")
    assert any("not the same part of the year" in caution for caution in found["cautions"])


def test_a_monthly_budget_cuts_both_sides_back_to_whole_months(desk: Desk) -> None:
    # Actuals to 17 March against a budget by month: both sides end with February.
    desk.write(
        "ledger.csv",
        [
            ("2026-01-20", "1", "North", "actual", "10"),
            ("2026-02-20", "1", "North", "actual", "20"),
            ("2026-03-17", "1", "North", "actual", "40"),
            ("2026-01-01", "1", "North", "budget", "11"),
            ("2026-02-01", "1", "North", "budget", "22"),
            ("2026-03-01", "1", "North", "budget", "44"),
        ],
    )
    found = desk.figures("table", "ledger.csv", "--by", "route", "--for", "2026")
    assert found["current"]["to"] == found["base"]["to"] == "2026-02-28"
    assert (found["points"][0]["current"], found["points"][0]["base"]) == (30, 33)
    assert any("cut back to whole months" in caution for caution in found["cautions"])


# (--for, --versus, --as-of, the current window, the base window)
WINDOWS = [
    ("2026", "year-ago", "2026-10-31", "2026-01-01 2026-10-31", "2025-01-01 2025-10-31"),
    ("2026", "prior", "2026-10-17", "2026-01-01 2026-10-17", "2025-01-01 2025-10-17"),
    ("2026-Q3", "prior", None, "2026-07-01 2026-09-30", "2026-04-01 2026-06-30"),
    ("2026-H1", "2025-H2", None, "2026-01-01 2026-06-30", "2025-07-01 2025-12-31"),
    ("2026-10", "prior", "2026-10-17", "2026-10-01 2026-10-17", "2026-09-01 2026-09-17"),
    ("2024-02", "year-ago", None, "2024-02-01 2024-02-29", "2023-02-01 2023-02-28"),
    ("2025-02", "year-ago", None, "2025-02-01 2025-02-28", "2024-02-01 2024-02-29"),
    ("2024-02-20/2024-02-29", "year-ago", None, "2024-02-20 2024-02-29", "2023-02-20 2023-02-28"),
    ("2026-03-01/2026-03-10", "prior", None, "2026-03-01 2026-03-10", "2026-02-19 2026-02-28"),
    ("2026-01/2026-03", "prior", None, "2026-01-01 2026-03-31", "2025-10-01 2025-12-31"),
    ("2026-W23", "year-ago", None, "2026-06-01 2026-06-07", "2025-06-02 2025-06-08"),
]


@pytest.mark.parametrize(("window", "versus", "as_of", "current", "base"), WINDOWS)
def test_windows_and_their_bases(
    desk: Desk, window: str, versus: str, as_of: str | None, current: str, base: str
) -> None:
    words = ["table", str(DEMO), "--by", "kind", "--for", window, "--versus", versus]
    found = desk.figures(*words, *(["--as-of", as_of] if as_of else []))
    assert f"{found['current']['from']} {found['current']['to']}" == current
    assert f"{found['base']['from']} {found['base']['to']}" == base


def test_both_sides_as_columns_of_a_list_keep_its_rows_and_their_order(desk: Desk) -> None:
    rows = [("Fuel", "70", "77"), ("Adjustment", "0", "5"), ("Adjustment", "", "3"), ("Crew", "-100", "-80")]
    desk.write("list.csv", rows, ("item", "Plan 26", "Now"))
    found = desk.figures("table", "list.csv", "--current", "Now", "--base", "Plan 26")
    points = found["points"]
    assert [point["label"] for point in points] == ["Fuel", "Adjustment", "Adjustment", "Crew", "Total"]
    # 0 → 5 has a change but no ratio; what the plan leaves blank is planned at nothing.
    assert (points[1]["change"], points[1]["change_ratio"], points[1]["state"]) == (5, None, "n/m")
    assert (points[2]["base"], points[2]["state"]) == (0, "not in base")
    assert points[0]["change_ratio"] == Decimal("0.100000")
    assert found["source"]["rows_used"] == 4


def test_several_bases_stand_side_by_side_in_one_table(desk: Desk) -> None:
    desk.write("ledger.csv", LEDGER)
    words = ("--by", "route", "--for", "2026", "--versus", "year-ago", "--versus", "budget", "-o", "t.csv")
    found = desk.figures("table", "ledger.csv", *words)
    assert [one["base"]["scenario"] for one in found["comparisons"]] == ["actual", "budget"]
    north = [point for point in found["points"] if point["label"] == "North"]
    assert [(point["comparison"], point["base"]) for point in north] == [(0, 70), (1, 75)]
    lines = (desk.folder / "t.csv").read_text("utf-8-sig").splitlines()
    assert lines[0].startswith("label,Jan–Oct 2026,Jan–Oct 2025,Change on Jan–Oct 2025")
    assert lines[1] == "North,77.00,70.00,7.00,0.100000,Rise,75.00,2.00,0.026667,Above budget"


def test_filters_narrow_and_stored_turns(desk: Desk) -> None:
    words = ("--by", "account_name", "--source-sign", "negative", "--better", "down", "--versus", "budget")
    where = ("--where", "kind=cost", "--where", "account>=5200", "--where", "account_name~*e*")
    found = desk.figures("table", str(DEMO), *words, *where)
    # Of the cost accounts from 5200 on, Depreciation and Interest hold an e; Tax does not.
    assert [point["label"] for point in found["points"]] == ["Depreciation", "Interest", "Total"]
    assert all(point["current"] > 0 for point in found["points"])
    bands = {band["name"]: band["tone"] for band in found["bands"]}
    assert bands == {"Over budget": "worse", "Under budget": "better", "On budget": "neutral"}


def test_the_given_order_and_the_largest_changes_kept(desk: Desk) -> None:
    rows = [(name, str(base), str(now)) for name, base, now in (("b", 1, 5), ("a", 1, -9), ("d", 1, 2), ("c", 4, 1))]
    desk.write("list.csv", rows, ("item", "then", "now"))
    sides = ("--current", "now", "--base", "then")
    kept = desk.figures("table", "list.csv", *sides, "--keep", "top:2")
    # Changes +4, −10, +1, −3: b and a stay in their order, d and c are −2 together.
    assert [point["label"] for point in kept["points"]] == ["b", "a", "Other (2)", "Total"]
    assert (kept["points"][2]["change"], kept["points"][2]["kind"]) == (-2, "other")
    alone = desk.run("table", "list.csv", *sides, "--keep", "top:2,alone")
    desk.figures("table", "list.csv", *sides, "--keep", "top:2,alone")
    assert [one["label"] for one in desk.read_figures()["points"]] == ["b", "a", "Total"]
    # Left out are d and c, 2 + 1 against 1 + 4, and the total holds them.
    assert "Left out: 2 others, 3 against 5 (−2)" in alone.out and "because of rounding" not in alone.out
    assert desk.read_figures()["points"][-1]["change"] == -8
    refused = desk.refused("draw", "waterfall", "list.csv", *sides, "--keep", "top:2,alone")
    assert "Gather them with --keep top:2." in refused
    ordered = desk.figures("table", "list.csv", *sides, "--order", "change", "--keep", "bottom:2")
    assert [point["label"] for point in ordered["points"]] == ["c", "a", "Other (2)", "Total"]
    # The largest in size first: a fall of 10 is not gathered under a rise of 4.
    ordered = desk.figures("table", "list.csv", *sides, "--order", "change", "--keep", "top:1")
    assert [point["label"] for point in ordered["points"]] == ["a", "Other (3)", "Total"]


# (--for, --versus, the current side, the base: first day, last day, scenario)
SIDES = [
    ("2026", "year-ago", ("2026-01-01", "2026-10-31", "actual"), ("2025-01-01", "2025-10-31", "actual")),
    ("2026-10", "prior", ("2026-10-01", "2026-10-31", "actual"), ("2026-09-01", "2026-09-30", "actual")),
    ("2025-Q2", "budget", ("2025-04-01", "2025-06-30", "actual"), ("2025-04-01", "2025-06-30", "budget")),
    ("2025", "2024", ("2025-01-01", "2025-12-31", "actual"), ("2024-01-01", "2024-12-31", "actual")),
    ("2025-11/2026-02", "year-ago", ("2025-11-01", "2026-02-28", "actual"), ("2024-11-01", "2025-02-28", "actual")),
]


@pytest.mark.parametrize(("window", "versus", "current", "base"), SIDES)
def test_the_demo_ledgers_sums_are_those_of_its_rows(
    desk: Desk, window: str, versus: str, current: tuple[str, str, str], base: tuple[str, str, str]
) -> None:
    # Added up here row by row, with no part of Marvex.
    with gzip.open(DEMO, "rt", encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))

    def sums(first: str, last: str, scenario: str) -> dict[str, Decimal]:
        found: dict[str, Decimal] = {}
        for row in rows:
            if row["scenario"] == scenario and first <= row["date"] <= last:
                found[row["account_name"]] = found.get(row["account_name"], Decimal(0)) + Decimal(row["net"])
        return found

    now, then = sums(*current), sums(*base)
    *points, total = desk.figures("table", str(DEMO), "--by", "account_name", "--for", window, "--versus", versus)[
        "points"
    ]
    nothing = Decimal(0) if versus == "budget" else None  # what a budget lacks is budgeted at nothing
    assert {point["label"]: (point["current"], point["base"]) for point in points} == {
        name: (now.get(name, nothing), then.get(name, nothing)) for name in {*now, *then}
    }
    assert (total["current"], total["base"]) == (sum(now.values()), sum(then.values()))
