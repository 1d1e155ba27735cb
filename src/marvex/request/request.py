"""What is asked, read and checked once: the settings of a call or of a view of a pack, and what they name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.point import Better
from marvex.core.compare.totals import Total, TotalAs, parse_total_as
from marvex.core.errors import Mistake, setting
from marvex.core.rules.bands import NamedRule, RuleSet
from marvex.core.structure.statement import Statement
from marvex.core.time.base_window import Pairing
from marvex.core.time.calendar import Calendar, Grain
from marvex.core.time.notation import read_calendar, read_widening
from marvex.core.time.widening import Reach, Widening
from marvex.core.values import dataclass
from marvex.request import checks
from marvex.request.axis import has_period_panels
from marvex.request.per_source import NamedSource, named_sources
from marvex.request.place import Place
from marvex.request.rule_file import READY, rules_from
from marvex.request.settings import Settings
from marvex.request.statement_file import statement_from


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Request:
    """One view, table or commentary as it is asked for.

    Parameters
    ----------
    place : the command or view.
    statement : of the file that is named.
    rules : the analyst's own; None where a ready rule is to be taken.
    since_name : what the earlier run is called, where not by its file; it is then told of only where it differs.
    """

    place: Place
    sources: tuple[NamedSource, ...]
    settings: Settings
    total_as: TotalAs
    calendar: Calendar
    statement: Statement | None
    rules: RuleSet | None
    since_name: str = ""

    def sides_asked(
        self, window: str | None, versus: str | None, scenario: str | None = None, *, along_time: bool
    ) -> SidesAsked:
        """What is said of the two sides of one comparison."""
        settings = self.settings
        every = settings.panels_by if has_period_panels(settings) else settings.every
        return SidesAsked(
            window=window,
            scenario=scenario or settings.of,
            versus=versus,
            as_of=settings.as_of,
            today=date.today(),
            full_base=settings.full_base,
            absent=settings.absent,
            calendar=self.calendar,
            along_time=along_time,
            every=Grain(every) if every else None,
            span=read_widening(settings.span, "span") if settings.span else None,
            cumulative=_cumulative(settings.cumulative) if settings.cumulative else None,
            pairing=_pairing(settings),
        )

    @property
    def adds_unasked(self) -> bool:
        """Whether amounts are added up, those of one date at least, and nobody asked for their sum in so many words."""
        adds = self.total_as.adds_rows and self.total_as.needs_amounts
        return adds and (self.settings.total_as is None or self.total_as.way is not Total.SUM)

    def with_settings(self, settings: Settings) -> Request:
        """The same with other settings of windows, bases and figures."""
        return replace(self, settings=settings)


def request_of(sources: Sequence[str], settings: Settings, place: Place) -> Request:
    """The request of a call; raises Mistake where settings contradict, or a file that they name is wrong."""
    checks.check(settings, place)
    total_as = parse_total_as(settings.total_as, settings.per, settings.per_day, settings.holidays)
    file = settings.statement_file
    statement = None if file is None else statement_from(file, settings.unmapped)
    if statement is not None and not total_as.adds_up:
        raise Mistake(f"a statement adds its lines up, and {total_as.spoken} does not add up", "Leave one out.")
    return Request(
        place=place,
        sources=named_sources(sources),
        settings=settings,
        total_as=total_as,
        calendar=read_calendar(settings.year_starts, settings.year_named, settings.weeks, settings.year_ends),
        statement=statement,
        rules=_rules(settings),
    )


def _rules(settings: Settings) -> RuleSet | None:
    """The rules that are given in words or in a file; None where a ready one is to be taken."""
    better = Better(settings.better) if settings.better else None
    if settings.band:
        from marvex.core.rules.language import parse_rule

        return RuleSet((NamedRule(rule=parse_rule(settings.band)),), better)
    if settings.rule and settings.rule not in READY:
        return RuleSet(rules_from(settings.rule), better)
    return None


def _pairing(settings: Settings) -> Pairing | None:
    if settings.match is None and settings.leap is None:
        return None
    return Pairing(settings.match == "weekday", settings.leap == "feb28")


def _cumulative(text: str) -> Widening:
    found = read_widening(text, "cumulative")
    if found.reach not in (Reach.YEAR_TO_DATE, Reach.ROLLING):
        raise Mistake(f"{setting('cumulative')}: there is no '{text}'", "There are year-to-date and rolling:12.")
    return found
