"""What the values of several columns of a file come to in each month of a scenario."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field, replace
from datetime import date
from decimal import Decimal
from typing import TypeAlias

from marvex.core.exact import EXACT, ZERO
from marvex.core.structure.gaps import Gap, gaps
from marvex.core.values import dataclass
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.met import met
from marvex.sources.engine.query import Query
from marvex.sources.engine.source import Source

_MOST_AT_ONCE = 60  # columns: the engine takes 64

Month: TypeAlias = tuple[str | None, date | None]  # of a scenario; its first day
Amounts: TypeAlias = dict[str, dict[Month, Decimal]]  # of each value of a column


@dataclass(frozen=True, slots=True, eq=False)
class ByMonth:
    """What each value of a column comes to, month by month, and the days on which a scenario has amounts of it."""

    amounts: Amounts = field(default_factory=dict)
    days: dict[str, dict[str | None, set[date]]] = field(default_factory=dict)
    _gaps: dict[str | None, tuple[Gap, ...]] = field(default_factory=dict)

    def add(self, value: str, scenario: str | None, month: date | None, amount: Decimal) -> None:
        of_month = self.amounts.setdefault(value, {})
        of_month[scenario, month] = EXACT.add(of_month.get((scenario, month), ZERO), amount)

    def gaps(self, scenario: str | None) -> tuple[Gap, ...]:
        """The days in a row that some values lack, which others have; worked out once for all views of a pack."""
        if scenario not in self._gaps:
            self._gaps[scenario] = gaps({one: days for one, its in self.days.items() if (days := its.get(scenario))})
        return self._gaps[scenario]

    def days_of(self, value: str, scenario: str | None) -> set[date]:
        return self.days.setdefault(value, {}).setdefault(scenario, set())


def by_month(source: Source, columns: Sequence[str], engine: Engine) -> list[ByMonth]:
    """Of each column what each of its values comes to, month by month, of the rows that are kept."""
    starts = range(0, len(columns), _MOST_AT_ONCE)
    return [one for at in starts for one in _in_one_pass(source, columns[at : at + _MOST_AT_ONCE], engine)]


def _in_one_pass(source: Source, columns: Sequence[str], engine: Engine) -> list[ByMonth]:
    roles = replace(source.roles, by=tuple(columns), inner=0, each_row=False)
    facts = replace(source.facts, roles=roles, key=None, is_numbered=False, names="", has_signs=False)
    rows, values = facts.source_rows(False)
    names = [f"c{place}" for place in range(len(columns))]
    sets = ", ".join(f"({name}, scenario_text, date_text)" for name in names)
    amount = facts.reading.amount("amount_text")
    # Dates are read after grouping: there are far fewer of them than rows.
    grouped = (
        f"SELECT {', '.join(names)}, grouping({', '.join(names)}) AS which, scenario_text, date_text, "
        f"sum({amount}) AS net FROM ({rows}) WHERE kept GROUP BY GROUPING SETS ({sets})"
    )
    trimmed = ", ".join(f"coalesce(trim({name}), '')" for name in names)
    met_in = engine.rows(
        Query(
            f"SELECT {trimmed}, which, {facts.scenario}, date_trunc('month', day)::DATE, sum(net), "
            f"list(DISTINCT day) FILTER (net IS NOT NULL AND day IS NOT NULL) FROM ({grouped}) "
            f"LEFT JOIN {facts.days} USING (date_text) GROUP BY ALL HAVING sum(net) IS NOT NULL",
            tuple(values),
        ),
        source.name,
    )
    found = [ByMonth() for _ in columns]
    for *texts, which, scenario, month, net, days in met_in:
        if facts.held and scenario is None:
            continue  # of another than the source is said to hold
        # The bits of a grouping are 0 where a column is grouped by, the first of them the highest.
        place = next(at for at in range(len(columns)) if not which >> (len(columns) - 1 - at) & 1)
        found[place].add(str(texts[place]), scenario, month, net)
        found[place].days_of(str(texts[place]), scenario).update(days or ())
    return found


def stored_by_month(source: Source, column: str, engine: Engine) -> ByMonth:
    """The same of one column of a table that a database or a cluster adds up."""
    found = ByMonth()
    for value, scenario, day, _, amount in met(source, [column], source.filters, engine):
        found.add(value, scenario, day and day.replace(day=1), amount or ZERO)
        found.days_of(value, scenario).update(() if day is None else (day,))
    return found
