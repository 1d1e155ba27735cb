"""`marvex draw VIEW`: one picture, as PNG, SVG or PDF."""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from typing import Any

from marvex.cli import options

EXAMPLE = """\
example:
  marvex draw waterfall ledger.csv --by route --for 2026 --versus 2025 -o routes.png"""


@dataclass(frozen=True, slots=True)
class About:
    """What `--help` says of a view: its question, what is drawn, and examples."""

    question: str
    drawn: str
    example: str


VIEWS = {
    "waterfall": About(
        "how did we get from there to here?",
        "From the standing base, through each category's change, to the standing current total.",
        """\
  marvex draw waterfall ledger.csv --by route --for 2026 --versus 2025 -o routes.png
  marvex draw waterfall ledger.csv --by account_name --where kind=cost --source-sign negative --better down \\
      --band 'Overspend [worse]: change > 5% and change > 10k' --band 'Watch [watch]: change > 0' \\
      --band 'Within budget [better]: otherwise'""",
    ),
    "against": About(
        "is each one over or under its mark?",
        "One bar a point, coloured by its band; the base as a tick on each bar, or as one stepped line over time.",
        """\
  marvex draw against ledger.csv --by account_name --where kind=cost --source-sign negative --better down
  marvex draw against ledger.csv --every month --for 2026 --where account_name=Fuel --source-sign negative --better down""",
    ),
    "paired": About(
        "how far apart are the two, each month?",
        "Base and current bars side by side, between them a piece pointed from the one's level to the other's.",
        """\
  marvex draw paired ledger.csv --every month --where account_name=Fuel --source-sign negative --better down""",
    ),
    "trend": About(
        "where do the two lines part?",
        "The current line over the base, and below them, on its own scale, a strip of variance bars.",
        """\
  marvex draw trend ledger.csv --every month --for 2026 --versus year-ago --where kind=income --base-as area""",
    ),
    "variance": About(
        "what moved, and how much?",
        "Variance bars around zero: periods in columns, categories in rows.",
        """\
  marvex draw variance ledger.csv --by route --versus year-ago --order change
  marvex draw variance tickets.csv --every day --for 2026-09 --versus year-ago --match weekday""",
    ),
    "statement": About(
        "what does the profit-and-loss say?",
        "The statement set as printed accounts are, with a small variance bar and a sign in each row.",
        """\
  marvex draw statement ledger.csv --statement statement.toml --for 2026-10 --for 2026 \\
      --versus budget --versus year-ago""",
    ),
    "shift": About(
        "who moved, from where to where?",
        "One row a category: the base as a tick, and an arrow from it to a solid head at the current.",
        """\
  marvex draw shift ledger.csv --by route --versus year-ago --where kind=income --order current""",
    ),
}


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands, "draw", help="one picture", description="Draws one view of the comparison.", example=EXAMPLE
    )
    views = parser.add_subparsers(title="views", dest="view", metavar="VIEW", required=True)
    for name, about in VIEWS.items():
        view = options.add_command(
            views, name, help=about.question, description=about.drawn, example=f"example:\n{about.example}"
        )
        options.add_source(view)
        options.add_settings(view, f"draw {name}")
        view.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.draw import build_picture
    from marvex.cli.speech import deliver

    return deliver(build_picture(parsed.view, parsed.source, options.settings_of(parsed)), parsed.loudness)
