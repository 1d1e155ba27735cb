"""A budget kept by year or quarter, spread over shorter periods: evenly, by days, or as the year before was."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from datetime import date
from decimal import Decimal
from fractions import Fraction
from typing import Any

from marvex.core.compare.point import JOINS, NO_NAME
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.scenario_words import version_said
from marvex.core.compare.scenarios import dates_of
from marvex.core.compare.totals import MEAN_DECIMALS
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import EXACT, ZERO, difference
from marvex.core.time.base_window import year_before
from marvex.core.time.calendar import Calendar, Grain, is_finer
from marvex.core.time.period import period_of, periods_within
from marvex.core.time.window import Window
from marvex.core.values import dataclass
from marvex.sources.cells import MOST_DIGITS
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Spreading:
    """What was spread.

    Parameters
    ----------
    said : each scenario, and what is said of it.
    decimals : those of its amounts before, to which figures that need no more are written.
    reservations : the periods that could not be spread as asked.
    """

    said: Mapping[str | None, str]
    decimals: int
    reservations: tuple[Reservation, ...]

    def amount(self, found: Decimal) -> Decimal:
        """A figure of the facts, with no more decimals than it needs or was written with.

        >>> done = Spreading(said={}, decimals=1, reservations=())
        >>> [str(done.amount(Decimal(text))) for text in ("1833.333333", "2200.000000")]
        ['1833.333333', '2200.0']
        """
        shortest = EXACT.normalize(found)
        needed = max(self.decimals, -int(shortest.as_tuple().exponent))
        return found.quantize(Decimal(1).scaleb(-needed), context=EXACT)


def spread(
    engine: Engine,
    asked: Spread,
    calendar: Calendar,
    columns: int,
    decimals: int,
    name: str,
    written: Callable[[str | None], Grain | None],
) -> Spreading:
    """Puts shorter periods in the place of those of every scenario that is kept coarser.

    Every amount is spread to six digits more than its own, so that the parts add up to it exactly, and those of
    all categories to the parts of all of them together.

    Parameters
    ----------
    written : the grain that the dates of a scenario are written in, where it is none of days.

    Raises Mistake where no scenario is kept so, or nothing says what the year before was like.
    """
    days: dict[str | None, list[date]] = {}
    for scenario, day in engine.rows(
        Query("SELECT DISTINCT scenario, day FROM facts WHERE day IS NOT NULL AND figures > 0"), name
    ):
        days.setdefault(scenario, []).append(day)
    named = {"", (asked.current or "").casefold()}
    saying = {one for one in days if (said := version_said(one)) is not None and said.is_actual}
    actuals = [one for one in days if one in saying or (one or "").casefold() in named]
    chosen = _chosen(days, actuals, asked.grain, calendar, written)
    shape = None
    if asked.how == "year-ago":
        shape = _Shape(_by_category(engine, actuals, columns, name), [day for one in actuals for day in days[one]])
    finer = decimals + MEAN_DECIMALS
    names = [row[0] for row in engine.rows(Query("SELECT column_name FROM (DESCRIBE facts)"), name)]
    copied = [one for one in names if one not in _NOT_COPIED]
    exact = f"* REPLACE (CAST(amount AS DECIMAL({MOST_DIGITS}, {finer})) AS amount)"
    engine.run(Query(f"CREATE TEMP TABLE spread AS SELECT {exact} FROM facts LIMIT 0"), name)
    for scenario, (kept, target) in chosen.items():
        rows = engine.rows(
            Query(
                f"SELECT day, amount, {', '.join(copied)} FROM facts WHERE scenario IS NOT DISTINCT FROM ? "
                "AND day IS NOT NULL",
                (scenario,),
            ),
            name,
        )
        places = [place + 2 for place, one in enumerate(copied) if one in {f"c{n}" for n in range(columns)}]
        parts = []
        for row in rows:
            if row[1] is None:  # no cell of it has a figure
                parts.append(row)
                continue
            within = period_of(row[0], kept, calendar)
            shorter = periods_within(within, target, calendar)
            weights = _weights(shorter, asked.how)
            if shape is not None:
                weights = shape.weights(scenario, within, shorter, tuple(row[place] for place in places)) or weights
            divided = _divided(row[1], weights, finer)
            parts += [(part.first, amount, *row[2:]) for part, amount in zip(shorter, divided, strict=True)]
        _insert(engine, ("day", "amount", *copied), parts, name)
    engine.run(Query("ALTER VIEW facts RENAME TO facts_as_kept"), name)
    others = " AND ".join(f"scenario IS DISTINCT FROM {_quoted(one)}" for one in chosen)
    as_kept = f"SELECT {exact} FROM facts_as_kept WHERE {others}"
    engine.run(Query(f"CREATE TEMP VIEW facts AS {as_kept} UNION ALL SELECT * FROM spread"), name)
    how = _WORDS[asked.how] if columns and shape is not None else _OF_ALL.get(asked.how, _WORDS[asked.how])
    return Spreading(
        said={
            scenario: f"{scenario or 'the data'} by {kept.value} spread {how} over {target.plural}"
            for scenario, (kept, target) in chosen.items()
        },
        decimals=decimals,
        reservations=shape.reservations() if shape is not None else (),
    )


def _chosen(
    days: Mapping[str | None, Sequence[date]],
    actuals: Collection[str | None],
    every: Grain | None,
    calendar: Calendar,
    written: Callable[[str | None], Grain | None],
) -> dict[str | None, tuple[Grain, Grain]]:
    """The scenarios that are spread, each with the grain that it is kept at and that which it is spread over."""
    chosen: dict[str | None, tuple[Grain, Grain]] = {}
    for scenario, found in days.items():
        kept = _kept_at(found, written(scenario), calendar)
        target = every or (Grain.MONTH if is_finer(Grain.MONTH, kept) else Grain.DAY)
        if scenario not in actuals and is_finer(target, kept):
            chosen[scenario] = kept, target
    if not chosen:
        raise Mistake(f"{setting('spread')}: no scenario is kept by longer periods than the points", "Leave it out.")
    return chosen


_WORDS = {"even": "evenly", "days": "by days", "year-ago": "in the shape of each one's year before"}
_OF_ALL = {"year-ago": "in the shape of the year before"}


def _kept_at(days: Sequence[date], written: Grain | None, calendar: Calendar) -> Grain:
    """The grain of a scenario; a lone first day of a year stands for the year, since it is to be spread."""
    grain = dates_of(None, days, written, calendar).grain or Grain.DAY
    if written is None and len(set(days)) == 1 and days[0] == calendar.start(days[0], Grain.YEAR):
        return Grain.YEAR
    return grain


def _weights(parts: Sequence[Window], how: str) -> list[Fraction]:
    return [Fraction(part.days if how == "days" else 1) for part in parts]


def _divided(amount: Decimal, weights: Sequence[Fraction], decimals: int) -> Iterable[Decimal]:
    """The amount divided by weights, each part to some decimals, so that they add up to it."""
    whole, so_far, given = sum(weights), Fraction(0), ZERO
    for weight in weights:
        so_far += weight
        scaled = Fraction(amount) * so_far / whole * 10**decimals
        upto = Decimal(scaled.numerator // scaled.denominator).scaleb(-decimals, context=EXACT)
        yield difference(upto, given)
        given = upto


class _Shape:
    """What the year before was like.

    Parameters
    ----------
    amounts : what each category of the actuals came to, day by day.
    days : on which the actuals have rows at all, kept or not.
    """

    def __init__(self, amounts: _Amounts, days: Sequence[date]) -> None:
        self._amounts, self._days = amounts, days
        self._told: dict[tuple[str | None, Window, str], dict[str, None]] = {}  # with the categories it is about
        self._is_used = False

    def weights(
        self, scenario: str | None, period: Window, parts: Sequence[Window], category: tuple[Any, ...]
    ) -> list[Fraction] | None:
        """What each part of a period came to the year before; None where that is not known or was nothing."""
        before = [year_before(part) for part in parts]
        known = [one for one in before if one is not None]
        if not known or not self._days or known[0].end < min(self._days) or known[-1].first > max(self._days):
            self._tell(scenario, period, f"evenly, since {self._rows}", ())
            return None
        self._is_used = True
        amounts = self._amounts.get(category, {})
        found = [
            sum(
                (Fraction(one) for day, one in amounts.items() if then and then.first <= day <= then.end), Fraction(0)
            )
            for then in before
        ]
        if not sum(found):
            self._tell(scenario, period, "evenly, since the year before has nothing of it", category)
            return None
        if known[0].end < min(amounts):
            self._tell(scenario, period, f"in the shape of a year that begins on {min(amounts)}", category)
        return found

    def _tell(self, scenario: str | None, period: Window, how: str, category: tuple[Any, ...]) -> None:
        labels = self._told.setdefault((scenario, period, how), {})
        if category:
            labels[JOINS.join(str(one or NO_NAME) for one in category)] = None

    @property
    def _rows(self) -> str:
        return f"rows run from {min(self._days)} to {max(self._days)} only" if self._days else "there are no rows"

    def reservations(self) -> tuple[Reservation, ...]:
        """What could not be spread as asked. Raises Mistake where that is all of it."""
        if not self._is_used:
            year_ago, even = setting("spread", "year-ago"), setting("spread", "even")
            raise Mistake(f"{year_ago} needs the year before, and {self._rows}", f"Use {even}.")
        return tuple(
            Reservation(
                what=f"{scenario or 'what'} {f'of {listed(labels, 3)} ' if labels else ''}"
                f"from {period.first} to {period.last} is spread {how}",
                of=((period.first, period.last),),
            )
            for (scenario, period, how), labels in self._told.items()
        )


def _by_category(engine: Engine, actuals: Sequence[str | None], columns: int, name: str) -> _Amounts:
    """What each category of the actuals came to, day by day."""
    names = "".join(f", c{place}" for place in range(columns))
    are_actual = " OR ".join(f"scenario IS NOT DISTINCT FROM {_quoted(one)}" for one in actuals) or "false"
    found: _Amounts = {}
    for day, amount, *category in engine.rows(
        Query(
            f"SELECT day, sum(amount){names} FROM facts WHERE kept AND ({are_actual}) "
            f"AND day IS NOT NULL AND figures > 0 GROUP BY day{names}"
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
