"""Columns of a sheet that lead from one side to the other: steps where they are compared, and no amounts otherwise."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.errors import Mistake, setting
from marvex.core.structure.across import led_across
from marvex.core.structure.total_names import is_opening_name
from marvex.sources.expression import named_in
from marvex.sources.headings import parted
from marvex.sources.readers.sheet_table import SheetTable, Wishes


def led_columns(table: SheetTable, wishes: Wishes, *, keep_totals: bool) -> tuple[str, ...]:
    """The headings from the first side to the last; none where nothing leads from one to another.

    Raises Mistake where they are compared, and the last is not what the others come to; or where they are all amounts
    of the table, some of which lower the last and are stored as positive.
    """
    names = [table.headings[place] for place in table.places]
    figures = zip(*(table.figures[row.number] for row in table.rows), strict=True)
    found = led_across(dict(zip(names, figures, strict=False)), [one for one in names if parted(one).is_said])
    if found is None:
        return ()
    if (found.wrong is None and not found.turned) or (wishes.is_across and keep_totals):
        return found.names
    *others, last = found.names
    if wishes.is_across and found.wrong is not None:
        raise Mistake(
            f"{table.name}, row {table.rows[found.wrong].number}: {' + '.join(others)} miss {last}, which is "
            f"{abs(found.by):,} {'more' if found.by > 0 else 'less'}",
            f"Mend the table; or {setting('plug', 'NAME')} makes it a step of a waterfall.",
        )
    is_rolled = not wishes.has_amounts and {*names} == {*found.names} and is_opening_name(others[0])
    if wishes.is_across or is_rolled:
        added = " + ".join(one for one in others if one not in found.turned)
        steps = "" if wishes.is_across else f"{setting('headings_are', 'step')} "
        moves = (
            f"{('+', '-')[one in found.turned]} {named_in(one)}"
            for one in sorted(others[1:], key=found.turned.__contains__)
        )
        net = setting("amount", " ".join(moves).removeprefix("+ "))
        alone = "" if wishes.is_across else f"; {net} is what moves it"
        raise Mistake(
            f"{table.name}: {last} is {added} less {' and '.join(found.turned)}, and all would be added up",
            f"{steps}{setting('deductions', ','.join(found.turned))} says so of a waterfall{alone}.",
        )
    return ()


def left_of_led(table: SheetTable, led: Sequence[str], wishes: Wishes) -> tuple[str, list[int]] | None:
    """What of such columns is left out, and what is said of that; None where they are asked about.

    It is the movements between two sides, or, where the columns themselves are compared, what they come to.
    """
    places = [list(table.headings).index(one) for one in led]
    letters = [table.letters[place] for place in places]
    if wishes.is_across:
        of = f"column {letters[-1]} '{led[-1]}' is the sum of columns {letters[0]}–{letters[-2]} and was left out"
        return of, places[-1:]
    if not parted(led[0]).is_said or not {*led[1:-1]}.isdisjoint(wishes.named):
        return None
    moves = f"columns {letters[1]}–{letters[-2]} lead from {led[0]} to {led[-1]}"
    return f"{moves} and were left out: {setting('headings_are', 'step')} makes them steps", places[1:-1]
