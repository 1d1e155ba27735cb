"""`trace`: both sides of one figure, and the largest rows behind it."""

from __future__ import annotations

from decimal import Decimal

from marvex.app.analysis import analysed
from marvex.app.built import Built
from marvex.app.outputs import Outputs, check_outputs
from marvex.app.session import Session
from marvex.core.compare.lookup import judged_at
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis
from marvex.core.compare.shown import shown_table
from marvex.core.compare.side import Side
from marvex.core.compare.trace import Trace, TracedSide
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.statement import Statement
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger
from marvex.tables.trace import trace_json

TRACED_ROWS = 5


def build_trace(session: Session, request: Request) -> tuple[Built, Trace]:
    """What stands behind one figure, and its files; nothing is written yet."""
    check_outputs(request.settings.output, (".json",), "output")
    analysis, trace = _traced(session, request)
    outputs = Outputs()
    for path in request.settings.output:
        outputs.add(path, trace_json(trace, analysis))
    return Built(shown_table(analysis), outputs, request.settings), trace


def _traced(session: Session, request: Request) -> tuple[Analysis, Trace]:
    book = session.ledger(request)
    analysis = analysed(book, request, session)
    judged = judged_at(analysis, request.settings.at or "")
    point, comparison = judged.point, analysis.first.comparison
    if analysis.statement is not None:
        _check_traceable(analysis.statement, point)
    among = None if point.kind is Kind.TOTAL and not point.panel and point.is_cost is None else point.category
    now, then = point.sides(comparison.current, comparison.base)
    current = _traced_side(book, now or comparison.current, point.current, among)
    base = _traced_side(book, then or comparison.base, point.base, among) if comparison.base else None
    return analysis, Trace(judged, current, base)


def _check_traceable(statement: Statement, point: Point) -> None:
    """Stops where a line has no rows of its own: it is made of lines."""
    line = statement.line(point.category or "")
    if not line.accounts and (line.total_of or line.ratio_of):
        parts = listed(line.total_of or line.ratio_of or ())
        raise Mistake(
            f"{setting('at')}: '{line.label}' is made of lines, not of rows", f"Trace one of them: {parts}."
        )


def _traced_side(book: Ledger, side: Side | None, amount: Decimal | None, among: str | None) -> TracedSide:
    assert side is not None
    if amount is None:
        return TracedSide(side=side, amount=None, rows=0, largest=())
    rows = book.totals([side.span], None if among is None else [among])[side.span].rows
    return TracedSide(side=side, amount=amount, rows=rows, largest=book.largest_rows(side.span, among, TRACED_ROWS))
