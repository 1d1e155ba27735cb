"""The variances that a table has of its own beside its two sides: what their figures and their signs say of it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from decimal import Decimal

from marvex.core.compare.comparison import Comparison
from marvex.core.errors import listed, setting
from marvex.core.exact import EXACT
from marvex.core.structure.cost_names import speaks_of_cost, speaks_of_income
from marvex.core.structure.total_names import Naming, naming, speaks_of_variance
from marvex.core.time.notation import notation
from marvex.core.time.period import period_of
from marvex.core.values import dataclass
from marvex.sources.cells import Convention, value_of
from marvex.sources.dates import written
from marvex.sources.engine.source import Source

_MOST = 0.6  # of the lines that have one
_LEAST_LINES = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class _Line:
    """A line of the table: what it says of its change, and what its two sides say."""

    label: str
    written: Decimal
    change: Decimal  # current less base

    @property
    def fits(self) -> bool:
        """Whether the two agree but for their sign; sides that are shown rounded are one unit apart at the most."""
        unit = Decimal(1).scaleb(int(self.written.as_tuple().exponent))
        return abs(abs(self.written) - abs(self.change)) <= unit

    @property
    def is_turned(self) -> bool:
        return (self.written > 0) != (self.change > 0)


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnVariances:
    """A column of variances: where it is wrong, and what its signs make income and costs; none where all are alike.

    Parameters
    ----------
    are_turned : an excess is written as negative throughout.
    """

    heading: str
    are_turned: bool
    wrong: tuple[_Line, ...]
    income: tuple[str, ...]
    costs: tuple[str, ...]


def own_variances(source: Source, comparison: Comparison) -> OwnVariances | None:
    """What the column of variances of a table says, whose rows are the points that are compared; None without one."""
    roles = source.roles
    if not roles.by or roles.by[0] not in source.headings or len(roles.amounts) != 2 or comparison.every is not None:
        return None
    amounts = {one.name for one in roles.amounts}
    for heading in source.headings:
        if heading in amounts or not speaks_of_variance(heading) or naming(heading) is Naming.RATIO:
            continue
        lines = list(_lines(source, heading, comparison))
        fitting = [one for one in lines if one.fits]
        if len(lines) < _LEAST_LINES or len(fitting) < _MOST * len(lines):
            continue
        turned, same = (
            tuple(one.label for one in fitting if one.change and one.is_turned is way) for way in (True, False)
        )
        # Of a cost an excess is mostly written as negative; names say where a table has it the other way.
        if any(map(speaks_of_income, turned)) or any(map(speaks_of_cost, same)):
            turned, same = same, turned
        both = turned and same
        return OwnVariances(
            heading=heading,
            are_turned=bool(turned) and not same,
            wrong=tuple(one for one in lines if not one.fits),
            income=same if both else (),
            costs=turned if both else (),
        )
    return None


def own_variance_cautions(source: Source, comparison: Comparison) -> tuple[str, ...]:
    """Where the table's own variances are not what its two sides differ by."""
    if comparison.base is None:
        return _periods_compared(source)
    found = own_variances(source, comparison)
    if found is None or not found.wrong:
        return ()
    said = listed([f"{one.label} {one.written:,} for {one.change:,}" for one in found.wrong], 3)
    return (f"{source.name}: {found.heading} is not what the two sides differ by: {said}",)


def _periods_compared(source: Source) -> tuple[str, ...]:
    """That a column is what two periods differ by, which nothing sets against one another."""
    amounts = source.roles.amounts
    periods = [written(one.period) for one in amounts if one.period and not one.scenario]
    if len(amounts) != 2 or len(periods) != 2 or not all(one.name in source.headings for one in amounts):
        return ()
    way = source.facts.reading.convention or Convention.POINT
    names = [notation(period_of(its.first, its.grain)) for its in periods if its]
    sides = [source.headings.index(one.name) for one in amounts]
    for at, heading in enumerate(source.headings):
        if at in sides or not speaks_of_variance(heading) or naming(heading) is Naming.RATIO:
            continue
        rows = [[value_of(row[place] or "", way) for place in (*sides, at)] for row in source.sample]
        told = [(one, other, own) for one, other, own in rows if one is not None and other is not None and own]
        for (now, then), sign in ((names, 1), (reversed(names), -1)) if len(told) > 1 and len(names) == 2 else ():
            if all(EXACT.subtract(one, other) == sign * own for one, other, own in told):
                ask = f"{setting('for_', now)} {setting('versus', then)}"
                return (f"{source.name}: {heading} is {now} less {then}, which {ask} compares",)
    return ()


def _lines(source: Source, heading: str, comparison: Comparison) -> Iterator[_Line]:
    """The lines that have both sides and a variance, each label once; a change is signed as that of its point."""
    way = source.facts.reading.convention or Convention.POINT
    name, written = (source.headings.index(one) for one in (source.roles.by[0], heading))
    sides = [source.headings.index(one.name) for one in source.roles.amounts]
    points = {one.label: one for one in comparison.points}
    labels = Counter(row[name] for row in source.sample)
    # Which of the two columns is the current side, all points say together.
    found: list[tuple[str, Decimal, Decimal]] = []
    is_first = 0
    for row in source.sample:
        label = (row[name] or "").strip()
        values = [value_of(row[at] or "", way) for at in (*sides, written)]
        if label not in points or labels[row[name]] > 1 or None in values:
            continue
        one, other, own = (value for value in values if value is not None)
        point = points[label]
        if point.current is not None and point.base is not None and one != other:
            is_first += 1 if (point.current > point.base) == (one > other) else -1
        found.append((label, own, EXACT.subtract(one, other)))
    for label, own, less in found:
        yield _Line(label=label, written=own, change=less if is_first >= 0 else -less)
