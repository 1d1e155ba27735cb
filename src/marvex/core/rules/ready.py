"""The ready rules: direction, budget and effect."""

from __future__ import annotations

from fractions import Fraction

from marvex.core.compare.point import Better
from marvex.core.exact import ZERO
from marvex.core.rules.bands import Band, Rule, Tone
from marvex.core.rules.conditions import Comparator, Condition, Otherwise, Quantity, Relation, Value, ValueKind


def direction(better: Better) -> Rule:
    """Rise, Fall, No change: the ready rule where the base is another time."""
    return _by_direction("Rise", "Fall", "No change", better)


def budget(better: Better, base_name: str) -> Rule:
    """Over, Under and On the base, Above and Below where up is better: the ready rule against a scenario.

    Parameters
    ----------
    base_name : as it stands within a sentence.
    """
    more, less = ("Above", "Below") if better is Better.UP else ("Over", "Under")
    return _by_direction(f"{more} {base_name}", f"{less} {base_name}", f"On {base_name}", better)


def effect() -> Rule:
    """Favourable, Adverse, No change: the ready rule where income and costs meet."""
    return Rule(
        (
            Band(
                name="Favourable", tone=Tone.BETTER, condition=_above_zero(Quantity.FAVOURABLE), text="favourable > 0"
            ),
            Band(name="Adverse", tone=Tone.WORSE, condition=_above_zero(Quantity.ADVERSE), text="adverse > 0"),
            Band(name="No change", tone=Tone.NEUTRAL, condition=Otherwise(), text="otherwise"),
        )
    )


def _by_direction(up: str, down: str, level: str, better: Better) -> Rule:
    tones = (Tone.BETTER, Tone.WORSE) if better is Better.UP else (Tone.WORSE, Tone.BETTER)
    falls = Relation(Quantity.CHANGE, Comparator.LESS, Value(Fraction(ZERO), ValueKind.AMOUNT))
    return Rule(
        (
            Band(name=up, tone=tones[0], condition=_above_zero(Quantity.CHANGE), text="change > 0"),
            Band(name=down, tone=tones[1], condition=falls, text="change < 0"),
            Band(name=level, tone=Tone.NEUTRAL, condition=Otherwise(), text="otherwise"),
        )
    )


def _above_zero(quantity: Quantity) -> Condition:
    return Relation(quantity, Comparator.MORE, Value(Fraction(0), ValueKind.AMOUNT))
