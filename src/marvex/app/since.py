"""`--since`: the points of an earlier run are asked again of today's source, each of its own days."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from fractions import Fraction
from pathlib import Path

from marvex.app.session import Session
from marvex.app.since_moved import gone_of, lines_today, named_as_today, names_today, renamed_in
from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Kind, PanelsOf, Point
from marvex.core.compare.result import Analysis
from marvex.core.compare.scenarios import Outlook, ScenarioDates, current_scenarios
from marvex.core.compare.side import Span
from marvex.core.compare.since import Days, EarlierPoint, EarlierSide, Gone, Rebanded, Restated, Since, runs_without
from marvex.core.errors import Mistake, setting
from marvex.core.exact import ZERO, total
from marvex.core.rules.bands import WHERE_MET
from marvex.core.rules.conditions import Quantity
from marvex.core.rules.judging import Judged
from marvex.core.structure.statement import Statement, StatementLine
from marvex.core.values import dataclass
from marvex.core.words.since_words import since_doubts
from marvex.core.words.units import exact_ratio
from marvex.request.asked import asked_otherwise
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger

# What is made of others depends on which others those are.
_GATHERED = re.compile(r"Other(?: income| costs)? \(\d+\)")
STANDING_AT_ENDS = ("opening", "closing")
_OF_FELLOWS = (Quantity.SHARE, Quantity.RANK, Quantity.UNUSUAL, Quantity.CONTRIBUTION)
Amounts = tuple[Decimal | None, Decimal | None]
Key = tuple[int, str | None, str]
BothSides = tuple[EarlierSide, EarlierSide]
BothDays = tuple[Days | None, Days | None]
Left = tuple[tuple[Days, ...], tuple[Days, ...]]
NOTHING_LEFT: Left = ((), ())
Names = tuple[str, str]  # a category and a part of it, each possibly empty: all of them
Made = tuple[tuple[int, Names], ...]  # what a figure is the sum of, each with its sign


@dataclass(frozen=True, slots=True, kw_only=True)
class _Again:
    """What a point is today; its span and its category are those that its rows are asked by, where it has rows."""

    amounts: Amounts
    band: str | None
    spans: tuple[Span | None, Span | None]
    category: str


def with_since(session: Session, request: Request, analysis: Analysis, path: Path) -> Analysis:
    """The analysis with what has changed since an earlier run, whose figures are in a file."""
    from marvex.request.figures_file import earlier_run

    book = session.ledger(request)
    try:
        run = earlier_run(path)
    except Mistake as problem:
        if not request.since_name:
            raise
        what = f"{path.name} of {request.since_name} is not the figures of a view"
        raise Mistake(what, f"Remove {path}, which a later edition has again.") from problem
    names = names_today(run.points, book.scenarios)
    points = [named_as_today(one, names) for one in run.points]
    held = {names.get(name, name): day for name, day in run.held.items()}
    again = _Asking(book, analysis, request)
    restated, rebanded, same_as_then = [], [], 0
    gone: dict[Gone, None] = {}
    told: set[object] = set()  # several comparisons may have one current side
    for point, today in (*again.of(points), *again.new_beside(points)):
        is_whole = True
        for place, was, now in zip((0, 1), point.amounts, today.amounts, strict=True):
            days = (point.days, point.base_days)[place]
            same = (point.key, point.sides[place], days, was)
            if was == now and was is not None:
                same_as_then += 1
            if was == now or (days is None and was is None) or same in told:
                continue
            if lost := again.gone(point.sides[place], days, held):
                gone[lost] = None
                is_whole = False
                continue
            told.add(same)
            span = today.spans[place]
            restated.append(
                Restated(point=point, is_base=bool(place), was=was, now=now, span=span, category=today.category)
            )
        # What is called otherwise now is no other band.
        known = point.band if is_whole and point.band in again.bands else None
        if known is not None and today.band is not None and today.band != known:
            rebanded.append(Rebanded(point=point, was=known, now=today.band))
    renamed = renamed_in(book, restated, [one.label for one in points], analysis.first.comparison.points)
    since = Since(
        file=request.since_name or path.name,
        restated=tuple(restated),
        rebanded=tuple(rebanded),
        same=same_as_then,
        asked_otherwise=tuple(session.word(setting(one)) for one in asked_otherwise(run.asked, request.settings)),
        gone=(*gone, *again.lacking),
        renamed=renamed,
        lines=lines_today(run.lines, analysis.statement, renamed),
    )
    if request.since_name and since.says_nothing:
        return analysis
    doubts = since_doubts(since, analysis.figures.locale)
    cautions = (*analysis.cautions, *doubts)
    return replace(analysis, since=since, since_is_gate=request.settings.since_gate, cautions=cautions)


class _Asking:
    """Asks what earlier points are today: of today's points where those are of the same days, else of the rows."""

    def __init__(self, book: Ledger, analysis: Analysis, request: Request) -> None:
        self.book, self.analysis, self.request = book, analysis, request
        points = analysis.first.comparison.points
        self.panels = next((one.panels for one in points), PanelsOf.NOTHING)
        self.dates = {one.name: one for one in book.scenarios}
        self.bands = {band.name for one in analysis.comparisons for band in one.rules.legend(WHERE_MET)}
        self.today: dict[Key, tuple[Judged, BothSides, BothDays, Left]] = {}
        for place, one in enumerate(analysis.comparisons):
            standing = (*one.panel_totals, one.total) if one.comparison.base else ()
            keyed = [((judged.point.panel, judged.point.label), judged) for judged in one.shown]
            keyed += [((whole.point.panel, kind), whole) for whole in standing for kind in STANDING_AT_ENDS]
            for (panel, label), judged in keyed:
                is_whole = self._is_whole(judged.point.kind.value, panel)
                left = _left_of(one.comparison) if is_whole else NOTHING_LEFT
                self.today[place, panel, label] = (judged, *_asked_of(one.comparison, judged.point), left)
        self.lacking: dict[Gone, None] = {}
        # What drove a change is worked out, and no row is of it.
        self.drivers = {driver.name for one in points for driver in one.drivers}

    def of(self, points: Sequence[EarlierPoint]) -> Iterator[tuple[EarlierPoint, _Again]]:
        """Each of the points that can be asked for again, with what it is today."""
        made_of = [self._made_of(point, points) for point in points]
        figures = self._figures(
            [
                (point, names)
                for point, made in zip(points, made_of, strict=True)
                if not self._is_shown(point)
                for _, names in made
            ]
        )
        for point, made in zip(points, made_of, strict=True):
            if self._is_shown(point):
                amounts, band = self._shown_again(point)
            elif made:
                amounts, band = self._asked_again(point, made, figures)
            elif self._has_lapsed(point):
                yield point, _Again(amounts=(None, None), band=None, spans=(None, None), category=point.label)
                continue
            else:
                continue
            names = made[0][1] if len(made) == 1 and not made[0][1][1] else None
            spans = (self._span(point, 0), self._span(point, 1)) if names else (None, None)
            yield point, _Again(amounts=amounts, band=band, spans=spans, category=names[0] if names else "")

    def new_beside(self, points: Sequence[EarlierPoint]) -> Iterator[tuple[EarlierPoint, _Again]]:
        """The categories that have figures today of days on which they had none, where all were shown then."""
        settings, one = self.request.settings, self.analysis.first.comparison
        has_some_only = settings.keep is not None or settings.comparable or self.analysis.statement is not None
        is_of_others = self.panels is not PanelsOf.NOTHING or one.is_along_time or not self.book.width
        if has_some_only or is_of_others or any(self._is_worked_out(point) for point in points):
            return
        shown: dict[tuple[int, BothSides, BothDays], dict[str, EarlierPoint]] = {}
        for point in points:
            if point.kind in ("point", "step") and self._made_of(point, points):
                shown.setdefault((point.comparison, point.sides, (point.days, point.base_days)), {})[point.label] = (
                    point
                )
        for known in shown.values():
            like = next(iter(known.values()))
            spans = (self._span(like, 0), self._span(like, 1))
            found: dict[str, list[Decimal | None]] = {}
            for place, span in enumerate(spans):
                for cell in () if span is None else self.book.cells([span]):
                    if cell.amount and cell.category not in known:
                        found.setdefault(cell.category, [None, None])[place] = cell.amount
            for category, (now, then) in found.items():
                nothing = replace(like, label=category, kind="point", current=None, base=None, change=None, band=None)
                yield nothing, _Again(amounts=(now, then), band=None, spans=spans, category=category)

    def _key(self, point: EarlierPoint) -> Key:
        """Where it is among today's; a standing bar where the total is that it stands for."""
        return point.comparison, point.panel, point.kind if point.kind in STANDING_AT_ENDS else point.label

    def _like(self, point: EarlierPoint) -> Judged | None:
        """The point of that name today, whatever its days are."""
        found = self.today.get(self._key(point))
        return found[0] if found else None

    def _is_shown(self, point: EarlierPoint) -> bool:
        """Whether the same point is shown today, of the same scenarios and days."""
        found = self.today.get(self._key(point))
        asked = (point.sides, (point.days, point.base_days), self._left(point))
        return found is not None and not found[0].point.gathered and found[1:] == asked

    def _has_lapsed(self, point: EarlierPoint) -> bool:
        """Whether a point without days is of a category that a source without dates no longer has."""
        is_own = point.kind in ("point", "line", "step") and not _is_gathered(point) and not point.panel
        has_days = point.days or point.base_days or any(one.first for one in self.book.scenarios)
        is_known = self._like(point) is not None or point.label in self.book.known_categories
        return is_own and not has_days and not is_known

    def _is_whole(self, kind: str, panel: str | None) -> bool:
        """Whether a point is over the whole of the sides, and no period of them."""
        if self.analysis.first.comparison.every is None:
            return True
        return kind in ("total", *STANDING_AT_ENDS) and (self.panels is not PanelsOf.PERIODS or panel is None)

    def _left(self, point: EarlierPoint) -> Left:
        """The days of each side that are not in it, though they are between its first and last."""
        return point.left if self._is_whole(point.kind, point.panel) else NOTHING_LEFT

    def _made_of(self, point: EarlierPoint, points: Sequence[EarlierPoint]) -> Made:
        """What of the rows it is the sum of; nothing where it is worked out, or no sum."""
        if (point.days is None and point.base_days is None) or not all(self._is_known(side) for side in point.sides):
            return ()
        like = self._like(point)
        statement, adds_up = self.analysis.statement, self.analysis.total_as.adds_up
        if like.point.gathered if like else _is_gathered(point):
            of_rest = self._made_of_lines(point, points) if statement else self._made_of_rest(point, points)
            return of_rest if adds_up else ()
        if point.kind in ("ratio", "subtotal") or (point.kind == "step" and self._is_worked_out(point)):
            return ()
        if point.kind in STANDING_AT_ENDS and self.analysis.first.comparison.base is None:
            return ()
        if statement is None or point.kind not in ("total", *STANDING_AT_ENDS):
            return ((1, self._names_of(point)),)
        line = statement.result if point.kind in STANDING_AT_ENDS else _line_named(statement, point)
        of_total = statement.counts_in(line) if line and self.panels is not PanelsOf.GROUPS else {}
        return tuple((sign, (label, "")) for label, sign in of_total.items())

    def _is_worked_out(self, step: EarlierPoint) -> bool:
        return step.label in self.drivers or self.request.settings.walk == "matched"

    def _made_of_rest(self, rest: EarlierPoint, points: Sequence[EarlierPoint]) -> Made:
        """All, without what was kept beside an Other: the points of its panel, or the same period of other panels."""
        are_panels = self.panels is PanelsOf.CATEGORIES
        place = rest.label if are_panels else rest.panel
        whole = (rest.panel or "", "") if self.panels is PanelsOf.GROUPS else ("", "")
        kept = [
            self._names_of(one)
            for one in points
            if (one.comparison, one.days, one.base_days) == (rest.comparison, rest.days, rest.base_days)
            and (one.label if are_panels else one.panel) == place
            and (one.kind == "total") == (rest.kind == "total")
            and one is not rest
            and one.kind not in STANDING_AT_ENDS
        ]
        return ((1, whole), *((-1, names) for names in kept if names != whole))

    def _made_of_lines(self, rest: EarlierPoint, points: Sequence[EarlierPoint]) -> Made:
        """The lines of one sign that were not kept beside 'Other costs (5)'."""
        statement = self.analysis.statement
        assert statement is not None
        kept = {one.label for one in points if one.comparison == rest.comparison}
        sign = -1 if rest.label.startswith("Other costs") else 1
        counts = statement.counts_in(statement.result) if statement.result else {}
        return tuple((1, (label, "")) for label, own in counts.items() if own == sign and label not in kept)

    def _names_of(self, point: EarlierPoint) -> Names:
        """What its rows are of."""
        is_whole, panel = point.kind in ("total", *STANDING_AT_ENDS), point.panel or ""
        match self.panels:
            case PanelsOf.CATEGORIES:
                return panel, ""
            case PanelsOf.PERIODS:
                return "" if is_whole else point.label, ""
            case PanelsOf.GROUPS if is_whole:
                return panel, ""
            case PanelsOf.GROUPS:
                return (panel, point.label) if self.analysis.statement is None else (point.label, panel)
        is_of_all = is_whole or self.analysis.first.comparison.is_along_time or not self.book.width
        return "" if is_of_all else point.label, ""

    def _is_known(self, side: EarlierSide) -> bool:
        """Whether the rows of a side can be told: of an outlook, where its actuals ended.

        Raises Mistake where the data have no such scenario, and the file was named by the call.
        """
        if side.scenario in self.dates:
            return True
        try:
            self._parts_of(side)
        except Mistake:
            if self.request.since_name:  # of an edition that is told, since nobody chose it
                self.lacking[Gone(scenario=side.scenario)] = None
                return False
            raise Mistake(
                f"{setting('since')} {Path(str(self.request.settings.since)).name} is of {side.scenario}, "
                "and the data have no such scenario",
                "Name the figures of a run of scenarios that the data have.",
            ) from None
        return side.actual_to is not None

    def gone(self, side: EarlierSide, days: Days | None, held: Mapping[str | None, date]) -> Gone | None:
        """The days of a side of which the source has no rows any more; None where it is of them."""
        parts = [self.dates[side.scenario]] if side.scenario in self.dates else self._parts_of(side)
        found = [gone_of(side, days, part, held) for part in parts if part is not None]
        return found[0] if all(found) else None

    def _parts_of(self, side: EarlierSide) -> tuple[ScenarioDates, ScenarioDates | None]:
        return current_scenarios(self.book.scenarios, side.scenario)

    def _span(self, point: EarlierPoint, place: int) -> Span | None:
        """What is asked of a side; None where the point has no days on it."""
        side, days = point.sides[place], (point.days, point.base_days)[place]
        if days is None:
            return None
        runs = runs_without(days, self._left(point)[place])
        if side.scenario in self.dates:
            return Span(tuple(self.dates[side.scenario].stretch(*run) for run in runs))
        actual, forecast = self._parts_of(side)
        assert forecast is not None and side.actual_to is not None
        outlook = Outlook(actual, forecast, side.actual_to)
        return Span(tuple(stretch for run in runs for stretch in outlook.between(*run)))

    def _figures(self, asked: Sequence[tuple[EarlierPoint, Names]]) -> Mapping[tuple[Span, Names], Decimal | None]:
        """Today's figure of each span and name, as far as there is one."""
        spans: dict[str, dict[Span, None]] = {"whole": {}, "categories": {}, "parts": {}}
        for point, names in asked:
            level = "parts" if names[1] else "categories" if names[0] else "whole"
            spans[level] |= {span: None for place in (0, 1) if (span := self._span(point, place)) is not None}
        found: dict[tuple[Span, Names], Decimal | None] = {}
        for level, of_level in spans.items():
            listed = list(of_level)
            if not listed:
                continue
            cells = (
                self.book.parts(listed)
                if level == "parts"
                else self.book.cells(listed, by_category=level == "categories")
            )
            for cell in cells:
                found.setdefault((listed[cell.place], (cell.category, cell.part or "")), cell.amount)
        return found

    def _asked_again(
        self, point: EarlierPoint, made: Made, figures: Mapping[tuple[Span, Names], Decimal | None]
    ) -> tuple[Amounts, str | None]:
        """Its amounts in the rows of today, and the band that they would be in."""
        found: list[Decimal | None] = []
        for span in (self._span(point, 0), self._span(point, 1)):
            parts = [(sign, figures.get((span, names))) for sign, names in made] if span else []
            known = [amount if sign > 0 else -amount for sign, amount in parts if amount is not None]
            found.append(total(known) if known else None)
        now, then = found
        if point.state.startswith("not in"):
            now, then = (ZERO if amount is None else amount for amount in (now, then))
        amounts = _as_said(point, now, then)
        return amounts, self._band(point, amounts)

    def _shown_again(self, point: EarlierPoint) -> tuple[Amounts, str | None]:
        """The amounts and the band of the same point of today."""
        like = self._like(point)
        assert like is not None
        today = like.point
        now, then = today.current, today.base
        if point.is_movement:
            return (today.movement, None), None
        if today.kind is Kind.RATIO:
            now, then = (None if one is None else exact_ratio(Fraction(one)) for one in (now, then))
        # A waterfall judges its steps, and where a side is absent not as others do.
        is_judged = point.kind not in STANDING_AT_ENDS and not (point.kind == "step" and today.change is None)
        return _as_said(point, now, then), like.band.name if like.band and is_judged else None

    def _band(self, point: EarlierPoint, amounts: Amounts) -> str | None:
        """The band that it would be in today; None where that is not of the point alone."""
        like = self._like(point)
        is_line_unknown = like is None and self.analysis.statement is not None
        if point.kind == "total" or point.base_days is None or is_line_unknown:
            return None
        if point.comparison >= len(self.analysis.comparisons):
            return None
        rules = self.analysis.comparisons[point.comparison].rules
        if any(rules.asks_for(quantity) for quantity in _OF_FELLOWS):
            return None
        judged = like.point if like else Point(category=point.label, current=None, base=None)
        band = rules.judge(replace(judged, current=amounts[0], base=amounts[1]))
        return band.name if band else None


def _asked_of(comparison: Comparison, point: Point) -> tuple[BothSides, BothDays]:
    """Of which scenarios and days a point is, as its figures say it."""
    now, then = point.sides(comparison.current, comparison.base)
    of_current = EarlierSide((now or comparison.current).in_use, comparison.current.joined_at)
    base = comparison.base
    of_base = EarlierSide(base.scenario, base.joined_at) if base else of_current
    return (of_current, of_base), (now.days_summed if now else None, then.days_summed if then else None)


def _left_of(comparison: Comparison) -> Left:
    """The days of each side that are in no total."""
    now, then = (
        tuple(
            (one.side.window.first, one.side.window.end)
            for one in comparison.unmatched
            if one.is_base is is_base and one.side.window is not None
        )
        for is_base in (False, True)
    )
    return now, then


def _as_said(point: EarlierPoint, now: Decimal | None, then: Decimal | None) -> Amounts:
    """The amounts on the sides that a point has: an opening its base alone, a closing its current."""
    return (
        None if point.kind == "opening" else now,
        None if point.kind == "closing" or point.is_movement else then,
    )


def _line_named(statement: Statement, point: EarlierPoint) -> StatementLine | None:
    """The line of a total; of a panel of one line it is the panel's."""
    names = (point.label, point.panel)
    return next((line for line in statement.lines if line.label in names and line.total_of), None)


def _is_gathered(point: EarlierPoint) -> bool:
    return point.kind == "other" or any(_GATHERED.fullmatch(name) for name in (point.panel or "", point.label))
