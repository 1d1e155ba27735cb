"""What the views of judged points share: their words, their legend, and what their scale must reach."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import TYPE_CHECKING, Any, Self

from marvex.core.compare.result import Analysis
from marvex.core.rules.bands import Band
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.views.drawing.legend import LegendKey, band_keys
from marvex.views.drawing.look import Look

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas


def with_stands(said: Mapping[str, Any]) -> dict[str, Any]:
    """What was said, with one word for rows and columns: whether points stand, None where the view may choose."""
    others = {name: value for name, value in said.items() if name not in ("horizontal", "upright")}
    if len(others) < len(said):
        others["stands"] = False if said.get("horizontal") else True if said.get("upright") else None
    return others


@dataclass(frozen=True, slots=True)
class ViewOfPoints:
    """A view of judged points that draws both sides and fits any height, unless it says otherwise."""

    look: Look

    @classmethod
    def made(cls, look: Look, said: Mapping[str, Any], analysis: Analysis) -> Self:  # noqa: ARG003
        """The view with the options that it takes, each a field of its name.

        Parameters
        ----------
        said : what was said of each of them.
        """
        return cls(look=look, **with_stands(said))

    def legend_keys(self, bands: Sequence[Band], points: Sequence[Judged]) -> list[LegendKey]:
        """A key for every band where anything is judged, and for whatever else needs one."""
        return self.keys_of(bands, points)

    def keys_of(self, bands: Sequence[Band], points: Sequence[Judged]) -> list[LegendKey]:
        """A key for every band, met or not, where anything is judged."""
        return band_keys(bands, self.look.style) if any(one.band is not None for one in points) else []

    def note(self, points: Sequence[Judged]) -> str:  # noqa: ARG002
        """What the picture has to say of itself, for the foot."""
        return ""

    def sentence(self, one: Judged) -> str:
        """What a point says in words."""
        return self.look.sentence(one)

    def values(self, points: Sequence[Judged]) -> Iterable[Decimal]:
        """What the scale must reach: both sides of every point."""
        return (side for one in points for side in (one.point.current, one.point.base) if side is not None)

    def least_width(self, canvas: Canvas, points: Sequence[Judged]) -> float:  # noqa: ARG002
        """So wide a panel must be for the points to be legible; zero where they fit any."""
        return 0.0

    def alike(self, canvas: Canvas, panels: Sequence[Sequence[Judged]], width: float) -> Self:  # noqa: ARG002
        """The view as all panels of that width can have it."""
        return self

    def without(self, labels: frozenset[str]) -> Self:
        """The view with no label at the points of these names."""
        return replace(self, look=replace(self.look, without=labels))

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:  # noqa: ARG002
        """So high a plot of that width must be for the points to be legible."""
        return 0.0
