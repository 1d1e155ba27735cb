"""`marvex draw VIEW`: one picture, as PNG, SVG or PDF."""

from __future__ import annotations

import argparse
from importlib import import_module
from threading import Thread
from typing import Any

from marvex.cli import options
from marvex.pack.settings import WATERFALL

EXAMPLE = """\
example:
  marvex draw waterfall ledger.csv --by route --for 2026 --versus 2025 -o routes.png"""

WATERFALL_EXAMPLE = """\
example:
  marvex draw waterfall ledger.csv --by route --for 2026 --versus 2025 -o routes.png
  marvex draw waterfall ledger.csv --by account_name --where kind=cost --stored negative --better down \\
      --rule 'Overspend [worse]: change > 5% and change > 10k' --rule 'Watch [watch]: change > 0' \\
      --rule 'Within budget [better]: otherwise'"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands, "draw", help="one picture", description="Draws one view of the comparison.", example=EXAMPLE
    )
    views = parser.add_subparsers(title="views", dest="view", metavar="VIEW", required=True)
    waterfall = options.add_command(
        views,
        "waterfall",
        help="how did we get from there to here?",
        description="From the standing base, through each category's change, to the standing current total.",
        example=WATERFALL_EXAMPLE,
    )
    options.add_source(waterfall)
    options.add_settings(waterfall, WATERFALL)
    waterfall.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    # The drawing library takes longer to load than a ledger to be read: both at once.
    Thread(target=import_module, args=("marvex.views.waterfall",), daemon=True).start()
    from marvex.cli.speech import deliver
    from marvex.pack.build import build_waterfall

    return deliver(build_waterfall(parsed.source, options.settings_of(parsed)), parsed.loudness)
