"""A budget kept by year or quarter, spread over shorter periods: evenly, by days, or as the year before was."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from fractions import Fraction
from typing import Any

from marvex.core.compare.scenarios import ACTUAL_NAMES, dates_of
from marvex.core.errors import Mistake, setting
from marvex.core.exact import EXACT, ZERO, difference
from marvex.core.time.base_window import year_before
from marvex.core.time.calendar import Calendar, Grain, is_finer
from marvex.core.time.period import period_of, periods_within
from marvex.core.time.window import Window
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.quoting import quoted_text

_NOT_COPIED = ("day", "amount")
_Amounts = dict[tuple[Any, ...], dict[date, Decimal]]  # of a category, by day


@dataclass(frozen=True, slots=True)
class Spread:
    """How a scenario's amounts are spread: `even`, `days` or `year-ago`, over periods of a grain.

    Parameters
    ----------
    grain : that of the points; None for months, or for days of what is kept by month.
    current : the scenario that is not spread, where it is not named actual.
    """

    how: str
    grain: Grain | None
    current: str | None


def spread(
    engine: Engine,
    asked: Spread,
    calendar: Calendar,
    columns: int,
    decimals: int,
    name: str,
    written: Callable[[str | None], Grain | None],
) -> dict[str | None, str]:
    """Puts shorter periods in the place of those of every scenario that is kept coarser; which, and what is said of it.

    Every amount is spread to its own digits, so that the parts add up to it exactly.

    Parameters
    ----------
    written : the grain that the dates of a scenario are written in, where it is none of days.

    Raises Mistake where no scenario is kept so.
    """
    days: dict[str | None, list[date]] = {}
    for scenario, day in engine.rows(
        Query("SELECT DISTINCT scenario, day FROM facts WHERE day IS NOT NULL AND figures > 0"), name
    ):
        days.setdefault(scenario, []).append(day)
    said: dict[str | None, str] = {}
    chosen = []
    for scenario, found in days.items():
        kept = _kept_at(found, written(scenario), calendar)
        target = asked.grain or (Grain.MONTH if is_finer(Grain.MONTH, kept) else Grain.DAY)
        is_current = (scenario or "").casefold() in {*ACTUAL_NAMES, (asked.current or "").casefold()}
        if is_current or not is_finer(target, kept):
            continue
        chosen.append((scenario, kept, target))
        said[scenario] = f"{scenario or 'the data'} by {kept.value} spread {_WORDS[asked.how]} over {target.plural}"
    if not chosen:
        raise Mistake(f"{setting('spread')}: no scenario is kept by longer periods than the points", "Leave it out.")
    names = [row[0] for row in engine.rows(Query("SELECT column_name FROM (DESCRIBE facts)"), name)]
    copied = [one for one in names if one not in _NOT_COPIED]
    engine.run(Query("CREATE TEMP TABLE spread AS SELECT * FROM facts LIMIT 0"), name)
    for scenario, kept, target in chosen:
        rows = engine.rows(
            Query(
                f"SELECT day, amount, {', '.join(copied)} FROM facts WHERE scenario IS NOT DISTINCT FROM ? "
                "AND day IS NOT NULL",
                (scenario,),
            ),
            name,
        )
        categories = [place + 2 for place, one in enumerate(copied) if one in {f"c{n}" for n in range(columns)}]
        shape = _shape(engine, columns, name) if asked.how == "year-ago" else {}
        parts = [
            (day, amount, *row[2:])
            for row in rows
            for day, amount in _spread(
                row[1],
                period_of(row[0], kept, calendar),
                target,
                asked.how,
                decimals,
                shape.get(tuple(row[place] for place in categories), {}),
            )
        ]
        _insert(engine, ("day", "amount", *copied), parts, name)
    engine.run(Query("ALTER VIEW facts RENAME TO facts_as_kept"), name)
    others = " AND ".join(f"scenario IS DISTINCT FROM {_quoted(one)}" for one, *_ in chosen)
    engine.run(
        Query(f"CREATE TEMP VIEW facts AS SELECT * FROM facts_as_kept WHERE {others} UNION ALL SELECT * FROM spread"),
        name,
    )
    return said


_WORDS = {"even": "evenly", "days": "by days", "year-ago": "in the shape of the year before"}


def _kept_at(days: Sequence[date], written: Grain | None, calendar: Calendar) -> Grain:
    """The grain of a scenario; a lone first day of a year stands for the year, since it is to be spread."""
    grain = dates_of(None, days, written, calendar).grain or Grain.DAY
    if written is None and len(set(days)) == 1 and days[0] == calendar.start(days[0], Grain.YEAR):
        return Grain.YEAR
    return grain


def _spread(
    amount: Decimal, period: Window, target: Grain, how: str, decimals: int, shape: Mapping[date, Decimal]
) -> Iterable[tuple[date, Decimal]]:
    """The amount in the shorter periods that its period is made of, each named by its first day."""
    parts = periods_within(period, target, period.calendar)
    weights = [Fraction(1)] * len(parts)
    if how == "days":
        weights = [Fraction(part.days) for part in parts]
    elif how == "year-ago":
        before = [year_before(part) for part in parts]
        found = [
            sum((Fraction(one) for day, one in shape.items() if then and then.first <= day <= then.end), Fraction(0))
            for then in before
        ]
        # Of what had nothing, or as much as nothing, the year before there is no shape.
        weights = found if sum(found) else weights
    whole, so_far, given = sum(weights), Fraction(0), ZERO
    for part, weight in zip(parts, weights, strict=True):
        so_far += weight
        upto = _floored(Fraction(amount) * so_far / whole, decimals)
        yield part.first, difference(upto, given)
        given = upto


def _floored(amount: Fraction, decimals: int) -> Decimal:
    scaled = amount * 10**decimals
    return Decimal(scaled.numerator // scaled.denominator).scaleb(-decimals, context=EXACT)


def _shape(engine: Engine, columns: int, name: str) -> _Amounts:
    """What each category of the actuals came to, day by day."""
    names = "".join(f", c{place}" for place in range(columns))
    marks = ", ".join("?" for _ in ACTUAL_NAMES)
    found: _Amounts = {}
    for day, amount, *category in engine.rows(
        Query(
            f"SELECT day, sum(amount){names} FROM facts WHERE kept "
            f"AND (scenario IS NULL OR lower(scenario) IN ({marks})) "
            f"AND day IS NOT NULL AND figures > 0 GROUP BY day{names}",
            tuple(ACTUAL_NAMES),
        ),
        name,
    ):
        found.setdefault(tuple(category), {})[day] = amount
    return found


def _insert(engine: Engine, columns: Sequence[str], rows: Sequence[tuple[Any, ...]], name: str) -> None:
    lists = ", ".join("unnest(?)" for _ in columns)
    if rows:
        values = tuple(list(column) for column in zip(*rows, strict=True))
        engine.run(Query(f"INSERT INTO spread ({', '.join(columns)}) SELECT {lists}", values), name)


def _quoted(text: str | None) -> str:
    return "NULL" if text is None else quoted_text(text)
