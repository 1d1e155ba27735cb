"""What a command has made and not yet written: the result, its files, and the figures behind it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from marvex.app.outputs import Outputs
from marvex.app.words import Words, words_of
from marvex.core.compare.shown import Shown
from marvex.core.errors import Mistake
from marvex.core.rules.bands import Tone
from marvex.core.values import dataclass
from marvex.request.settings import Settings
from marvex.tables.figures import figures_csv, figures_json

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
    """The same with more cautions, about what is hard to read."""
    for caution in cautions:
        shown = shown.with_caution(caution)
    return replace(shown, unreadable=(*shown.unreadable, *cautions))


def style_cautions(settings: Settings) -> tuple[str, ...]:
    """What has to be said of a style of the analyst's own that is hard to read."""
    if settings.style is None:
        return ()
    from marvex.app.styling import weaknesses_of

    return weaknesses_of(settings.style)


def fills_of(settings: Settings) -> Mapping[Tone, str]:
    """The colours of the tones, for what names them; a style is looked up only there."""
    from marvex.app.styling import styled

    return styled(settings.style).fills


def add_figures(outputs: Outputs, settings: Settings, shown: Shown) -> None:
    """Adds the files that `--figures` names."""
    for path in settings.figures:
        is_json = path.suffix.lower() == ".json"
        outputs.add(path, figures_json(shown, fills_of(settings)) if is_json else figures_csv(shown))


def check_foots(shown: Shown) -> None:
    """Raises Mistake where a check does not hold: nothing is written of what does not tie out."""
    for check in shown.checks:
        if not check.ok:
            raise Mistake(f"the check '{check.name}' fails by {check.difference}", "")
