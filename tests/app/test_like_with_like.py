"""Like with like: what one side lacks is in no total; the days, the words and the gates, worked by hand."""

from __future__ import annotations

import random
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

import pytest

from conftest import Desk, by_label, planned, typed
from marvex.core.compare.point import total_of
from marvex.request.settings import Settings

HEADS = ("date", "market", "scenario", "net")


def months(first: str, count: int) -> list[str]:
    year, month = int(first[:4]), int(first[5:7])
    return [f"{year + (month - 1 + n) // 12}-{(month - 1 + n) % 12 + 1:02}-15" for n in range(count)]


def ledger(desk: Desk) -> str:
    """North from April 2025 on, 10 a month and then 12; South from September 2025 on, 5 a month."""
    rows = [(day[:7] + "-01", "North", "actual", 10 if day < "2026" else 12) for day in months("2025-04", 21)]
    rows += [(day[:7] + "-01", "South", "actual", 5) for day in months("2025-09", 16)]
    return desk.write("l.csv", rows, HEADS)


AXES = (("--by", "market"), ("--every", "month"), ("--every", "quarter"), ("--every", "month", "--by", "market"))


@pytest.mark.parametrize("axis", AXES)
def test_twelve_months_against_nine_are_nine_against_nine_on_every_axis(desk: Desk, axis: tuple[str, ...]) -> None:
    words = ("table", ledger(desk), "--for", "2026", "--versus", "year-ago", *axis)
    found = desk.figures(*words)
    # April to December: 9 × 12 + 9 × 5 = 153 against 9 × 10 + 4 × 5 = 110; January to March: 3 × 17 = 51.
    total = found["points"][-1]
    assert (total["current"], total["base"], total["from"], total["base_to"]) == (
        153,
        110,
        "2026-04-01",
        "2025-12-31",
    )
    assert found["unmatched"] == [{"side": "current", "amount": 51, "from": "2026-01-01", "to": "2026-03-31"}]
    assert found["matched"]["change_ratio"] == Decimal("0.390909")
    assert found["headline"].startswith("Net 153 in Apr–Dec 2026, 43 above last year (+39.1%)")
    assert "Jan–Mar 2026 adds 51 with nothing to compare" in desk.run(*words).out
    if "quarter" in axis:
        assert by_label(found)["2026-Q1"]["state"] == "no base"


def test_a_market_that_opened_keeps_its_total_and_says_its_matched_part(desk: Desk) -> None:
    words = (ledger(desk), "--for", "2026", "--versus", "year-ago", "--where", "market=South")
    # 9 × 5 = 45 against 4 × 5 = 20; September to December 20 against 20.
    found = desk.figures("table", *words, "--every", "month")
    assert "(+125.0%; 0.0% in Sept–Dec 2026, where both sides have rows)" in found["headline"]
    assert (found["matched"]["current"], found["matched"]["base"], found["matched"]["from"]) == (20, 20, "2026-09-01")
    in_panels = planned("against", [str(desk.folder / "l.csv")], panels("market"))
    headings = {panel.name: panel.finding for panel in in_panels.panels}
    assert headings["South"] == "45, +25 (+125.0%; 0.0% in Sept–Dec 2026, where both sides have rows)"
    assert headings["North"] == "108, +18 (+20.0%)"


def panels(column: str, versus: str = "year-ago") -> Settings:
    return Settings(for_=("2026",), versus=(versus,), panels_by=column, every="month", units="one")


def test_the_walk_of_what_is_matched_leads_from_all_of_one_year_to_all_of_the_other(desk: Desk) -> None:
    words = ("draw", "waterfall", ledger(desk), "--for", "2026", "--versus", "year-ago", "--by", "market")
    found = desk.figures(*words, "--walk", "matched", "-o", "w.png")
    # North 108 − 90 = 18 and South's September to December 0 are matched; 5 × 5 of South is new; 51 has no base.
    assert [(p["label"], p["change"] or p["end"]) for p in found["points"]] == [
        *(("2025", 110), ("Matched change", 18), ("New", 25), ("Only in Jan–Mar 2026", 51), ("2026", 204))
    ]
    assert all(check["ok"] for check in found["checks"])


def test_under_prior_a_heading_is_of_the_last_period_that_has_a_base(desk: Desk) -> None:
    words = ("table", ledger(desk), "--for", "2026", "--versus", "prior", "--every", "month")
    found = desk.figures(*words, "--by", "market")
    assert found["headline"] == "Net 17 in Dec 2026, level with the month before"
    assert all(point["kind"] != "total" for point in found["points"]) and found["matched"] is None
    shown = planned("trend", [str(desk.folder / "l.csv")], panels("market", "prior"))
    assert [panel.finding for panel in shown.panels] == ["Dec 2026: 12, 0 (0.0%)", "Dec 2026: 5, 0 (0.0%)"]


def test_comparable_leaves_out_the_periods_that_one_side_lacks(desk: Desk) -> None:
    words = ("table", ledger(desk), "--for", "2026", "--versus", "year-ago", "--every", "month", "--comparable")
    found = desk.figures(*words)
    assert found["points"][0]["label"] == "2026-04" and len(found["points"]) == 10
    assert any("3 periods were left out" in caution for caution in found["cautions"])
    assert "only what both sides have" in desk.run(*words).out


def outlook(desk: Desk) -> str:
    """Actuals to April 2026, 10 a month; forecasts of every month of 2026, 20; actuals of 2025, 9."""
    rows: list[Any] = [(day, "A", "actual", 9) for day in months("2025-01", 12)]
    rows += [(f"2026-{n:02}-28", "A", "actual", 10) for n in range(1, 5)] + [("2026-04-30", "A", "actual", 0)]
    rows += [(f"2026-{n:02}-01", "A", "forecast", 20) for n in range(1, 13)]
    return desk.write("o.csv", rows, HEADS)


@pytest.mark.parametrize("axis", ["month", "quarter", "half", "year", None])
def test_an_outlook_is_the_same_on_every_axis_and_names_its_join(desk: Desk, axis: str | None) -> None:
    words = ("table", outlook(desk), "--of", "actual+forecast", "--for", "2026", "--versus", "year-ago")
    asked = (*words, *(("--every", axis) if axis else ("--by", "market")))
    found = desk.figures(*asked)
    # 4 × 10 + 8 × 20 = 200 against 12 × 9 = 108, of the actuals.
    assert (found["points"][-1]["current"], found["points"][-1]["base"]) == (200, 108)
    if axis == "quarter":
        assert by_label(found)["2026-Q2"]["current"] == 10 + 2 * 20
    assert "2026 outlook (actual to 30 Apr 2026, then forecast) against 2025 actual" in desk.run(*asked).out


def test_weeks_shown_in_months_count_where_their_thursday_is(desk: Desk) -> None:
    first = date(2024, 12, 30)
    desk.write("w.csv", [(first + n * timedelta(days=7), "A", 1) for n in range(79)], ("date", "shop", "net"))
    words = ("table", "w.csv", "--for", "2026-H1", "--every", "month", "--versus", "year-ago")
    found = desk.figures(*words)
    # Thursdays: 5 in January, April 2026 has 5 (2, 9, 16, 23, 30) and April 2025 4 (3, 10, 17, 24).
    assert (by_label(found)["2026-01"]["current"], by_label(found)["2026-01"]["base"]) == (5, 5)
    assert (by_label(found)["2026-04"]["current"], by_label(found)["2026-04"]["base"]) == (5, 4)
    assert any(
        "kept by week and shown in months" in one and "26 weeks against 26" in one for one in found["cautions"]
    )
    assert not any("no rows" in one for one in found["cautions"])


def test_weekdays_are_no_way_to_pair_months_and_weeks_cut_to_months_have_their_namesakes(desk: Desk) -> None:
    rows = [(f"{year}-{month:02}-01", "A", month) for year in (2025, 2026) for month in range(1, 13)]
    desk.write("m.csv", rows, ("date", "shop", "net"))
    words = ("table", "m.csv", "--versus", "year-ago", "--by", "shop")
    assert "pairs days, and data is kept by month" in desk.refused(*words, "--match", "weekday")
    found = desk.figures(*words, "--for", "2026-W10/2026-W30")
    # Weeks 10 to 30 run from 2 March to 26 July: April, May and June are whole on either side.
    assert (found["base"]["from"], found["base"]["to"], found["points"][0]["base"]) == (
        "2025-04-01",
        "2025-06-30",
        15,
    )


def test_balances_say_their_closing_dates_and_what_is_not_on_them(desk: Desk) -> None:
    rows = [("2025-10-31", "A", 100), ("2025-10-31", "B", 50), ("2026-10-30", "B", 55), ("2026-10-31", "A", 120)]
    desk.write("s.csv", rows, ("date", "depot", "stock"))
    words = ("table", "s.csv", "--by", "depot", "--for", "2026-10", "--versus", "year-ago", "--total-as")
    found = desk.figures(*words, "closing")
    assert (found["closing_date"], found["base_closing_date"]) == ("2026-10-31", "2025-10-31")
    assert by_label(found)["B"]["state"] == "no current"
    assert any("its last is of 2026-10-30 (55): --total-as closing:each" in caution for caution in found["cautions"])
    assert "closing on 31 Oct 2026 and 31 Oct 2025" in desk.run(*words, "closing").out
    alone = desk.figures(*words[:6], "--versus", "none", "--total-as", "closing")  # B is no point of it, and is told
    assert [one["label"] for one in alone["points"]] == ["A", "Total"] and "B has no figure on" in alone["cautions"][
        0
    ]
    each = desk.figures(*words, "closing:each")
    assert (by_label(each)["B"]["current"], each["points"][-1]["current"]) == (55, 175)
    by_month = desk.figures(*words[:2], "--every", "month", *words[2:], "closing:each")
    assert by_month["points"][-1]["current"] == 175
    assert "each category's own" in desk.refused(*words[:2], "--every", "month", *words[4:], "closing:each")
    # Along time as well: depot B has no row on either month's last day, and is in no panel.
    desk.write("s.csv", [*rows, ("2026-09-30", "A", 90), ("2026-09-02", "B", 40)], ("date", "depot", "stock"))
    along = desk.figures(
        *words[:4], "--every", "month", "--for", "2026-09/2026-10", "--versus", "none", *words[-1:], "closing"
    )
    assert {one["panel"] for one in along["points"]} == {"A", None}
    assert any(
        "B has no figure on 2 closing dates, its last is of 2026-10-30 (55)" in one for one in along["cautions"]
    )
    alone = typed("s.csv --every month --where depot=B --for 2026 --versus none --total-as closing")
    assert any("what is kept has no figure" in one for one in desk.figures("table", *alone)["cautions"])
    assert "no balance to walk from" in desk.refused("draw", "waterfall", *alone)


def test_what_makes_the_sides_unlike_stands_under_them(desk: Desk) -> None:
    # The week of 29 December counts in January; the budget begins with the next, and has 8 weeks of the first 9.
    weeks = [date(2025, 12, 29) + n * timedelta(days=7) for n in range(9)]
    rows = [(day, "A", of, 10) for of in ("actual", "budget") for day in weeks if of == "actual" or day.year == 2026]
    desk.write("w.csv", rows, ("week", "shop", "scenario", "net"))
    shown = desk.run("table", "w.csv", "--every", "month", "--for", "2026-01/2026-02").out
    assert "The sides have different numbers of weeks: 9 against 8 in all, 2026-01 has 5 against 4" in shown
    # Of the actuals January has its second half only, of February nothing is there from the 9th to the 15th.
    days = [date(2026, 1, 16) + n * timedelta(days=1) for n in range(74)]
    rows = [(day, "A", "actual", 1) for day in days if not date(2026, 2, 9) <= day <= date(2026, 2, 15)]
    rows += [(f"2026-{month:02}-01", "A", "budget", 28) for month in range(1, 13)]
    desk.write("d.csv", rows, ("day", "shop", "scenario", "net"))
    shown = desk.run("table", "d.csv", "--by", "shop", "--for", "2026-01/2026-03").out
    assert "The current side is only partly filled: actual runs from 2026-01-16" in shown
    assert "Actual has no rows from 2026-02-09 to 2026-02-15, and has on nearly all other days" in shown
    # Two days of the first week of 2025, which began in December, are not there; and of a January the first four.
    for first, words in ((1, ("--every", "week", "--for", "2026-W01/2026-W04")), (5, ("--for", "2026-01"))):
        days = [date(2025, 1, first) + n * timedelta(days=1) for n in range(396)]
        desk.write("y.csv", [(day, "A", 1) for day in days], ("day", "shop", "net"))
        shown = desk.run("table", "y.csv", "--versus", "year-ago", *words).out
        assert f"The base is only partly filled: data runs from 2025-01-0{first}" in shown
    # Where both begin alike within the window nothing is unlike, and it is said on the terminal alone.
    rows = [(f"2026-01-{day:02}", "A", of, 5) for day in (5, 12, 19) for of in ("actual", "budget")]
    desk.write("b.csv", rows, ("week", "shop", "scenario", "net"))
    both = desk.run("table", "b.csv", "--every", "week")
    assert "only partly filled" in both.err and "only partly filled" not in both.out
    cut = ("--every", "month", "--for", "2026-01-20/2026-03-12", "--versus", "none")
    assert "Only partly in the window: 2026-01 and 2026-03" in desk.run("table", "d.csv", *cut).out
    rows = [(name, now, then) for name, now, then in (("A", 5100, 5), ("B", 7900, 8), ("C", 6200, 6))]
    desk.write("k.csv", rows, ("item", "Actual", "Budget"))
    assert "Actual is about 1,000 times Budget, point by point" in desk.run("table", "k.csv").out


def test_a_balance_that_lapsed_long_before_is_named(desk: Desk) -> None:
    # C, whose last is 20 in August, is on neither closing date; D was there in September, and is not on 31 October.
    rows = [(f"{year}-{day}", "A", 100) for year in (2025, 2026) for day in ("08-31", "09-30", "10-31")]
    rows += [("2026-08-31", "C", 20), ("2025-10-31", "D", 7), ("2026-09-30", "D", 7)]
    desk.write("s.csv", rows, ("date", "depot", "stock"))
    words = ("--by", "depot", "--for", "2026", "--versus", "year-ago", "--total-as")
    for way in ("closing", "closing:each"):
        told = desk.figures("table", "s.csv", *words, way)["cautions"]
        assert "not shown, having no figure on a closing date: C, whose last is of 2026-08-31 (20)" in told
        assert any("1 ended (D): no figure on 31 Oct 2026, 7 in all" in one for one in told)
        assert "Not shown, having no figure on a closing date: C" in desk.run("table", "s.csv", *words, way).out
    assert "Ended, with nothing on 31 Oct 2026: D (7)." in desk.run("commentary", "s.csv", *words, "closing").out


def test_unbudgeted_spending_is_beyond_every_percentage_and_meets_the_gate(desk: Desk) -> None:
    rows = [("2026-01-31", "Fines", "actual", 500_000), ("2026-01-31", "Fuel", "actual", 100)]
    rows += [("2026-01-01", "Fuel", "budget", 101), ("2026-01-01", "Gifts", "budget", 7)]
    desk.write("b.csv", rows, HEADS)
    words = ("table", "b.csv", "--by", "market", "--band", "Overspend [worse fails]: change > 5% and change > 10k")
    points = by_label(desk.figures(*words, "--band", "Within budget: otherwise", status=1))
    assert (points["Fines"]["base"], points["Fines"]["state"], points["Fines"]["band"]) == (
        0,
        "not in base",
        "Overspend",
    )
    assert (points["Gifts"]["current"], points["Gifts"]["change"], points["Gifts"]["state"]) == (
        0,
        -7,
        "not in current",
    )
    out = desk.run(*words, "--band", "Within budget: otherwise").out
    assert "not in budget" in out and "no actual" in out
    gap = by_label(desk.figures(*words, "--band", "Within budget: otherwise", "--absent", "gap"))
    assert (gap["Fines"]["base"], gap["Fines"]["band"]) == (None, "No base")


def test_rates_are_judged_before_they_are_rounded(desk: Desk) -> None:
    desk.write("r.csv", [("a", 20, 3, "then"), ("a", 22, 3, "now")], ("item", "net", "hours", "scenario"))
    words = ("table", "r.csv", "--per", "hours", "--of", "now", "--versus", "then", "--by", "item")
    points = desk.figures(*words, "--band", "Tenth: change >= 10%", "--band", "Less: otherwise")["points"]
    assert (points[0]["band"], points[0]["change_ratio"]) == ("Tenth", Decimal("0.100000"))
    # 20 ÷ 3 = 6.6666667 and 22 ÷ 3 = 7.3333333, of which 2 ÷ 3 is the change.
    assert [points[0][key] for key in ("base", "current", "change")] == [
        *(Decimal("6.666667"), Decimal("7.333333"), Decimal("0.666667"))
    ]


def test_a_rolling_total_that_lacks_a_month_is_absent(desk: Desk) -> None:
    rows = [(day, "A", 1) for day in months("2025-01", 18) if day != "2025-08-15"]
    desk.write("m.csv", rows, ("date", "shop", "net"))
    words = typed("table m.csv --for 2026-H1 --every month --versus none --cumulative rolling:6")
    points = by_label(desk.figures(*words))
    # Six months back from January hold August; February to June do not.
    assert [points[f"2026-0{n}"]["current"] for n in (1, 2, 6)] == [None, 6, 6]
    assert points["2026-01"]["state"] == "no current"


def test_windows_that_move_end_with_the_latest_and_columns_have_their_own(desk: Desk) -> None:
    days = [date(2025, 1, 1) + n * timedelta(days=1) for n in range(514)]  # to Friday 29 May 2026
    rows = [(day, "A", "actual", 1) for day in days if day.weekday() < 5]
    rows += [(f"{year}-{n:02}-01", "A", "forecast", 10) for year in (2025, 2026) for n in range(1, 13)]
    desk.write("d.csv", rows, HEADS)
    words = ("table", "d.csv", "--by", "market", "--versus", "none", "--of", "actual")
    ends = {
        window: desk.figures(*words, "--for", window)["current"]
        for window in ("latest:month", "year-to-date", "quarter-to-date", "rolling:12")
    }
    # May is complete: only a weekend is left of it.
    assert {window: (one["from"], one["to"]) for window, one in ends.items()} == {
        "latest:month": ("2026-05-01", "2026-05-31"),
        "year-to-date": ("2026-01-01", "2026-05-31"),
        "quarter-to-date": ("2026-04-01", "2026-05-31"),
        "rolling:12": ("2025-06-01", "2026-05-31"),
    }
    assert "no rows on the weekdays to 2026-05-31" in desk.run(*words, "--for", "latest").err
    groups = ("--column", "latest", "--column", "full-year of actual+forecast versus year-ago")
    found = desk.figures("table", "d.csv", "--by", "market", *groups)
    sides = [(one["current"]["scenario"], one["current"]["to"], one["base"]) for one in found["comparisons"]]
    assert sides[0][:2] == ("actual", "2026-05-31") and sides[1][:2] == ("actual+forecast", "2026-12-31")
    # January to May 2026 have 22 + 20 + 22 + 22 + 21 = 107 weekdays, and seven months of forecast follow.
    assert found["points"][-1]["current"] == 107 + 7 * 10
    assert "both say windows" in desk.refused("table", "d.csv", "--by", "market", *groups, "--for", "2026")
    # What is known to April does not end a forecast, which has twelve months.
    to_april = ("--column", "latest", "--column", "full-year of forecast versus none", "--as-of", "2026-04-30")
    assert desk.figures("table", "d.csv", "--by", "market", *to_april)["points"][-1]["current"] == 12 * 10
    late = desk.refused("table", "d.csv", "--by", "market", "--for", "2026-05", "--as-of", "2026-04-30")
    assert "no actual rows in 2026-05: the data are taken as known to 2026-04-30" in late


def test_a_last_day_that_stops_early_is_not_the_latest(desk: Desk) -> None:
    rows = [
        (f"2026-03-{day:02}T{hour:02}:00:00", 1)
        for day in range(1, 12)
        for hour in (8, 18)
        if (day, hour) != (11, 18)
    ]
    desk.write("t.csv", rows, ("when", "net"))
    done = desk.run("table", "t.csv", "--for", "latest:day", "--versus", "none")
    assert "10 Mar 2026" in done.out and "2026-03-11 stops at 08:00, days usually at 18:00" in done.err
    assert "no data rows in today" in desk.refused("table", "t.csv", "--for", "today", "--versus", "none")


def test_a_yearly_budget_is_spread_and_adds_up(desk: Desk) -> None:
    rows: list[Any] = [(day, "A", "actual", 5) for day in months("2026-01", 12)]
    rows += [(day, "A", "actual", n) for n, day in enumerate(months("2025-01", 12), 1)]
    desk.write("y.csv", [*rows, ("2026-01-01", "A", "budget", "100.01")], HEADS)
    words = ("table", "y.csv", "--for", "2026", "--every", "month", "--as-of", "2026-12-31", "--spread")
    even = desk.figures(*words, "even")["points"]
    assert sum(point["base"] for point in even[:-1]) == even[-1]["base"] == Decimal("100.01")
    # 100.01 ÷ 12 = 8.33416666…
    assert {point["base"] for point in even[:-1]} == {Decimal("8.33416666"), Decimal("8.33416667")}
    shaped = by_label(desk.figures(*words, "year-ago"))
    # The year before came to 78: of January 1, of December 12. 100.01 ÷ 78 = 1.28217948…, × 12 = 15.38615384….
    assert (shaped["2026-01"]["base"], shaped["2026-12"]["base"]) == (Decimal("1.28217948"), Decimal("15.38615385"))
    assert "budget by year spread evenly over months" in desk.run(*words, "even").out
    assert "no scenario is kept by longer periods" in desk.refused(
        "table", "y.csv", "--by", "market", "--spread", "days", "--every", "year"
    )


def test_a_budget_in_the_shape_of_a_year_that_is_not_known(desk: Desk) -> None:
    words = ("table", "y.csv", "--for", "2026", "--versus", "budget", "--spread", "year-ago")
    budget = [("2026-01-01", market, "budget", 120) for market in "AB"]
    late = [(day, "A", "actual", 5) for day in months("2025-07", 16)]
    # Half of the year before is no shape of it: all of the budget would be of July and later.
    desk.write("y.csv", [*late, *budget], HEADS)
    assert "rows run from 2025-07-15 to 2026-10-15 only" in desk.refused(*words, "--every", "month")
    # A has the whole year before; B begins in July 2025, C has only 2026.
    whole = [(day, "A", "actual", 5) for day in months("2025-01", 22)]
    new = [(day, "B", "actual", 5) for day in months("2025-07", 16)]
    new += [(day, "C", "actual", 5) for day in months("2026-01", 10)]
    desk.write("y.csv", [*whole, *new, *budget, ("2026-01-01", "C", "budget", 120)], HEADS)
    done = desk.run(*words, "--by", "market")
    assert "Budget of B from 2026-01-01 to 2026-12-31 is spread in the shape of a year that begins on 2025-07-15" in (
        done.out
    )
    assert "Budget of C from 2026-01-01 to 2026-12-31 is spread evenly" in done.out
    # Of nine whole months: A and C 9/12, B three of the six from July on.
    bases = [point["base"] for point in desk.figures(*words, "--by", "market")["points"]]
    assert bases == [90, 60, 90, 240]


def test_public_holidays_are_no_working_days(desk: Desk) -> None:
    desk.write("h.csv", [(f"{year}-12-{n:02}", 21) for year in (2024, 2025) for n in range(1, 32)], ("date", "net"))
    words = ("table", "h.csv", "--for", "2025-12", "--every", "month", "--versus", "none", "--per-day", "working")
    # December 2025 has 23 weekdays, of which Christmas and Boxing Day are holidays in England.
    plain, closed = (desk.figures(*words, *more)["points"][0]["current"] for more in ((), ("--holidays", "GB")))
    assert (plain, closed) == (Decimal("28.304348"), 31)
    assert "no country, or part of one, 'XX'" in desk.refused(*words, "--holidays", "XX")


def test_what_was_restated_is_told_and_is_a_gate(desk: Desk) -> None:
    rows = [(day, "A", "actual", 100) for day in months("2026-01", 3)] + [
        (day, "B", "actual", 9) for day in months("2026-01", 3)
    ]
    rows += [(f"2026-{n:02}-01", market, "budget", 95) for n in (1, 2, 3) for market in "AB"]
    words = ("table", "s.csv", "--by", "market", "--versus", "budget", "--as-of", "2026-03-31")
    desk.write("s.csv", rows, HEADS)
    desk.run(*words, "--for", "2026-02", "--figures", "february.json")
    assert (
        "Nothing was restated since february.json" in desk.run(*words, "--since", "february.json", "--since-gate").out
    )
    # February's A goes from 100, above its budget of 95, to 90.
    desk.write("s.csv", [*rows, ("2026-02-20", "A", "actual", -10)], HEADS)
    found = desk.figures(*words, "--for", "2026-03", "--since", "february.json", "--since-gate", status=1)
    assert [(one["label"], one["side"], one["was"], one["is"]) for one in found["since"]["restated"]] == [
        *(("A", "current", 100, 90), ("Total", "current", 109, 99))
    ]
    assert [(one["label"], one["was"], one["is"]) for one in found["since"]["bands_changed"]] == [
        ("A", "Above budget", "Below budget")
    ]
    out = desk.run(*words, "--for", "2026-03", "--since", "february.json").out
    assert "A (restated)" in out and "A was 100, is 90 (−10)" in out
    (desk.folder / "empty.json").write_text("{}")
    assert "is not the figures of a run" in desk.refused(*words, "--since", "empty.json")


def test_the_odd_side_of_the_most_unusual_day_is_named(desk: Desk) -> None:
    days = [date(2024, 1, 1) + n * timedelta(days=1) for n in range(821)]  # to 31 March 2026
    chance = random.Random(5)
    trips = {day: 3 if day == date(2025, 3, 14) else chance.randint(20, 31) for day in days}
    desk.write("t.csv", list(trips.items()), ("date", "trips"))
    words = ("t.csv", "--for", "2026-03", "--every", "day", "--versus", "year-ago")
    around = [trips[date(2025, 3, 14) + n * timedelta(days=1)] for n in (-4, -3, -2, -1, 1, 2, 3, 4)]
    said = f"14 Mar 2025 is the odd one: 3, against {min(around)} to {max(around)} in the days around it"
    assert said in " ".join(desk.run("commentary", *words).out.split())
    assert said in desk.run("trace", *words, "--at", "2026-03-14").out


def test_contribution_is_in_points_of_the_base_total(desk: Desk) -> None:
    desk.write("c.csv", [("a", 60, 50), ("b", 45, 50)], ("item", "now", "then"))
    words = ("table", "c.csv", "--current", "now", "--base", "then")
    bands = ("--band", "Much: contribution >= 10%", "--band", "Little: otherwise")
    points = by_label(desk.figures(*words, *bands))
    # +10 and −5 of 100.
    assert [(points[name]["contribution"], points[name]["band"]) for name in "ab"] == [
        *((Decimal("0.1"), "Much"), (Decimal("-0.05"), "Little"))
    ]
    assert "+10.0 pts" in desk.run(*words, "--show", "change,contribution").out


def test_what_a_statement_has_unmatched_is_its_result(desk: Desk) -> None:
    rows = ["Sales,100,,130,120,131,140", "Purchases,-60,,-72,-63,-64,-65"]
    heads = "Line,Jan 2025,Feb 2025,Mar 2025,Jan 2026,Feb 2026,Mar 2026"
    (desk.folder / "p.toml").write_text(
        '[statement]\ncost_sign = "negative"\n[[line]]\nlabel = "Sales"\naccounts = ["Sales"]\nkind = "income"\n'
        '[[line]]\nlabel = "Costs"\naccounts = ["Purchases"]\nkind = "cost"\n'
        '[[line]]\nlabel = "Result"\ntotal_of = ["Sales", "Costs"]\n'
    )
    (desk.folder / "p.csv").write_text("\n".join((heads, *rows)))
    found = desk.figures("table", "p.csv", "--statement", "p.toml", "--for", "2026-Q1", "--versus", "year-ago")
    # February 2026 came to 131 − 64 = 67; January and March to 57 + 75 = 132 against 40 + 58 = 98.
    assert [(one["side"], one["amount"]) for one in found["unmatched"]] == [("current", 67)]
    assert (found["matched"]["current"], found["matched"]["base"]) == (132, 98)


def test_months_stand_across_a_statement_with_their_total_and_one_base(desk: Desk) -> None:
    (desk.folder / "p.toml").write_text(
        '[[line]]\nlabel = "Sales"\naccounts = ["A"]\nkind = "income"\n'
        '[[line]]\nlabel = "Costs"\naccounts = ["B"]\nkind = "cost"\n'
        '[[line]]\nlabel = "Result"\ntotal_of = ["Sales", "Costs"]\n'
    )
    rows = [
        (f"2026-{n:02}-01", market, "actual", amount) for n in (1, 2) for market, amount in (("A", 10 + n), ("B", 4))
    ]
    rows += [
        (f"2026-{n:02}-01", market, "forecast", amount) for n in (3, 4) for market, amount in (("A", 20), ("B", 5))
    ]
    rows += [(f"2026-{n:02}-01", market, "budget", 8) for n in range(1, 5) for market in "AB"]
    desk.write("s.csv", rows, HEADS)
    words = typed("s.csv --statement p.toml --every month --for 2026-01/2026-04 --of actual+forecast")
    desk.run("table", *words, "-o", "t.csv", "--versus", "budget")
    # Results 11 − 4 = 7, 12 − 4 = 8, 20 − 5 = 15 twice: 45 against 0.
    lines = [line.split(",") for line in (desk.folder / "t.csv").read_text().splitlines()]
    assert lines[0][1:8] == [*("Jan 2026", "Feb 2026", '"Mar 2026', ' forecast"', '"Apr 2026', ' forecast"', "Total")]
    assert lines[-1][:7] == ["Result", "7", "8", "15", "15", "45", "0"]
    drawn = desk.figures("draw", "statement", *words, "--versus", "budget", "-o", "s.png")
    costs = [point["effect"] for point in drawn["points"] if point["panel"] == "Costs"]
    assert costs == [8 - 4, 8 - 4, 8 - 5, 8 - 5]  # a cost below its budget is good for the result
    # The year before has March alone: the total is of March, and is called so.
    desk.write("s.csv", [*rows, ("2026-03-01", "A", "actual", 21), ("2025-03-01", "A", "actual", 9)], HEADS)
    words = ("s.csv", "--statement", "p.toml", "--every", "month", "--for", "2026-01/2026-03", "--versus", "year-ago")
    desk.run("table", *words, "-o", "t.csv")
    head, sales, *_ = (line.split(",") for line in (desk.folder / "t.csv").read_text().splitlines())
    assert [*head[3:5], head[5], head[6]] == ["Mar 2026", '"Total', ' Mar 2026"', "Mar 2025"]
    assert sales[:6] == ["Sales", "11", "12", "21", "21", "9"]


def test_whatever_is_shown_adds_up_to_the_total_beside_it(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    rows: list[Any] = [(day, "A", "actual", 10) for year in (2025, 2026) for day in months(f"{year}-01", 6)]
    rows += [(day, "B", "actual", 20) for start in ("2025-03", "2026-01") for day in months(start, 4)]
    desk.write("p.csv", [*rows, ("2024-03-15", "A", "actual", 7)], HEADS)
    words = ("table", "p.csv", "--for", "2026-01/2026-06", "--versus", "year-ago")
    by = desk.figures(*words, "--by", "market", "--comparable")["points"][-1]
    for grain in ("month", "quarter"):
        along = desk.figures(*words, "--by", "market", "--every", grain, "--comparable", "--verify")["points"]
        totals = [one for one in along if one["kind"] == "total"]
        # Both markets have rows on both sides, and so count whole: 60 + 80 against as much.
        assert [(one["current"], one["base"]) for one in totals] == [(60, 60), (80, 80), (140, 140)]
    assert (by["current"], by["base"]) == (140, 140)
    # Of January to June 2025 the year before has March alone: the quarter that it is in is left out whole, or not.
    early = ("table", "p.csv", "--for", "2025-01/2025-06", "--versus", "year-ago", "--comparable", "--every")
    month = desk.figures(*early, "month")["points"]
    assert [(one["label"], one["current"], one["base"]) for one in month] == [("2025-03", 30, 7), ("Total", 30, 7)]
    assert "no period has rows on both sides" in desk.refused(*early, "quarter")
    # A running total of months that are not there is none, and the sum of others is not called so.
    running = ("table", "p.csv", "--for", "2026-Q1", "--every", "quarter", "--cumulative")
    assert "Net, rolling 3 months, 90 in Q1 2026" in desk.run(*running, "rolling:3").out
    assert "no rows from 2025-07-01 to 2025-07-31" in desk.refused(*running, "rolling:12")
    monkeypatch.setattr("marvex.app.comparing.total_of", lambda points: replace(total_of(points), current=Decimal(1)))
    assert "the points do not add up to their total: -139 is missing" in desk.refused(*words, "--by", "market")


def test_balances_on_their_own_dates_add_up_in_panels_and_lines(desk: Desk) -> None:
    heads = ("day", "account", "route", "net")
    now = [("2026-03-01", "4000", "N", 5), ("2026-03-09", "4100", "N", 7), ("2026-03-20", "4000", "S", 1)]
    then = [("2025-03-02", "4000", "N", 4), ("2025-03-05", "4100", "N", 6), ("2025-03-06", "4000", "S", 2)]
    desk.write("b.csv", [*now, *then], heads)
    words = typed("--by account --panels-by route --total-as closing:each --for 2026-03 -o b.svg")
    found = desk.figures("draw", "variance", "b.csv", *words)
    assert (found["matched"]["current"], found["matched"]["base"]) == (13, 12)
    # 4100 has nothing in March: its last month counts as nothing there, and the second way says the same.
    desk.write("s.csv", [now[0], now[2], ("2026-02-03", "4100", "N", 9), *then], heads)
    lines = "".join(f'[[line]]\nlabel = "{one}"\naccounts = ["{one}"]\nkind = "income"\n' for one in ("4000", "4100"))
    lines += '[[line]]\nlabel = "In all"\ntotal_of = ["4000", "4100"]\n'
    (desk.folder / "s.toml").write_text(f'[statement]\nname = "S"\n{lines}', encoding="utf-8")
    asked = ("--for", "2026-01/2026-03", "--total-as", "closing:each", "--absent", "zero", "--versus", "year-ago")
    done = by_label(desk.figures("table", "s.csv", "--statement", "s.toml", *asked, "--verify"))
    assert (done["4100"]["current"], done["4100"]["base"], done["In all"]["current"]) == (0, 6, 1)
