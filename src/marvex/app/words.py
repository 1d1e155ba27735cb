"""The words about a picture or a table: its title, its subtitle, and the foot line with source and checks."""

from __future__ import annotations

from marvex.core.compare.comparison import Basis
from marvex.core.compare.result import Analysis
from marvex.core.compare.shown import Shown
from marvex.core.errors import listed
from marvex.core.values import dataclass
from marvex.core.words.adding_up import Printed, adds_up
from marvex.core.words.printable import printable
from marvex.core.words.side_names import EVERYTHING, capitalised, closing_text, scenario_words
from marvex.request.settings import Settings

TABLE_FIGURES = ("current", "base", "change")  # that a table prints at each point, unless told otherwise
ROUNDING_NOTE = "Figures may not add up because of rounding"


# What each check means to a reader who has never heard of it.
CHECKED = {
    "ties out": "adds up to the source",
    "foots": "the steps add up to the last bar",
    "statement complete": "no account is left out",
    "verified": "verified row by row",
}


@dataclass(frozen=True, slots=True, eq=False)
class Words:
    """The words about a picture or table: its own, or those that the call gives."""

    title: str
    subtitle: str
    foot: str


def words_of(
    shown: Shown,
    settings: Settings,
    *,
    remark: str = "",
    printed: Printed | None = None,
    subtitle: str = "",
) -> Words:
    """Title, subtitle and foot line, each the call's own where it gives one.

    Parameters
    ----------
    remark : what the picture has to say of itself, for the foot.
    printed : the figures that a reader sees, where they are not those of the table.
    subtitle : where it is not that of the comparison.
    """
    printed = printed or Printed(figures=settings.show or TABLE_FIGURES)
    analysis = shown.analysis
    found = shown.headline
    title = found if settings.title is None else settings.title.replace("{finding}", found)
    own = subtitle or _subtitle(analysis, settings)
    below = own if settings.subtitle is None else settings.subtitle
    return Words(*map(printable, (title, below, _foot(shown, settings, printed, remark))))


def _subtitle(analysis: Analysis, settings: Settings) -> str:
    by = analysis.by
    sides = "; ".join(dict.fromkeys(one.names.both for one in analysis.comparisons))
    comma = "," if "," in analysis.subject else ""
    subject = f"{analysis.subject}{f'{comma} by {by}' if by else ''}"
    parts = [
        subject if analysis.statement is None else by,
        sides,
        closing_text(analysis.first.comparison, analysis.figures.locale),
    ]
    parts += analysis.spread
    if settings.comparable:
        parts.append("only what both sides have")
    is_year_ago = any(one.comparison.basis is Basis.YEAR_AGO for one in analysis.comparisons)
    if settings.match == "weekday" and is_year_ago:
        parts.append("days matched by weekday")
    if settings.via:
        parts.append(f"by way of {settings.via}")
    if sides == EVERYTHING:
        parts[1] = ""
    if analysis.figures.unit_words:
        parts.append(analysis.figures.unit_words)
    return ", ".join(part for part in parts if part)


def _foot(shown: Shown, settings: Settings, printed: Printed, remark: str) -> str:
    source = shown.analysis.source
    name = f"{source.name}, {source.part}" if source.part else source.name
    parts = [f"Source: {name}, {source.rows_used:,} of {source.rows_read:,} {source.counted}"]
    if shown.analysis.kept:
        parts[0] += f" ({shown.analysis.kept})"
    outlooks = dict.fromkeys(
        scenario_words(one.comparison.current, shown.analysis.figures.locale)
        for one in shown.analysis.comparisons
        if one.comparison.current.is_mixed
    )
    parts += [capitalised(one) for one in outlooks]
    checks = [CHECKED[one.name] for one in shown.checks if one.ok]
    if not shown.analysis.total_as.adds_up:
        checks[0] = "all rows of the source are counted"
    parts.append(capitalised("; ".join(checks)))
    if shown.analysis.kept_totals and settings.walk != "movement":
        parts.append(f"Added up with their own parts: {listed(shown.analysis.kept_totals, 4)}")
    if not adds_up(shown, printed):
        parts.append(ROUNDING_NOTE)
    if remark:
        parts.append(remark)
    if settings.note:
        parts.append(settings.note.rstrip("."))
    return ". ".join(parts) + "."
