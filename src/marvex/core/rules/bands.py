"""Bands in order, the first of which holds is the point's own; rules, and which of them judges a point."""

from __future__ import annotations

from collections.abc import Sequence
from enum import Enum
from fnmatch import fnmatchcase
from fractions import Fraction

from marvex.core.compare.point import Better, Kind, Point
from marvex.core.rules.conditions import Condition, Measures, Quantity
from marvex.core.values import dataclass


class Tone(Enum):
    """A colour role; which colour it is, a style says."""

    BETTER = "better"
    WORSE = "worse"
    WATCH = "watch"
    NEUTRAL = "neutral"
    STANDING = "standing"
    MUTED = "muted"


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """A named class of variances: who is in it, its tone, and whether meeting it fails a gate."""

    name: str
    tone: Tone
    condition: Condition | None
    text: str  # the condition as it was written, for the legend
    fails: bool = False


NO_BASE = Band(name="No base", tone=Tone.MUTED, condition=None, text="")
NO_CURRENT = Band(name="No current", tone=Tone.MUTED, condition=None, text="")
UNCLASSIFIED = Band(name="Unclassified", tone=Tone.NEUTRAL, condition=None, text="no band holds")
WHERE_MET = (NO_BASE, NO_CURRENT, UNCLASSIFIED)


@dataclass(frozen=True, slots=True)
class Rule:
    """Bands in order: the first that holds wins."""

    bands: tuple[Band, ...]

    def judge(self, measures: Measures) -> Band:
        """The band of a point with these figures; `No base`, `No current` before any is asked."""
        if measures.base is None:
            return NO_BASE
        if measures.current is None:
            return NO_CURRENT
        for band in self.bands:
            if band.condition is not None and band.condition.holds(measures):
                return band
        return UNCLASSIFIED


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedRule:
    """A rule with what else a file says of it.

    Parameters
    ----------
    better : the direction that is good news for what it judges; None leaves it to the call.
    applies_to : patterns of the categories that it judges, `*` for any text; without any, all points.
    """

    rule: Rule
    name: str = ""
    better: Better | None = None
    applies_to: tuple[str, ...] = ()

    def judges(self, category: str | None) -> bool:
        if not self.applies_to:
            return True
        name = (category or "").casefold()
        return category is not None and any(fnmatchcase(name, one.casefold()) for one in self.applies_to)


@dataclass(frozen=True, slots=True, eq=False)
class RuleSet:
    """The rules of a comparison: each point is judged by the first that applies to it.

    Parameters
    ----------
    better : what the call says is better; None leaves it to the rules.
    is_ready : it is a ready rule, not the analyst's own.
    """

    rules: tuple[NamedRule, ...]
    better: Better | None = None
    is_ready: bool = False

    def rule_for(self, point: Point) -> NamedRule | None:
        category = point.category
        if point.kind is Kind.TOTAL and not point.panel and point.is_cost is None:
            category = None
        return next((one for one in self.rules if one.judges(category)), None)

    def better_for(self, point: Point) -> Better:
        """The direction that is good news for a point: as the call says, else its rule, else up."""
        if point.is_cost is not None:
            return Better.DOWN if point.is_cost else Better.UP
        found = self.rule_for(point)
        return self.better or (found.better if found else None) or Better.UP

    def measures(self, point: Point, share: Fraction | None = None, rank: int | None = None) -> Measures:
        """What a rule can ask of a point."""
        better = self.better_for(point)
        return Measures(
            current=point.current,
            base=point.base,
            change=point.change,
            better=better,
            share=share,
            rank=rank,
            unusual=point.unusual,
            contribution=point.contribution,
            is_ratio=point.kind is Kind.RATIO,
        )

    def judge(self, point: Point, share: Fraction | None = None, rank: int | None = None) -> Band | None:
        """The band of a point; a total that no rule applies to has none."""
        found = self.rule_for(point)
        if found is None:
            return None if point.kind is Kind.TOTAL else Rule(()).judge(self.measures(point))
        return found.rule.judge(self.measures(point, share, rank))

    def legend(self, met: Sequence[Band | None]) -> tuple[Band, ...]:
        """Every band of every rule, met or not, then those without a condition that were met."""
        bands = dict.fromkeys(band for one in self.rules for band in one.rule.bands)
        return tuple(bands) + tuple(band for band in WHERE_MET if band in met)

    def asks_for(self, quantity: Quantity) -> bool:
        conditions = (band.condition for one in self.rules for band in one.rule.bands if band.condition)
        return any(one.left is quantity for condition in conditions for one in condition.comparisons())
