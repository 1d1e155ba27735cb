"""`survey`: what is in a source, before anything is drawn."""

from __future__ import annotations

from dataclasses import replace

from marvex.app.outputs import Outputs, check_outputs
from marvex.app.session import Session
from marvex.core.errors import Mistake
from marvex.core.survey import Survey
from marvex.request.request import Request
from marvex.sources.engine.surveying import surveyed
from marvex.tables.survey import survey_json


def build_survey(session: Session, request: Request) -> tuple[Survey, Outputs]:
    """The survey of one source and its files; nothing is written yet."""
    check_outputs(request.settings.output, (".json",), "output")
    if len(request.sources) > 1:
        raise Mistake("a survey is of one source", "Survey the sources one by one.")
    survey = surveyed(session.ledger(request, is_held=True), request.sources[0].path)
    cautions, following = (tuple(session.word(one) for one in texts) for texts in (survey.cautions, survey.next))
    survey = replace(survey, cautions=cautions, next=following)
    outputs = Outputs()
    for path in request.settings.output:
        outputs.add(path, survey_json(survey))
    return survey, outputs
