"""Every figure a second time: what the engine answered, and what is shown, against a recount of the rows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Check
from marvex.core.compare.side import Span, Stretch
from marvex.core.compare.totals import TotalAs
from marvex.core.errors import Mistake
from marvex.core.exact import EXACT, ZERO, difference, exactly
from marvex.core.structure.statement import Statement
from marvex.sources.engine.ledger import Answer, Ledger
from marvex.sources.engine.recount import Recount

Figures = Mapping[tuple[int | None, str], Decimal | None]  # by row and label


def verified(book: Ledger, comparisons: Sequence[Comparison], total_as: TotalAs) -> Check:
    """The check that every figure was found a second time.

    Raises Mistake where one differs.
    """
    recount = book.recount()
    for answer in book.answers:
        _check_answer(book, recount, answer, total_as)
    known: dict[Span, Figures] = {}
    for comparison in comparisons:
        for point in (*comparison.points, *comparison.panel_totals, comparison.total):
            if not _is_of_one(point):
                continue
            sides = zip(point.sides(comparison.current, comparison.base), (point.current, point.base), strict=True)
            for side, amount in sides:
                if side is None or amount is None:
                    continue
                if side.span not in known:
                    known[side.span] = _by_label(book, recount, side.span)
                again = _shown_again(book, known[side.span], point)
                if not _is_same(amount, again):
                    raise _differs(point.label, side.span, amount, again)
    return Check("verified", ZERO)


def _is_of_one(point: Point) -> bool:
    """Whether a point is of one category or line, whichever rows those are: not Other, a ratio or a group's part."""
    return point.category is not None and not point.gathered and point.group is None and point.kind is not Kind.RATIO


def _by_label(book: Ledger, recount: Recount, span: Span) -> Figures:
    figures = recount.figures(book.counted(span), book.width, each=book.each)
    return {(row, book.label_of(names)): figure for (row, *names), figure in figures.items()}


def _shown_again(book: Ledger, figures: Figures, point: Point) -> Decimal | None:
    """The figure of a point once more: of its category, or of a line by the lines that it adds."""
    assert point.category is not None
    if book.statement is None:
        return figures.get((point.row, point.category))
    return _line(book.statement, point.category, {label: figure for (_, label), figure in figures.items()})


def _line(statement: Statement, label: str, figures: Mapping[str, Decimal | None]) -> Decimal:
    """The amount of a line: of its accounts, or of the lines that it adds and subtracts."""
    line = statement.line(label)
    if not line.total_of:
        return figures.get(label) or ZERO
    whole = ZERO
    for part in line.total_of:
        amount = _line(statement, part, figures)
        is_added = statement.line(part).sign_in(line) > 0
        whole = EXACT.add(whole, amount) if is_added else difference(whole, amount)
    return whole


def _check_answer(book: Ledger, recount: Recount, answer: Answer, total_as: TotalAs) -> None:
    """What the engine said of each span and category, its rows among it."""
    among = None if answer.among is None else {(book.names_of(one)) for one in answer.among}
    for place, span in enumerate(answer.spans):
        if among is None:
            found = recount.tallies(span, answer.width, each=book.each)
        else:
            found = {(None,): recount.of_some(span, among, each=book.each)}
        known = {
            (cell.row, cell.category, cell.part): (cell.amount, cell.rows)
            for cell in answer.cells
            if cell.place == place
        }
        again = {
            _key(book, names, answer.width): (tally.figure(total_as, span), tally.count)
            for names, tally in found.items()
            if tally.count
        }
        for key in sorted({*known, *again}, key=str):
            (amount, rows), (other, other_rows) = known.get(key, (None, 0)), again.get(key, (None, 0))
            if rows != other_rows or not _is_same(amount, other):
                raise _differs(" ".join(filter(None, key[1:])), span, amount, other)


def _key(book: Ledger, names: Sequence[Any], width: int) -> tuple[int | None, str, str]:
    """What a cell of those names is found by: its row, its category, its part one level down."""
    row, *texts = names
    if not width:
        return row, "", ""
    own = book.width
    return row, book.label_of(texts[:own]), book.label_of(texts[own:])


def _is_same(one: Decimal | None, other: Decimal | None) -> bool:
    return exactly(one or ZERO) == exactly(other or ZERO)


def _differs(label: str, span: Span, amount: Decimal | None, again: Decimal | None) -> Mistake:
    place = f"{label} " if label else ""
    return Mistake(
        f"{place}{_spoken(span.stretches)} is {amount}, and its rows add up to {again}: this is a mistake in marvex",
        "Do not use these figures, and report this.",
    )


def _spoken(stretches: Sequence[Stretch]) -> str:
    words = (f"{one.scenario or ''} {one.first} to {one.last}".strip() for one in stretches if one.first)
    return "; ".join(words) or "of all rows"
