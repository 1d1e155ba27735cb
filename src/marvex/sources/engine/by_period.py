"""In which weeks, months, quarters, halves and years of a source one row is the sum of the others."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal

from marvex.core.time.calendar import Grain
from marvex.core.values import dataclass
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.engine.source import Source

_LEAST_PARTS = 3
_TABLE = "by_days"
_LENGTHS = ((7, 7), (28, 31), (89, 92), (181, 184), (365, 366))  # days of the shortest and the longest of each grain
_SHOWN = 50  # sums that are looked at of one period


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of period: `late` is by how many months, of a week days, it begins after one of the civil calendar."""

    grain: Grain
    late: int

    @property
    def name(self) -> str:
        return f"{self.grain.value}_{self.late}"

    @property
    def start(self) -> str:
        """The first day of the period of a day, as it is asked for."""
        late = f"to_{'days' if self.grain is Grain.WEEK else 'months'}({self.late})"
        if self.grain is Grain.HALF:
            year = f"date_trunc('year', day - {late})"
            return f"({year} + to_months(6 * (month(day - {late}) > 6)::INT) + {late})::DATE"
        return f"(date_trunc('{self.grain.value}', day - {late}) + {late})::DATE"


# A reporting year begins in any month, and a week on any day.
KINDS = tuple(
    Kind(grain, late)
    for grain, number in ((Grain.WEEK, 7), (Grain.MONTH, 1), (Grain.QUARTER, 3), (Grain.HALF, 6), (Grain.YEAR, 12))
    for late in range(number)
)


@dataclass(frozen=True, slots=True, kw_only=True)
class SumsOfPeriod:
    """Of one period: in how many groups of like rows the first or the last by date is the sum of the others.

    Parameters
    ----------
    kind, start : the period, by its first day.
    groups : the groups that have enough of different amounts to tell.
    found : how many of them have such a row.
    sums, day : the amounts of some of these rows, and the last day of one; None where there is none.
    """

    kind: Kind
    start: date
    groups: int
    found: int
    sums: tuple[Decimal, ...]
    day: date | None


def sums_of_periods(
    source: Source, columns: Sequence[str], engine: Engine, may_tell: Callable[[Sequence[Decimal]], bool]
) -> list[SumsOfPeriod]:
    """The periods of a source, of its kept rows; like rows are those that are alike in some columns.

    Parameters
    ----------
    may_tell : whether sums of these amounts could tell anything, whatever periods they are of; nothing is looked into
        where they could not.
    """
    roles = replace(source.roles, by=tuple(columns), inner=0, each_row=False)
    facts = replace(source.facts, roles=roles, key=None, is_numbered=False, names="", has_signs=False, has_ends=True)
    source.rows.create_table(facts, _TABLE)
    names = "".join(f"c{place}, " for place in range(len(columns)))
    # Of the amounts of a day that are not nothing two are known, so that there are at least as many.
    are = "(highest <> 0)::INT"
    apart = f"CASE WHEN highest <> lowest THEN {are} + (lowest <> 0)::INT ELSE {are} * figures END"
    by_day = (
        f"SELECT {names}scenario_text, day, sum(amount) AS net, sum({apart}) AS n, max(highest) AS highest, "
        f"min(lowest) AS lowest FROM {_TABLE} JOIN {facts.days} USING (date_text) "
        "WHERE kept AND day IS NOT NULL GROUP BY ALL"
    )
    alike = [*names.split(", ")[:-1], "scenario_text"]
    sums = _sums_of_neighbours(by_day, alike, source.name, engine)
    if len(sums) < _SHOWN and not may_tell(sums):
        return []
    starts = ", ".join(f"{kind.start} AS {kind.name}" for kind in KINDS)
    sets = ", ".join(f"({names}scenario_text, {kind.name})" for kind in KINDS)
    cases = " ".join(f"WHEN {kind.name} IS NOT NULL THEN {place}" for place, kind in enumerate(KINDS))
    grouped = (
        f"SELECT CASE {cases} END AS kind, coalesce({', '.join(kind.name for kind in KINDS)}) AS start, "
        "sum(net) AS whole, sum(n) AS rows, "
        "max(highest) AS highest, min(lowest) AS lowest, max_by(day, highest) AS of_highest, "
        "min_by(day, lowest) AS of_lowest, min(day) AS first, max(day) AS last "
        f"FROM (SELECT *, {starts} FROM ({by_day})) GROUP BY GROUPING SETS ({sets})"
    )
    # Three equal instalments after a first payment of as much are no sum that was written beside its parts.
    which = "CASE WHEN highest + lowest > 0 THEN {} ELSE {} END"
    told = (
        f"SELECT *, {which.format('highest', 'lowest')} AS largest, {which.format('lowest', 'highest')} AS least, "
        f"{which.format('of_highest', 'of_lowest')} AS its FROM ({grouped}) WHERE rows > {_LEAST_PARTS}"
    )
    is_sum = "FILTER (whole = 2 * largest AND its IN (first, last))"
    met = engine.rows(
        Query(
            f"SELECT kind, start, count(*), count(*) {is_sum}, list(largest) {is_sum}, max(its) {is_sum} "
            f"FROM ({told}) WHERE least * (rows - 1) <> largest GROUP BY kind, start ORDER BY kind, start"
        ),
        source.name,
    )
    return [
        SumsOfPeriod(
            kind=KINDS[kind], start=start, groups=groups, found=found, sums=tuple((sums or ())[:_SHOWN]), day=day
        )
        for kind, start, groups, found, sums, day in met
    ]


def _sums_of_neighbours(by_day: str, alike: Sequence[str], name: str, engine: Engine) -> list[Decimal]:
    """Amounts that are the sum of those of the days before, or after, as far as these may be the others of a period.

    The running total that such an amount leads away from is one that its group has had before, or will have. Most
    sources have none or few: asked first, this makes a table of the demo's ledger a sixth faster.
    """
    same = " AND ".join(f"one.{column} IS NOT DISTINCT FROM other.{column}" for column in alike)
    # No more days than the longest of its kind, and no fewer between the days around them than the shortest.
    fits = " OR ".join(
        f"({{last}}.day - {{first}}.day < {longest} "
        f"AND coalesce({{last}}.day_after - {{first}}.day_before > {shortest}, true))"
        for shortest, longest in _LENGTHS
    )
    summed = (
        "SELECT one.amount FROM sums AS one SEMI JOIN running AS other "
        f"ON {same} AND one.amount <> 0 AND {{}} = {{}} AND {{}} > {_LEAST_PARTS} AND "
    )
    before = summed.format("other.upto - other.net", "one.upto - 2 * one.amount", "one.rows - other.rows + other.n")
    after = summed.format("other.upto", "one.upto - one.net + 2 * one.amount", "other.rows - one.rows + one.n")
    running = (
        "SELECT *, sum(net) OVER so_far AS upto, sum(n) OVER so_far AS rows, lag(day) OVER so_far AS day_before, "
        f"lead(day) OVER so_far AS day_after FROM ({by_day}) WHERE n > 0 "
        f"WINDOW so_far AS (PARTITION BY {', '.join(alike)} ORDER BY day)"
    )
    met = engine.rows(
        Query(
            f"WITH running AS ({running}), sums AS (SELECT *, unnest([highest, lowest]) AS amount FROM running) "
            f"{before}({fits.format(first='other', last='one')}) "
            f"UNION ALL {after}({fits.format(first='one', last='other')}) LIMIT {_SHOWN}"
        ),
        name,
    )
    return [amount for (amount,) in met]
