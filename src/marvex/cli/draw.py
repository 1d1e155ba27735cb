"""`marvex draw VIEW`: one picture, as PNG, SVG or PDF."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from functools import partial
from typing import Any

from marvex.cli import options
from marvex.cli.options import Parser

EXAMPLE = """\
example:
  marvex draw waterfall ledger.csv --by route --for 2026 --versus 2025 -o routes.png"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands, "draw", help="one picture", description="Draws one view of the comparison.", example=EXAMPLE
    )
    parser.later = _add_views


def _add_views(parser: Parser, words: Sequence[str]) -> None:
    """The view that is called; all of them where none is, for help, completion or the nearest name."""
    from marvex.views import about_view, view_names

    views = parser.add_subparsers(title="views", dest="view", metavar="VIEW", required=True)
    called = [name for name in view_names() if words and name == words[0]]
    for name in called or view_names():
        about = about_view(name)
        view = options.add_command(
            views,
            name,
            help=f"{about.question} ({', '.join(about.also)})",
            description=f"{about.question.capitalize()}\n{about.drawn}\nAlso called: {', '.join(about.also)}.",
            example=f"example:\n{about.example}",
        )
        options.add_source(view)
        view.later = partial(_add_options, name)
        view.set_defaults(run=run)


def _add_options(name: str, view: Parser, _: Sequence[str]) -> None:
    from marvex.app.view_places import view_place

    options.add_settings(view, view_place(name))
    view.complete()


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.draw import build_picture
    from marvex.cli.reading import reading
    from marvex.cli.speech import deliver

    with reading(parsed.loudness) as session:
        built = build_picture(session, parsed.view, options.request_from(parsed))
    return deliver(built, parsed.loudness)
