"""Points along time through the installed command: worked cases, with the answer in the comment."""

from __future__ import annotations

import csv
import gzip
import random
from collections import defaultdict
from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from itertools import accumulate
from typing import Any

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from conftest import DEMO, Desk, by_label, typed

DAY_HEADINGS = ("date", "route", "net")


def every_day(first: str, last: str) -> Iterator[date]:
    day = date.fromisoformat(first)
    while day <= date.fromisoformat(last):
        yield day
        day += timedelta(days=1)


def days_file(desk: Desk, first: str, last: str, **amounts: int) -> str:
    """One row a day, 1 each, but for the days named (`d20240229=100`)."""
    rows = [(str(day), "A", amounts.get(f"d{day:%Y%m%d}", 1)) for day in every_day(first, last)]
    return desk.write("days.csv", rows, DAY_HEADINGS)


def told(points: list[dict[str, Any]]) -> list[tuple[str, Any, Any]]:
    return [(point["label"], point["current"], point["base"]) for point in points]


@settings(max_examples=25)
@given(
    months=st.dictionaries(
        st.integers(1, 12),
        st.tuples(st.integers(-900, 900) | st.none(), st.integers(-900, 900) | st.none()),
        min_size=1,
    )
)
@example(months={1: (None, 40), 2: (7, 9), 3: (5, None), 4: (6, 6)})
def test_a_waterfall_leads_from_a_base_through_each_months_change(
    desk: Desk, months: dict[int, tuple[int | None, int | None]]
) -> None:
    """What both years have is walked, month by month; a month that one year lacks is no step and in neither end."""
    months = {**months, 12: (8, 3)}  # so that both years are known to their end
    rows = [
        (f"{year}-{month:02}-15", "A", amount)
        for month, pair in months.items()
        for year, amount in zip((2026, 2025), pair, strict=True)
        if amount is not None
    ]
    source = desk.write("t.csv", rows, DAY_HEADINGS)
    words = ("--every", "month", "--versus", "year-ago", "--for", "2026", "-o", "w.svg")
    opening, *steps, closing = desk.figures("draw", "waterfall", source, *words)["points"]
    both = {month: pair for month, pair in sorted(months.items()) if None not in pair}
    changes = [now - then for now, then in both.values()]
    assert [one["label"] for one in steps] == [f"2026-{month:02}" for month in both]
    assert [one["change"] for one in steps] == changes
    assert opening["end"] == sum(then for _, then in both.values())
    assert [one["end"] for one in steps] == list(accumulate(changes, initial=opening["end"]))[1:]
    assert closing["end"] == steps[-1]["end"] == sum(now for now, _ in both.values())


def test_periods_that_do_not_lead_to_the_whole_are_no_walk(desk: Desk) -> None:
    days = days_file(desk, "2023-02-01", "2024-03-31")
    week = ("--every", "day", "--for", "2024-02-26/2024-03-03", "--versus")
    # 28 February 2023 is set against two days, and counts once: 7 days against 6.
    assert "a day that counts once" in desk.refused("draw", "waterfall", days, *week, "year-ago", "--leap", "feb28")
    points = desk.figures("draw", "waterfall", days, *week, "year-ago", "-o", "w.svg")["points"]
    assert (points[0]["end"], points[-1]["end"], len(points)) == (6, 7, 9)
    for more in (("prior",), ("year-ago", "--cumulative", "year-to-date")):
        assert "no total to walk from" in desk.refused("draw", "waterfall", days, *week, *more)


LEAP = {"d20230228": 10, "d20240228": 20, "d20240229": 100, "d20250228": 30}


def test_a_leap_day_has_no_base_unless_28_february_is_taken(desk: Desk) -> None:
    days_file(desk, "2023-01-01", "2025-12-31", **LEAP)
    words = ("table", "days.csv", "--for", "2024-02-28/2024-03-01", "--versus", "year-ago", "--every", "day")
    *points, total = desk.figures(*words)["points"]
    assert told(points) == [("2024-02-28", 20, 10), ("2024-02-29", 100, None), ("2024-03-01", 1, 1)]
    assert (points[1]["state"], points[1]["band"], points[1]["base_from"]) == ("no base", "No base", None)
    assert (total["current"], total["base"]) == (121, 11)
    # Judged against 28 February's 10, which is not added twice: the base is still 10 + 1.
    *points, total = desk.figures(*words, "--leap", "feb28")["points"]
    assert told(points) == [("2024-02-28", 20, 10), ("2024-02-29", 100, 10), ("2024-03-01", 1, 1)]
    assert (total["base"], points[1]["base_from"], points[1]["change_ratio"]) == (11, "2023-02-28", 9)


def test_a_leap_day_in_the_base_is_a_point_of_its_own_or_added_to_28_february(desk: Desk) -> None:
    days_file(desk, "2023-01-01", "2025-12-31", **LEAP)
    words = ("table", "days.csv", "--for", "2025-02-28/2025-03-01", "--versus", "year-ago", "--every", "day")
    *points, total = desk.figures(*words)["points"]
    assert told(points) == [("2025-02-28", 30, 20), ("2024-02-29", None, 100), ("2025-03-01", 1, 1)]
    assert (points[1]["state"], points[1]["from"], points[1]["base_to"]) == ("no current", None, "2024-02-29")
    assert (total["current"], total["base"]) == (31, 121)
    *points, total = desk.figures(*words, "--leap", "feb28")["points"]
    # 28 February 2024 with its leap day: 20 + 100.
    assert told(points) == [("2025-02-28", 30, 120), ("2025-03-01", 1, 1)]
    assert (total["base"], points[0]["base_from"], points[0]["base_to"]) == (121, "2024-02-28", "2024-02-29")


def test_days_matched_by_weekday_stand_364_days_apart(desk: Desk) -> None:
    days_file(desk, "2023-01-01", "2025-12-31", **LEAP)
    words = ("table", "days.csv", "--versus", "year-ago", "--match", "weekday", "--every", "day")
    # Thursday 29 February 2024 against Thursday 2 March 2023; 28 February 2025, a Friday, against Friday 1 March 2024.
    points = by_label(desk.figures(*words, "--for", "2024-02-28/2024-03-01"))
    assert [points[day]["base_from"] for day in ("2024-02-28", "2024-02-29", "2024-03-01")] == [
        "2023-03-01",
        "2023-03-02",
        "2023-03-03",
    ]
    found = desk.figures(*words, "--for", "2025-02-27/2025-02-28")
    # 27 February 2025 against Thursday 29 February 2024's 100.
    assert told(found["points"]) == [("2025-02-27", 1, 100), ("2025-02-28", 30, 1), ("Total", 31, 101)]
    assert found["base"]["from"] == "2024-02-29" and not any("trading" in one for one in found["cautions"])
    shown = desk.run(*words, "--for", "2025-02-27/2025-02-28").out
    assert "Thu 27 Feb 2025" in shown and "Thu 29 Feb 2024" in shown


def test_a_july_start_years_quarter_to_date(desk: Desk) -> None:
    # Known to 18 October: the quarter from 1 October has 18 days, and so has its base.
    days_file(desk, "2024-01-01", "2026-10-18")
    words = ("--year-starts", "july", "--for", "FY2027-Q2", "--span", "quarter-to-date")
    found = desk.figures("table", "days.csv", *words, "--by", "route", "--versus", "prior")
    asked = {"label": "1–18 Oct 2026", "from": "2026-10-01", "to": "2026-10-18", "scenario": None, "actual_to": None}
    assert found["current"] == asked
    assert (found["base"]["from"], found["base"]["to"]) == ("2026-07-01", "2026-07-18")
    points = desk.figures("table", "days.csv", "--year-starts", "july", "--versus", "year-ago")["points"]
    assert told(points) == [
        ("FY2027-P01", 31, 31),
        ("FY2027-P02", 31, 31),
        ("FY2027-P03", 30, 30),
        ("FY2027-P04", 18, 18),
        ("Total", 110, 110),
    ]
    assert (points[3]["to"], points[3]["base_to"]) == ("2026-10-18", "2025-10-18")


def test_a_year_of_53_weeks_is_set_against_one_of_52(desk: Desk) -> None:
    # FY2024 ended on 3 February 2024, with 53 weeks; FY2023 and FY2025 have 52.
    days_file(desk, "2021-12-01", "2025-03-31")
    weeks = ("--weeks", "4-4-5", "--year-ends", "saturday nearest 31 january", "--versus", "year-ago")
    by_week = desk.figures("table", "days.csv", *weeks, "--for", "FY2024", "--every", "week")
    *points, last, total = by_week["points"]
    assert all((point["current"], point["base"]) == (7, 7) for point in points) and len(points) == 52
    assert (last["label"], last["current"], last["base"], last["band"]) == ("FY2024-W53", 7, None, "No base")
    # Week 53 has nothing to be compared: it is in no total.
    assert (total["current"], total["base"]) == (364, 364)
    assert by_week["unmatched"] == [{"side": "current", "amount": 7, "from": "2024-01-28", "to": "2024-02-03"}]
    assert any("FY2024 has 53 weeks and FY2023 52" in caution for caution in by_week["cautions"])
    by_period = desk.figures("table", "days.csv", *weeks, "--for", "FY2024", "--every", "month")["points"]
    # 4-4-5, and the 53rd week joins the last period: 6 weeks against 5.
    assert told(by_period)[9:12] == [("FY2024-P10", 28, 28), ("FY2024-P11", 28, 28), ("FY2024-P12", 42, 35)]
    later = desk.figures("table", "days.csv", *weeks, "--for", "FY2025", "--every", "quarter")
    assert told(later["points"])[-2:] == [("FY2025-Q4", 91, 91), ("Total", 364, 364)]
    assert any("left out of the base" in caution for caution in later["cautions"])
    whole = desk.figures("table", "days.csv", *weeks, "--for", "FY2025", "--every", "week", "--full-base")
    assert told(whole["points"])[-2:] == [("FY2024-W53", None, 7), ("Total", 364, 371)]


def test_rolling_twelve_at_a_years_end_and_at_the_first_period(desk: Desk) -> None:
    rows = [(f"{2024 + n // 12}-{n % 12 + 1:02}-01", "A", n + 1) for n in range(30)]
    desk.write("months.csv", rows, DAY_HEADINGS)
    words = ("table", "months.csv", "--for", "2025", "--versus", "prior", "--cumulative", "rolling:12")
    points = desk.figures(*words)["points"]
    # January 2025 holds 2 + … + 13 = 90 and December 2024 1 + … + 12 = 78; December 2025 13 + … + 24 = 222.
    assert told(points)[0] == ("2025-01", 90, 78) and told(points)[-1] == ("2025-12", 222, 210)
    # The first eleven periods of all have no twelve to add up, and the twelfth has nothing before it.
    first = desk.figures(*words[:2], "--for", "2024", *words[4:])["points"]
    assert [point["current"] for point in first] == [None] * 11 + [78]
    assert (first[-1]["base"], first[-1]["band"]) == (None, "No base")
    to_date = desk.figures(*words[:2], "--for", "2025-H1", "--versus", "year-ago", "--cumulative", "year-to-date")
    # 13 + 14 = 27 against 1 + 2 = 3.
    assert told(to_date["points"])[1] == ("2025-02", 27, 3) and len(to_date["points"]) == 6


def test_chained_points_reach_back_across_the_windows_start(desk: Desk) -> None:
    desk.write("months.csv", [(f"2026-{month:02}-01", "A", month**2) for month in range(1, 7)], DAY_HEADINGS)
    points = desk.figures("table", "months.csv", "--for", "2026-Q2", "--every", "month", "--versus", "prior")[
        "points"
    ]
    assert told(points) == [("2026-04", 16, 9), ("2026-05", 25, 16), ("2026-06", 36, 25)]
    first = desk.figures("table", "months.csv", "--for", "2026-Q1", "--every", "month", "--versus", "prior")["points"]
    assert told(first)[:2] == [("2026-01", 1, None), ("2026-02", 4, 1)]


def test_a_month_missing_on_one_side_and_a_scenario_that_stops_earlier(desk: Desk) -> None:
    actual = [("2026-01-05", "A", 10, "actual"), ("2026-03-05", "A", 30, "actual"), ("2026-04-28", "A", 40, "actual")]
    budget = [(f"2026-{month:02}-01", "A", 20, "budget") for month in (1, 2, 3)]
    desk.write("mixed.csv", [*reversed(budget), *reversed(actual)], ("date", "route", "net", "scenario"))
    found = desk.figures("table", "mixed.csv", "--as-of", "2026-04-30", "--every", "month")
    points = by_label(found)
    assert [point["label"] for point in found["points"]][:-1] == ["2026-01", "2026-02", "2026-03", "2026-04"]
    assert (points["2026-02"]["current"], points["2026-02"]["state"]) == (None, "no current")
    assert (points["2026-04"]["base"], points["2026-04"]["state"]) == (None, "no base")
    # January and March are matched; 20 of February's budget and 40 of April's actuals are not.
    assert (found["matched"]["current"], found["matched"]["base"]) == (40, 40)
    assert [(one["side"], one["amount"], one["from"]) for one in found["unmatched"]] == [
        ("current", 40, "2026-04-01"),
        ("base", 20, "2026-02-01"),
    ]
    zero = by_label(
        desk.figures("table", "mixed.csv", "--as-of", "2026-04-30", "--every", "month", "--absent", "zero")
    )
    assert (zero["2026-02"]["current"], zero["2026-02"]["change"], zero["2026-02"]["state"]) == (0, -20, "ok")
    assert (zero["2026-04"]["base"], zero["2026-04"]["state"]) == (0, "n/m")
    asked = ("table", "mixed.csv", "--as-of", "2026-04-30", "--every", "month", "--absent", "zero")
    assert "2 points have a side without rows, which counts as nothing" in desk.run(*asked).err


def test_the_outlook_is_actuals_as_far_as_months_are_complete(desk: Desk) -> None:
    rows = [(str(day), "A", 1, "actual") for day in every_day("2026-01-01", "2026-10-18")]
    rows += [(f"2026-{month:02}-01", "A", 50, "forecast") for month in range(8, 13)]
    rows += [(f"2026-{month:02}-01", "A", 40, "budget") for month in range(1, 13)]
    desk.write("outlook.csv", rows, ("date", "route", "net", "scenario"))
    found = desk.figures("table", "outlook.csv", "--of", "actual+forecast", "--versus", "budget", "--for", "2026")
    *points, total = found["points"]
    # September is the last month that is complete; October is the forecast's 50, not the 18 days that are known.
    assert [(point["scenario"], point["current"]) for point in points[8:10]] == [("actual", 30), ("forecast", 50)]
    # 273 days to 30 September, and 3 × 50 after; 12 × 40 budgeted.
    assert (total["current"], total["base"]) == (273 + 150, 480)
    assert found["current"]["to"] == "2026-12-31"
    by_route = desk.figures("table", "outlook.csv", "--of", "actual+forecast", "--for", "2026", "--by", "route")
    assert by_label(by_route)["A"]["current"] == 423
    done = desk.run("table", "outlook.csv", "--of", "actual+forecast", "--for", "2026")
    assert (
        "outlook (actual to 30 Sept 2026, then forecast) against budget" in done.out
        and "actual to 2026-09-30" in done.err
    )


SHOPS = (
    ("2025-05-04", "North", "90", "30"),
    ("2025-05-05", "South", "50", "10"),
    ("2025-05-05", "Closed", "7", "1"),
    ("2026-05-04", "North", "120", "30"),
    ("2026-05-05", "South", "80", "40"),
    ("2026-05-05", "Opened", "33", "0"),
)


def test_only_comparable_categories_and_rates_over_totals(desk: Desk) -> None:
    desk.write("shops.csv", SHOPS, ("date", "shop", "net", "hours"))
    words = ("table", "shops.csv", "--amount", "net", "--by", "shop", "--for", "2026-05", "--versus", "year-ago")
    found = desk.figures(*words, "--comparable")
    assert told(found["points"]) == [("North", 120, 90), ("South", 80, 50), ("Total", 200, 140)]
    assert any("2 categories were left out" in one and "33" in one and "7" in one for one in found["cautions"])
    rate = desk.figures(*words, "--per", "hours")
    # 120/30 = 4 and 90/30 = 3; 80/40 = 2 and 50/10 = 5; in all 233/70 and 147/41, to six decimals.
    assert told(rate["points"])[:2] == [("North", 4, 3), ("South", 2, 5)]
    assert told(rate["points"])[-1] == ("Total (not a sum)", Decimal("3.328571"), Decimal("3.585366"))
    assert any("no hours to be divided by" in one for one in rate["cautions"])
    assert "a rate does not add up" in desk.refused("draw", "waterfall", *words[1:], "--per", "hours")
    # May 2026 is known to Tuesday the 5th: five days, three of them from Monday to Friday.
    daily = by_label(desk.figures(*words, "--per-day", "calendar"))
    assert (daily["North"]["current"], daily["North"]["base"]) == (24, 18)
    # 1 to 5 May 2025 runs from Thursday to Monday: three working days as well.
    working = by_label(desk.figures(*words, "--per-day", "working"))
    assert (working["North"]["current"], working["North"]["base"]) == (40, 30)


def test_several_windows_each_against_several_bases(desk: Desk) -> None:
    words = ["table", str(DEMO), "--by", "kind", "--for", "2026-10", "--for", "2026-01/2026-10"]
    found = desk.figures(*words, "--versus", "budget", "--versus", "year-ago", "-o", "t.csv")
    sides = [(one["current"]["label"], one["base"]["label"], one["base"]["scenario"]) for one in found["comparisons"]]
    assert sides == [
        ("Oct 2026", "Oct 2026", "budget"),
        ("Oct 2026", "Oct 2025", "actual"),
        ("Jan–Oct 2026", "Jan–Oct 2026", "budget"),
        ("Jan–Oct 2026", "Jan–Oct 2025", "actual"),
    ]
    assert {point["comparison"] for point in found["points"]} == {0, 1, 2, 3}
    heading = (desk.folder / "t.csv").read_text("utf-8-sig").splitlines()[0]
    assert heading.startswith("label,Oct 2026 actual,Oct 2026 budget,") and "Jan–Oct 2026 budget" in heading


def test_balances_are_taken_at_each_periods_closing_date(desk: Desk) -> None:
    rows = [
        ("2026-01-31", "Crew", 10),
        ("2026-01-31", "Café", 4),
        ("2026-02-28", "Crew", 12),
        ("2026-03-31", "Crew", 9),
    ]
    desk.write("people.csv", rows, ("date", "team", "people"))
    words = ("table", "people.csv", "--total-as", "closing", "--for", "2026-Q1", "--versus", "none")
    *months, total = desk.figures(*words, "--every", "month")["points"]
    # The quarter's balance is March's, not the sum of three.
    assert [point["current"] for point in months] == [14, 12, 9] and total["current"] == 9
    panels = desk.figures(*words, "--every", "month", "--by", "team")["points"]
    assert [(point["panel"], point["label"], point["current"], point["state"]) for point in panels[4:6]] == [
        ("Café", "2026-01", 4, "ok"),
        ("Café", "2026-02", None, "no current"),
    ]


def test_panels_keep_their_order_and_gather_the_rest(desk: Desk) -> None:
    words = ["table", str(DEMO), "--by", "route", "--every", "quarter", "--for", "2025", "--versus", "year-ago"]
    found = desk.figures(*words, "--keep", "top:2", "-o", "t.md")
    panels = list(dict.fromkeys(point["panel"] for point in found["points"]))
    assert len(panels) == 4 and panels[2].startswith("Other (") and panels[3] is None
    sums: dict[str, Decimal] = defaultdict(Decimal)
    for point in found["points"]:
        kind = {"other": "point"}.get(point["kind"], point["kind"])
        sums[kind if point["panel"] else "whole"] += point["current"] or 0
    assert sums["point"] == sums["total"] == sums["whole"]
    assert "| Other (" in (desk.folder / "t.md").read_text()


REFUSED = {
    ("--every", "week", "--versus", "budget"): "budget is kept by month",
    ("--every", "year", "--for", "2026-Q1"): "no whole year lies in",
    ("--every", "month", "--order", "change"): "calendar order",
    typed("--every month --for 2026-Q1 --versus 2025"): "the base has 12 months where the current window has 3",
    ("--by", "kind", "--cumulative", "year-to-date"): "Add --every month",
    ("--match", "weekday", "--versus", "budget"): "--match and --leap pair days a year apart",
    ("--comparable", "--versus", "none"): "Name one with --versus",
    ("--for", "2024-02-29", "--versus", "year-ago"): "there is no 29 February a year before",
    ("--for", "FY2026-W05"): "is not made of weeks",
    ("--weeks", "4-4-5"): "when the year ends",
    ("--per", "net", "--per-day", "working"): "exclude one another",
    ("--of", "actual+forcast"): "Did you mean forecast?",
    ("--span", "year-to-dat"): "Did you mean year-to-date?",
}


@pytest.mark.parametrize("words", REFUSED, ids=" ".join)
def test_what_cannot_be_compared_is_refused(desk: Desk, words: tuple[str, ...]) -> None:
    assert REFUSED[words] in desk.refused("table", str(DEMO), *words)


@pytest.mark.parametrize("seed", range(4))
def test_any_grain_against_the_year_before_agrees_with_sums_by_hand(desk: Desk, seed: int) -> None:
    """Random days in random order, added up here by their own rule."""
    chance = random.Random(seed)
    days = list(every_day("2024-01-01", "2026-08-21"))
    rows = [(str(day), chance.choice("AB"), chance.randint(-99, 99)) for day in chance.choices(days, k=900)]
    rows += [("2026-08-21", "A", 5), ("2024-01-01", "B", 5)]
    desk.write("random.csv", chance.sample(rows, len(rows)), DAY_HEADINGS)
    found = desk.figures("table", "random.csv", "--for", "2026", "--every", "month", "--versus", "year-ago")

    def sums(year: int, month: int) -> int | None:
        some = [n for text, _, n in rows if text[:7] == f"{year}-{month:02}" and text[5:] <= "08-21"]
        return sum(some) if some else None

    assert told(found["points"])[:-1] == [
        (f"2026-{month:02}", sums(2026, month), sums(2025, month)) for month in range(1, 9)
    ]
    panels = desk.figures(
        "table", "random.csv", "--for", "2026", "--every", "week", "--by", "route", "--versus", "prior"
    )
    for point in panels["points"]:
        week = {str(day) for day in every_day(point["from"], point["to"])}
        some = [n for text, route, n in rows if text in week and route == point["panel"]]
        assert point["current"] == (sum(some) if some else None)
    assert [point["label"] for point in panels["points"]][:2] == ["2026-W01", "2026-W02"]


def test_distinct_tickets_by_quarter_are_counted_over_the_quarter(desk: Desk) -> None:
    tickets = DEMO.parent / "tickets.csv.gz"
    with gzip.open(tickets, "rt", encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))
    seen: dict[str, set[str]] = defaultdict(set)
    key = next(name for name in rows[0] if "ticket" in name)
    for row in rows:
        seen[f"{row['date'][:4]}-Q{(int(row['date'][5:7]) + 2) // 3}"].add(row[key])
    words = ("table", str(tickets), "--total-as", f"distinct:{key}", "--for", "2025", "--every", "quarter")
    *points, total = desk.figures(*words, "--versus", "year-ago")["points"]
    assert told(points) == [(f"2025-Q{n}", len(seen[f"2025-Q{n}"]), len(seen[f"2024-Q{n}"])) for n in (1, 2, 3, 4)]
    assert total["current"] == len(set().union(*(seen[f"2025-Q{n}"] for n in (1, 2, 3, 4))))


def test_one_period_is_traced_to_its_rows(desk: Desk) -> None:
    done = desk.run("trace", str(DEMO), "--by", "kind", "--every", "month", "--at", "cost@2026-09")
    assert done.status == 0 and "cost, Sept 2026" in done.out and "2026-09-01 to 2026-09-30" in done.out
    assert "Did you mean" in desk.refused("trace", str(DEMO), "--every", "month", "--at", "2026-9")
