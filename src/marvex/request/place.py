"""A command, or a view of `draw`: which of the settings it can use."""

from __future__ import annotations

from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Place:
    """Where settings are said.

    Parameters
    ----------
    kinds : what it is to the options: `table`, or of a view `drawn`, `axes`, `time`.
    takes : the options that it takes by name.
    names : the settings that the command names by itself.
    several : several windows and bases stand side by side in it.
    needs_categories : time alone cannot be its axis.
    only_time : nothing but time can be its axis.
    with_history : it says how unusual each change is.
    with_beyond : it shows the base of the periods that the current side has not reached.
    """

    name: str
    kinds: frozenset[str]
    takes: frozenset[str] = frozenset()
    names: frozenset[str] = frozenset()
    several: bool = False
    needs_categories: bool = False
    only_time: bool = False
    with_history: bool = False
    with_beyond: bool = False

    def can_use(self, field: str, places: tuple[str, ...]) -> bool:
        """Whether an option that is for these places can be used here."""
        return field in self.takes or not self.kinds.isdisjoint(places)


def _kinds(name: str) -> frozenset[str]:
    return frozenset({name})


SURVEY = Place(name="survey", kinds=_kinds("survey"))
TRACE = Place(name="trace", kinds=_kinds("trace"), with_history=True)
RULE = Place(name="rule", kinds=_kinds("rule"), names=frozenset({"rule"}))
TABLE = Place(name="table", kinds=frozenset({"table", "several"}), several=True)
COMMENTARY = Place(name="commentary", kinds=_kinds("commentary"), with_history=True)
