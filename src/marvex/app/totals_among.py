"""Totals among the rows: nothing is ever added up with its own parts, unless that is asked for."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from marvex.app.balances import is_end_of_list
from marvex.app.session import Session
from marvex.app.values_by_month import AS_FIGURES_SAY, check_values, counted_with
from marvex.core.compare.comparison import compare
from marvex.core.compare.plan import Plan
from marvex.core.compare.point import Cell, Point, total_of
from marvex.core.compare.totals import parse_total_as
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import ZERO
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.hidden import Parts, hidden_total, tells
from marvex.core.structure.parents import NEAR, parents_by_code
from marvex.core.structure.total_names import (
    BEGINS_OR_ENDS_AS_TOTAL,
    Naming,
    is_closing_name,
    is_memo_name,
    is_named_total,
    is_opening_name,
    is_part_name,
    is_plain_total,
    is_set_in,
    is_total_name,
    is_whole_name,
    naming,
    speaks_of_total,
    without_total_name,
)
from marvex.request.request import Request
from marvex.request.settings import NO_STATEMENT
from marvex.sources.dates import period_alone, written
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.rows import FileRows
from marvex.sources.engine.source import MOST_NAMED, Source
from marvex.sources.where import filter_text

_MOST_ASKED = 5_000  # of them that begin or end as a total's does


def by_side(book: Ledger, plan: Plan) -> tuple[tuple[Cell, ...], tuple[Cell, ...]]:
    """The cells of both sides as wholes."""
    cells = book.cells([side.span for side in plan.sides])
    return tuple(one for one in cells if not one.place), tuple(one for one in cells if one.place)


def totals_among(book: Ledger, categories: Sequence[Point], *, are_kept: bool) -> tuple[str, ...]:
    """The categories that are totals of others, and count with them as was asked: by the names that are shown, and by
    those that the source has for them.

    Raises Mistake where there is one and that was not asked.
    """
    found = _totals_among(book, categories, are_kept=are_kept)
    own = [replace(one, category=book.name_in_source(one.category or "")) for one in categories]
    if any(one.category != other.category for one, other in zip(own, categories, strict=True)):
        found += _totals_among(book, own, are_kept=are_kept)
    return found


def _totals_among(book: Ledger, categories: Sequence[Point], *, are_kept: bool) -> tuple[str, ...]:
    column = book.first.roles.by[0] if book.first.roles.by else ""
    figures = [TableLine(label=one.label, figures=(one.current, one.base)) for one in categories]
    above = [categories[place].label for place in parents_by_code(figures)]
    hidden, parts = hidden_total(categories)
    unproven = None if hidden else _unproven_total(categories)
    # Only an order of lines would tell of which others it is the total, and a table of a database has none.
    is_stored = book.first.file.store is not None and book.statement is None
    named = [point.label for point in categories if is_named_total(point.label)] if is_stored else []
    of_others = [point.label for point in categories if is_part_name(point.label)]
    # Of lines in their order it is known below which they are set in.
    marked = [point.label for point in categories if is_set_in(point.label)]
    if len(marked) < len(categories) and book.statement is None and not book.first.roles.each_row:
        of_others += [one for one in marked if one not in of_others]
    if are_kept:
        return tuple(dict.fromkeys((*(one.label for one in (hidden, unproven) if one), *named, *above, *of_others)))
    if of_others:
        are_memos = all(map(is_memo_name, of_others))
        are = (("is a memo line", "are memo lines"), ("is a part of another", "are parts of others"))[not are_memos]
        them, name = ("it", "its name says") if len(of_others) == 1 else ("them", "their names say")
        raise Mistake(
            f"{book.name}: {column} {listed(map(repr, of_others), 3)} {are[len(of_others) > 1]}, as {name}, and would "
            f"count with {'the others' if are_memos else 'it' if len(of_others) == 1 else 'those'}",
            f"Leave {them} out with {setting('where', filter_text(column, '!=', of_others))}, "
            f"or keep {them} with {setting('totals', 'keep')}.",
        )
    if hidden is not None:
        raise _counted_twice(book, column, hidden, parts, len(categories))
    _check_ends(book, column, categories)
    if unproven is not None:
        others = total_of(one for one in categories if one is not unproven)
        is_of_base = (unproven.current or ZERO) == (others.current or ZERO)
        amount, rest = (one.base if is_of_base else one.current for one in (unproven, others))
        raise Mistake(
            f"{book.name}: {column} '{unproven.label}' has the name of a total and is {amount or 0:,}, "
            f"but all others come to {rest or 0:,}",
            f"Mend it; or leave it out with {setting('where', f'{column}!={book.name_in_source(unproven.label)}')}, "
            f"or keep it with {setting('totals', 'keep')}.",
        )
    if named:
        own = "its own parts, as its name says" if len(named) == 1 else "their own parts, as their names say"
        raise counted_with(book.name, column, [*map(book.name_in_source, named)], own)
    if above:
        raise counted_with(book.name, column, [*map(book.name_in_source, above)], AS_FIGURES_SAY[len(above) > 1])
    return ()


def _counted_twice(book: Ledger, column: str, hidden: Point, parts: Parts, count: int) -> Mistake:
    """What is to be said of a total among so many categories."""
    if not parts:
        return Mistake(
            f"{book.name}: {column} '{hidden.label}' is the sum of others, which stand here beside their own totals",
            f"Set each total below its lines, or name the lines with {setting('where')}; "
            f"{setting('totals', 'keep')} adds up all.",
        )
    added, less = (listed((part.label for part, sign in parts if sign == way), 3) for way in (1, -1))
    way_out = f"eave it out with {setting('where', f'{column}!={book.name_in_source(hidden.label)}')}"
    if less:
        return Mistake(
            f"{book.name}: {column} '{hidden.label}' is {added} less {less}, which would all be added up",
            f"Say which lines are costs with {setting('statement', 'FILE')}; or l{way_out}.",
        )
    of = added if len(parts) < count - 1 else "all others"
    return Mistake(
        f"{book.name}: {column} '{hidden.label}' is the sum of {of} and would be counted twice",
        f"L{way_out}, or keep it with {setting('totals', 'keep')}.",
    )


def _check_ends(book: Ledger, column: str, categories: Sequence[Point]) -> None:
    """Raises Mistake where what there was at first and what there is in the end stand among what moves them."""
    called = (is_end_of_list, is_opening_name, is_closing_name)
    ends = [one.label for one in categories if any(is_end(one.label) for is_end in called)]
    if book.statement is None and 1 < len(ends) < len(categories) and any(map(is_opening_name, ends)):
        raise Mistake(
            f"{book.name}: {column} {listed(map(repr, ends), 3)} are balances by name, and would be added up with what "
            "moves them",
            f"Set the first above and the last below its movements; or leave them out with "
            f"{setting('where', filter_text(column, '!=', [*map(book.name_in_source, ends)]))}.",
        )


def _unproven_total(categories: Sequence[Point]) -> Point | None:
    """The category that is called a total of common words, whatever it comes to."""
    if len(categories) < 3:
        return None
    called = (
        one
        for one in categories
        if (speaks_of_total(one.label) and is_plain_total(one.label) and not is_opening_name(one.label))
        or (is_whole_name(one.label) and _is_nearly_all(one, categories))
    )
    return next((one for one in called if one.current or one.base), None)


def _is_nearly_all(point: Point, categories: Sequence[Point]) -> bool:
    """Whether a category is about what all others come to, on both sides."""
    others = total_of(one for one in categories if one is not point)
    sides = ((point.current, others.current), (point.base, others.base))
    return all(own and rest and float(abs(own - rest)) <= NEAR * float(abs(own)) for own, rest in sides)


def totals_in_other_columns(
    session: Session, request: Request, book: Ledger, planned: Sequence[Plan], *, rolls: bool
) -> tuple[str, ...]:
    """The same of all other columns: a region called Total would count whatever is compared.

    Parameters
    ----------
    rolls : what there was at first and is in the end is not added up.

    Raises Mistake where there is one and that was not asked.
    """
    settings = request.settings
    is_of_lines = any(one.roles.each_row for one in book.sources) or (book.statement and book.statement.is_found)
    if not request.total_as.needs_amounts:
        return ()
    found = [*check_values(book, request, rolls=rolls)]
    if is_of_lines:
        return () if settings.is_of_list else tuple(found)
    for source in book.sources if not settings.keeps_totals else ():
        _check_documents(source)
    # The only column compared by was looked at as it was compared, where that was by sums.
    is_seen = request.total_as.adds_up and book.width == 1
    named = (name for source in book.sources for name in _columns_with_totals(source, is_seen=is_seen))
    for column in dict.fromkeys(named):
        of_column = replace(
            settings,
            by=(column,),
            statement=Path(NO_STATEMENT),
            then_by=(),
            name_map=(),
            panels_by=None,
            brackets=None,
            volume=None,
            per=None,
            spread=None,
            totals=("keep",),
        )
        # Of several sources those that have the column.
        having = zip(request.sources, book.sources, strict=True)
        sources = tuple(named for named, source in having if column in source.headings)
        asked = replace(request, sources=sources, settings=of_column, statement=None, total_as=parse_total_as("sum"))
        try:
            other = session.ledger(asked)
        except Mistake:
            continue  # what is said of one source only cannot be asked of the others
        for plan in planned:
            spans = [side.span for side in plan.sides]
            counted, among = book.totals(spans), other.totals(spans)
            # On the other sides they were left out before the rows were added up, or another source has the rows.
            same = [counted[span].rows == among[span].rows for span in spans]
            both = by_side(other, plan)
            now, then = (cells if all(same[at : at + 1]) else () for at, cells in enumerate(both))
            categories = compare(now, then, other.in_given_order(now, then))
            # A few small figures come to one another by chance, and what is not compared is often a note.
            if not any(is_total_name(one.label) or tells(one) for one in categories):
                continue
            found += totals_among(other, categories, are_kept=settings.keeps_totals)
    return tuple(dict.fromkeys(found))


def _columns_with_totals(source: Source, *, is_seen: bool) -> Iterator[str]:
    """The columns of names in which there is one of a total.

    Parameters
    ----------
    is_seen : the first column compared by need not be looked at.
    """
    roles = source.roles
    others = roles.taken
    others |= set(roles.by[:1]) if is_seen else set()
    for column in source.columns:
        if column.name in others or not column.is_text or _is_of_documents(source, column.name):
            continue
        of = partial(_names_a_total, source, column.name)
        rows = source.rows
        if column.are_remarks and not any(map(is_plain_total, source.values(column.name))):
            continue  # 'Total of the bills' is no line
        key = "names a total", source.facts.relation, column.name
        if rows.gathered.once(key, of) if isinstance(rows, FileRows) else of():
            yield column.name


def _names_a_total(source: Source, column: str) -> bool:
    """Whether a column of names has one of a total, or none among others; of many rows the first are looked at."""
    names = source.values(column)
    has_blank = source.are_few and "" in names and len(names) > 2
    said = map(naming, names)
    return has_blank or any(one.is_total or one is Naming.WHOLE for one in said) or any(map(is_total_name, names))


def _is_of_documents(source: Source, column: str) -> bool:
    """Whether nearly every row of a file has a name of its own, so that they are no categories."""
    return isinstance(source.rows, FileRows) and len(source.first_values(column)) > MOST_NAMED


def _check_documents(source: Source) -> None:
    """Raises Mistake where a row is called a total where others say of what document they are."""
    rows = source.rows
    if not isinstance(rows, FileRows) or not source.are_few:
        return
    for column in source.columns:
        if column.is_text and column.name not in source.roles.taken and _is_of_documents(source, column.name):
            ask = partial(rows.like, column.name, BEGINS_OR_ENDS_AS_TOTAL, _MOST_ASKED)
            of = [one for one in source.filters if one.column == column.name]
            found = rows.gathered.once(("totals", source.facts.relation, column.name), ask)
            if named := [one for one in found if all(its.keeps(one) for its in of) and _is_of_all(one)]:
                raise counted_with(source.name, column.name, named, "others, as the name says")


def _is_of_all(name: str) -> bool:
    """Whether a name is that of a total of common words, or of a period: 'Total costs', 'March total'."""
    rest = without_total_name(name)
    return is_named_total(name) or written(rest) is not None or period_alone(rest) is not None
