"""`table`: the variance table and its files."""

from __future__ import annotations

from marvex.app.analysis import analyse
from marvex.app.built import FIGURES_ENDINGS, Built, add_figures, fills_of, style_cautions, with_cautions
from marvex.app.outputs import Outputs, check_request
from marvex.app.remarks import noted
from marvex.app.session import Session
from marvex.app.words import words_of
from marvex.core.compare.shown import shown_table
from marvex.request.request import Request
from marvex.tables.figures import figures_json
from marvex.tables.files import table_csv, table_markdown

TABLE_ENDINGS = (".csv", ".json", ".md", ".xlsx")


def build_table(session: Session, request: Request) -> Built:
    """The variance table and its files; nothing is written yet."""
    settings = request.settings
    check_request(request, TABLE_ENDINGS, FIGURES_ENDINGS)
    weak = style_cautions(settings)
    analysis = noted(session, request, analyse(session, request))
    shown = with_cautions(shown_table(analysis), weak)
    outputs = Outputs()
    for path in settings.output:
        match path.suffix.lower():
            case ".csv":
                outputs.add(path, table_csv(analysis))
            case ".md":
                words = words_of(shown, settings)
                outputs.add(path, table_markdown(analysis, words.title, words.subtitle, words.foot))
            case ".xlsx":
                from marvex.app.styling import styled
                from marvex.tables.workbook import workbook

                words, style = words_of(shown, settings), styled(settings.style)
                outputs.add(path, workbook(analysis, (words.title, words.subtitle, words.foot), style.fills))
            case _:
                outputs.add(path, figures_json(shown, fills_of(settings)))
    add_figures(outputs, settings, shown)
    return Built(shown, outputs, settings)
