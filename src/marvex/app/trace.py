"""`trace`: both sides of one figure, and the largest rows behind it."""

from __future__ import annotations

from decimal import Decimal

from marvex.app.analysis import analysed
from marvex.app.built import Built
from marvex.app.outputs import Outputs, check_request
from marvex.app.session import Session
from marvex.core.compare.lookup import judged_at
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis
from marvex.core.compare.shown import shown_table
from marvex.core.compare.side import Side
from marvex.core.compare.trace import Trace, TracedLine, TracedSide
from marvex.core.errors import Mistake, setting
from marvex.core.words.units import MINUS
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger
from marvex.tables.trace import trace_json


def build_trace(session: Session, request: Request) -> tuple[Built, Trace]:
    """What stands behind one figure, and its files; nothing is written yet."""
    check_request(request, (".json",))
    analysis, trace = _traced(session, request)
    outputs = Outputs()
    for path in request.settings.output:
        outputs.add(path, trace_json(trace, analysis))
    return Built(shown_table(analysis), outputs, request.settings), trace


def traces_of(book: Ledger, analysis: Analysis, most: int) -> tuple[Trace, ...]:
    """What stands behind every figure shown of the first comparison, asked for together; of totals no rows.

    Parameters
    ----------
    most : rows of each side of each figure.
    """
    comparison = analysis.first.comparison
    sides = [judged.point.sides(comparison.current, comparison.base) for judged in analysis.first.shown]
    spans = list(dict.fromkeys(side.span for both in sides for side in both if side is not None))
    cells = {(spans[one.place], one.category): one for one in (book.cells(spans) if book.width else ())}
    largest = book.largest_of_each(spans, most)
    wholes = book.totals(spans)

    def side_of(point: Point, side: Side | None, amount: Decimal | None) -> TracedSide | None:
        if side is None:
            return None
        if amount is None or point.group is not None or point.gathered:
            return TracedSide(side=side, amount=amount, rows=0, largest=())
        if point.kind is Kind.TOTAL and point.panel is None:
            return TracedSide(side=side, amount=amount, rows=wholes[side.span].rows, largest=())
        key = side.span, point.category or ""
        cell = cells.get(key)
        if cell is not None and cell.amount != amount:  # of one period only, as the opening of a list that rolls on
            return TracedSide(side=side, amount=amount, rows=0, largest=())
        return TracedSide(side=side, amount=amount, rows=cell.rows if cell else 0, largest=largest.get(key, ()))

    found = []
    for judged, (now, then) in zip(analysis.first.shown, sides, strict=True):
        point = judged.point
        current = side_of(point, now or comparison.current, point.current)
        base = side_of(point, then, point.base) if comparison.base else None
        assert current is not None
        found.append(Trace(judged, current, base, _lines_of(analysis, point)))
    return tuple(found)


def _traced(session: Session, request: Request) -> tuple[Analysis, Trace]:
    book = session.ledger(request)
    analysis = analysed(book, request, session)
    judged = judged_at(analysis, request.settings.at or "")
    point, comparison = judged.point, analysis.first.comparison
    if point.gathered:
        raise Mistake(
            f"{setting('at')}: '{point.category}' is {point.gathered} categories together",
            f"Name one of them, and leave {setting('keep')} out.",
        )
    lines = _lines_of(analysis, point)
    if lines:
        now, then = point.sides(comparison.current, comparison.base)
        made = TracedSide(side=now or comparison.current, amount=point.current, rows=0, largest=())
        base = None if then is None else TracedSide(side=then, amount=point.base, rows=0, largest=())
        return analysis, Trace(judged, made, base, lines)
    among = None if point.kind is Kind.TOTAL and not point.panel and point.is_cost is None else point.category
    now, then = point.sides(comparison.current, comparison.base)
    most = request.settings.trace_rows
    current = _traced_side(book, now or comparison.current, point.current, among, most)
    base = _traced_side(book, then or comparison.base, point.base, among, most) if comparison.base else None
    return analysis, Trace(judged, current, base)


def _lines_of(analysis: Analysis, point: Point) -> tuple[TracedLine, ...]:
    """The lines that a statement's total adds, or that its ratio divides, of the point's own period or panel."""
    statement = analysis.statement
    line = None if statement is None else statement.line(point.category or "")
    if statement is None or line is None or not (line.total_of or line.ratio_of):
        return ()
    beside = [one for one in analysis.first.comparison.points if (one.pair, one.group) == (point.pair, point.group)]
    known = {one.category: one for one in beside}
    if line.ratio_of:
        signs = dict(zip(line.ratio_of, ("", "÷"), strict=True))
    else:
        signs = {part: "+" if statement.line(part).sign_in(line) > 0 else MINUS for part in line.total_of}
    return tuple(
        TracedLine(label=part, how=how, current=known[part].current, base=known[part].base)
        for part, how in signs.items()
        if part in known
    )


def _traced_side(book: Ledger, side: Side | None, amount: Decimal | None, among: str | None, most: int) -> TracedSide:
    assert side is not None
    if amount is None:
        return TracedSide(side=side, amount=None, rows=0, largest=())
    rows = book.totals([side.span], None if among is None else [among])[side.span].rows
    return TracedSide(side=side, amount=amount, rows=rows, largest=book.largest_rows(side.span, among, most))
