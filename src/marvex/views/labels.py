"""Text that fits: wrapped, made smaller or shortened by its measured extent, never overlapping."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from marvex.views.canvas import measured, widest

ELLIPSIS = "…"
SHRINK = 0.94

# A line may break after a space, a dash or a slash, and between ideographs.
_DASHES, _IDEOGRAPHS = r"\-–—/", r"\u3040-\u30ff\u3400-\u9fff"
_PIECES = re.compile(rf"[^\s{_DASHES}]*[{_DASHES}]+\s*|[{_IDEOGRAPHS}]|[^\s{_DASHES}{_IDEOGRAPHS}]+\s*|\s+")


@dataclass(frozen=True, slots=True)
class Fitted:
    """Texts as lines in one size in which all of them fit."""

    lines: tuple[tuple[str, ...], ...]
    size: float

    @property
    def most_lines(self) -> int:
        return max((len(lines) for lines in self.lines), default=0)


def wrapped(text: str, width: float, size: float, bold: bool = False) -> tuple[str, ...] | None:
    """The text in lines of at most that width, as even as the words allow; None where a word is wider."""
    pieces = _PIECES.findall(text) or [text]
    if any(measured(piece.strip(), size, bold).width > width for piece in pieces):
        return None
    lines, current = [], ""
    for piece in pieces:
        if current and measured((current + piece).rstrip(), size, bold).width > width:
            lines.append(current.strip())
            current = ""
        current += piece
    return (*lines, current.strip())


def fitted(
    texts: Sequence[str], width: float, most_lines: int, size: float, least: float, bold: bool = False
) -> Fitted | None:
    """All texts wrapped in the largest one size that fits; None where even the least does not."""
    while size >= least:
        lines = [wrapped(text, width, size, bold) for text in texts]
        found = [one for one in lines if one is not None and len(one) <= most_lines]
        if len(found) == len(lines):
            return Fitted(tuple(found), size)
        size *= SHRINK
    return None


def fitted_or_cut(text: str, width: float, most_lines: int, size: float, least: float, bold: bool = False) -> Fitted:
    """A text wrapped in the largest size that fits, else in the least and cut with an ellipsis."""
    found = fitted([text], width, most_lines, size, least, bold)
    if found is not None:
        return found
    lines = wrapped(text, width, least, bold)
    if lines is None:
        return Fitted(((shortened(text, width, least, bold),),), least)
    kept = [*lines[: most_lines - 1], shortened(" ".join(lines[most_lines - 1 :]), width, least, bold)]
    return Fitted((tuple(kept),), least)


def shortened(text: str, width: float, size: float, bold: bool = False) -> str:
    """The text cut at its end with an ellipsis, where it is wider than the room."""
    if widest([text], size, bold) <= width:
        return text
    low, high = 0, len(text)
    while low < high:
        middle = (low + high + 1) // 2
        if measured(text[:middle].rstrip() + ELLIPSIS, size, bold).width <= width:
            low = middle
        else:
            high = middle - 1
    return text[:low].rstrip() + ELLIPSIS
