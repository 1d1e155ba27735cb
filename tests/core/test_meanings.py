"""What the words mean: windows, grains, sides, order and keep, totals, missing periods; by hand and by property."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.cautions import missing_periods, runs_of
from marvex.core.compare.comparison import Comparison, compare
from marvex.core.compare.plan import plan_sides
from marvex.core.compare.point import Cell, Point, State, total_of
from marvex.core.compare.ranking import Keep, Order, arranged, arrangement, in_order
from marvex.core.compare.scenarios import ScenarioDates, dates_of
from marvex.core.compare.side import Side, Span, Stretch
from marvex.core.compare.totals import parse_total_as
from marvex.core.errors import Mistake, listed, nearest
from marvex.core.exact import change_ratio, difference, total
from marvex.core.time.base_window import before, same_part, year_before
from marvex.core.time.calendar import CIVIL, FINEST_FIRST, Grain, add_months
from marvex.core.time.notation import WindowReader
from marvex.core.time.period import whole_periods_within
from marvex.core.time.window import Window

D = Decimal
days = st.dates(date(1990, 1, 1), date(2060, 12, 31))


def test_an_interval_has_the_finer_grain_of_its_ends() -> None:
    read = WindowReader().read
    assert read("2026-Q1/2026-05-17") == Window(first=date(2026, 1, 1), last=date(2026, 5, 17), grain=Grain.DAY)
    assert read("2026-q1") == read("2026-Q1")
    assert read("budget") is None and read("2026-01/2026-02/2026-03") is None
    for wrong in ("2026-02-30", "2026-W60", "2026-05/2026-01", "0000", "FY2026-P13", "FY2026-W05", "latest:moon"):
        with pytest.raises(Mistake):
            read(wrong)


@given(days, st.integers(1, 36), st.integers(0, 40))
def test_the_same_part_of_a_window_is_no_longer_than_the_window(start: date, months: int, known: int) -> None:
    first = start.replace(day=1)
    whole = Window(first=first, last=add_months(first, months) - timedelta(days=1), grain=Grain.MONTH)
    cut = whole.cut(first + timedelta(days=known * months // 2))
    for other in (year_before(cut), before(cut)):
        assert other is not None
        assert other.first <= other.end <= other.last < whole.first or months > 12
        assert other.months() == months
        assert other.is_cut == cut.is_cut or other.end == other.last
    assert same_part(whole, whole) == whole


@pytest.mark.parametrize(
    ("known", "base_end"),
    [
        ("2024-02-29", "2023-02-28"),
        ("2025-02-28", "2024-02-29"),
        ("2026-10-31", "2025-10-31"),
        ("2026-10-30", "2025-10-30"),
    ],
)
def test_a_year_known_to_a_months_end_is_set_against_that_months_end(known: str, base_end: str) -> None:
    day = date.fromisoformat(known)
    year = Window(first=date(day.year, 1, 1), last=date(day.year, 12, 31), grain=Grain.YEAR).cut(day)
    before_it = year_before(year)
    assert before_it is not None and before_it.end == date.fromisoformat(base_end)


def test_whole_periods_within_a_window() -> None:
    window = Window(first=date(2026, 1, 10), last=date(2026, 12, 31), grain=Grain.DAY, known_to=date(2026, 10, 17))
    months = whole_periods_within(window, Grain.MONTH, CIVIL)
    assert months is not None and (months.first, months.end) == (date(2026, 2, 1), date(2026, 9, 30))
    assert (
        whole_periods_within(
            Window(first=date(2026, 1, 2), last=date(2026, 1, 30), grain=Grain.DAY), Grain.MONTH, CIVIL
        )
        is None
    )


def test_the_grain_of_data_is_what_their_dates_need() -> None:
    def grain(*texts: str) -> Grain | None:
        return dates_of("x", [date.fromisoformat(text) for text in texts]).grain

    assert grain("2026-01-01", "2026-02-01") is Grain.MONTH
    assert grain("2026-01-31", "2026-02-28", "2024-02-29") is Grain.MONTH
    assert grain("2026-01-01", "2026-04-01") is Grain.QUARTER
    assert grain("2025-01-01", "2026-01-01") is Grain.YEAR
    assert grain("2026-01-05", "2026-01-12") is Grain.WEEK
    assert grain("2026-01-05", "2026-01-13") is Grain.DAY
    assert grain("2026-01-01") is Grain.DAY
    assert dates_of("x", [date(2026, 1, 1)], Grain.YEAR).last == date(2026, 12, 31)
    assert dates_of("x", []).first is None


ACTUAL = dates_of("Actual", [date(2024, 1, 1) + timedelta(days=n) for n in range(1035)])  # to 31 October 2026
BUDGET = dates_of("budget", [date(2026, month, 1) for month in range(1, 13)])
FORECAST = dates_of("forecast", [date(2026, month, 1) for month in (11, 12)])


def test_what_is_not_said_is_chosen_and_said() -> None:
    chosen = plan_sides([FORECAST, BUDGET, ACTUAL], SidesAsked())
    assert (chosen.current.scenario, chosen.base and chosen.base.scenario) == ("Actual", "budget")
    assert chosen.choices == ("against budget",)
    # In 2025 there is no budget, so that the year before is the base; in 2024 there is nothing before.
    of_2025 = plan_sides([BUDGET, ACTUAL], SidesAsked(window="2025"))
    assert of_2025.base is not None and of_2025.base.first == date(2024, 1, 1)
    assert plan_sides([BUDGET, ACTUAL], SidesAsked(window="2024")).base is None
    alone = plan_sides([ScenarioDates(name=None)], SidesAsked())
    assert (alone.current.scenario, alone.base) == (None, None)


def test_a_side_that_is_not_there_is_refused_or_cautioned() -> None:
    known = [ACTUAL, BUDGET]
    for asked in (
        SidesAsked(scenario="plan"),
        SidesAsked(versus="actual"),
        SidesAsked(versus="2019"),
        SidesAsked(window="2030"),
        SidesAsked(window="soon"),
        SidesAsked(window="2026-06-18", versus="budget"),
    ):
        with pytest.raises(Mistake):
            plan_sides(known, asked)
    short = dates_of("budget", [date(2026, month, 1) for month in range(1, 7)])
    plan = plan_sides([ACTUAL, short], SidesAsked(versus="budget"))
    # Of July to October there is no budget: they are no part of either side.
    assert [(one.is_base, one.side.first, one.side.last) for one in plan.unmatched] == [
        (False, date(2026, 7, 1), date(2026, 10, 31))
    ]
    assert [side.summed and side.summed.end for side in plan.sides] == [date(2026, 6, 30)] * 2
    uneven = plan_sides(known, SidesAsked(window="2026-H1", versus="2025-Q1")).cautions
    assert any("differ in length: 181 days against 90" in caution for caution in uneven)
    with pytest.raises(Mistake, match="none of the scenarios is named actual"):
        plan_sides([BUDGET, FORECAST], SidesAsked())


amounts = st.decimals(-(10**15), 10**15, places=4, allow_nan=False) | st.integers(-(10**30), 10**30).map(Decimal)


@given(st.lists(amounts, max_size=30))
def test_sums_and_differences_lose_no_digit(figures: list[Decimal]) -> None:
    assert Fraction(total(figures)) == sum(map(Fraction, figures))
    if figures:
        assert Fraction(difference(figures[0], figures[-1])) == Fraction(figures[0]) - Fraction(figures[-1])


@given(amounts, amounts)
def test_a_ratio_is_to_the_size_of_the_base(current: Decimal, base: Decimal) -> None:
    ratio = change_ratio(current, base)
    if not base:
        assert ratio is None
    else:
        assert ratio is not None and Fraction(base) + ratio * abs(Fraction(base)) == Fraction(current)


def points(*rows: tuple[str, int | None, int | None]) -> tuple[Point, ...]:
    return tuple(
        Point(category=n, current=None if c is None else D(c), base=None if b is None else D(b)) for n, c, b in rows
    )


FOUR = points(("b", 5, 1), ("A", 1, 10), ("new", 4, None), ("c", 2, 1))


def labels(found: tuple[Point, ...]) -> list[str]:
    return [point.label for point in found]


def test_orders() -> None:
    assert labels(in_order(FOUR, Order.GIVEN)) == ["b", "A", "new", "c"]
    assert labels(in_order(FOUR, Order.NAME)) == ["A", "b", "c", "new"]
    assert labels(in_order(FOUR, Order.CURRENT)) == ["b", "new", "c", "A"]
    # What has no base comes last; a new one counts with its whole amount where the change is asked.
    assert labels(in_order(FOUR, Order.BASE)) == ["A", "b", "c", "new"]
    assert labels(in_order(FOUR, Order.CHANGE)) == ["b", "new", "c", "A"]
    assert labels(in_order(FOUR, Order.PERCENT)) == ["b", "c", "A", "new"]


@given(st.integers(1, 6), st.booleans(), st.sampled_from([None, *Order]))
def test_what_is_kept_and_the_rest_add_up_to_the_total(count: int, bottom: bool, order: Order | None) -> None:
    comparison = Comparison(current=Side("a", None), base=Side("b", None), points=FOUR, total=total_of(FOUR))
    plan = arrangement([comparison], order, Keep(count, bottom))
    kept = arranged(comparison, plan)
    assert total(point.movement for point in kept.points) == comparison.total.movement
    assert len(kept.points) == min(4, count + 1) if count < 4 else len(kept.points) == 4
    assert [point.gathered for point in kept.points if point.gathered] == ([4 - count] if count < 4 else [])


def test_one_arrangement_serves_several_comparisons() -> None:
    first = Comparison(current=Side("a", None), base=Side("b", None), points=FOUR, total=total_of(FOUR))
    others = points(("c", 2, 9), ("gone", None, 3))
    second = Comparison(current=Side("a", None), base=Side("c", None), points=others, total=total_of(others))
    plan = arrangement([first, second], Order.CHANGE, Keep(1))
    assert labels(arranged(first, plan).points) == ["A", "Other (4)"]
    assert labels(arranged(second, plan).points) == ["Other (4)"]
    assert arranged(second, plan).points[0].movement == -10


def test_cells_become_points_with_absent_sides() -> None:
    now, then = (
        [Cell(category="x", amount=D(3), rows=2), Cell(category="y", amount=D(0), rows=1)],
        [Cell(category="z", amount=D(4), rows=1), Cell(category="y", amount=D(0), rows=1)],
    )
    made = compare(now, then, [(None, one) for one in "xyz"])
    assert [point.state for point in made] == [State.NEW, State.NOT_MEANINGFUL, State.ENDED]
    found = Comparison(current=Side("a", None), base=Side("b", None), points=made, total=total_of(made))
    assert (found.total.current, found.total.base) == (3, 4)
    assert [point.label for point in found.absent] == ["x", "z"]
    assert total_of([]).current is None


def test_missing_periods_and_their_runs() -> None:
    weekdays = [date(2026, 1, 1) + timedelta(days=n) for n in range(60)]
    weekdays = [day for day in weekdays if day.weekday() < 5 and not date(2026, 1, 14) <= day <= date(2026, 1, 16)]
    missing = missing_periods(weekdays, Grain.DAY)
    # Saturdays and Sundays are not missed; Wednesday to Friday of the third week are.
    assert missing == (date(2026, 1, 14), date(2026, 1, 15), date(2026, 1, 16))
    assert runs_of(missing, Grain.DAY) == ((date(2026, 1, 14), date(2026, 1, 16)),)
    months = missing_periods([date(2025, 11, 30), date(2026, 4, 30)], Grain.MONTH)
    assert runs_of(months, Grain.MONTH) == ((date(2025, 12, 1), date(2026, 3, 31)),)
    assert missing_periods([], Grain.MONTH) == ()


def test_ways_to_total_and_means() -> None:
    assert parse_total_as("distinct:ticket no").column == "ticket no"
    assert all(parse_total_as(way).adds_up for way in ("sum", "count", "closing"))
    assert not any(parse_total_as(way).adds_up for way in ("mean", "highest", "lowest", "distinct:x"))
    for wrong in ("summ", "distinct", "distinct:", "mean:x"):
        with pytest.raises(Mistake):
            parse_total_as(wrong)
    # 10.00 ÷ 3 with six decimals more than the amounts have; halves go away from zero.
    nothing = Span(())
    assert str(parse_total_as("mean").figure(D("10.00"), None, 3, nothing)) == "3.33333333"
    assert f"{parse_total_as('mean').figure(D('-0.000001'), None, 2, nothing):f}" == "-0.000000500000"
    assert parse_total_as("sum", per="hours").figure(D("10.00"), D(0), 3, nothing) is None
    # Saturday 31 October to Monday 2 November 2026: three days, one of them a working day.
    weekend = Span((Stretch(None, date(2026, 10, 31), date(2026, 11, 2)),))
    assert parse_total_as("sum", per_day="calendar").figure(D(6), None, 1, weekend) == 2
    assert parse_total_as("sum", per_day="working").figure(D(6), None, 1, weekend) == 6


def test_words_for_messages() -> None:
    assert nearest("acount", ["amount", "account_name", "Account"]) == "Account"
    assert nearest("zzz", ["amount"]) is None
    assert listed(["a", "b", "c", "d"], most=2) == "a, b and 2 more"
    assert FINEST_FIRST[0] is Grain.DAY and FINEST_FIRST[-1] is Grain.YEAR
