"""Which walk a waterfall asks for, and the comparisons that it is made from."""

from __future__ import annotations

from dataclasses import replace

from marvex.app.analysis import analyse, plans
from marvex.app.rolled_forward import is_rolled, rolled_ends
from marvex.app.session import Session
from marvex.core.compare.result import Analysis
from marvex.core.compare.totals import Total
from marvex.core.errors import Mistake, setting
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger


def suited(session: Session, request: Request) -> Request:
    """The request of the walk that the data ask for: movements and balances take no base, and keep their totals.

    Raises Mistake where the walk that is named cannot be walked.
    """
    settings = request.settings
    walk = settings.walk or _fitting_walk(session.ledger(request), request)
    if walk in ("change", "statement", "drivers", "matched"):
        return request.with_settings(replace(settings, walk=walk))
    if settings.versus and settings.versus != ("none",):
        raise Mistake(
            f"a walk of {walk}s takes no base",
            f"Leave {setting('versus')} out, or name categories with {setting('by')}.",
        )
    versus = () if settings.current else ("none",)
    fitting = request.with_settings(replace(settings, walk=walk, versus=versus))
    if settings.walk is None and not _rolls_forward(session, fitting):
        analyse(session, request)  # what no other call would add up is not walked either
    return fitting


def _rolls_forward(session: Session, request: Request) -> bool:
    book = session.ledger(request)
    return bool(rolled_ends(book, plans(book, request), request))


def stretches(session: Session, analysis: Analysis, request: Request) -> tuple[Analysis, Analysis]:
    """The two comparisons of `--via`: from the base to that scenario, and from it to the current side."""
    settings, comparison = request.settings, analysis.first.comparison
    now, then = comparison.current, comparison.base
    if settings.walk not in ("change", "statement") or then is None or settings.panels_by or settings.current:
        raise Mistake(
            f"{setting('via')} is about one walk from a scenario to another",
            f"Name a scenario with {setting('versus')}.",
        )
    if then.scenario is None or then.window != now.window or settings.via in (now.scenario, then.scenario):
        raise Mistake(
            f"{setting('via')} {settings.via} needs a base that is another scenario of the same days",
            f"Name it with {setting('versus')}, such as budget.",
        )
    window = (f"{now.window.first}/{now.window.end}",) if now.window else ()
    asked = replace(settings, for_=window, span=None, remark=(), remarks=None)
    first = analyse(session, request.with_settings(replace(asked, of=settings.via, versus=(then.scenario,))))
    second = analyse(session, request.with_settings(replace(asked, of=now.scenario, versus=(str(settings.via),))))
    return first, second


def _fitting_walk(book: Ledger, request: Request) -> str:
    settings, plan = request.settings, plans(book, request)[0]
    if book.statement is not None:
        return "movement" if plan.base is None and is_rolled(book.statement) else "statement"
    if settings.volume:
        return "drivers"
    if settings.deductions or settings.standing or settings.plug:
        return "movement"  # of which alone they are
    if (plan.every is None and plan.base is not None) or (settings.versus and settings.versus != ("none",)):
        return "change"
    return "balance" if request.total_as.way is Total.CLOSING else "movement"
