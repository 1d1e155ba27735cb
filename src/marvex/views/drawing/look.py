"""What all views share of how points look: their fills, their labels, and which carry one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction

from marvex.core.compare.comparison import ONE_SIDED
from marvex.core.compare.point import Kind, Point, State
from marvex.core.rules.bands import Tone
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.core.words.side_names import SideNames, window_text
from marvex.core.words.units import ABSENT, FigureFormat
from marvex.core.words.wording import point_sentence, state_words
from marvex.views.drawing.labels import Label, Piece
from marvex.views.drawing.style import Shape, Style

CROWDED = 31  # periods in columns: from so many on only the largest changes are labelled
LABELLED_OF_MANY = 10
FLAGGED = (Tone.WORSE, Tone.WATCH)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Look:
    """How a picture's points are written and coloured.

    Parameters
    ----------
    show : what a label says, line by line.
    labels, labels_count : which points carry one: `all`, `none`, `ends`, `flagged`, `top` or `bottom` so many.
    labels_by : the figure that top and bottom go by.
    thins : where periods stand close only the largest changes are labelled, since no one has asked for all.
    without : the names of points that carry no label, since not all panels have room for it.
    mark : what stands behind the name of a point with remarks, or nothing.
    axis : the ends of the value axis, where they are given.
    grid : whether there is a value axis with hairlines though points are labelled.
    in_panels : whether the points stand in several panels.
    by_effect : changes are written as what they do to the result, of a cost with the other sign.
    marks : whether a change has its sign of direction before it.
    turns : where the colour of a point's bar would turn, as the current at which it does.
    everyone : the points of all panels where they share one scale, so that names and labels take as much room in each.
    """

    figures: FigureFormat
    names: SideNames
    style: Style
    show: tuple[str, ...] = ("change",)
    labels: str = "all"
    labels_count: int = 0
    labels_by: str = "change"
    thins: bool = True
    without: frozenset[str] = frozenset()
    mark: Callable[[Point], str] = lambda _: ""
    axis: tuple[Decimal, Decimal] | None = None
    grid: bool = False
    in_panels: bool = False
    by_effect: bool = False
    marks: bool = True
    turns: Callable[[Point], Decimal | None] = lambda _: None
    everyone: tuple[Judged, ...] = ()

    def among(self, points: Sequence[Judged]) -> Sequence[Judged]:
        """The points that room is measured for: those of all panels where they share one scale."""
        return self.everyone or points

    def most_in_a_panel(self, points: Sequence[Judged]) -> int:
        """How many points the fullest panel has."""
        counts = Counter(one.point.panel for one in self.everyone)
        return max([len(points), *counts.values()])

    def fill(self, judged: Judged) -> str:
        """The colour of a mark: its band's, or the current side's where nothing is judged."""
        return self.style.fills[judged.band.tone] if judged.band else self.style.current

    def ink(self, judged: Judged) -> str:
        """The colour of a point's figures."""
        return self.style.texts[judged.band.tone] if judged.band else self.style.ink

    def label(self, judged: Judged, show: Sequence[str] | None = None, *, marked: bool = False) -> Label:
        """The figures at a point, as `--show` asks, those that are changes with their sign.

        Parameters
        ----------
        marked : the point's remarks are marked here, since its name may be left out.
        """
        shown = self.show if show is None else tuple(show)
        first = next((one for one in shown if one in ("change", "percent")), None)
        pieces = [self.piece(judged, one, bold=not place, signed=one == first) for place, one in enumerate(shown)]
        if marked and (mark := self.mark(judged.point)):
            pieces[-1] = replace(pieces[-1], text=pieces[-1].text + mark)
        return Label(tuple(pieces))

    def piece(self, judged: Judged, what: str, *, bold: bool = True, signed: bool = True) -> Piece:
        """One figure of a point: a change in its band's colour behind its sign, an amount in ink."""
        is_change = what in ("change", "percent", "contribution")
        point = judged.point.as_effect if self.by_effect and is_change else judged.point
        text = self.figure(point, what)
        if what in ("current", "base"):
            ink = self.style.base_line if what == "base" and "current" in self.show else self.style.ink
            return Piece(text=text, colour=self.style.soft if text == ABSENT else ink, bold=bold)
        if judged.band is None or point.change is None:
            return Piece(text=text, colour=self.style.soft, bold=bold)
        direction = (point.change > 0) - (point.change < 0) if signed and self.marks else None
        return Piece(
            text=text,
            colour=self.ink(judged),
            direction=direction,
            shape=self.style.shapes[judged.band.tone],
            bold=bold,
        )

    def movement(self, judged: Judged, moved: Decimal, *, bold: bool = True) -> Piece:
        """What a waterfall's step adds, behind its sign: of a cost minus its change."""
        direction = (moved > 0) - (moved < 0) if self.marks else None
        shape = self.style.shapes[judged.band.tone] if judged.band else Shape.DIRECTION
        return Piece(
            text=self.figures.change(moved), colour=self.ink(judged), direction=direction, shape=shape, bold=bold
        )

    def name(self, judged: Judged) -> str:
        """What a point is called beside its bar, with the word for a category that has one side only."""
        point = judged.point
        locale = self.figures.locale
        name = window_text(point.pair.period, locale) if point.is_period and point.pair else point.label
        if point.kind in (Kind.POINT, Kind.STEP) and point.state in ONE_SIDED and self.names.base:
            name = f"{name} ({state_words(point, self.names)})"
        return name + self.mark(point)

    def figure(self, point: Point, what: str) -> str:
        """One of a point's figures as text; a word where a side that it needs is absent."""
        match what:
            case "current":
                return self.figures.amount_of(point, point.current)
            case "base":
                return self.figures.amount_of(point, point.base)
            case "change":
                if point.change is None and point.state in (State.NEW, State.ENDED):
                    # Its name says which it is: where no amount is told, this is what it adds to the total.
                    told = {"current", "base"} & set(self.show)
                    return state_words(point, self.names) if told else self.figures.change(point.movement)
                return self.figures.change_of(point)
            case "contribution":
                return self.figures.contribution(point)
        return self.figures.ratio(point)

    def is_crowded(self, points: Sequence[Judged]) -> bool:
        """Whether there are too many periods side by side for all to be labelled: only the largest are."""
        return (
            self.labels == "all"
            and self.thins
            and len(points) > CROWDED
            and all(one.point.is_period for one in points)
        )

    def note(self, points: Sequence[Judged]) -> str:
        """Which of many periods are labelled, in words."""
        panels = len({one.point.panel for one in points})
        if len(points) <= CROWDED * panels or not self.is_crowded(points):
            return ""
        return f"Labelled are the {LABELLED_OF_MANY} largest changes, where they find room"

    def labelled(self, points: Sequence[Judged], *, side_by_side: bool = False) -> set[int]:
        """The places of the points that carry a label; those with a remark always do.

        Parameters
        ----------
        side_by_side : they stand in columns, where many periods have no room for all.
        """
        places = [place for place, one in enumerate(points) if one.point.label not in self.without]
        if side_by_side and self.is_crowded(points):
            known = [place for place in places if points[place].point.change is not None]
            by_size = sorted(known, key=lambda place: abs(points[place].point.movement), reverse=True)
            places = by_size[:LABELLED_OF_MANY]
        match self.labels:
            case "none":
                chosen = []
            case "ends":
                known = [place for place in places if points[place].point.current is not None]
                chosen = [known[0], known[-1]] if known else []
            case "flagged":
                chosen = [place for place in places if is_flagged(points[place])]
            case "top" | "bottom":
                chosen = self.ranked(points, places)
            case _:
                chosen = places
        return {*chosen, *(place for place, one in enumerate(points) if self.mark(one.point))}

    def ranked(self, points: Sequence[Judged], places: Sequence[int]) -> list[int]:
        """Those of some places that `top:5` or `bottom:3` means: by the size of the change, or of another figure."""
        sizes = {place: self._size(points[place].point) for place in places}
        known = [(place, size) for place, size in sizes.items() if size is not None]
        known.sort(key=lambda one: one[1], reverse=self.labels == "top")
        return [place for place, _ in known[: self.labels_count]]

    def _size(self, point: Point) -> Decimal | Fraction | None:
        """How large the figure is that labels go by; None where it is absent."""
        # Along time a side that is absent is a gap, not a movement.
        movement = None if point.pair and point.change is None else point.movement
        figures: dict[str, Decimal | Fraction | None] = {
            "change": movement,
            "current": point.current,
            "base": point.base,
            "percent": point.change_ratio,
        }
        found = figures[self.labels_by]
        return found if found is None or found >= 0 else -found

    def sentence(self, judged: Judged) -> str:
        """A point in words, as an SVG says it where the pointer rests on its mark."""
        return point_sentence(judged.point, judged.band.name if judged.band else None, self.names, self.figures)


def is_flagged(judged: Judged) -> bool:
    """Whether a point is in a band that asks for attention."""
    return judged.band is not None and judged.band.tone in FLAGGED
