"""A piece is made: worked out by a session, and painted, maybe by another process."""

from __future__ import annotations

import base64
import contextlib
from collections.abc import Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import Any

from marvex.app.analysis import analyse
from marvex.app.draw import NO_LETTERS, Planned, drawn_as, planned
from marvex.app.remarks import noted, remarked
from marvex.app.session import Session
from marvex.app.styling import styled
from marvex.app.trace import traces_of
from marvex.app.words import Words, words_of
from marvex.core.compare.lookup import judged_at, name_at
from marvex.core.compare.result import Analysis
from marvex.core.compare.shown import Shown, shown_table
from marvex.core.compare.trace import TracedRow
from marvex.core.errors import Mistake
from marvex.core.exact import exactly
from marvex.core.rules.bands import Tone
from marvex.core.values import dataclass
from marvex.core.words.commentary import cautions_left, commentary
from marvex.core.words.printable import printable
from marvex.core.words.side_names import capitalised
from marvex.core.words.since_words import restated_texts, since_doubts
from marvex.core.words.wording import point_name
from marvex.pack.page_table import page_table
from marvex.pack.piece import CARRIED, Piece, Record
from marvex.pack.sheet_script import RecordedBook
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger
from marvex.tables.figures import figures_json
from marvex.tables.files import table_csv
from marvex.tables.trace import working

MOST_TRACED = 40  # figures of a view whose working a page shows
TRACED_ROWS = 3  # on each side of each of them
FEW_ROWS = 1_000_000  # of a larger source each trace says how many rows there are, and `marvex trace` shows them
WORDS_ONLY = ("table", "commentary")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Unpainted:
    """A piece that lacks its picture still, and what the picture is of."""

    piece: Piece
    plan: Planned | None
    request: Request


def with_carried(session: Session, request: Request, carried: Mapping[str, str], edition: str) -> Request:
    """The request with the remarks of the last edition on points that are still there and have none of their own."""
    if not carried:
        return request
    analysis = remarked(analyse(session, request), request.settings)
    known = {name_at(one.point) for one in analysis.remarks}
    more = []
    for name, text in carried.items():
        plain = text.partition(CARRIED)[0]
        with contextlib.suppress(Mistake):
            if name not in known and judged_at(analysis, name):
                more.append(f"{name}: {plain}{CARRIED}{edition})")
    return request.with_settings(replace(request.settings, remark=(*request.settings.remark, *more)))


def piece_of(session: Session, name: str, draw: str, request: Request, *, is_whole: bool) -> Unpainted:
    """What a view says, worked out; its picture is painted later, maybe by another process.

    Parameters
    ----------
    is_whole : with its traces, its sheet and its files; otherwise only what a choice on the page shows.
    """
    settings = request.settings
    if draw in WORDS_ONLY:
        plan = None
        analysis = noted(session, request, analyse(session, request))
        shown = replace(shown_table(analysis), view=draw)
        words = words_of(shown, settings)
    else:
        plan = planned(session, draw, request)
        shown, words, analysis = plan.shown, plan.words, plan.shown.analysis
    # A picture says its order itself.
    piece = _said(name, draw, shown, words, in_order=plan is None and settings.order is not None)
    if is_whole:
        fills = styled(settings.style).fills
        book = session.ledger(request)
        most = TRACED_ROWS if book.rows_read <= FEW_ROWS and book.first.file.store is None else 0
        traces = traces_of(book, analysis, most)[:MOST_TRACED]
        piece = replace(
            piece,
            traces=[_trace(one, analysis) for one in traces],
            held={one.name or "": str(one.first) for one in book.scenarios if one.first},
            restated_rows=_rows_restated(book, analysis, most),
            sheet=_sheet(_tabled(shown), words, fills),
            figures=figures_json(shown, fills),
            csv=table_csv(_tabled(shown)),
        )
    return Unpainted(piece=piece, plan=plan, request=request)


def _tabled(shown: Shown) -> Analysis:
    """What the table beside a view says: beside a waterfall each change is its step, and in that band."""
    analysis = shown.analysis
    if shown.view != "waterfall" or analysis.first.comparison.base is None:
        return analysis
    return replace(analysis, comparisons=tuple(one.as_steps for one in analysis.comparisons))


def _said(name: str, draw: str, shown: Shown, words: Words, *, in_order: bool) -> Piece:
    """What a view says in words and figures."""
    analysis = shown.analysis
    one = analysis.first
    headline = one.comparison.headline
    band = one.total.band if one.total.band else None
    since = analysis.since
    return Piece(
        name=name,
        draw=draw,
        title=words.title,
        subtitle=words.subtitle,
        foot=words.foot,
        sentences=[printable(sentence.text) for sentence in commentary(analysis, in_order=in_order)],
        cautions=[printable(caution) for caution in cautions_left(analysis)],
        notes=[printable(note) for note in analysis.notes],
        doubts=[printable(capitalised(one)) for one in analysis.reservations],
        table=page_table(_tabled(shown)),
        tone=band.tone.value if band else "",
        band=printable(band.name) if band else "",
        headline=["" if one is None else str(exactly(one)) for one in (headline.current, headline.base)],
        weight=float(abs(headline.change)) if headline.change is not None else 0.0,
        failing=[printable(name) for name in shown.failing],
        restated=[printable(one) for one in restated_texts(since, analysis.figures, with_days=True)] if since else [],
        rebanded=[f"{found.point.name}: was {found.was}, is {found.now}" for found in since.rebanded]
        if since
        else [],
        since_doubts=[printable(capitalised(one)) for one in since_doubts(since, analysis.figures.locale)]
        if since
        else [],
        worse=list(
            dict.fromkeys(
                name_at(judged.point)
                for of_group in analysis.comparisons
                for judged in of_group.points
                if judged.band is not None and judged.band.tone is Tone.WORSE
            )
        ),
        remarks=[[name_at(remark.point), printable(remark.text)] for remark in analysis.remarks],
        said=[printable(line) for line in (*analysis.said, *(f"caution: {one}" for one in analysis.cautions))],
    )


def _rows_restated(book: Ledger, analysis: Analysis, most: int) -> list[Record]:
    """The largest rows that stand behind each restated figure today, in order of what is told of them."""
    found = []
    for one in analysis.since.largest_first[:MOST_TRACED] if analysis.since else ():
        is_known = not one.category or one.category in book.known_categories
        rows = book.largest_rows(one.span, one.category or None, most) if one.span and is_known else ()
        found.append(_rows("", 0, rows, analysis))
    return found


def _rows(what: str, count: int, rows: Sequence[TracedRow], analysis: Analysis) -> Record:
    """Rows as the page shows them."""
    return {
        "what": what,
        "rows": count,
        "headings": [printable(one) for one in rows[0].headings[:5]] if rows else [],
        "largest": [
            [printable(row.place), *(printable(one) for one in row.cells[:5]), _amount(row.amount, analysis)]
            for row in rows
        ],
    }


def _trace(trace: Any, analysis: Analysis) -> Record:
    """What stands behind a figure, as the page shows it."""
    sides = []
    for what, side in (("current", trace.current), ("base", trace.base)):
        if side is None or not side.largest:
            continue
        sides.append(_rows(what, side.rows, side.largest, analysis))
    return {
        "name": printable(point_name(trace.point, analysis.figures.locale)),
        "working": [[printable(part) for part in line] for line in working(trace, analysis)],
        "sides": sides,
    }


def _amount(amount: Decimal, analysis: Analysis) -> str:
    return f"{amount:,f}" if analysis.figures.locale.startswith("en") else f"{amount:f}"


def _sheet(analysis: Analysis, words: Words, fills: Mapping[Tone, str]) -> list[Any]:
    from marvex.tables.workbook import TableSheet

    book = RecordedBook()
    TableSheet(book, "", analysis, fills).write((words.title, words.subtitle, words.foot))
    return book.script


def painted(one: Unpainted, *, is_whole: bool) -> Piece:
    """The piece with its picture, as an SVG for the page and, of a whole one, as files."""
    if one.plan is None:
        return one.piece
    from marvex.views.drawing.saving import drawn_svg, faces_in, for_page, letters_heard, saved, with_fonts
    from marvex.views.drawing.text_metrics import typeface

    picture = drawn_as(one.plan, one.request.settings)
    title, description = picture.words.title, picture.description
    with typeface(picture.style.fonts), letters_heard():  # which are told of the files
        used = faces_in(picture.canvas).items()
        faces = [[family, str(path), "".join(sorted(letters))] for (family, path), letters in used]
        drawn = drawn_svg(picture.canvas, title, description)
        piece = replace(one.piece, svg=for_page(drawn), faces=sorted(faces), description=description)
        if not is_whole:
            return piece
        files = [with_fonts(drawn, picture.canvas).encode()]
        painted_files = [saved(picture.canvas, ending, title, description) for ending in (".png", ".pdf")]
        svg, png, pdf = (base64.b64encode(one).decode() for one in (*files, *(one.content for one in painted_files)))
        if any(one.lacks_letters for one in painted_files):
            piece = replace(piece, said=[*piece.said, f"caution: {NO_LETTERS}"])
    figures = figures_json(picture.shown, picture.style.fills)
    return replace(piece, svg_file=svg, png=png, pdf=pdf, figures=figures)
