"""The values of a column that are sums of others in a short table, by what else its rows are of."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal
from math import log2

from marvex.core.exact import EXACT, ZERO
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.parents import LEAST_BITS, parents_by_figures
from marvex.core.structure.products import product_among
from marvex.core.structure.total_names import naming
from marvex.sources.cells import Convention, value_of
from marvex.sources.engine.source import Source

MOST_ROWS = 50  # enough to prove that some headings are the sums of others
Key = tuple[str, str, str]  # another column's name, the scenario, the column of amounts
_FEW_PAIRS = 12  # of columns, up to which the bits asked for leave out what is chance


def sums_of_others(source: Source, columns: Sequence[str]) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Each column with its values that come to others, row by row of another column: a group beside its companies.

    Only of a source so short that its first rows are all.
    """
    cells = len(source.roles.amounts) if source.roles.is_wide else 1  # each of which counts as a row
    if source.rows_read > cells * len(source.sample):
        return
    pairs = len(columns) * (len(columns) - 1)
    least = LEAST_BITS + max(0.0, log2(pairs / _FEW_PAIRS)) if pairs else LEAST_BITS  # of more, more meet by chance
    for name in columns:
        # What is no sum of others as a whole is none row by row.
        if len(columns) > 1 and _found(source, name, None, 0.0):
            ways = (_found(source, name, other, least) for other in columns if other != name)
            if found := next(filter(None, ways), None):
                yield name, found


def sums_of_other_headings(source: Source) -> tuple[str, ...]:
    """The same of what headings say, as `North`, `South` and `Ferries` beside each month: in the first rows."""
    figures = _of_headings(source)
    lines = [TableLine(label=one, figures=tuple(its), naming=naming(one)) for one, its in figures.items()]
    return tuple(lines[one].label for one in parents_by_figures(lines))


def product_across(source: Source) -> tuple[str, str, str] | None:
    """What headings say of which the third is the others multiplied in the first rows, as `Revenue` of a price."""
    return product_among(_of_headings(source))


def _of_headings(source: Source) -> dict[str, list[Decimal | None]]:
    """The figures in the first rows of what headings say beside periods and scenarios."""
    roles, headings = source.roles, source.headings
    way = source.facts.reading.convention or Convention.POINT
    figures: dict[str, list[Decimal | None]] = {}
    columns: dict[tuple[str | None, str | None], dict[str, int]] = {}
    for one in roles.amounts:
        if one.category and one.name in headings:
            columns.setdefault((one.period, one.scenario), {})[one.category] = headings.index(one.name)
            figures[one.category] = []
    rows = [row for row in source.sample if all(one.keeps_row(row, headings) for one in source.filters)]
    for row in rows[:MOST_ROWS]:
        for places in columns.values():
            for category, of_category in figures.items():
                cell = row[places[category]] if category in places else None
                of_category.append(value_of(cell or "", way))
    return figures


def _found(source: Source, name: str, other: str | None, least: float) -> tuple[str, ...]:
    amounts = _amounts(source, name, other)
    keys = sorted({key for of_value in amounts.values() for key in of_value})
    lines = [
        TableLine(label=one, figures=tuple(of_value.get(key) for key in keys), naming=naming(one))
        for one, of_value in amounts.items()
    ]
    return tuple(lines[one].label for one in parents_by_figures(lines, least))


def _amounts(source: Source, name: str, other: str | None) -> dict[str, dict[Key, Decimal]]:
    """What each value of a column comes to, by the value of another where that is asked."""
    headings, roles = source.headings, source.roles
    way = source.facts.reading.convention or Convention.POINT
    place, other_place = headings.index(name), headings.index(other) if other else None
    side = headings.index(roles.scenario) if roles.scenario in headings else None
    figures = [(one.name, headings.index(one.name)) for one in roles.amounts if one.name in headings]
    found: dict[str, dict[Key, Decimal]] = {}
    for row in source.sample:
        if not all(one.keeps_row(row, headings) for one in source.filters):
            continue
        value, its = (row[place] or "").strip(), "" if other_place is None else (row[other_place] or "").strip()
        scenario = "" if side is None else (row[side] or "").strip()
        of_value = found.setdefault(value, {})
        for column, at in figures:
            if (amount := value_of(row[at] or "", way)) is not None:
                key = (its, scenario, column)
                of_value[key] = EXACT.add(of_value.get(key, ZERO), amount)
    return found
