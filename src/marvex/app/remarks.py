"""The analyst's own notes, as a call gives them: `--remark 'Fuel: the price rose'`, or a file of them."""

from __future__ import annotations

import csv
from pathlib import Path

from marvex.app.session import Session
from marvex.core.compare.lookup import judged_at
from marvex.core.compare.result import Analysis, Remark, with_remarks
from marvex.core.errors import Mistake, setting
from marvex.request.request import Request
from marvex.request.settings import Settings


def noted(session: Session, request: Request, analysis: Analysis) -> Analysis:
    """The analysis with every remark, and with what has changed since an earlier run where one is named."""
    analysis = remarked(analysis, request.settings)
    if request.settings.since is None:
        return analysis
    from marvex.app.since import with_since

    return with_since(session, request, analysis, request.settings.since)


def remarked(analysis: Analysis, settings: Settings) -> Analysis:
    """The analysis with every remark pinned to its point; raises Mistake where one has no point."""
    remarks = [_pinned(analysis, text) for text in settings.remark]
    if settings.remarks is not None:
        remarks += [_in_file(analysis, *row) for row in _rows(settings.remarks)]
    return with_remarks(analysis, remarks)


def _pinned(analysis: Analysis, said: str) -> Remark:
    """A remark whose point is all before a colon; a name may hold colons of its own."""
    if ":" not in said:
        raise Mistake(
            f"{setting('remark')} '{said}' does not say what it is about", "Write it as 'Fuel: the price rose'."
        )
    places = [place for place, sign in enumerate(said) if sign == ":"]
    for place in reversed(places[1:]):
        try:
            return _remark(analysis, said[:place], said[place + 1 :], "remark")
        except Mistake:
            continue
    return _remark(analysis, said[: places[0]], said[places[0] + 1 :], "remark")


def _in_file(analysis: Analysis, point: str, text: str) -> Remark:
    return _remark(analysis, point, text, "remarks")


def _remark(analysis: Analysis, point: str, text: str, field: str) -> Remark:
    if not text.strip():
        raise Mistake(f"{setting(field)}: the remark on '{point.strip()}' is empty", "Write what there is to say.")
    return Remark(judged_at(analysis, point.strip(), field).point, " ".join(text.split()))


def _rows(path: Path) -> list[tuple[str, str]]:
    """The rows of a two-column file, without its headings where it has some."""
    try:
        with path.open(encoding="utf-8-sig", newline="") as file:
            rows = [row for row in csv.reader(file) if any(cell.strip() for cell in row)]
    except (OSError, UnicodeDecodeError, csv.Error) as problem:
        raise Mistake(
            f"{setting('remarks')} {path.name} cannot be read: {problem}", "Give a CSV of point and text."
        ) from problem
    if any(len(row) != 2 for row in rows):
        raise Mistake(f"{setting('remarks')} {path.name} does not have two columns", "Give: point, text.")
    if rows and [cell.strip().casefold() for cell in rows[0]] in (["point", "text"], ["point", "remark"]):
        rows = rows[1:]
    return [(point, text) for point, text in rows]
