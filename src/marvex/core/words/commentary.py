"""The variances as sentences, the largest first, as a controller would write them.

Every figure in a sentence is one of the points' own, rounded as everywhere else.
"""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from marvex.core.compare.comparison import Basis
from marvex.core.compare.point import Better, Kind, Point, State
from marvex.core.compare.result import Analysis, JudgedComparison
from marvex.core.compare.totals import Total
from marvex.core.exact import total
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.core.words.extreme import FAR_OUT, most_unusual, odd_side
from marvex.core.words.side_names import window_text
from marvex.core.words.since_words import since_notes
from marvex.core.words.units import MINUS, FigureFormat
from marvex.core.words.wording import (
    base_of,
    be_of,
    direction_word,
    in_or_on,
    not_shown_notes,
    point_name,
    ratio_words,
    unmatched_notes,
    when_absent,
    without_side,
)

MOST_TOLD = 6
LEAST_TOLD = 10  # a point is told whose change is at least a tenth of the largest
MOST_PARTS = 2
MOST_NAMED = 3  # of those with one side only: a sentence has at most 25 words
MOST_RATIOS = 3
LEAST_PART = 5  # a part is named that is at least a fifth of its variance
LEAST_OFFSET = 20  # what offsets the largest change is named from a twentieth of it on


@dataclass(frozen=True, slots=True, eq=False)
class Sentence:
    """A sentence or two, and the point that it is about; None where it is about all of them."""

    about: Point | None
    text: str


def cautions_left(analysis: Analysis) -> tuple[str, ...]:
    """The cautions about the comparison, but for new and ended categories, which have sentences of their own.

    What there is to say of the reading is for the one who runs the command.
    """
    one = analysis.first
    told = without_side(one.comparison, one.names, analysis.figures)
    return tuple(caution for caution in analysis.fairness if caution not in told)


def commentary(analysis: Analysis, *, in_order: bool = False) -> tuple[Sentence, ...]:
    """What there is to say: the whole, what moved it most, what offsets what, what is new or ended.

    Parameters
    ----------
    in_order : what is worth a sentence is told in the order of the points, and not the largest first.
    """
    teller = _Teller(analysis, analysis.first)
    found = [Sentence(None, analysis.finding + ".")]
    if analysis.first.comparison.base is None:
        return tuple(found)
    adds_up = analysis.total_as.adds_up_over_time
    notes = unmatched_notes(analysis.first.comparison, analysis.figures, adds_up=adds_up)
    notes += not_shown_notes(analysis.first.comparison, analysis.figures, adds_up=adds_up)
    notes += since_notes(analysis.since, analysis.figures) if analysis.since else ()
    found += [Sentence(None, f"{note}.") for note in notes]
    told = teller.told()
    in_turn = [one for one in teller.judged if one in told] if in_order else told
    found += [Sentence(one.point, teller.about(one)) for one in in_turn]
    found += teller.ratios()
    found += teller.offsets(told)
    found += teller.rest(told)
    found += teller.extreme()
    found += teller.one_sided()
    found += [Sentence(one.point, f"{teller.name(one.point)}: {one.text}") for one in analysis.remarks]
    return tuple(found)


@dataclass(frozen=True, slots=True)
class _Teller:
    analysis: Analysis
    one: JudgedComparison

    @property
    def figures(self) -> FigureFormat:
        return self.analysis.figures.in_words

    @property
    def judged(self) -> tuple[Judged, ...]:
        """What is told of: the categories, or the periods where there are none."""
        return self.one.heads_of_panels or self.one.points

    def moving(self) -> list[Judged]:
        """Those with both sides and a change, the largest first; never Other."""
        moved = [one for one in self.judged if one.point.change and self.is_told(one.point)]
        return sorted(moved, key=lambda one: -abs(one.point.movement))

    def is_told(self, point: Point) -> bool:
        """Whether it may have a sentence: not Other, and of a statement the lines that have rows of their own."""
        if point.is_cost is not None and self.analysis.statement is not None:
            return bool(self.analysis.statement.line(point.category or "").accounts) and not point.is_beside
        return not point.gathered

    def told(self) -> list[Judged]:
        """Those that are worth a sentence of their own."""
        moving = self.moving()
        largest = abs(moving[0].point.movement) if moving else 0
        return [one for one in moving if LEAST_TOLD * abs(one.point.movement) >= largest][:MOST_TOLD]

    def about(self, judged: Judged) -> str:
        """'Fuel was 277k over budget (+30.1%), at 1,198k against 921k. Most of that is on …'"""
        point, figures = judged.point, self.figures
        now, then = (
            figures.headline(amount) if amount else "nothing"
            for amount in (_known(point.current), _known(point.base))
        )
        name = self.name(point)
        text = f"{name} {be_of(name)} {self.size(point)} {self.against(point)}{self.behind(point)}"
        text += f", at {now} against {then}"
        verdict = self.verdict(judged)
        text += f": {verdict}." if verdict else "."
        return " ".join(part for part in (text, self.parts(point), self.history(point)) if part)

    def name(self, point: Point) -> str:
        return str(point.panel) if self.stands_for_panel(point) else point_name(point, self.figures.locale)

    def stands_for_panel(self, point: Point) -> bool:
        """Whether it is the last of points that have no total, as which its category is told of."""
        return point.is_period and self.one.comparison.is_chained and bool(self.one.panel_totals)

    def size(self, point: Point) -> str:
        return self.size_of(point.movement)

    def size_of(self, movement: Decimal) -> str:
        return self.figures.size_of_change(movement)

    def against(self, point: Point) -> str:
        """'over budget', 'below last year', 'above the month before'."""
        is_spending = self.one.rules.better_for(point) is Better.DOWN
        base = base_of(point, self.one.comparison, self.one.names, self.figures.locale)
        when = ""
        if self.stands_for_panel(point) and point.pair is not None:
            when = f" {in_or_on(point)} {window_text(point.pair.period, self.figures.locale)}"
        return f"{direction_word(point.movement > 0, is_spending=is_spending)} {base}{when}"

    def behind(self, point: Point) -> str:
        """The ratio in brackets, of a statement's line without a sign, for words say the direction."""
        words = ratio_words(point, self.figures)
        return words.replace("(+", "(").replace(f"({MINUS}", "(") if point.is_cost is not None else words

    def ratios(self) -> list[Sentence]:
        """'Gross margin fell from 69.1% to 67.5%.'"""
        found = []
        for one in self.judged:
            point, figures = one.point, self.figures
            if point.kind is not Kind.RATIO or point.current is None or point.base is None:
                continue
            name = self.name(point).rstrip(" %")
            now, then = figures.amount_of(point, point.current), figures.amount_of(point, point.base)
            verb = f"{'rose' if point.movement > 0 else 'fell'} from {then} to {now}"
            found.append(Sentence(point, f"{name} {verb if now != then else f'stayed at {now}'}."))
        return found[:MOST_RATIOS]

    def verdict(self, judged: Judged) -> str:
        """'adverse' where up or down does not say it, and the band where it is of the analyst's own rule."""
        point, band = judged.point, judged.band
        is_good = (point.movement > 0) == (self.one.rules.better_for(point) is Better.UP)
        words = []
        if self.one.comparison.basis is not Basis.SCENARIO:
            words.append("favourable" if is_good else "adverse")
        if band is not None and not self.one.rules.is_ready:
            words.append(f"in the band {band.name}")
        return ", ".join(words)

    def parts(self, point: Point) -> str:
        """'Most of that is on Ostrey–Finmouth (+120k) and Night freight (+66k).'"""
        parts = point.parts or tuple(one.point for one in self.one.points if self.is_within(one.point, point))
        same = [one for one in parts if one.movement and (one.movement > 0) == (point.movement > 0)]
        large = sorted(same, key=lambda one: -abs(one.movement))[:MOST_PARTS]
        large = [one for one in large if LEAST_PART * abs(one.movement) >= abs(point.movement)]
        if not large or (len(parts) == 1 and len(large) == 1):
            return ""
        # Within a statement's line words have said the direction.
        told = self.figures.signed_headline if point.is_cost is None else self.size_of
        named = " and ".join(f"{self.part_name(one)} ({told(one.movement)})" for one in large)
        came_to = abs(total(one.movement for one in large))
        against = [one for one in parts if one.movement and one not in same]
        if came_to > abs(point.movement) and against:
            first = max(against, key=lambda one: abs(one.movement))
            offset = f"{self.part_name(first)} ({told(first.movement)}){' and others' if len(against) > 1 else ''}"
            return f"Behind that {'is' if len(large) == 1 else 'are'} {named}, offset in part by {offset}."
        alone = "The largest part is" if len(large) == 1 else "The largest parts are"
        is_most = 2 * came_to > abs(point.movement)
        return f"{'Most of that is' if is_most else alone} {self.on_or_from(point, large[0])} {named}."

    def on_or_from(self, whole: Point, part: Point) -> str:
        """'on' a cost, 'from' an income, 'in' a month or of a balance."""
        if part.pair is not None or self.analysis.total_as.way is Total.CLOSING:
            return "in"
        return "from" if self.one.rules.better_for(whole) is Better.UP else "on"

    def is_within(self, point: Point, whole: Point) -> bool:
        """Whether a period is one of a panel that is told of."""
        return (
            whole.pair is None and point.panel is not None and point.panel == whole.panel and point.change is not None
        )

    def part_name(self, part: Point) -> str:
        name = self.name(part)
        return name.removeprefix(f"{part.panel}, ") if part.panel else name

    def history(self, point: Point) -> str:
        if point.unusual is None or abs(point.unusual) < FAR_OUT:
            return ""
        return "That is unusual for its own history."

    def offsets(self, told: Sequence[Judged]) -> list[Sentence]:
        """'The overspend of 277k on Fuel is partly offset by a saving of 18k on Crew wages.'"""
        if not told or not self.one.comparison.has_total:
            return []
        first = told[0].point
        against = (one.point for one in self.moving() if (one.point.movement > 0) != (first.movement > 0))
        other = next(against, None)
        if other is None or LEAST_OFFSET * abs(other.movement) < abs(first.movement):
            return []
        more, less = (
            f"{self.kind_of_change(one)} of {self.size(one)} {self.on_or_from(one, one)} {self.name(one)}"
            for one in (first, other)
        )
        offset = "partly offset" if abs(other.movement) < abs(first.movement) else "offset"
        a = "an" if less.startswith("overspend") else "a"
        return [Sentence(other, f"The {more} is {offset} by {a} {less}.")]

    def kind_of_change(self, point: Point) -> str:
        """'overspend' or 'saving' of a cost, 'gain' or 'shortfall' of an income; over time 'rise' or 'fall'."""
        if self.one.comparison.basis is not Basis.SCENARIO:
            words = ("rise", "fall")
        elif self.one.rules.better_for(point) is Better.UP:
            words = ("gain", "shortfall")
        else:
            words = ("overspend", "saving")
        return words[0] if point.movement > 0 else words[1]

    def rest(self, told: Sequence[Judged]) -> list[Sentence]:
        """How many others there are, and that none of them moved as much."""
        others = [one for one in self.moving() if one not in told]
        level = [one for one in self.judged if one.point.change == 0 and not one.point.gathered]
        sentences = []
        if others and told:
            largest = self.size(others[0].point)
            count = "One other" if len(others) == 1 else f"The other {len(others)}"
            each = "" if len(others) == 1 else " each"
            sentences.append(Sentence(None, f"{count} moved by {largest} or less{each}."))
        gathered = (one for one in self.judged if one.point.gathered and one.point.change)
        sentences += [Sentence(one.point, self.about(one)) for one in gathered]
        if level:
            names = ", ".join(self.name(one.point) for one in level[:3]) + (" and others" if len(level) > 3 else "")
            sentences.append(Sentence(None, f"No change: {names}."))
        return sentences

    def extreme(self) -> list[Sentence]:
        """Of the most unusual period, which of its sides is the odd one among the periods around it."""
        points = [one.point for one in self.one.points]
        point = most_unusual(points)
        text = odd_side(point, points, self.figures) if point is not None else ""
        return [Sentence(point, f"{self.name(point)} is the most unusual. {text}")] if point and text else []

    def one_sided(self) -> list[Sentence]:
        """What is new, what has ended, and which periods lack a side, each with its amount."""
        sentences = []
        for state in (State.NEW, State.ENDED, State.NO_BASE, State.NO_CURRENT):
            found = [one.point for one in self.judged if one.point.state is state and not one.point.gathered]
            found = [one for one in found if one.current is not None or one.base is not None]
            if found:
                sentences.append(Sentence(found[0], self.with_one_side(state, found)))
        return sentences

    def with_one_side(self, state: State, points: Sequence[Point]) -> str:
        names, whole, locale = self.one.names, self.one.comparison, self.figures.locale
        words = {
            State.NEW: f"New, with nothing {when_absent(whole, names.base, locale, of_base=True)}",
            State.ENDED: f"Ended, with nothing {when_absent(whole, names.current, locale, of_base=False)}",
            State.NO_BASE: "With nothing to be measured against",
            State.NO_CURRENT: "With no rows on the current side",
        }
        named = ", ".join(f"{self.name(one)} ({self.present(one)})" for one in points[:MOST_NAMED])
        more = f" and {len(points) - MOST_NAMED} more" if len(points) > MOST_NAMED else ""
        return f"{words[state]}: {named}{more}."

    def present(self, point: Point) -> str:
        """The side that is there."""
        amount = _known(point.base if point.current is None else point.current)
        return self.figures.percentage(amount) if point.kind is Kind.RATIO else self.figures.headline(amount)


def _known(amount: Decimal | None) -> Decimal:
    assert amount is not None
    return amount
