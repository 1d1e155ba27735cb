"""Rows that are the total of their own week, month, quarter or year, and stand among its other rows."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from math import log2

from marvex.core.errors import Mistake, setting
from marvex.sources.engine.by_period import KINDS, Kind, SumsOfPeriod, sums_of_periods
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.source import Source

_NEARLY_ALL = 0.9  # groups of a period
_LEAST_BITS = 12  # as of a sum in a list that no name makes a total


def check_totals_of_periods(source: Source, columns: Sequence[str], engine: Engine) -> None:
    """Raises Mistake where rows are the sums of the others of their period, and would be added up with them.

    Of a single sum that may be chance: the digits of all of them together, less how many periods were tried, must say.

    Parameters
    ----------
    columns : those that tell what a row is of.
    """
    if source.roles.is_wide:
        return
    facts, asked = source.facts, source.asked
    of_rows = (facts.relation, *columns, facts.filters, facts.roles.amounts, facts.roles.scenario, facts.roles.date)
    of = asked.wanted
    key = ("periods", of.source, of.table, of.query, *of_rows, facts.reading, asked.dates)
    periods = source.rows.gathered.once(key, lambda: sums_of_periods(source, columns, engine, _may_tell))
    found = {kind: [one for one in periods if one.kind is kind and _is_found(one)] for kind in KINDS}
    largest = max(KINDS, key=lambda kind: (_bits(kind, found[kind], periods), kind.grain.months, -kind.late))
    if (met := found[largest]) and _bits(largest, met, periods) >= _LEAST_BITS:
        others, grain = len(met) - 1, largest.grain
        so = f" as in {others} other {grain.value if others == 1 else grain.plural}," if others else ""
        raise Mistake(
            f"{source.name}: a row of {met[0].day} is the sum of the others of its {grain.value}"
            f"{f' from {met[0].start}' if largest.late else ''},{so} and would be counted with them",
            f"Take such rows out; {setting('total_as', 'sum')} adds up all the same.",
        )


def _is_found(period: SumsOfPeriod) -> bool:
    return period.found > 0 and period.found >= _NEARLY_ALL * period.groups


def _bits(kind: Kind, found: Sequence[SumsOfPeriod], periods: Sequence[SumsOfPeriod]) -> float:
    """How much the sums of all periods of a kind say, less how many were tried; those of the civil calendar first."""
    tried = sum(one.kind is kind if kind.late == 0 else one.kind.grain is kind.grain for one in periods)
    return sum(map(_bits_of, found)) - log2(tried) if tried else 0


def _bits_of(period: SumsOfPeriod) -> float:
    return sum(map(_digits, period.sums)) / len(period.sums) * period.found


def _may_tell(sums: Sequence[Decimal]) -> bool:
    return sum(map(_digits, sums)) >= _LEAST_BITS


def _digits(amount: Decimal) -> float:
    """How much an amount that is a sum says, in bits: its digits, without zeros at the end."""
    return log2(abs(int("".join(map(str, amount.normalize().as_tuple().digits)))))
