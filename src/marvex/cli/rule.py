"""`marvex rule`: try a rule on data before it colours anything."""

from __future__ import annotations

import argparse
from typing import Any

from marvex.cli import options
from marvex.request.settings import RULE

EXAMPLE = """\
example:
  marvex rule policy.toml:spend ledger.csv --by account_name --where kind=cost --source-sign negative"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "rule",
        help="try a rule on data",
        description="Shows what each band takes, which points lie near a threshold, and which bands are never met.",
        example=EXAMPLE,
    )
    parser.add_argument("file", metavar="FILE", help="a TOML file of rules, FILE:NAME, or a ready rule")
    options.add_source(parser)
    options.add_settings(parser, RULE)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.trace import build_trial
    from marvex.cli.speech import deliver

    built, rules = build_trial(parsed.file, parsed.source, options.settings_of(parsed))
    status = deliver(built, parsed.loudness)
    if not built.outputs.paths:
        from marvex.tables.trial import print_trial

        print_trial(rules, built.shown.analysis, built.words.subtitle)
    return status
