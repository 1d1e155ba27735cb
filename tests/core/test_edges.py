"""Where one thing ends and the next begins: each of these was a change of the core that no other test noticed."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

import pytest

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Better, Kind, Point
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.compare.side import Side, Stretch
from marvex.core.errors import Mistake
from marvex.core.rules.bands import NamedRule, RuleSet
from marvex.core.rules.language import parse_rule
from marvex.core.rules.turning import turning_point
from marvex.core.structure.drivers import drivers
from marvex.core.structure.statement import Statement, StatementLine, completed
from marvex.core.time.calendar import CIVIL, Grain
from marvex.core.time.window import Window
from marvex.core.words.units import FigureFormat, Unit
from marvex.core.words.wording import be_of

FIGURES = FigureFormat(unit=Unit.ONE, decimals=0, locale="en_GB")


def point(current: int, base: int, **more: object) -> Point:
    return Point(category="A", current=Decimal(current), base=Decimal(base), **more)  # type: ignore[arg-type]


def test_999_per_cent_is_written_and_more_is_not() -> None:
    # 1,099 against 100 is +999 %; a hundredth of a per cent more is beyond it.
    assert FIGURES.ratio(point(1_099, 100)) == "+999.0%"
    assert FIGURES.ratio(point(109_901, 10_000)) == ">999%"
    assert FIGURES.ratio(point(-1_099, -100)) == "\u2212999.0%"


@pytest.mark.parametrize(
    ("name", "word"),
    [
        *(("Ships", "were"), ("Boss", "was"), ("Bus", "was"), ("HQS", "was"), ("Ads", "were"), ("s", "was")),
        *(("Wages of the crew", "were"), ("Fuel and oil", "were"), ("Analysis", "was"), ("", "was")),
    ],
)
def test_a_plural_takes_were(name: str, word: str) -> None:
    assert be_of(name) == word


@pytest.mark.parametrize("volumes", [(5, -3), (-3, 5), (5, 0), (0, 5)])
def test_drivers_need_volumes_above_nothing_on_both_sides(volumes: tuple[int, int]) -> None:
    one = point(60, 50, volumes=(Decimal(volumes[0]), Decimal(volumes[1])))
    with pytest.raises(Mistake, match="volume"):
        drivers([one])


def test_a_week_of_days_is_too_little_to_tell_which_have_business() -> None:
    monday = date(2026, 3, 2)

    def dates(days: int) -> ScenarioDates:
        found = tuple(
            monday + timedelta(days=n) for n in range(days + 1) if (monday + timedelta(days=n)).weekday() < 5
        )
        return ScenarioDates(
            name="actual", first=found[0], last=found[-1], grain=Grain.DAY, weekdays=(0, 1, 2, 3, 4), days=found
        )

    # To Friday the 13th the first and the last day are eleven days apart, to Monday the 9th seven.
    assert dates(11).known_through(date(2026, 3, 15))
    assert not dates(7).known_through(date(2026, 3, 10))
    assert not dates(4).known_through(date(2026, 3, 8))
    assert not dates(11).known_through(date(2026, 3, 16))


def test_a_stretch_without_an_end_is_no_run() -> None:
    window = Window(
        first=date(2026, 1, 1), last=date(2026, 3, 31), grain=Grain.QUARTER, known_to=None, calendar=CIVIL
    )
    stretches = (
        Stretch("actual", date(2026, 1, 1), None),
        Stretch("actual", date(2026, 1, 1), date(2026, 1, 31)),
        Stretch("actual", date(2026, 3, 1), date(2026, 3, 31)),
    )
    runs = Side("actual", window, stretches).runs
    assert [(one.first, one.end) for one in runs] == [
        (date(2026, 1, 1), date(2026, 1, 31)),
        (date(2026, 3, 1), date(2026, 3, 31)),
    ]


@pytest.mark.parametrize(
    ("band", "better", "turns"),
    [("favourable > 10", Better.UP, 110), ("favourable > 10", Better.DOWN, 90), ("adverse > 10", Better.UP, 90),
     ("adverse > 10%", Better.DOWN, 110)],
)  # fmt: skip
def test_a_colour_turns_by_what_is_good_news(band: str, better: Better, turns: int) -> None:
    rules = RuleSet((NamedRule(rule=parse_rule([f"A [watch]: {band}", "B: otherwise"])),), better)
    assert turning_point(rules, point((100 + turns) // 2, 100)) == Decimal(turns)


def test_a_ratio_of_a_line_without_rows_is_absent() -> None:
    lines = (
        StatementLine(label="Fares", accounts=("Fares",)),
        StatementLine(label="Fuel", accounts=("Fuel",), is_cost=True),
        StatementLine(label="Fuel share", ratio_of=("Fuel", "Fares")),
        StatementLine(label="Fares by fuel", ratio_of=("Fares", "Fuel")),
        StatementLine(label="Margin", total_of=("Fares", "Fuel")),
    )
    statement = Statement(name="P", lines=lines)
    side = Side("actual", None)
    fares = Point(category="Fares", current=Decimal(10), base=Decimal(8))
    comparison = Comparison(current=side, base=side, points=(fares,), total=fares)
    found = {one.category: one for one in completed(comparison, statement).points}
    for label in ("Fuel share", "Fares by fuel"):
        assert found[label].kind is Kind.RATIO and found[label].current is None, label
    assert (found["Margin"].current, found["Margin"].base) == (10, 8)
