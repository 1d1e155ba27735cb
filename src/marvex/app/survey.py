"""What is in one source: the survey, and its file. Nothing is compared, so little has to be loaded."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.app.asking import asked_of, calendar_of
from marvex.app.figure_format import check_locale, load_signs
from marvex.app.outputs import Outputs, check_outputs
from marvex.core.compare.totals import TotalAs
from marvex.core.errors import Mistake
from marvex.core.survey import Survey
from marvex.request.settings import Settings
from marvex.sources.engine.ledger import reading
from marvex.sources.engine.surveying import surveyed
from marvex.tables.survey import survey_json


def build_survey(sources: Sequence[str], settings: Settings) -> tuple[Survey, Outputs]:
    """The survey of one source and its files; nothing is written yet."""
    check_outputs(settings.output, (".json",), "output")
    if len(sources) > 1:
        raise Mistake("a survey is of one source", "Survey the sources one by one.")
    check_locale(settings.locale)
    load_signs(settings.locale)  # a workbook is being parsed meanwhile
    calendar = calendar_of(settings)
    with reading(asked_of(sources, settings, TotalAs(), calendar), settings.name_map, calendar, is_held=True) as book:
        survey = surveyed(book, sources[0])
    outputs = Outputs()
    for path in settings.output:
        outputs.add(path, survey_json(survey))
    return survey, outputs
