"""The rows of a list told apart from their totals by the columns of figures that a call is about, not by all."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import TypeAlias

from marvex.core.errors import Mistake
from marvex.core.exact import EXACT
from marvex.core.words.spelled_out import spelled_out
from marvex.sources.expression import Expression, columns_in, has_quotient, is_expression, parse_expression, worth
from marvex.sources.headings import no_headings, parted
from marvex.sources.numbering import AMOUNT_NAMES
from marvex.sources.readers.sheet_table import Left, SheetTable, Wishes
from marvex.sources.readers.structured import left_of_rows

_MOST_ROWS = 2_000  # of a list that is looked at in several ways

# What is told of a row: by its heading a column as it is, and by its text what is worked out of some.
_Told: TypeAlias = Mapping[str, Expression | None]


def left_by_amounts(
    table: SheetTable, texts: Sequence[int], dated: Collection[int], wishes: Wishes, *, are_blocks: bool
) -> Left:
    """A table's rows less those that are totals or ratios of others, by the columns that the call is about and by all.

    A price or a busiest day has no total, and what stands there in the row of a total says nothing of the amounts
    beside it. The reading that leaves out most stands, since other columns may prove what the amounts alone do not.

    Raises Mistake where no reading can be told: of the columns that the call is about.
    """
    # A column that is named, Total, is no row of that name.
    wishes = replace(wishes, named=wishes.named - ({*wishes.amounts} & {*table.headings}))
    found, wrong = None, None
    for one in (*_of_amounts(table, wishes), table):
        try:
            left = left_of_rows(one, texts, dated, wishes, are_blocks=are_blocks)
        except Mistake as problem:
            wrong = wrong or problem
        else:
            if found is None or len(left.rows) < len(found.rows):
                found = left
    if found is None and wrong is not None:
        figures = [table.headings[place] for place in table.places]
        raise no_headings(table.headings, figures, [table.headings[place] for place in dated], table.name) or wrong
    return found or Left(rows=tuple(table.rows))


def _of_amounts(table: SheetTable, wishes: Wishes) -> list[SheetTable]:
    """The table with the figures of those columns alone, or of what is worked out of them; none where it has no
    others."""
    headings = [table.headings[place] for place in table.places]
    if len(table.rows) > _MOST_ROWS or (wishes.are_all_amounts and not wishes.amounts):
        return []
    if not wishes.amounts:
        told = [_said(headings)]
    elif (named := _named(wishes.amounts, headings, table)) is None:
        return []
    else:
        worked_out = [one for one in named.values() if one is not None]
        told = [] if any(map(has_quotient, worked_out)) else [named]
        if worked_out:
            told.append(dict.fromkeys(name for one in worked_out for name in columns_in(one)))
    return [_with(table, one) for one in told if one and {*one} != {*headings}]


def _said(headings: Sequence[str]) -> _Told:
    """The columns whose headings say a period or a scenario; else the one that has the name of an amount."""
    said = [one for one in headings if parted(one).is_said]
    usual = [one for one in headings if spelled_out(one).casefold() in AMOUNT_NAMES]
    return dict.fromkeys(said if len(said) > 1 else usual if len(usual) == 1 else ())


def _named(amounts: Sequence[str], headings: Sequence[str], table: SheetTable) -> _Told | None:
    """The amounts that a call names; None where one is of no column of figures, as is told once all columns are known.

    Raises Mistake where one cannot be read.
    """
    found: dict[str, Expression | None] = {}
    for text in amounts:
        if text in headings:
            found[text] = None
        elif not is_expression(text, table.headings):
            return None
        else:
            found[text] = parse_expression(text, table.headings, table.name)
    of = [columns_in(one) for one in found.values() if one is not None]
    return found if all(names and {*names} <= {*headings} for names in of) else None


def _with(table: SheetTable, told: _Told) -> SheetTable:
    """The table with those figures alone; what is worked out stands in the place of a column that it is made of."""
    headings, names = list(table.headings), [table.headings[place] for place in table.places]
    figures: dict[int, list[Decimal | None]] = {number: [None] * len(names) for number in table.figures}
    for text, expression in told.items():
        at = names.index(text if expression is None else columns_in(expression)[0])
        headings[table.places[at]] = text
        for number, row in table.figures.items():
            figures[number][at] = (
                row[at] if expression is None else _worth(expression, dict(zip(names, row, strict=True)))
            )
    return replace(table, headings=headings, figures=figures)


def _worth(expression: Expression, row: Mapping[str, Decimal | None]) -> Decimal | None:
    figure = worth(expression, row)
    return None if figure is None else EXACT.divide(Decimal(figure.numerator), Decimal(figure.denominator))
