"""The result that every picture, table and sentence is made of: judged comparisons and their facts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from itertools import groupby
from typing import TYPE_CHECKING

from marvex.core.compare.comparison import Comparison, last_compared
from marvex.core.compare.point import Better, Kind, Point, State
from marvex.core.compare.totals import TotalAs
from marvex.core.rules.bands import RuleSet
from marvex.core.rules.judging import Judged, judged_among, judged_steps
from marvex.core.structure.statement import Statement
from marvex.core.values import dataclass
from marvex.core.words.side_names import SideNames, capitalised
from marvex.core.words.since_words import since_notes
from marvex.core.words.units import FigureFormat
from marvex.core.words.wording import finding, matched_notes, not_shown_notes

if TYPE_CHECKING:
    from marvex.core.compare.since import Since

LONE = (State.NEW, State.ENDED)


def with_remarks(analysis: Analysis, remarks: Sequence[Remark]) -> Analysis:
    """The analysis with remarks, numbered in the order of their points."""
    order = [_place(judged.point) for judged in analysis.first.shown]
    return replace(analysis, remarks=tuple(sorted(remarks, key=lambda one: order.index(_place(one.point)))))


def of_changes(analysis: Analysis) -> Analysis:
    """The analysis of a column of differences: its amounts are the changes, and judged as such, of a base unknown."""
    one = analysis.first
    points = tuple(point.as_though_zero() for point in one.comparison.points)
    changed = replace(one, comparison=replace(one.comparison, points=points), points=judged_among(points, one.rules))
    return replace(analysis, comparisons=(changed, *analysis.comparisons[1:]))


def _place(point: Point) -> tuple[str | None, int | None, str]:
    return point.panel, point.row, point.label


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SourceFacts:
    """What a picture says of its source."""

    name: str
    rows_read: int
    rows_used: int
    counted: str = "rows"  # or "cells", where a row holds several facts
    part: str = ""  # the sheet that was asked for, and the title above a table that says nothing else of its time


@dataclass(frozen=True, slots=True)
class Check:
    """A check by name, and by how much it fails: zero where it holds."""

    name: str
    difference: Decimal

    @property
    def ok(self) -> bool:
        return not self.difference


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class JudgedComparison:
    """One comparison with its rule, its points' bands, its words and its checks."""

    comparison: Comparison
    rules: RuleSet
    points: tuple[Judged, ...]
    panel_totals: tuple[Judged, ...]
    total: Judged
    names: SideNames
    ties_out: Check
    rows_used: int

    @property
    def heads_of_panels(self) -> tuple[Judged, ...]:
        """What stands for each panel: its total, or of points without one the last that can be compared."""
        if not self.comparison.is_chained:
            return self.panel_totals
        heads = []
        for one in self.panel_totals:
            within = [judged for judged in self.points if judged.point.panel == one.point.panel]
            last = last_compared([judged.point for judged in within])
            heads.append(next((judged for judged in within if judged.point is last), one))
        return tuple(heads)

    @property
    def shown(self) -> tuple[Judged, ...]:
        """All points in the order in which they are shown: each panel with its total, and the total."""
        found = []
        totals = {one.point.panel: one for one in self.panel_totals}
        for panel, points in groupby(self.points, key=lambda one: one.point.panel):
            found += list(points)
            if panel in totals and self.comparison.has_total:
                found.append(totals[panel])
        return (*found, self.total) if self.comparison.has_total else tuple(found)

    @property
    def as_steps(self) -> JudgedComparison:
        """The same as a waterfall's steps are: what is new or ended moves the total by all of its amount."""
        steps = judged_steps(self.comparison, self.rules)
        points = (
            Judged(replace(one.point, is_whole_step=True), step.band) if one.point.state in LONE else one
            for one, step in zip(self.points, steps, strict=True)
        )
        return replace(self, points=tuple(points))


@dataclass(frozen=True, slots=True)
class Remark:
    """An analyst's own note pinned to a point; its number is its place among them, from 1."""

    point: Point
    text: str


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Analysis:
    """All that a picture or table is made of."""

    source: SourceFacts
    comparisons: tuple[JudgedComparison, ...]
    figures: FigureFormat
    subject: str
    by: str  # the columns compared by, or the statement, in words; empty where every row is a category
    filtered: str  # the filters as they are written, empty where there are none
    kept: str  # the same in words: 'only account 5100, without Parking'
    total_as: TotalAs
    said: tuple[str, ...]  # what was worked out or chosen, for the terminal
    cautions: tuple[str, ...]
    reservations: tuple[str, ...]  # what may be wrong with the figures themselves
    fairness: tuple[str, ...]  # those of the cautions that are about the comparison, not about the reading
    left_out: tuple[str, ...] = ()  # what only one side has, where that was not wanted
    remarks: tuple[Remark, ...] = ()
    statement: Statement | None = None  # whose lines the points are
    kept_totals: tuple[str, ...] = ()  # rows that are added up with their own parts, as was asked
    spread: tuple[str, ...] = ()  # what was spread over shorter periods, in words
    since: Since | None = None  # what has changed since an earlier run
    since_is_gate: bool = False  # such a change ends the command with status 1
    show: tuple[str, ...] | None = None  # the columns of figures that a table has, where they were asked for
    verified: Check | None = None  # every figure was found a second time from the rows, where that was asked for
    notes_on_source: tuple[str, ...] = ()  # how each total of a found statement is made, for who asks

    def remarks_on(self, point: Point) -> tuple[tuple[int, Remark], ...]:
        """The remarks that are pinned to a point, with their numbers; a closing bar has those on the total."""
        if point.kind is Kind.CLOSING:
            point = self.first.comparison.total
        return tuple(
            (number, one) for number, one in enumerate(self.remarks, 1) if _place(one.point) == _place(point)
        )

    def mark(self, point: Point) -> str:
        """What stands behind a point's name where it has remarks or was restated: ' [1]', ' (restated)', nothing."""
        restated = {one.point.key for one in self.since.restated} if self.since else set()
        is_restated = (point.panel, point.label) in restated
        return "".join(f" [{number}]" for number, _ in self.remarks_on(point)) + " (restated)" * is_restated

    @property
    def notes(self) -> tuple[str, ...]:
        """What stands under a picture or table: what is in doubt, what is matched and what is not, and the remarks."""
        matched = (
            note
            for one in self.comparisons
            for note in matched_notes(one.comparison, self.figures, adds_up=self.total_as.adds_up_over_time)
        )
        left_out = (
            note
            for one in self.comparisons
            for note in not_shown_notes(one.comparison, self.figures, adds_up=self.total_as.adds_up)
        )
        remarks = (f"[{number}] {one.text}" for number, one in enumerate(self.remarks, 1))
        changed = since_notes(self.since, self.figures) if self.since else ()
        doubted = map(capitalised, self.reservations)
        not_comparable = map(capitalised, self.left_out)
        return (*doubted, *dict.fromkeys(matched), *dict.fromkeys(left_out), *not_comparable, *changed, *remarks)

    @property
    def checks(self) -> tuple[Check, ...]:
        """The checks that it has passed: it would not be there had it not."""
        complete = () if self.statement is None else (Check("statement complete", Decimal(0)),)
        verified = () if self.verified is None else (self.verified,)
        return (self.first.ties_out, *complete, *verified)

    @property
    def first(self) -> JudgedComparison:
        return self.comparisons[0]

    @property
    def finding(self) -> str:
        """The default title."""
        return self.finding_of(self.first.comparison)

    def finding_of(self, comparison: Comparison) -> str:
        """The title of a comparison with the words of the first."""
        one = self.first
        is_spending = one.rules.better_for(comparison.headline) is Better.DOWN
        return finding(comparison, self.subject, self.figures, one.names, is_spending=is_spending)
