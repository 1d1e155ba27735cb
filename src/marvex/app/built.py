"""What a command has made and not yet written: the result, its files, and the figures behind it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from marvex.app.outputs import Outputs
from marvex.app.words import Words, words_of
from marvex.core.compare.shown import Shown
from marvex.core.errors import Mistake
from marvex.request.settings import Settings
from marvex.tables.figures import figures_csv, figures_json
from marvex.views.drawing.style import Style

FIGURES_ENDINGS = (".json", ".csv")


@dataclass(frozen=True, slots=True, eq=False)
class Built:
    """A result that is ready: what it shows, the files to write, and the settings that it was made by."""

    shown: Shown
    outputs: Outputs
    settings: Settings

    @property
    def words(self) -> Words:
        """Its words, put together only where somebody reads them."""
        return words_of(self.shown, self.settings)


def with_cautions(shown: Shown, cautions: Sequence[str]) -> Shown:
    """The same with more cautions."""
    for caution in cautions:
        shown = shown.with_caution(caution)
    return shown


def add_figures(outputs: Outputs, settings: Settings, shown: Shown, style: Style) -> None:
    """Adds the files that `--figures` names."""
    for path in settings.figures:
        is_json = path.suffix.lower() == ".json"
        outputs.add(path, figures_json(shown, style.fills) if is_json else figures_csv(shown))


def check_foots(shown: Shown) -> None:
    """Raises Mistake where a check does not hold: nothing is written of what does not tie out."""
    for check in shown.checks:
        if not check.ok:
            raise Mistake(f"the check '{check.name}' fails by {check.difference}", "")
