"""What counts in a comparison beside its figures: sides without rows as nothing, and only what is comparable."""

from __future__ import annotations

from dataclasses import replace
from math import log10
from statistics import median

from marvex.app.comparing import CheckedComparison, whole_point
from marvex.app.like_with_like import like_with_like
from marvex.core.compare.comparison import Comparison
from marvex.core.compare.matched import runs_of
from marvex.core.compare.plan import Absent, Plan
from marvex.core.compare.point import Kind, Point, SideOf, total_of
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.totals import Total, TotalAs
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import ZERO, total
from marvex.core.words.units import FigureFormat
from marvex.core.words.wording import point_name
from marvex.sources.engine.ledger import Ledger
from marvex.sources.headings import unlike_spans
from marvex.sources.scales import unit_of

# Of these there is as much as nothing where there are no rows; a mean of no rows is no figure.
_AMOUNTS = (Total.SUM, Total.COUNT, Total.DISTINCT, Total.CLOSING)

_CENTS = 2  # the power of ten by which money in cents is more
_UNITS = (-6, -3, -_CENTS, 0, _CENTS, 3, 6)
NEAR, LEAST_ALIKE = 0.35, 3  # of powers of ten, how near a point comes to a thousand or a million; and points
# The same of some points among so many times more others, which are less than ten times apart.
NEARER, LIKE_SIZE, FEW = 0.15, 1, 3
LEAST_SAME = 3  # different amounts that are the same on both sides


def with_nothing(made: CheckedComparison, total_as: TotalAs) -> CheckedComparison:
    """The comparison with the sides that have no rows counted as nothing, as its plan says."""
    one, plan = made.comparison, made.plan
    can_be_nothing = total_as.way in _AMOUNTS and not total_as.is_divided
    if one.base is None or plan.absent is Absent.GAP or (plan.absent is Absent.OF_SCENARIO and not can_be_nothing):
        return made

    def counted(point: Point) -> Point:
        parts = tuple(counted(part) for part in point.parts)
        return replace(_counted(point, plan), parts=parts)

    points, totals = (tuple(counted(point) for point in points) for points in (one.points, one.panel_totals))
    changed = replace(one, points=points, panel_totals=totals, total=counted(one.total))
    zeroed = tuple(
        old for old, new in zip(one.points, points, strict=True) if (old.current, old.base) != (new.current, new.base)
    )
    return replace(made, comparison=changed, zeroed=zeroed)


def _counted(point: Point, plan: Plan) -> Point:
    if point.current is None and point.base is None and plan.absent is Absent.OF_SCENARIO:
        return point
    has_rows = point.pair.has_rows if point.pair else (True, True)
    can_count = (True, True)
    if point.pair is not None:
        # A side that has no namesake stays absent; so does, of a scenario, a period that it has no row in.
        is_all = plan.absent is Absent.ZERO
        can_count = (
            point.pair.current is not None and (is_all or has_rows[0]),
            point.pair.base is not None and (is_all or has_rows[1]),
        )
    current = ZERO if point.current is None and can_count[0] else point.current
    base = ZERO if point.base is None and can_count[1] else point.base
    if (current, base) == (point.current, point.base):
        return point
    nothing = SideOf.BASE if point.base is None else SideOf.CURRENT
    return replace(point, current=current, base=base, nothing=nothing if plan.absent is Absent.OF_SCENARIO else None)


def comparable(book: Ledger, made: CheckedComparison, total_as: TotalAs) -> CheckedComparison:
    """Only the categories that have rows on both sides, and along time the periods, with totals of their own."""
    comparison = made.comparison
    if comparison.base is None:
        raise Mistake(f"{setting('comparable')} needs a base", f"Name one with {setting('versus')}.")
    if not book.width and comparison.every is None:
        raise Mistake(
            f"{setting('comparable')} is about categories or periods, and nothing says which",
            f"Name a column with {setting('by')}.",
        )
    if book.width:
        made = _with_comparable_categories(book, made, total_as)
    return _with_comparable_periods(book, made, total_as) if comparison.every is not None else made


def _with_comparable_categories(book: Ledger, made: CheckedComparison, total_as: TotalAs) -> CheckedComparison:
    comparison = made.comparison
    categories = comparison.panel_totals if comparison.every else comparison.points
    kept = tuple(point for point in categories if point.current is not None and point.base is not None)
    if not kept:
        raise Mistake(
            "no category has rows on both sides", f"Leave {setting('comparable')} out, or name another base."
        )
    if len(kept) == len(categories):
        return made
    names = [point.panel or point.label for point in kept]
    adds_up = total_as.adds_up and comparison.every is None
    whole = total_of(kept) if adds_up else whole_point(book, made.plan, names, is_sum=total_as.adds_up_over_time)
    keys = {point.panel or point.key for point in kept}
    points = tuple(point for point in comparison.points if (point.panel or point.key) in keys)
    totals = kept if comparison.every else ()
    left_out = tuple(point for point in categories if (point.panel or point.key) not in keys)
    return replace(
        made, comparison=replace(comparison, points=points, panel_totals=totals, total=whole), left_out=left_out
    )


def _with_comparable_periods(book: Ledger, made: CheckedComparison, total_as: TotalAs) -> CheckedComparison:
    """Along time only the periods in which both sides have rows, and the totals of those."""
    one = made.comparison
    points = tuple(point for point in one.points if _is_comparable(point, one))
    if len(points) == len(one.points):
        return made
    pairs = {point.pair: None for point in points if point.pair is not None}
    if not pairs or one.base is None:
        raise Mistake("no period has rows on both sides", f"Leave {setting('comparable')} out, or name another base.")
    now, then = (
        whole.within(runs_of(side.window for side in sides if side is not None))
        for whole, sides in (
            (one.current, [pair.current for pair in pairs]),
            (one.base, [pair.base for pair in pairs]),
        )
    )
    plan = replace(made.plan, current=now, base=then, pairs=tuple(pairs))
    names = [str(panel.category) for panel in one.panel_totals] or None
    cells = book.cells([side.span for side in plan.sides]) if names else ()
    amounts = {(cell.place, cell.category): cell.amount for cell in cells}
    panels = tuple(
        replace(panel, current=amounts.get((0, name)), base=amounts.get((1, name)), matched=None)
        for panel in one.panel_totals
        for name in [panel.category or ""]
    )
    changed = replace(
        one,
        current=now,
        base=then,
        points=points,
        total=whole_point(book, plan, names, is_sum=total_as.adds_up_over_time),
        panel_totals=panels,
    )
    left_out = tuple(point for point in one.points if point not in points)
    return replace(
        made, plan=plan, comparison=like_with_like(book, plan, changed), left_out=(*made.left_out, *left_out)
    )


def _is_comparable(point: Point, one: Comparison) -> bool:
    if point.pair is not None and not point.pair.is_matched:
        return False
    return point.change is not None or bool(one.panel_totals)


def counted_as_nothing(one: CheckedComparison, figures: FigureFormat) -> tuple[str, ...]:
    """How many points have a side counted as nothing."""
    if not one.zeroed or (one.plan.absent is not Absent.ZERO and one.comparison.every is None):
        return ()
    names = listed((point_name(point, figures.locale) for point in one.zeroed), 3)
    have = "1 point has" if len(one.zeroed) == 1 else f"{len(one.zeroed)} points have"
    is_asked = one.plan.absent is Absent.ZERO
    how = setting("absent", "zero") if is_asked else f"{setting('absent', 'gap')} shows gaps"
    return (f"{have} a side without rows, which counts as nothing ({how}): {names}",)


def unlike_sides(one: CheckedComparison, book: Ledger, figures: FigureFormat) -> tuple[Reservation, ...]:
    """What is odd about the amounts of the two sides beside one another."""
    told = (*_same_sides(one), *_unlike_points(one, figures), *_unlike_columns(one, book))
    return (*(Reservation(what=what) for what in told), *_unlike_units(one, len(book.sources)))


def _same_sides(one: CheckedComparison) -> tuple[str, ...]:
    """That both sides have the very same amounts in all points, as where one file is read for both."""
    base = one.comparison.base
    points = [point for point in one.comparison.points if point.current or point.base]
    is_same = all(point.current == point.base for point in points)
    if base is None or not is_same or len({point.current for point in points}) < LEAST_SAME:
        return ()
    return (f"both sides have the same amount in each of {len(points)} points, as if one were a copy of the other",)


def _unlike_units(one: CheckedComparison, sources: int) -> tuple[Reservation, ...]:
    """That one side is about a thousand, a million, or a hundred times the other in nearly all points."""
    base = one.comparison.base
    if base is None:
        return ()
    both = [point for point in one.comparison.points if point.current and point.base]
    powers = [log10(abs(float(point.current or 1) / float(point.base or 1))) for point in both]
    power = min(_UNITS, key=lambda one: abs(one - median(powers))) if powers else 0
    near = NEARER if abs(power) == _CENTS else NEAR
    alike = sum(abs(its - power) <= near for its in powers)
    # No plan is a thousand times too small; a year before may well be, in few points.
    is_planned = abs(power) != _CENTS and base.scenario != one.comparison.current.scenario
    if not power or alike < 0.9 * max(len(powers), 1 if is_planned else LEAST_ALIKE):
        return ()
    larger, smaller = (one.comparison.current, base) if power > 0 else (base, one.comparison.current)
    sides = [
        side.scenario or (str(side.window.first.year) if side.window else "a side") for side in (larger, smaller)
    ]
    in_each = ", point by point," if len(powers) > 1 else ","
    told = f"{sides[0]} is about {10 ** abs(power):,} times {sides[1]}{in_each} as if"
    if abs(power) == _CENTS:
        return (Reservation(what=f"{told} it were in cents or pence"),)
    unit, word = unit_of(abs(power))
    says = (
        f"{setting('amounts_in', f'{smaller.scenario}={unit}')} says so" if sources > 1 and smaller.scenario else ""
    )
    return (Reservation(what=f"{told} that were in {word}", mend=says),)


def _unlike_points(one: CheckedComparison, figures: FigureFormat) -> tuple[str, ...]:
    """That of some points one side is about a thousand times the other, where the others are of like size."""
    leaves = [point for point in one.comparison.points if point.kind in (Kind.POINT, Kind.LINE)]
    both = [point for point in leaves if point.current and point.base]
    powers = [log10(abs(float(point.current or 1) / float(point.base or 1))) for point in both]
    odd = [point for point, its in zip(both, powers, strict=True) if abs(abs(its) - 3) <= NEARER]
    alike = sum(abs(its) < LIKE_SIZE for its in powers)
    if not odd or alike < max(LEAST_ALIKE, FEW * len(odd)) or alike + len(odd) < len(both):
        return ()
    names = listed((point_name(point, figures.locale) for point in odd), 3)
    return (f"the sides of {names} are about a thousand times apart, as if one were in thousands",)


def _unlike_columns(one: CheckedComparison, book: Ledger) -> tuple[str, ...]:
    """That two columns were set against one another whose headings say spans that are not alike."""
    base = one.comparison.base
    names = (one.comparison.current.scenario, base.scenario if base else None)
    if None in names or not any(source.roles.sides_are_columns for source in book.sources):
        return ()
    current, other = (str(name) for name in names)
    told = f"by their headings {current} and {other} are not of spans of one length"
    return (told,) if unlike_spans(current, other) else ()


def not_comparable(one: CheckedComparison, total_as: TotalAs, figures: FigureFormat) -> tuple[str, ...]:
    """How much was left out as not comparable."""
    if not one.left_out:
        return ()
    names = listed((point_name(point, figures.locale) for point in one.left_out), 3)
    sums = ""
    if total_as.adds_up:
        now, then = (
            figures.headline(total(amount for amount in side if amount is not None))
            for side in ([point.current for point in one.left_out], [point.base for point in one.left_out])
        )
        sums = f": {now} in the current side, {then} in the base"
    periods = sum(1 for point in one.left_out if point.is_period)
    counts = [(len(one.left_out) - periods, "category", "categories"), (periods, "period", "periods")]
    were = " and ".join(f"{count} {word if count == 1 else words}" for count, word, words in counts if count)
    were += " was" if len(one.left_out) == 1 else " were"
    return (f"{were} left out as having rows on one side only: {names}{sums}",)
