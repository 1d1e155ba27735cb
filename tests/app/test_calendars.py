"""Calendars, windows and their namesakes: every setting by property, known years by hand."""

from __future__ import annotations

import calendar as civil_calendar
from dataclasses import replace
from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Desk
from marvex.core.errors import Mistake
from marvex.core.time.base_window import Pairing, before, year_before
from marvex.core.time.calendar import CIVIL, Calendar, Grain, MonthYears, WeekYears, YearEnd
from marvex.core.time.notation import WindowReader, notation, read_calendar, read_widening
from marvex.core.time.period import period_of, periods_within
from marvex.core.time.widening import widened
from marvex.core.time.window import Window

days = st.dates(date(1990, 1, 1), date(2060, 12, 31))
month_years = st.builds(MonthYears, st.integers(1, 12), st.booleans())
year_ends = st.builds(YearEnd, st.integers(0, 6), st.integers(1, 12), st.none() | st.integers(1, 28))
week_years = st.builds(WeekYears, st.permutations([4, 4, 5]).map(tuple), year_ends, st.booleans())
calendars = st.one_of(month_years, week_years)
A_DAY = timedelta(days=1)


@given(days, calendars, st.sampled_from(Grain))
def test_periods_of_a_grain_cover_every_day_once_and_read_back(day: date, calendar: Calendar, grain: Grain) -> None:
    period = period_of(day, grain, calendar)
    assert period.first <= day <= period.last
    assert {period_of(one, grain, calendar) for one in (period.first, day, period.last)} == {period}
    after = period_of(period.last + A_DAY, grain, calendar)
    assert (after.first, before(after).last) == (period.last + A_DAY, period.last)
    found = WindowReader(calendar).read(notation(period))
    assert found is not None and (found.first, found.last, found.grain) == (period.first, period.last, grain)


@given(days, calendars)
def test_finer_periods_make_up_coarser_ones(day: date, calendar: Calendar) -> None:
    year = period_of(day, Grain.YEAR, calendar)
    counts = {grain: len(periods_within(year, grain, calendar)) for grain in (Grain.HALF, Grain.QUARTER, Grain.MONTH)}
    assert list(counts.values()) == [2, 4, 12]
    assert [calendar.place(one.first, Grain.MONTH).number for one in periods_within(year, Grain.MONTH, calendar)] == [
        *range(1, 13)
    ]
    if calendar.weeks_make_years:
        assert year.days in (364, 371) and len(periods_within(year, Grain.WEEK, calendar)) == year.days // 7


@given(days, calendars, st.sampled_from([Grain.MONTH, Grain.QUARTER, Grain.HALF, Grain.YEAR]))
def test_a_year_ago_is_the_namesake_and_prior_is_the_one_before(day: date, calendar: Calendar, grain: Grain) -> None:
    period = period_of(day, grain, calendar)
    namesake = year_before(period)
    assert namesake is not None
    place, place_before = (calendar.place(one.first, grain) for one in (period, namesake))
    assert (place_before.year, place_before.number) == (place.year - 1, place.number)
    if not calendar.weeks_make_years:
        assert namesake == period_of(namesake.first, grain, calendar)
    assert before(period) == period_of(period.first - A_DAY, grain, calendar)


def test_years_that_end_nearest_31_january_have_53_weeks_when_the_trade_says_so() -> None:
    # The years that ended on 3 February 2001, 3 February 2007, 2 February 2013, 3 February 2018, 3 February 2024.
    weeks = read_calendar(None, "end", "4-5-4", "Saturday nearest 31 January")
    assert isinstance(weeks, WeekYears)
    assert [year for year in range(2000, 2027) if weeks.weeks_in(year) == 53] == [2001, 2007, 2013, 2018, 2024]
    ends = [period_of(date(year, 1, 1), Grain.YEAR, weeks).last for year in (2001, 2024, 2026)]
    assert ends == [date(2001, 2, 3), date(2024, 2, 3), date(2026, 1, 31)]
    by_start = replace(weeks, named_by_start=True)
    assert by_start.place(date(2023, 6, 1), Grain.YEAR).year == 2023


@given(st.integers(1990, 2060), st.integers(0, 6), st.integers(1, 12))
def test_the_last_weekday_of_a_month_is_that_of_its_printed_calendar(year: int, weekday: int, month: int) -> None:
    printed = max(week[weekday] for week in civil_calendar.monthcalendar(year, month))
    assert YearEnd(weekday, month).of(year) == date(year, month, printed)


def test_the_year_that_ends_near_new_year_keeps_its_name() -> None:
    # The Saturday nearest 31 December 2025 is 3 January 2026: that is the year 2025, and has 53 weeks.
    weeks = read_calendar(None, "end", "4-4-5", "saturday nearest 31 december")
    assert isinstance(weeks, WeekYears)
    assert notation(period_of(date(2026, 1, 3), Grain.WEEK, weeks)) == "FY2025-W53"
    assert notation(period_of(date(2026, 1, 4), Grain.MONTH, weeks)) == "FY2026-P01"
    assert replace(weeks, named_by_start=True).place(date(2026, 6, 1), Grain.YEAR).year == 2026


def test_week_53_has_no_namesake_and_joins_the_last_period() -> None:
    weeks = read_calendar(None, "end", "4-4-5", "saturday nearest 31 january")
    read = WindowReader(weeks).read
    last = read("FY2024-W53")
    assert last is not None and year_before(last) is None
    period = read("FY2024-P12")
    assert period is not None and period.days == 42
    namesake = year_before(period)
    assert namesake is not None and namesake.days == 35
    # Of the base's 53 weeks the first 52 are those that the current year has.
    year = read("FY2025")
    base = year_before(year) if year else None
    assert base is not None and (base.days, base.last) == (364, date(2024, 1, 27))


def test_calendars_and_spans_that_contradict_are_refused() -> None:
    for wrong in (
        ("july", "end", "4-4-5", "last friday of june"),
        (None, "end", "4-4-5", None),
        (None, "end", None, "last friday of june"),
        (None, "end", "4-4-5", "some friday of june"),
        (None, "end", "4-4-5", "friday nearest 29 february"),
        ("juli", "end", None, None),
    ):
        with pytest.raises(Mistake):
            read_calendar(*wrong)
    for text in ("rolling", "rolling:0", "rolling:x", "year-to-day", "period:3"):
        with pytest.raises(Mistake):
            read_widening(text, "--span")
    assert read_calendar("7", "start", None, None) == read_calendar("jul", "start", None, None) == MonthYears(7, True)


# (calendar, window, span, first, last, prior's first and last)
SPANS = [
    (CIVIL, "2026-10", "year-to-date", "2026-01-01", "2026-10-31", "2025-01-01", "2025-10-31"),
    (CIVIL, "2026-02", "quarter-to-date", "2026-01-01", "2026-02-28", "2025-10-01", "2025-11-30"),
    (CIVIL, "2026-01", "rolling:12", "2025-02-01", "2026-01-31", "2024-02-01", "2025-01-31"),
    (MonthYears(7), "2026-01", "year-to-date", "2025-07-01", "2026-01-31", "2024-07-01", "2025-01-31"),
    (MonthYears(7), "FY2026-Q1", "rolling:12", "2024-10-01", "2025-09-30", "2023-10-01", "2024-09-30"),
    (CIVIL, "2026-H1", "rolling:12", "2025-07-01", "2026-06-30", "2024-07-01", "2025-06-30"),
    (CIVIL, "2026", "rolling:24", "2025-01-01", "2026-12-31", "2023-01-01", "2024-12-31"),
    (CIVIL, "2026-W10", "rolling:4", "2026-02-09", "2026-03-08", "2026-01-12", "2026-02-08"),
    (MonthYears(2), "2026-05-17", "quarter-to-date", "2026-05-01", "2026-05-17", "2026-02-01", "2026-02-17"),
    (CIVIL, "2026-03-10", "rolling:7", "2026-03-04", "2026-03-10", "2026-02-25", "2026-03-03"),
]


@pytest.mark.parametrize(("calendar", "text", "span", "first", "last", "prior_first", "prior_last"), SPANS)
def test_spans_keep_the_end_and_prior_is_the_same_part(
    calendar: Calendar, text: str, span: str, first: str, last: str, prior_first: str, prior_last: str
) -> None:
    window = WindowReader(calendar).read(text)
    assert window is not None
    wide = widened(window, read_widening(span, "--span"), calendar)
    assert (str(wide.first), str(wide.end)) == (first, last)
    assert (str(before(wide).first), str(before(wide).end)) == (prior_first, prior_last)


@given(st.dates(date(2019, 1, 1), date(2032, 12, 31)), st.booleans())
def test_each_day_has_one_namesake_but_for_leap_days(day: date, on_feb28: bool) -> None:
    found = year_before(period_of(day, Grain.DAY), Pairing(leap_on_feb28=on_feb28))
    if (day.month, day.day) == (2, 29) and not on_feb28:
        assert found is None
        return
    assert found is not None and (found.first.year, found.first.month) == (day.year - 1, day.month)
    takes_leap_day = on_feb28 and (day.month, day.day) == (2, 28) and civil_calendar.isleap(day.year - 1)
    assert found.days == (2 if takes_leap_day else 1)
    weekday = year_before(period_of(day, Grain.DAY), Pairing(by_weekday=True))
    assert weekday is not None and weekday.first == day - timedelta(days=364)


def test_latest_is_the_last_complete_period() -> None:
    reader = WindowReader(CIVIL, date(2026, 10, 18), Grain.DAY)
    texts = {"latest": "2026-09", "latest:quarter": "2026-Q3", "latest:week": "2026-W42", "latest:day": "2026-10-18"}
    for text, meant in texts.items():
        assert reader.read(text) == reader.read(meant)
    assert WindowReader(CIVIL, date(2026, 12, 31), Grain.QUARTER).read("latest") == reader.read("2026-Q4")
    assert reader.read("2026-01/latest") == Window(first=date(2026, 1, 1), last=date(2026, 9, 30), grain=Grain.MONTH)


def test_a_half_year_by_quarters_of_weeks_is_cut_with_its_base_where_the_data_stop(desk: Desk) -> None:
    # One a day to Monday 7 July 2025: the second quarter, from Sunday 4 May, has 28 + 30 + 7 of them, as its base has.
    days = [date(2024, 1, 1) + timedelta(days=place) for place in range(554)]
    desk.write("d.csv", [(day, 1) for day in days], ("date", "net"))
    words = ("--for", "2025-H1", "--versus", "year-ago", "--every", "quarter", "--weeks", "4-4-5")
    found = desk.figures("table", "d.csv", *words, "--year-ends", "saturday nearest 31 january")
    assert [(one["current"], one["base"]) for one in found["points"]] == [(91, 91), (65, 65), (156, 156)]
    assert found["points"][1]["base_to"] == "2024-07-08"  # the Monday of the same week


def test_data_to_the_last_working_day_of_a_month_are_compared_to_its_end(desk: Desk) -> None:
    # One each Monday to Friday to Friday 30 January 2026; January 2025 ended on a Friday, which counts as well.
    days = [date(2025, 1, 1) + timedelta(days=place) for place in range(395)]
    desk.write("d.csv", [(day, 1) for day in days if day.weekday() < 5], ("date", "net"))
    for words in ((), ("--every", "month"), ("--for", "latest:month")):
        found = desk.figures("table", "d.csv", "--versus", "year-ago", *words)
        assert (found["current"]["to"], found["base"]["to"]) == ("2026-01-31", "2025-01-31")
        assert (found["matched"]["current"], found["matched"]["base"]) == (22, 23)


def test_a_month_of_weeks_is_complete_where_the_next_week_is_of_the_month_after(desk: Desk) -> None:
    # One a week to the Monday of 21 September 2026; the next has its Thursday on 1 October. A month has four or five.
    mondays = [date(2024, 12, 30) + timedelta(days=7 * place) for place in range(91)]
    desk.write("w.csv", [(day, "A", 1) for day in mondays], ("week commencing", "site", "net"))
    for window in ("latest:month", "2026-03", "2026-06", "2026-08"):
        found = desk.figures("table", "w.csv", "--by", "site", "--for", window)
        month = 9 if window.startswith("latest") else int(window[-2:])
        thursdays = [day + timedelta(days=3) for day in mondays]
        counted = [sum((one.year, one.month) == (year, month) for one in thursdays) for year in (2026, 2025)]
        assert [found["points"][0][side] for side in ("current", "base")] == counted
        assert not [one for one in found["cautions"] if "no rows" in one]
    assert (found["current"]["from"], found["current"]["to"]) == ("2026-08-01", "2026-08-31")
    desk.write("w.csv", [(day, "A", 1) for day in mondays[:-1]], ("week commencing", "site", "net"))
    assert desk.figures("table", "w.csv", "--by", "site", "--for", "latest:month")["current"]["from"] == "2026-08-01"
