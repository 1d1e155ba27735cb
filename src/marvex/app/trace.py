"""What looks into a comparison without showing all of it: a rule tried on it, and the trace of one figure."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from marvex.app.analysis import analyse, traced
from marvex.app.outputs import Outputs, check_outputs
from marvex.app.table import Built
from marvex.core.compare.shown import shown_table
from marvex.core.compare.trace import Trace
from marvex.core.errors import Mistake, setting
from marvex.core.rules.trial import TriedRule, tried
from marvex.request.settings import Settings
from marvex.tables.trace import trace_json
from marvex.tables.trial import trial_json


def build_trial(rules: str, sources: Sequence[str], settings: Settings) -> tuple[Built, tuple[TriedRule, ...]]:
    """What the rules do on the data, and the files of it; nothing is written yet."""
    check_outputs(settings.output, (".json",), "output")
    settings = replace(settings, rule=rules)
    analysis = analyse(sources, settings)
    if analysis.first.comparison.base is None:
        raise Mistake("a rule judges changes, and there is no base", f"Name one with {setting('versus')}.")
    found = tried(analysis.first)
    shown = shown_table(analysis)
    outputs = Outputs()
    for path in settings.output:
        outputs.add(path, trial_json(found, analysis))
    return Built(shown, outputs, settings), found


def build_trace(sources: Sequence[str], settings: Settings) -> tuple[Built, Trace]:
    """What stands behind one figure, and its files; nothing is written yet."""
    check_outputs(settings.output, (".json",), "output")
    if settings.at is None:
        raise Mistake(
            f"{setting('at')} does not say which figure",
            f"Name a category, such as {setting('at')} Fuel, or {setting('at')} Total.",
        )
    analysis, trace = traced(sources, settings, settings.at)
    shown = shown_table(analysis)
    outputs = Outputs()
    for path in settings.output:
        outputs.add(path, trace_json(trace, analysis))
    return Built(shown, outputs, settings), trace
