"""Columns that are totals of those beside them, by their names or their figures, and rows in which they are not."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from decimal import Decimal

from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import ZERO, total
from marvex.core.structure.amount_names import adds_up
from marvex.core.structure.total_names import Naming, is_whole_name, naming, speaks_of_variance
from marvex.core.time.calendar import FINEST_FIRST, Grain
from marvex.sources.dates import written
from marvex.sources.headings import Parted, parted
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.sheet_table import SheetTable, Wishes
from marvex.sources.readers.structure_words import unreadable

_LEAST = 2  # rows in which a column is the sum of others, before the rest are held against it
_MOST_NAMED = 6  # parts, which a message offers


def is_total_beside(rest: str) -> bool:
    """Whether what a heading says beside its period and its side makes it the total of the others of these."""
    return naming(rest) is Naming.TOTAL or is_whole_name(rest)


def columns_of_a_side(table: SheetTable) -> list[list[int]]:
    """The columns of amounts of one period and one side, of which each says something else beside: '2026 Ferries'."""
    sides: dict[tuple[str, str], list[int]] = {}
    for at, one in enumerate(_said(table)):
        if one.is_said and one.rest and adds_up(one.rest):
            sides.setdefault(_side(one), []).append(at)
    return [its for its in sides.values() if len(its) > 2]


def rests_of(table: SheetTable, columns: Sequence[int]) -> tuple[str, ...]:
    """What each of some columns of amounts says beside its period and side."""
    return tuple(parted(table.headings[table.places[at]]).rest.casefold() for at in columns)


def check_totals_across(
    table: SheetTable, gone: Collection[int], in_most: Iterable[tuple[int, list[int]]], wishes: Wishes
) -> None:
    """Raises Mistake where a column that is the total of others, or is called so, is not what they come to in all rows.

    What stands in it alone would be lost, or counted with the others.

    Parameters
    ----------
    gone : the columns that are left out as totals already, by their places.
    in_most : the columns that their figures prove to be sums of others, but for rows in which they stand alone.
    """
    if wishes.amounts or wishes.is_across:
        return
    said, rows, texts = _said(table), additive_rows(table), _texts(table)
    for at, parts in (*_called(table), *in_most):
        if table.places[at] in gone or table.headings[table.places[at]] in wishes.named or len(parts) < 2:
            continue
        is_taken_alone = not any(said[part].is_said for part in parts)
        right, wrong = _held(table, rows, at, parts, is_taken_alone=is_taken_alone)
        is_counted = said[at].is_said  # with its parts, whatever it is
        are_lone = not any(table.figures[row.number][part] for row in wrong for part in parts)
        if wrong and (is_counted or len(right) >= (1 if are_lone else max(_LEAST, len(wrong)))):
            # A cell that cannot be read may be all that is wrong.
            raise (None if wishes.blanks else unreadable(table)) or _not_in_all(table, at, parts, wrong, texts)


def additive_rows(table: SheetTable) -> list[SheetRow]:
    """The rows without those of ratios, rates and levels, which are no sums across either; all if those are all."""
    texts = _texts(table)
    plain = [row for row in table.rows if row.number not in table.percents and _is_no_ratio(row, texts)]
    return [row for row in plain if all(adds_up(row.cells[place]) for place in texts)] or plain


def _is_no_ratio(row: SheetRow, texts: Sequence[int]) -> bool:
    return all(naming(row.cells[place]) is not Naming.RATIO for place in texts)


def _texts(table: SheetTable) -> list[int]:
    return [place for place in range(len(table.headings)) if place not in table.places]


def _said(table: SheetTable) -> list[Parted]:
    return [parted(table.headings[place]) for place in table.places]


def _side(one: Parted) -> tuple[str, str]:
    return (one.period or "").casefold(), (one.scenario or "").casefold()


def _called(table: SheetTable) -> Iterator[tuple[int, list[int]]]:
    """The columns of amounts that are called totals, each with those that it may be the total of, all by their places
    among the amounts: the others of its period and side, else the finest periods, else the columns just before it."""
    said = _said(table)
    totals = {at for at, one in enumerate(said) if is_total_beside(one.rest)}
    grains = {at: its.grain for at, one in enumerate(said) if one.period and (its := written(one.period))}
    finest = min(grains.values(), key=FINEST_FIRST.index, default=None)
    plain = [at for at, one in enumerate(said) if at not in totals and not speaks_of_variance(one.rest)]
    for at in sorted(totals):
        if said[at].is_said:
            yield at, [one for one in plain if _side(said[one]) == _side(said[at]) and said[one].rest]
        elif grains:
            periods = [one for one in plain if one < at and grains.get(one) is finest]
            yield at, periods if len({(said[one].scenario, said[one].rest) for one in periods}) == 1 else []
        else:
            last = max((one for one in totals if one < at), default=-1)
            yield at, [one for one in plain if last < one < at]


def _held(
    table: SheetTable, rows: Sequence[SheetRow], at: int, parts: Sequence[int], *, is_taken_alone: bool
) -> tuple[list[SheetRow], list[SheetRow]]:
    """The rows in which a column is the sum of others, two of which have figures at least, and those where it is not.

    Parameters
    ----------
    is_taken_alone : the parts are not counted, so that what they lack is no loss.
    """
    right, wrong = [], []
    for row in rows:
        figures = table.figures[row.number]
        own, its = figures[at], [one for part in parts if (one := figures[part]) is not None]
        if own is None or (is_taken_alone and not its):
            continue
        if _are_near(own, its):
            right += [row] if sum(map(bool, its)) > 1 else []
        else:
            wrong.append(row)
    return right, wrong


def _are_near(own: Decimal, parts: Sequence[Decimal]) -> bool:
    """Whether a figure is what others come to, but for half a unit of its last digit for each of them."""
    least = min((int(one.as_tuple().exponent) for one in (own, *parts)), default=0)
    return abs(own - total(parts)) <= len(parts) * Decimal(5).scaleb(min(least, 0) - 1)


def _kind(heading: str) -> tuple[str, Grain | None]:
    """What a heading says beside its period and side, and how long its period is."""
    said = parted(heading)
    period = written(said.period) if said.period else None
    return said.rest, period.grain if period else None


def _not_in_all(
    table: SheetTable, at: int, parts: Sequence[int], wrong: Sequence[SheetRow], texts: Sequence[int]
) -> Mistake:
    row, names = wrong[0], [table.headings[table.places[part]] for part in parts]
    figures = table.figures[row.number]
    its = total(one for part in parts if (one := figures[part]) is not None)
    label = next((row.cells[place] for place in texts if row.cells[place]), "")
    heading, own = table.headings[table.places[at]], _kind(table.headings[table.places[at]])
    alike = [one for one in (table.headings[place] for place in table.places) if _kind(one) == own]
    more = f" (and {len(wrong) - 1} more)" if len(wrong) > 1 else ""
    ways = f"{setting('amount', ','.join(alike))} takes {'it' if len(alike) == 1 else 'those'} alone"
    if len(names) <= _MOST_NAMED and not parted(heading).is_said:
        ways += f", {setting('amount', ','.join(names))} the others"
    return Mistake(
        f"{table.name}: column {table.letters[table.places[at]]} '{heading}' is the sum of {listed(names, 3)}, but not "
        f"in row {row.number} '{label}': {figures[at] or ZERO:,} there, {its:,} in them{more}",
        f"Mend it; or {ways}.",
    )
