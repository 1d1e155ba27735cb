"""`--since`: what has not changed is never told as restated, and what has always is, however it was compared."""

from __future__ import annotations

import json

import pytest

from conftest import Desk, typed

HEADS = ("month", "item", "region", "scenario", "net")
ITEMS = ("Fuel", "Crew", "Other (misc)", "Rent", "Fees")
KIND = {"Fuel": "cost", "Crew": "cost", "Other (misc)": "cost", "Rent": "income", "Fees": "income"}
STATEMENT = "\n".join(
    f'[[line]]\nlabel = "{item}"\naccounts = ["{item}"]\nkind = "{kind}"' for item, kind in KIND.items()
)
TOTAL = '[[line]]\nlabel = "Result"\ntotal_of = ["Rent", "Fees", "Fuel", "Crew", "Other (misc)"]'

# Each with and without a window that has moved on since.
COMPARED = (
    "table --by item --versus year-ago",
    "table --by item --versus budget --keep top:2",
    "table --by item --every month --versus year-ago --keep top:1",
    "table --every month --versus prior",
    "table --by item --total-as mean --versus year-ago",
    "table --every month --cumulative year-to-date --versus year-ago",
    "table --by item,region --versus year-ago",
    "table --by item --of actual+forecast --versus budget",
    "table --by item --versus budget --versus year-ago",
    "table --by item --column {} --column {} --versus year-ago",
    "table --statement lines.toml --account item --versus year-ago",
    "table --statement lines.toml --account item --versus budget --every month",
    "commentary --by item --versus year-ago --keep top:1",
    "draw variance --by item --versus year-ago --panels-by region --keep top:2",
    "draw variance --by item --versus year-ago --panels-by month",
    "draw shift --by item --versus year-ago --keep top:2",
    "draw trend --every month --versus year-ago",
    "draw waterfall --by item --versus year-ago --keep top:1",
    "draw waterfall --by item --versus year-ago --walk matched",
    "draw waterfall --statement lines.toml --account item --versus year-ago --keep top:1",
    "draw waterfall --every month --walk movement",
)


def ledger(desk: Desk, more: int = 0) -> None:
    """Two years of actuals to September, a budget, and a forecast; in February a row of 7 in each item's favour."""
    rows = [
        (f"{year}-{month:02}", item, region, scenario, 100 * (place + 1) + month * (year - 2024) + (region == "East"))
        for year in (2025, 2026)
        for month in range(1, 13)
        for place, item in enumerate(ITEMS)
        for region in ("East", "West")
        for scenario in ("actual", "budget", "forecast")
        if (scenario == "actual" and (year, month) < (2026, 10)) or (scenario != "actual" and year == 2026)
    ]
    rows += [("2026-02", "Other (misc)", "East", "actual", more), ("2026-02", "Fees", "West", "actual", 2 * more)]
    desk.write("l.csv", [row for row in rows if row[-1]], HEADS)
    (desk.folder / "lines.toml").write_text(f"{STATEMENT}\n{TOTAL}\n", encoding="utf-8")


def call(compared: str, window: str) -> list[str]:
    verb, *words = compared.format(window, "2026-02").split()
    view, words = ([words[0]], words[1:]) if verb == "draw" else ([], words)
    asked = [] if "--column" in words else ["--for", window]
    return [verb, *view, "l.csv", *words, *asked, *(["-o", "p.png"] if verb == "draw" else [])]


@pytest.mark.parametrize("moved", ["2026-01/2026-06", "2026-03/2026-08"])
@pytest.mark.parametrize("compared", COMPARED)
def test_what_changed_is_told_and_nothing_else(desk: Desk, compared: str, moved: str) -> None:
    ledger(desk)
    words = call(compared, "2026-01/2026-06")
    assert desk.run(*words, "--figures", "before.json").status == 0
    again = call(compared, moved)
    found = desk.figures(*again, "--since", "before.json", "--since-gate")["since"]
    assert (found["restated"], found["bands_changed"]) == ([], [])
    ledger(desk, more=7)
    found = desk.figures(*again, "--since", "before.json", "--since-gate", status=1)["since"]
    assert found["restated"]
    # 7 of one cost and 14 of one income, or both: as they are, or as the result has them.
    differences = {abs(one["is"] - one["was"]) for one in found["restated"] if "mean" not in compared}
    assert differences <= {7, 14, 7 + 14}, found["restated"]


def test_an_edition_that_says_the_sides_of_its_first_comparison_alone(desk: Desk) -> None:
    ledger(desk)
    words = ("table", "l.csv", "--by", "item", "--for", "2026-02", "--versus", "budget", "--versus", "year-ago")
    found = desk.figures(*words)
    found["comparisons"] = []
    (desk.folder / "old.json").write_text(json.dumps(found, default=float))
    assert desk.figures(*words, "--since", "old.json", "--since-gate")["since"]["restated"] == []


def test_a_category_that_is_called_other_is_told(desk: Desk) -> None:
    ledger(desk)
    words = ("table", "l.csv", "--by", "item", "--for", "2026-02", "--versus", "budget")
    desk.run(*words, "--figures", "before.json")
    ledger(desk, more=7)
    # 2 × 300 + 2 × (2 × 2) + 1 in February, and 7 more.
    assert "Other (misc) was 609, is 616 (+7)" in desk.run(*words, "--since", "before.json").out


def test_a_category_that_had_nothing_is_told_where_there_is_no_total(desk: Desk) -> None:
    rows = [(f"{year}-{month}", "Fuel", 5) for year in (2025, 2026) for month in ("01-31", "02-28")]
    words = ("draw", "variance", "n.csv", "--by", "item", "--for", "2026-02", "--versus", "year-ago", "-o", "n.png")
    desk.write("n.csv", rows, ("day", "item", "net"))
    desk.run(*words, "--figures", "before.json")
    desk.write("n.csv", [*rows, ("2026-02-11", "Crew", 3)], ("day", "item", "net"))
    for window in ("2026-02", "2026-01"):  # as it was, and moved
        asked = [window if word == "2026-02" else word for word in words]
        found = desk.figures(*asked, "--since", "before.json", "--since-gate", status=1)["since"]["restated"]
        assert [(one["label"], one["side"], one["was"], one["is"]) for one in found] == [("Crew", "current", None, 3)]


def test_a_table_without_dates_and_a_list_are_asked_again(desk: Desk) -> None:
    desk.write("u.csv", [("Fuel", 100, 120), ("Crew", 50, 45)], ("Item", "Budget", "Actual"))
    desk.run("table", "u.csv", "--figures", "u.json")
    assert "Nothing was restated" in desk.run("table", "u.csv", "--since", "u.json", "--since-gate").out
    desk.write("u.csv", [("Fuel", 100, 90), ("Crew", 50, 45)], ("Item", "Budget", "Actual"))
    out = desk.run("table", "u.csv", "--since", "u.json").out
    assert "Fuel was 120, is 90 (−30)" in out and "Fuel from Above budget to Below budget" in out
    steps = (("Start", 100), ("Sales", 120), ("Costs", -45), ("End", 175))
    desk.write("v.csv", steps, ("Item", "Amount"))
    desk.run("draw", "waterfall", "v.csv", "-o", "v.png", "--figures", "v.json")
    desk.write("v.csv", (("Start", 100), ("Sales", 150), ("Costs", -45), ("End", 205)), ("Item", "Amount"))
    found = desk.figures("draw", "waterfall", "v.csv", "-o", "v.png", "--since", "v.json", "--since-gate", status=1)
    assert [(one["label"], one["was"], one["is"]) for one in found["since"]["restated"]] == [("Sales", 120, 150)]
    drawn = desk.run("draw", "waterfall", "v.csv", "-o", "v.png", "--since", "v.json")
    assert "Restated since v.json: Sales was 120, is 150 (+30)" in drawn.err


def test_an_outlook_is_asked_again_as_it_ran_then(desk: Desk) -> None:
    words = ("table", "o.csv", "--of", "actual+forecast", "--versus", "budget", "--for", "2026", "--every", "month")
    rows = [(f"2026-{month:02}", scenario, 10) for month in range(1, 13) for scenario in ("budget", "forecast")]
    actual = [(f"2026-{month:02}", "actual", 11) for month in range(1, 4)]
    desk.write("o.csv", rows + actual, ("month", "scenario", "net"))
    found = desk.figures(*words)
    (desk.folder / "figures.json").rename(desk.folder / "then.json")
    assert (found["current"]["actual_to"], found["points"][-1]["current"]) == ("2026-03-31", 3 * 11 + 9 * 10)
    # In April an actual has come, 12: April's forecast was not restated, nor was any actual.
    desk.write("o.csv", [*rows, *actual, ("2026-04", "actual", 12)], ("month", "scenario", "net"))
    later = [word if word != "2026" else "2026-02/2026-12" for word in words]
    assert desk.figures(*later, "--since", "then.json", "--since-gate")["since"]["restated"] == []


def test_what_two_points_are_called_is_asked(desk: Desk) -> None:
    ledger(desk)
    words = typed("trace l.csv --statement lines.toml --account item --every month --for 2026-02")
    assert "Did you mean Result@2026-02?" in desk.refused(*words, "--at", "Result")
    mean = ("trace", "l.csv", "--by", "item", "--total-as", "mean", "--for", "2026-02", "--versus", "none")
    # In February 2026 an item has 100, 200 … 500 and 4 in either region, and 1 more in one: 3045 ÷ 10.
    assert "304.5" in desk.run(*mean, "--at", "Total").out
    desk.write("twice.csv", [("Fuel", 1, 2), ("Fuel", 3, 5)], ("Item", "Budget", "Actual"))
    assert "2 points are called 'Fuel'" in desk.refused("trace", "twice.csv", "--at", "Fuel")


def test_a_month_that_one_side_lacked_is_in_no_total_asked_again(desk: Desk) -> None:
    # The budget has no March: 10 a month against 9 in January, February and April.
    rows = [(f"2026-{n:02}-01", "A", "actual", 10) for n in range(1, 9)]
    rows += [(f"2026-{n:02}-01", "A", "budget", 9) for n in (1, 2, 4, 5, 6, 7, 8)]
    heads = ("date", "market", "scenario", "net")
    desk.write("g.csv", rows, heads)
    words = ("table", "g.csv", "--by", "market", "--versus", "budget", "--for")
    first = desk.figures(*words, "2026-01/2026-04")
    assert first["points"][-1]["current"] == 30 and first["unmatched"][0]["from"] == "2026-03-01"
    (desk.folder / "figures.json").rename(desk.folder / "april.json")
    assert desk.figures(*words, "2026-07", "--since", "april.json")["since"]["restated"] == []
    # Its March comes later: the base of what was then compared is still that of three months, whatever is asked today.
    desk.write("g.csv", [*rows, ("2026-03-01", "A", "budget", 9), ("2026-01-01", "A", "actual", 1)], heads)
    for window in ("2026-07", "2026-01/2026-04"):
        restated = desk.figures(*words, window, "--since", "april.json")["since"]["restated"]
        told = {(one["label"], one["side"], one["was"], one["is"]) for one in restated}
        assert told == {
            (label, *side) for label in ("A", "Total") for side in (("current", 30, 31), ("base", 27, 36))
        }


def test_a_ratio_line_is_told_in_per_cent(desk: Desk) -> None:
    (desk.folder / "m.toml").write_text(
        '[[line]]\nlabel = "Sales"\naccounts = ["Sales"]\nkind = "income"\n'
        '[[line]]\nlabel = "Costs"\naccounts = ["Costs"]\nkind = "cost"\n'
        '[[line]]\nlabel = "Result"\ntotal_of = ["Sales", "Costs"]\n'
        '[[line]]\nlabel = "Margin %"\nratio_of = ["Result", "Sales"]\n'
    )
    words = ("m.csv", "--statement", "m.toml", "--versus", "budget")
    for costs in (100, 80):  # of sales of 200: 50 %, then 60 %; no sales are budgeted, and so no margin
        rows = [("Sales", "actual", 200), ("Costs", "actual", costs), ("Costs", "budget", 50)]
        desk.write("m.csv", [("2026-01-31", *row) for row in rows], ("date", "account", "scenario", "net"))
        if costs == 100:
            desk.figures("table", *words)
    told = desk.run("table", *words, "--since", "figures.json").out
    assert "Margin % was 50.0%, is 60.0% (+10.0 pts)" in told
    assert "measured against: Margin % (60.0%)." in desk.run("commentary", *words).out.replace("\n", " ")


MONTHS = [(f"{year}-{month:02}", year, month) for year in (2025, 2026) for month in range(1, 11)]
KEPT: list[tuple[object, ...]] = [
    (when, item, (year - 2024) * amount + month) for when, year, month in MONTHS for item, amount in
    (("Fares", 5174), ("Freight", 1903), ("Fuel", -2177), ("Crew", -2716))
]  # fmt: skip
NEXT_MONTH = {
    "in thousands": (lambda when, item, net: (when, item, net / 1000), "each figure is about a thousandth of what"),
    "turned": (lambda when, item, net: (when, item, -net), "each figure has the other sign than in before.json"),
    "costs positive": (lambda when, item, net: (when, item, abs(net)), "Crew, Fuel have the other sign than in"),
    "renamed": (lambda when, item, net: (when, "Bunkers" if item == "Fuel" else item, net), "Bunkers has just the"),
    "of one month": (lambda when, item, net: (f"{when[:5]}11" if when.endswith("10") else None, item, net),
                     "the source has no rows of Oct 2025, Oct 2026 any more: before.json is not compared there"),
    "a month less": (lambda when, item, net: (None if when == "2026-10" else when, item, net), None),
    "one figure": (lambda when, item, net: (when, item, 1000 * net if (when, item) == ("2026-10", "Fuel") else net),
                   None),
}  # fmt: skip


@pytest.mark.parametrize("case", NEXT_MONTH)
def test_what_all_that_was_restated_has_in_common_is_told(desk: Desk, case: str) -> None:
    desk.write("k.csv", KEPT, ("month", "item", "net"))
    words = ("table", "k.csv", "--by", "item", "--versus", "year-ago", "--for")
    desk.run(*words, "2026-10", "--figures", "before.json")
    change, told = NEXT_MONTH[case]
    desk.write("k.csv", [row for row in (change(*one) for one in KEPT) if row[0]], ("month", "item", "net"))
    window = {"of one month": "2026-11", "a month less": "2026-09"}.get(case, "2026-10")
    found = desk.figures(*words, window, "--since", "before.json")
    in_common = [one for one in found["cautions"] if "before.json" in one]
    assert in_common == [] if told is None else in_common[0].startswith(told) and len(in_common) == 1
    # Of a month that is not in a table of other months nothing was restated; of one that was taken out, all.
    restated = [one for one in found["since"]["restated"] if one["side"] == "current"]
    assert len(restated) == {"of one month": 0, "renamed": 2, "one figure": 2, "costs positive": 3}.get(case, 5)
