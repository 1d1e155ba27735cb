"""Figures, dates and bars as text: rounding, signs, units, locales, and where they stop meaning anything."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Better, Point
from marvex.core.compare.side import Side
from marvex.core.rules.judging import Judged
from marvex.core.structure.walk import can_cut_at, fitting_cut, walk_change
from marvex.core.time.calendar import Grain
from marvex.core.time.window import Window
from marvex.core.words.side_names import window_text
from marvex.core.words.units import FigureFormat, Signs, Unit, exact_ratio, fitting_decimals, fitting_unit, rounded
from marvex.tables.bar import AXIS, VarianceBar
from marvex.views.drawing.labels import fitted, fitted_or_cut, shortened, wrapped
from marvex.views.drawing.text_metrics import measured

D = Decimal


@pytest.mark.parametrize(
    ("amount", "unit", "decimals", "shown"),
    [
        ("0.5", Unit.ONE, 0, "1"),
        ("-0.5", Unit.ONE, 0, "-1"),
        ("2.5", Unit.ONE, 0, "3"),
        ("-2500", Unit.K, 0, "-3"),
        ("2449999.99", Unit.M, 1, "2.4"),
        ("2450000", Unit.M, 1, "2.5"),
        ("99999999999999999999999999999999999.5", Unit.ONE, 0, "100000000000000000000000000000000000"),
    ],
)
def test_figures_are_rounded_half_away_from_zero(amount: str, unit: Unit, decimals: int, shown: str) -> None:
    assert rounded(D(amount), unit, decimals) == D(shown)


@given(st.decimals(-(10**12), 10**12, places=4, allow_nan=False), st.sampled_from(Unit), st.integers(0, 3))
def test_a_rounded_figure_is_within_half_a_place(amount: Decimal, unit: Unit, decimals: int) -> None:
    shown = Fraction(rounded(amount, unit, decimals)) * Fraction(10) ** unit.power
    assert abs(shown - Fraction(amount)) <= Fraction(10) ** unit.power / (2 * 10**decimals)


def test_ratios_for_figures_have_six_decimals_half_even() -> None:
    assert str(exact_ratio(Fraction(1, 8))) == "0.125000"
    assert str(exact_ratio(Fraction(-1, 3))) == "-0.333333"
    # 0.0000005 and 0.0000025 go to the even neighbour, 0.0000015 as well.
    halves = [exact_ratio(Fraction(digits, 10_000_000)) for digits in (5, 15, 25)]
    assert [f"{one:f}" for one in halves] == ["0.000000", "0.000002", "0.000002"]


def test_signs_and_locales() -> None:
    plain = FigureFormat(unit=Unit.K, decimals=1)
    assert (plain.change(D("1250000")), plain.change(D("-1250000"))) == ("+1,250.0", "−1,250.0")
    # What is less than the least figure is never told as nothing.
    assert (plain.change(D("10")), plain.change(D("-10")), plain.change(D(0))) == ("+<0.1", "−<0.1", "0.0")
    bare = FigureFormat(unit=Unit.ONE, decimals=0, signs=Signs.MINUS)
    assert (bare.change(D(5)), bare.change(D(-5))) == ("5", "−5")
    unsigned = FigureFormat(unit=Unit.ONE, decimals=0, signs=Signs.UNSIGNED)
    assert (unsigned.change(D(5)), unsigned.change(D(-5)), unsigned.amount(D(-5))) == ("5", "5", "−5")
    # In a sentence no mark beside a figure says its direction.
    assert unsigned.in_words.change(D(-5)) == "−5"
    accounts = FigureFormat(unit=Unit.ONE, decimals=2, locale="de_DE", signs=Signs.PARENTHESES)
    assert (accounts.change(D(-1234)), accounts.amount(D(-1234))) == ("(1.234,00)", "(1.234,00)")
    euro = FigureFormat(unit=Unit.M, decimals=1, locale="en_GB", currency="EUR")
    assert (euro.headline(D("-1930000")), euro.unit_words) == ("−€1.9m", "million euros")
    assert plain.amount(None) == "n/a"
    wide = FigureFormat(decimals=1)  # more digits than a decimal has by itself
    assert wide.change(D("12345678901234567890123456789012345.5")).endswith("789,012,345.5")


@pytest.mark.parametrize(
    ("current", "base", "text"),
    [
        (77, 70, "+10.0%"),
        (-80, -100, "+20.0%"),
        (5, 0, "n/m"),
        (5, -5, "n/m"),
        (0, 5, "−100.0%"),
        (1100, 100, ">999%"),
        (1099, 110, "+899.1%"),
        (-1200, -100, "<−999%"),
        (None, 5, "n/a"),
    ],
)
def test_ratios_stop_where_they_mean_nothing(current: int | None, base: int, text: str) -> None:
    point = Point(category="x", current=None if current is None else D(current), base=D(base))
    assert FigureFormat().ratio(point) == text


def test_the_unit_and_decimals_fit_the_figures() -> None:
    def fit(amounts: list[str], changes: list[str]) -> tuple[Unit, int]:
        exact, moved = [D(one) for one in amounts], [D(one) for one in changes]
        unit = fitting_unit(exact, moved)
        return unit, fitting_decimals(exact, moved, unit)

    assert fit(["1191415.12", "953000.5"], ["-28285.62", "109000"]) == (Unit.K, 0)
    assert fit(["19468", "17556"], ["160", "-193"]) == (Unit.ONE, 0)
    # 0.9k reads as 1k, but 0.565k would, too: it has to have a decimal.
    assert fit(["6053000.50"], ["1500", "900", "206000"]) == (Unit.K, 0)
    assert fit(["6053000.50"], ["-565", "-1070", "206000"]) == (Unit.K, 1)
    # Five digits are the most: what is still less than the least of them has no say.
    assert fit(["6053000.50"], ["-4", "206000"]) == (Unit.K, 0)
    assert fit(["412000.50"], ["30", "41000"]) == (Unit.ONE, 0)
    assert fit(["12000000000"], ["300000000"]) == (Unit.BN, 1)
    assert fit([], []) == (Unit.ONE, 0)


@pytest.mark.parametrize(
    ("change", "said"),
    [("41200", "+41k"), ("468", "+0.5k"), ("-24", "−0.02k"), ("3", "+3"), ("0.4", "0"), ("0", "0k")],
)
def test_a_small_change_is_not_told_as_nothing(change: str, said: str) -> None:
    assert FigureFormat(unit=Unit.K).signed_headline(Decimal(change)) == said


@pytest.mark.parametrize(
    ("window", "text"),
    [
        (Window(first=date(2026, 1, 1), last=date(2026, 12, 31), grain=Grain.YEAR), "2026"),
        (Window(first=date(2024, 1, 1), last=date(2026, 12, 31), grain=Grain.YEAR), "2024–2026"),
        (
            Window(first=date(2026, 1, 1), last=date(2026, 12, 31), grain=Grain.YEAR, known_to=date(2026, 10, 31)),
            "Jan–Oct 2026",
        ),
        (
            Window(first=date(2026, 1, 1), last=date(2026, 12, 31), grain=Grain.YEAR, known_to=date(2026, 10, 17)),
            "1 Jan–17 Oct 2026",
        ),
        (Window(first=date(2026, 4, 1), last=date(2026, 6, 30), grain=Grain.QUARTER), "Q2 2026"),
        (Window(first=date(2026, 7, 1), last=date(2026, 12, 31), grain=Grain.HALF), "H2 2026"),
        (Window(first=date(2026, 6, 1), last=date(2026, 6, 30), grain=Grain.MONTH), "Jun 2026"),
        (Window(first=date(2025, 11, 1), last=date(2026, 2, 28), grain=Grain.MONTH), "Nov 2025–Feb 2026"),
        (Window(first=date(2026, 6, 18), last=date(2026, 6, 18), grain=Grain.DAY), "18 Jun 2026"),
        (Window(first=date(2026, 6, 1), last=date(2026, 6, 7), grain=Grain.WEEK), "week 23 of 2026"),
    ],
)
def test_windows_in_words(window: Window, text: str) -> None:
    assert window_text(window, "en_GB") == text


def test_the_terminal_bar_keeps_its_width_and_its_side() -> None:
    def bar(change: int | None, lowest: int = -50, highest: int = 100) -> str:
        return str(
            VarianceBar(change=None if change is None else D(change), lowest=D(lowest), highest=D(highest), width=16)
        )

    # 15 cells beside the axis: 5 to the left for 50, 10 to the right for 100.
    assert bar(100) == " " * 5 + AXIS + "█" * 10
    assert bar(-50) == "█" * 5 + AXIS + " " * 10
    assert bar(50) == " " * 5 + AXIS + "█" * 5 + " " * 5
    assert bar(1) == " " * 5 + AXIS + "▏" + " " * 9
    assert bar(0) == bar(None) == " " * 5 + AXIS + " " * 10
    assert bar(-50, highest=0) == "█" * 15 + AXIS
    assert {len(bar(change)) for change in range(-50, 101, 7)} == {16}


def cut_of(*pairs: tuple[int, int]) -> Decimal | None:
    """Where a walk over (base, current) pairs would be cut."""
    points = tuple(Point(category=str(n), current=D(now), base=D(then)) for n, (then, now) in enumerate(pairs))
    total = Point(category="Total", current=D(sum(now for _, now in pairs)), base=D(sum(then for then, _ in pairs)))
    comparison = Comparison(current=Side(None, None), base=Side(None, None), points=points, total=total)
    walk = walk_change(comparison, [Judged(point, None) for point in points], "then", "now")
    found = fitting_cut(walk)
    assert found is None or can_cut_at(walk, found)
    return found


def test_standing_bars_are_cut_only_where_steps_are_small_beside_them() -> None:
    # Levels from 9,995 to 10,010: 0.4 of the 15 below that is 9,989, down to a round 9,980.
    assert cut_of((5000, 5010), (5000, 4985)) == 9980
    assert cut_of((-5000, -5010), (-5000, -4985)) == -9980
    assert cut_of((500, 900), (500, 100)) is None
    assert cut_of((5000, 5000)) is None
    assert cut_of((5, -10), (-4, 10)) is None


def test_names_are_wrapped_made_smaller_or_shortened() -> None:
    name = "Vessel maintenance and storm repairs"
    lines = wrapped(name, 130, 16)
    assert lines is not None and len(lines) > 1 and " ".join(lines) == name
    assert all(measured(line, 16).width <= 130 for line in lines)
    assert wrapped("Passagierschifffahrt", 40, 16) is None
    assert wrapped("Ostrey–Finmouth", measured("Ostrey–", 16).width + 30, 16) == ("Ostrey–", "Finmouth")
    small = fitted([name, "Fuel"], 130, 2, 16, 8)
    assert small is not None and small.size < 16 and small.most_lines == 2
    assert fitted([name], 20, 2, 16, 8) is None
    cut = fitted_or_cut(name * 9, 130, 2, 16, 12).lines[0]
    assert len(cut) == 2 and cut[1].endswith("…")
    assert measured(shortened(name, 90, 16), 16).width <= 90


def test_better_is_one_of_two() -> None:
    assert [one.value for one in Better] == ["up", "down"]
