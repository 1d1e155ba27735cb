"""A piece: all that a page, a workbook and a document need of one view, as plain data that is kept between builds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field
from typing import Any

from marvex.core.rules.bands import Tone
from marvex.core.values import dataclass

CARRIED = " (carried over from "

Record = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """One view, made.

    Parameters
    ----------
    svg : the picture without fonts; empty of a table or a commentary.
    faces : the fonts that it needs: family, file, letters.
    svg_file, png, pdf : the picture as files, in base64.
    sentences : the commentary.
    cautions : about the comparison, for whoever reads it.
    doubts : what may be wrong with the figures themselves; it is among the notes as well.
    table, traces : as the page shows them.
    sheet : what is written to its sheet of the workbook.
    figures, csv : as files.
    tone : of its headline.
    headline : the current side and the base that its title is of, exactly, as text; empty where absent.
    weight : the size of its headline's change, by which findings are ranked.
    failing : the bands marked `fails` that were met.
    held : of each scenario of the source the first day of its rows, '' where there are none.
    restated : what has changed since the last edition, in words, and `restated_rows` what stands behind each today.
    since_doubts : what all of it has in common, and what of the last edition is not compared.
    worse : the points in a worse band, and `remarked` those that have a remark of this month.
    said : what the command line would have said of reading it.
    """

    name: str
    draw: str
    title: str
    subtitle: str
    foot: str
    svg: str = ""
    faces: list[list[str]] = field(default_factory=list)
    svg_file: str = ""
    png: str = ""
    pdf: str = ""
    description: str = ""
    sentences: list[str] = field(default_factory=list)
    cautions: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)
    table: Record = field(default_factory=dict)
    traces: list[Record] = field(default_factory=list)
    sheet: list[Any] = field(default_factory=list)
    figures: str = ""
    csv: str = ""
    tone: str = ""
    band: str = ""
    headline: list[str] = field(default_factory=list)
    weight: float = 0.0
    failing: list[str] = field(default_factory=list)
    held: dict[str, str] = field(default_factory=dict)
    restated: list[str] = field(default_factory=list)
    restated_rows: list[Record] = field(default_factory=list)
    since_doubts: list[str] = field(default_factory=list)
    rebanded: list[str] = field(default_factory=list)
    worse: list[str] = field(default_factory=list)
    remarks: list[list[str]] = field(default_factory=list)
    said: list[str] = field(default_factory=list)

    @property
    def told_beside(self) -> list[str]:
        """The sentences that stand beside a picture or a table: neither its title nor what its own foot says."""
        return [one for one in self.sentences[1:] if one.rstrip(".") not in self.notes]


def ranked(pieces: Sequence[Piece]) -> list[Piece]:
    """The pieces as findings: what failed, then what is worse, each by the size of its change; one finding once."""
    order = {Tone.WORSE.value: 1, Tone.WATCH.value: 2}
    found: list[Piece] = []
    told: set[str | tuple[str, ...]] = set()
    for piece in sorted(pieces, key=lambda one: (not one.failing, order.get(one.tone, 3), -one.weight)):
        # A result that several views show is one finding; so are two of which both sides are alike.
        names: set[str | tuple[str, ...]] = {piece.title}
        if any(piece.headline):
            names.add((*piece.headline, piece.tone))
        if not names & told:
            found.append(piece)
        told |= names
    return found
