"""A value is what the standard library makes of a frozen dataclass: the same is asked of both."""

from __future__ import annotations

import copy
import dataclasses
import pickle
from types import SimpleNamespace
from typing import Any

import pytest

from marvex.core import values

STANDARD, OURS = dataclasses.dataclass, values.dataclass


def made_by(decorator: Any) -> SimpleNamespace:
    @decorator(frozen=True, slots=True, kw_only=True)
    class Trip:
        route: str
        fares: tuple[int, ...] = ()
        stops: list[str] = dataclasses.field(default_factory=list)
        told: str = dataclasses.field(default="", compare=False)

    @decorator(frozen=True)
    class Pair:
        one: int
        other: int = 2

        def __post_init__(self) -> None:
            if self.one < 0:
                raise ValueError("below zero")

        def __eq__(self, other: object) -> bool:
            return isinstance(other, Pair) and {self.one, self.other} == {other.one, other.other}

        def __repr__(self) -> str:
            return f"{self.one}~{self.other}"

    @decorator(frozen=True, slots=True, eq=False)
    class Thing:
        name: str

    @decorator(frozen=True, slots=True)
    class Triple(Pair):
        third: int = 0

    for one in (Trip, Pair):  # where `pickle` looks for them
        one.__qualname__ = one.__name__
        globals()[one.__name__] = one
    return SimpleNamespace(Trip=Trip, Pair=Pair, Thing=Thing, Triple=Triple)


@pytest.mark.parametrize("decorator", [STANDARD, OURS])
def test_values_are_made_compared_changed_and_copied_as_the_standard_ones(decorator: Any) -> None:
    made = made_by(decorator)
    trip = made.Trip(route="North", fares=(3,))
    assert trip == made.Trip(route="North", fares=(3,), told="late")  # what is not compared tells none apart
    assert trip != made.Trip(route="South", fares=(3,)) and trip != ("North", (3,), [])
    assert repr(trip).endswith("Trip(route='North', fares=(3,), stops=[], told='')")
    assert made.Trip(route="A").stops is not made.Trip(route="A").stops and not hasattr(trip, "__dict__")
    assert dataclasses.replace(trip, fares=(4,)) == made.Trip(route="North", fares=(4,)) and trip.fares == (3,)
    assert dataclasses.asdict(trip) == {"route": "North", "fares": (3,), "stops": [], "told": ""}
    assert (
        {made.Pair(1): "it"}[made.Pair(1)] == "it" and made.Pair(1) == made.Pair(2, 1) and repr(made.Pair(1)) == "1~2"
    )
    assert made.Triple(1, third=3).other == 2 and made.Triple(1) == made.Triple(1, 2, 0)
    assert made.Triple.__match_args__ == ("one", "other", "third") and len({made.Thing("a"), made.Thing("a")}) == 2
    for one in (trip, made.Pair(3, 4)):
        assert copy.copy(one) == one and copy.deepcopy(one) == one and pickle.loads(pickle.dumps(one)) == one


@pytest.mark.parametrize("decorator", [STANDARD, OURS])
def test_what_a_value_refuses(decorator: Any) -> None:
    made = made_by(decorator)
    trip = made.Trip(route="North")
    for wrong in (lambda: setattr(trip, "route", "South"), lambda: delattr(trip, "route")):
        with pytest.raises(dataclasses.FrozenInstanceError):
            wrong()
    for unfit in (
        lambda: made.Trip(),
        lambda: made.Trip("North"),
        lambda: made.Trip(route="A", day=1),
        lambda: hash(trip),
    ):
        with pytest.raises(TypeError):
            unfit()
    with pytest.raises(ValueError, match="below zero"):
        made.Pair(-1)
    assert trip.route == "North"
