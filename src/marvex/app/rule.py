"""`rule`: a rule tried on data, before it colours anything."""

from __future__ import annotations

from marvex.app.analysis import analyse
from marvex.app.built import Built
from marvex.app.outputs import Outputs, check_request
from marvex.app.session import Session
from marvex.core.compare.shown import shown_table
from marvex.core.errors import Mistake, setting
from marvex.core.rules.trial import TriedRule, tried
from marvex.request.request import Request
from marvex.tables.trial import trial_json


def build_trial(session: Session, request: Request) -> tuple[Built, tuple[TriedRule, ...]]:
    """What the rules do on the data, and the files of it; nothing is written yet."""
    check_request(request, (".json",))
    analysis = analyse(session, request)
    if analysis.first.comparison.base is None:
        raise Mistake("a rule judges changes, and there is no base", f"Name one with {setting('versus')}.")
    found = tried(analysis.first)
    outputs = Outputs()
    for path in request.settings.output:
        outputs.add(path, trial_json(found, analysis))
    return Built(shown_table(analysis), outputs, request.settings), found
