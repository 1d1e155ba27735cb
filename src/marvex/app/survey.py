"""`survey`: what is in a source, before anything is drawn."""

from __future__ import annotations

import contextlib
import shlex
from dataclasses import replace
from typing import Any

from marvex.app.adds_up import check_adds_up
from marvex.app.analysis import plan_of
from marvex.app.balances import check_balances
from marvex.app.checks import check_sources
from marvex.app.comparing import compared
from marvex.app.kinds import accounts_listed, check_kinds
from marvex.app.like_with_like import with_periods_checked
from marvex.app.odd_months import odd_times_of
from marvex.app.outputs import Outputs, check_request
from marvex.app.session import Session
from marvex.app.totals_among import totals_in_other_columns
from marvex.app.values_by_month import check_other_kinds
from marvex.app.versions import check_versions
from marvex.app.whole_periods import with_whole_periods
from marvex.core.compare.totals import parse_total_as
from marvex.core.errors import Mistake, offered, setting
from marvex.core.survey import Survey
from marvex.request.request import Request
from marvex.request.settings import Settings
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.surveying import surveyed
from marvex.tables.survey import survey_json

MOST_UNCLEAR = 6  # ways on that a survey takes by itself
_WAYS = (
    "total_as",
    "date",
    "headings_are",  # which takes all of several amounts
    "amount",
    "scenario",
    "numbers",
    "dates",
    "year",
    "sheet",
    "cells",
    "bad_cells",
    "source_sign",
    "by",
    "current",
    "where",
    "totals",  # which would add up what belongs to the others
)
_WAYS_OF_SIDES = ("of", "scenario", "where", "amount", "total_as", "spread", "statement", "versus")


def build_survey(session: Session, request: Request) -> tuple[Survey, Outputs]:
    """The survey of one source and its files; nothing is written yet."""
    check_request(request, (".json",))
    if len(request.sources) > 1:
        raise Mistake("a survey is of one source", "Survey the sources one by one.")
    book, unclear, said = read_somehow(session, request, is_held=True)
    settings = request.settings
    unclear += unlike_sides(session, book, request, said, by_statement=True)
    said |= {field: getattr(settings, field)[0] for field in ("table", "query") if getattr(settings, field)}
    adds_up = parse_total_as(said.get("total_as", settings.total_as), settings.per).adds_up
    taken = tuple(setting(field, one) for field, value in said.items() for one in each_of(value))
    survey = surveyed(book, request.sources[0].path, taken, adds_up=adds_up)
    odd = (replace(one, source="").caution for one in odd_times_of(book))
    cautions = tuple(session.word(one) for one in (*unclear, *survey.cautions, *odd))
    following, left_out = (tuple(session.word(one) for one in texts) for texts in (survey.next, survey.left_out))
    if said.get("statement") == "none":  # which takes the lines for no statement: one is written first
        file = shlex.quote(request.sources[0].path)
        listed, account = accounts_listed(book.first, said.get("account") or next(iter(book.first.roles.by), ""))
        its = "" if account is None else f" {session.word(setting('account', account))}"
        begun = file if listed == book.first.file.title else shlex.quote(listed)
        following = (f"marvex begin {begun} --write statement{its} -o statement.toml",)
        if book.first.roles.amounts:  # a list of accounts has none
            following += (f"marvex table {file} --statement statement.toml{its}",)
    survey = replace(survey, cautions=cautions, next=following, left_out=left_out)
    outputs = Outputs()
    for path in request.settings.output:
        outputs.add(path, survey_json(survey))
    return survey, outputs


def read_somehow(
    session: Session, request: Request, *, is_held: bool = False
) -> tuple[Ledger, list[str], dict[str, Any]]:
    """The source read; where a role or a total is unclear, as the first way on has it.

    Gives what was unclear, in words, and the settings that were taken, several conditions as a list. Only what cannot
    be read at all stops it.
    """
    unclear: list[str] = []
    taken: dict[str, Any] = {}
    for _ in range(MOST_UNCLEAR):
        try:
            return session.ledger(request, is_held=is_held), unclear, taken
        except Mistake as mistake:
            way = _way_on(mistake, request.settings)
            if way is None:
                raise
            field, value = way
            if field == "current":  # which are sides only together
                taken["base"] = offered(mistake)["base"]
                request = _with(request, "base", taken["base"])
            request = _with(request, field, value)
            unclear.append(f"unclear: {mistake.what}; taken here with {setting(field, value)}")
            _take(taken, field, value)
    return session.ledger(request, is_held=is_held), unclear, taken


def unlike_sides(
    session: Session, book: Ledger, request: Request, taken: dict[str, Any], *, by_statement: bool = False
) -> list[str]:
    """What is unclear of the two sides as they stand; the first way on of each is added to `taken`.

    Parameters
    ----------
    by_statement : where a statement could be written that is the way on, though another goes on at once.
    """
    unclear = []
    for known, value in taken.items():
        for one in each_of(value):
            request = _with(request, known, one)
    for _ in range(MOST_UNCLEAR):
        try:
            _check_sides(session, book, request)
            break
        except Mistake as mistake:
            ways = offered(mistake)
            order = ("statement",) if by_statement and "write" in ways else _WAYS_OF_SIDES
            field = next((one for one in order if ways.get(one)), None)
            if field is None or ways[field] in each_of(taken.get(field, [])) or (field in taken and field != "where"):
                unclear.append(f"unclear: {mistake.what}. {mistake.mend}")
                break
            _take(taken, field, ways[field])
            if field == "statement":  # which is written first
                taken |= {one: ways[one] for one in ("account",) if by_statement and one in ways}
                unclear.append(f"unclear: {mistake.what}")
                break
            unclear.append(f"unclear: {mistake.what}; taken here with {setting(field, ways[field])}")
            request = _with(request, field, ways[field])
            with contextlib.suppress(Mistake):
                book = session.ledger(request)
    return unclear


def each_of(taken: str | list[str]) -> list[str]:
    """The values of a setting that was taken."""
    return taken if isinstance(taken, list) else [taken]


def _take(taken: dict[str, Any], field: str, value: str) -> None:
    taken[field] = [*each_of(taken.get(field, [])), value] if field == "where" else value


def _check_sides(session: Session, book: Ledger, request: Request) -> None:
    """Raises Mistake where a table of the source as it stands would add up or compare what does not belong together."""
    check_sources(book, request)
    plan = plan_of(book, request.sides_asked(None, None, along_time=False), request.settings)
    with_whole_periods(book, plan, request.settings)
    check_adds_up(book, [plan], request)
    check_balances(book, [plan], request)
    check_versions(book, [plan], request)
    totals_in_other_columns(session, request, book, [plan], rolls=False)
    with_periods_checked(book, plan, request.settings)
    check_other_kinds(book, request)
    if book.width and request.total_as.adds_up:
        check_kinds(book, compared(book, plan, request.total_as, request.settings).comparison, request)


def _with(request: Request, field: str, value: str) -> Request:
    """The request with one more setting; of rows that are kept, fewer."""
    was = getattr(request.settings, field)
    more = (*was, value) if field == "where" else (value,)
    changed: dict[str, Any] = {field: more if isinstance(was, tuple) else value}
    settings = replace(request.settings, **changed)
    total_as = parse_total_as(settings.total_as, settings.per, settings.per_day)
    return replace(request, settings=settings, total_as=total_as)


def _way_on(mistake: Mistake, settings: Settings) -> tuple[str, str] | None:
    """The setting by which a survey goes on after a mistake; None where there is none."""
    ways = offered(mistake)
    for field in _WAYS:
        was = getattr(settings, field)
        if field == "headings_are" and "deductions" in ways:
            continue  # which a survey cannot say
        of_one_side = field == "source_sign" and "=" in ways.get(field, "")  # which is no source of its own here
        is_new = not was or was == "sum" or (field == "where" and ways.get(field) not in was)
        if field in ways and is_new and not of_one_side:
            return field, ways[field]
    # A table without a column of figures still has rows to count.
    is_without_figures = (
        mistake.field in ("amount", None) and settings.total_as in (None, "sum") and not settings.amount
    )
    return ("total_as", "count") if is_without_figures and "figures" in mistake.what else None
