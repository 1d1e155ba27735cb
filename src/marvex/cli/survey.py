"""`marvex survey`: what is in the data, before anything is drawn."""

from __future__ import annotations

import argparse
from typing import Any

from marvex.cli import options
from marvex.request.place import SURVEY

EXAMPLE = """\
example:
  marvex survey ledger.csv
  marvex survey plan.xlsx --sheet 'Budget 2026' -o plan.json"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "survey",
        help="say what is in the data before anything is drawn",
        description="Says what each column was taken for, how far the data run, and what to look at.",
        example=EXAMPLE,
    )
    options.add_source(parser)
    options.add_settings(parser, SURVEY)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.survey import build_survey
    from marvex.cli.reading import reading
    from marvex.cli.speech import say
    from marvex.tables.survey import print_survey

    request = options.request_from(parsed)
    with reading(parsed.loudness) as session:
        survey, outputs = build_survey(session, request)
    outputs.write()
    if not outputs.paths:
        print_survey(survey, request.settings.locale)
    elif parsed.loudness >= 0:
        for path in outputs.paths:
            say(f"wrote {path}")
    return 0
