"""From settings to sentences: the commentary and its files."""

from __future__ import annotations

from dataclasses import replace

from marvex.app.analysis import analyse
from marvex.app.built import FIGURES_ENDINGS, Built, add_figures, fills_of, style_cautions, with_cautions
from marvex.app.outputs import Outputs, check_request
from marvex.app.remarks import noted
from marvex.app.session import Session
from marvex.app.words import words_of
from marvex.core.compare.shown import shown_table
from marvex.core.words.commentary import Sentence, cautions_left, commentary
from marvex.request.request import Request
from marvex.tables.figures import figures_json
from marvex.tables.sentences import commentary_markdown, commentary_text


def build_commentary(session: Session, request: Request) -> tuple[Built, str]:
    """The commentary as text, and its files; nothing is written yet."""
    settings = request.settings
    check_request(request, (".txt", ".md", ".json"), FIGURES_ENDINGS)
    weak = style_cautions(settings)
    analysis = noted(session, request, analyse(session, request))
    shown = with_cautions(replace(shown_table(analysis), view="commentary"), weak)
    words = words_of(shown, settings)
    sentences = commentary(analysis, in_order=settings.order is not None)
    if settings.title is not None:
        sentences = (Sentence(None, words.title), *sentences[1:])
    outputs = Outputs()
    written = (
        sentences,
        words.subtitle,
        words.foot,
        (*analysis.reservations, *analysis.left_out, *cautions_left(analysis)),
    )
    for path in settings.output:
        match path.suffix.lower():
            case ".txt":
                outputs.add(path, commentary_text(*written))
            case ".md":
                outputs.add(path, commentary_markdown(*written))
            case _:
                outputs.add(path, figures_json(shown, fills_of(settings), sentences))
    add_figures(outputs, settings, shown)
    return Built(shown, outputs, settings), commentary_text(*written)
