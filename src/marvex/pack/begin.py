"""A starter pack for a source: the views that its own columns can answer, each tried before it is written."""

from __future__ import annotations

import contextlib
import json
import os
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import Any

from marvex.app.analysis import analyse
from marvex.app.good_news import are_of_debits, good_news_doubt
from marvex.app.session import Session
from marvex.app.survey import read_somehow, unlike_sides
from marvex.app.view_places import view_place
from marvex.core.compare.comparison import Basis
from marvex.core.compare.scenarios import ScenarioDates, actual_among
from marvex.core.errors import Mistake, offered
from marvex.core.time.calendar import CIVIL, Grain, coarsest, is_finer
from marvex.core.values import dataclass
from marvex.pack.making import painted, piece_of
from marvex.pack.pack_file import as_keys
from marvex.pack.pack_model import CALENDAR, SourceTable
from marvex.request.from_keys import FIELD_OF, key_of, settings_from
from marvex.request.per_source import named
from marvex.request.place import COMMENTARY, SURVEY, TABLE
from marvex.request.request import request_of
from marvex.request.settings import OPTIONS, Settings
from marvex.sources.engine.ledger import Ledger
from marvex.sources.readers.places import HIVE, PATTERN, is_address
from marvex.sources.where import filter_text

FEW, MANY = 12, 40  # categories of a waterfall, and of a list
COUNTING_TWICE = (("total_as", "sum"), ("totals", "keep"))  # ways on that a pack does not take by itself
_WEEKEND = timedelta(days=2)
NAMES_A_FILE = frozenset({"query", "lookup", "name_map"})
WHY = {
    "versus": "the base: a scenario, year-ago, prior, a window or none",
    "choices": "what a reader of the page may choose: grains, columns",
}
MOVED_BY = {"month": "2026-11", "quarter": "2026-Q4", "half": "2026-H2"}
KIND_NAMES = ("kind", "type", "class")
COSTS = ("cost", "costs", "expense", "expenses")


@dataclass(frozen=True, slots=True, kw_only=True)
class _View:
    """A view that may go into the pack, its keys, and what a comment says of it."""

    draw: str
    name: str
    keys: Mapping[str, Any]
    comment: str


@dataclass(frozen=True, slots=True, kw_only=True)
class _BaseTaken:
    """The base of a pack: as a key says it where it is to be written; whether it is one of several that could be."""

    said: str | None = None
    is_offered: bool = False
    is_there: bool


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class StarterPack:
    """The text of a starter pack, and what was decided in it where the source could be read in several ways."""

    text: str
    decided: tuple[str, ...]


def starter_pack(
    session: Session, sources: Sequence[str], folder: Path, asked: Mapping[str, Any] | None = None
) -> StarterPack:
    """A pack file for a source, or for several that are set against one another.

    Parameters
    ----------
    sources : as a call writes them, several each with its scenario: `budget=plan.xlsx`.
    folder : where the file is to lie; paths in it start from there.
    asked : what the call says of the source and of the sides, by field, as it is written.

    Raises Mistake where nothing in them can be drawn.
    """
    said = {key_of(field): value for field, value in (asked or {}).items()}
    head = {key: said.pop(key) for key in tuple(said) if key not in SourceTable.model_fields}
    usable = {
        key: value for key, value in (said | head).items() if SURVEY.can_use(key, OPTIONS[FIELD_OF[key]].places)
    }
    settings = Settings(**settings_from(usable))
    book, unclear, taken = read_somehow(session, request_of(sources, settings, SURVEY))
    unclear += unlike_sides(session, book, request_of(sources, settings, SURVEY), taken)
    taken.pop("statement", None)  # which would add up income and costs
    taken.pop("of", None)  # which is hers to say
    twice = [field for field, value in COUNTING_TWICE if taken.get(field) == value]
    for field, value in taken.items():
        said[key_of(field)] = [*said.get("where", []), *value] if field == "where" else value
    if twice:  # what would, is said
        others = {key: value for key, value in said.items() if key not in twice}
        analyse(session, request_of(sources, Settings(**settings_from(others | head)), TABLE))
    head = _head(book, head.get("of")) | head
    if "spread" in said:  # which is of what is compared, and of no source alone
        head["spread"] = said.pop("spread")
    base = _base(session, sources, head | said)
    why = dict(WHY)
    if base.is_offered:
        why["versus"] = "one of several that could each be the base"
    if base.said:
        head["versus"] = base.said
    columns = _columns_taken(session, sources, book, head, said)
    said |= columns
    why |= dict.fromkeys([*columns][:1], "which columns are which")
    asked_for = _views(session, sources, book, settings)
    if head and not base.is_there:
        asked_for = (one for view in asked_for for one in (*_against_before(view), view))
    views: dict[str, _View] = {}  # of each name the first that works
    for view in asked_for:
        if view.name not in views and _works(session, sources, head | said | dict(view.keys), view.draw):
            views[view.name] = view
    if not views:
        analyse(session, request_of(sources, Settings(**settings_from(head | said)), TABLE))  # which may say why
        raise Mistake(
            f"{book.name}: no view of it can be drawn without being told more",
            f"Try marvex survey {named(sources[0]).path}: it says what is in the table.",
        )
    doubts = _doubts(session, sources, head | said | dict(views["table"].keys)) if "table" in views else ()
    if are_of_debits(doubts):
        said["source_sign"], why["source_sign"] = "credit", "income is below zero and costs above it: turned"
    elif doubts and _works(session, sources, head | said | {"better": "down"} | dict(views["table"].keys), "table"):
        head["better"], why["better"] = "down", "these look like costs: less of them is good news"
    for key in said.keys() & NAMES_A_FILE:
        said[key] = [_from(folder, one) for one in said[key]]
    decided = tuple(as_keys(one) for one in unclear)
    text = _written(book, [_from(folder, one) for one in sources], said, head, why, decided, list(views.values()))
    return StarterPack(text=text, decided=decided)


def _base(session: Session, sources: Sequence[str], keys: Mapping[str, Any]) -> _BaseTaken:
    """The base that is taken; it is written, so that a scenario more in next month's file is no other base."""
    try:
        comparison = analyse(session, request_of(sources, Settings(**settings_from(keys)), TABLE)).first.comparison
    except Mistake as mistake:
        one_of_several = offered(mistake).get("versus")
        return _BaseTaken(said=one_of_several, is_offered=one_of_several is not None, is_there=True)
    if comparison.base is None or keys.keys() & {"versus", "current", "column"}:
        return _BaseTaken(is_there=comparison.base is not None)
    of_scenario = comparison.basis is Basis.SCENARIO
    return _BaseTaken(said=comparison.base.scenario if of_scenario else comparison.basis.value, is_there=True)


def _columns_taken(
    session: Session, sources: Sequence[str], book: Ledger, head: Mapping[str, Any], said: Mapping[str, Any]
) -> dict[str, str]:
    """The columns of a list that were taken for the date, the amount and the scenario, as keys.

    They are written, so that a column more in next month's file is not taken for one of them. Nothing where the same
    comparison does not come of it.
    """
    roles, headings = book.first.roles, book.first.headings
    if len(sources) > 1 or book.statement is not None or len(roles.amounts) != 1:
        return {}
    taken = {"date": roles.date, "amount": roles.amounts[0].name, "scenario": roles.scenario}
    found = {
        key: name
        for key, name in taken.items()
        if name in headings and key not in said and re.fullmatch(r"[\w .%()]+", str(name))
    }
    keys = {**head, **said}
    with contextlib.suppress(Mistake):
        was, now = (
            analyse(session, request_of(sources, Settings(**settings_from(one)), TABLE)).first.comparison
            for one in (keys, keys | found)
        )
        if (was.total.current, was.total.base, len(was.points)) == (
            now.total.current,
            now.total.base,
            len(now.points),
        ):
            return {key: str(name) for key, name in found.items()}
    return {}


def _against_before(view: _View) -> tuple[_View, ...]:
    """The view of a month against the month before, where there is neither a plan nor a year before."""
    if "every" in view.keys:
        return ()
    keys = {key: value for key, value in view.keys.items() if key != "for"}
    return (replace(view, keys={**keys, "versus": "prior"}),)


def _doubts(session: Session, sources: Sequence[str], keys: Mapping[str, Any]) -> tuple[str, ...]:
    """What is to be said of a table of it whose good news are not said: it is of costs alone, or of debits."""
    request = request_of(sources, Settings(**settings_from(keys)), TABLE)
    comparison = analyse(session, request).first.comparison
    return good_news_doubt(session.ledger(request), request, comparison)


def _from(folder: Path, source: str) -> str:
    """A source as a file in a folder has to name it."""
    if (name := named(source)).scenario:
        return f"{name.scenario}={_from(folder, name.path)}"
    for prefix in (HIVE, PATTERN, "sqlite:///"):
        path = source.removeprefix(prefix)
        if path != source:
            return prefix + (path if Path(path).is_absolute() else os.path.relpath(path, folder))
    return source if is_address(source) else os.path.relpath(source, folder)


def _head(book: Ledger, of: str | None = None) -> dict[str, Any]:
    """The pack's own window, where the data are of more than one month; of those kept by quarter or half, one such.

    Parameters
    ----------
    of : the current side's scenario, where it is said.
    """
    dated = [one for one in book.scenarios if one.first and one.last]
    current = _current(book, of)
    if current is None or any(one.grain is Grain.YEAR for one in dated):
        return {}
    assert current.first is not None and current.last is not None
    if current.runs_to_date:
        return {"for": "year-to-date"}
    grain = coarsest(*(one.grain for one in dated if one.grain))
    if is_finer(Grain.MONTH, grain):
        return {"for": f"latest:{grain.value}"} if len(current.days) > 1 else {}
    # Some days of the month before, as where weeks run across its end, are no month to look at.
    reached = CIVIL.start(current.last + _WEEKEND + timedelta(days=1), Grain.MONTH) - timedelta(days=1)
    has_month = current.first <= CIVIL.start(reached, Grain.MONTH) + _WEEKEND
    return {"for": "latest:month"} if has_month and current.last.replace(day=1) > current.first else {}


def _current(book: Ledger, of: str | None) -> ScenarioDates | None:
    """The scenario of the current side; None where nothing has dates."""
    dated = [one for one in book.scenarios if one.first and one.last]
    return (
        next((one for one in dated if one.name == of), None) or actual_among(dated) or (dated[0] if dated else None)
    )


def _has_year_so_far(book: Ledger, of: str | None) -> bool:
    """Whether the data are of half of the reporting year so far or more, and no sheet of a month or two."""
    current = _current(book, of)
    if current is None or current.last is None:
        return False
    start = book.calendar.start(current.last, Grain.YEAR)
    months = {(day.year, day.month) for day in current.days if day >= start}
    return 2 * len(months) >= (current.last.year - start.year) * 12 + current.last.month - start.month + 1


def _views(session: Session, sources: Sequence[str], book: Ledger, settings: Settings) -> Iterator[_View]:
    """What could be asked of the source, the most telling first."""
    few, many, parts = (None, None, None) if settings.by else _columns(book)
    of_few, of_many = ([one, *(_elsewhere(book, one) or ())] if one else [] for one in (few, many))
    is_dated = any(one.last for one in book.scenarios)
    so_far = {"for": "year-to-date"} if _head(book) and _has_year_so_far(book, settings.of) else {}
    by_few: dict[str, Any] = {} if book.statement or not few else {"by": of_few}
    by_many: dict[str, Any] = {} if book.statement or not many else {"by": of_many}
    by_steps = by_few or (by_many and {**by_many, "keep": f"top:{FEW}"})
    if book.statement:
        comment = "The statement, as its lines were found."
        yield _View(draw="statement", name="statement", keys={}, comment=comment)
    yield _View(
        draw="waterfall", name="from-base-to-current", keys=by_steps,
        comment="How did we get from the base to here? by names the steps.",
    )  # fmt: skip
    if is_dated and not book.statement:
        yield _View(
            draw="trend", name="trend", keys={**so_far, "every": "month"},
            comment="Where do the two lines part? every is day, week, month, quarter, half or year.",
        )  # fmt: skip
    yield from _costs(session, sources, book, many or few, settings)
    if not (book.statement and book.statement.is_turned):  # whose lines as a list would be debits and credits
        yield _View(
            draw="variance", name="largest-movers", keys={**so_far, **by_many, "keep": "top:10", "order": "change"},
            comment="What moved, and how much? keep gathers the rest as Other.",
        )  # fmt: skip
    if book.statement or not by_many:
        yield _View(draw="variance", name="variances", keys={**so_far, **by_few}, comment="What moved, and how much?")
    yield _View(
        draw="table", name="table", keys={**so_far, **(by_few or by_many)},
        comment="The same as a table; repeat versus for several bases: versus = [\"budget\", \"year-ago\"].",
    )  # fmt: skip
    words = _View(
        draw="commentary", name="commentary", keys=by_many or by_few, comment="The variances as sentences.",
    )  # fmt: skip
    if by_many and parts:
        comment = "The variances as sentences; then_by is what each is made of."
        yield replace(words, keys={**by_many, "then_by": parts}, comment=comment)
    yield words


def _costs(
    session: Session, sources: Sequence[str], book: Ledger, by: str | None, settings: Settings
) -> Iterator[_View]:
    """Costs by themselves, where a column tells which rows they are."""
    column = next((one.name for one in book.first.columns if one.name.casefold() in KIND_NAMES), None)
    value = column and next((one for one in book.values_of(column) if one.casefold() in COSTS), None)
    if not value or by is None or by == column:
        return
    where = filter_text(str(column), "=", [value])
    with contextlib.suppress(Mistake):
        whole = analyse(
            session, request_of(sources, replace(settings, where=(*settings.where, where)), TABLE)
        ).first.comparison.total
        sign = {"source_sign": "negative"} if (whole.current or 0) < 0 else {}
        yield _View(
            draw="against", name="costs", keys={"where": [*settings.where, where], "by": by, **sign, "rule": "spend"},
            comment="Is each cost over its mark? source_sign turns costs that are stored as negative.",
        )  # fmt: skip


def _columns(book: Ledger) -> tuple[str | None, str | None, str | None]:
    """A column of few categories for a waterfall, one of most for a list, another for its parts; None where none is."""
    roles = book.first.roles
    if book.statement is not None or (book.width and roles.is_wide):
        return None, None, None
    sizes: dict[str, int] = {}
    for column in book.first.columns:
        is_named = column.is_text or column.are_names
        if column.name in (roles.date, roles.scenario) or not is_named or column.name.casefold() in KIND_NAMES:
            continue
        count = sum(one != "" for one in book.values_of(column.name))
        if 1 < count <= MANY and _elsewhere(book, column.name) is not None:
            sizes[column.name] = count

    def largest(names: Iterable[str]) -> str | None:
        return max(names, key=lambda name: sizes[name], default=None)

    many = largest(sizes)
    few = largest(name for name, count in sizes.items() if count <= FEW)
    return few, many, largest(name for name in sizes if name != many)


def _elsewhere(book: Ledger, column: str) -> list[str] | None:
    """What other sources call the column that most of its values stand in, each as `budget=Line`; None where one has
    none such."""
    values = {one for one in book.values_of(column) if one}
    found = []
    for source in book.sources[1:]:
        if column in source.headings:
            continue
        texts = [one.name for one in source.columns if one.is_text]
        alike = {name: len(values.intersection(source.rows.values(name))) for name in texts}
        name = max(texts, key=lambda one: alike[one], default="")
        if source.scenario is None or not name or 2 * alike[name] <= len(values):
            return None
        found.append(f"{source.scenario}={name}")
    return found


def _works(session: Session, sources: Sequence[str], keys: Mapping[str, Any], draw: str) -> bool:
    """Whether a view can be made as it stands."""
    place = TABLE if draw == "table" else COMMENTARY if draw == "commentary" else view_place(draw)
    usable = {key: value for key, value in keys.items() if key != "rule"}
    with contextlib.suppress(Mistake):
        request = request_of(sources, Settings(**settings_from(usable)), place)
        one = painted(piece_of(session, "trial", draw, request, is_whole=False), is_whole=False)
        return bool(one.table["rows"]) and (draw != "commentary" or len(one.sentences) > 1)
    return False


RULE = """
# The rules of this house. A band is a name, a tone and a condition; the first that holds wins.
# Tones: worse, watch, better, neutral, muted. Add "fails" to one ([worse fails]) and a build that
# meets it ends with status 1.
[rules.spend]
better = "down"
bands = [
    "Overspend [worse]: change > 5% and change > 1k",
    "Watch [watch]: change > 0",
    "Within budget [better]: otherwise",
]
"""


def _written(
    book: Ledger,
    files: Sequence[str],
    said: Mapping[str, Any],
    head: Mapping[str, Any],
    why: Mapping[str, str],
    decided: Sequence[str],
    views: Sequence[_View],
) -> str:
    """The file, with comments that teach each choice.

    Parameters
    ----------
    said, head : the keys of the source, and those of the pack and of its calendar.
    why : why a key of the pack is as it is.
    decided : what was decided of the source.
    """
    lines = [f"# A pack from {book.name}: change it, keep it, and build it every month with marvex pack.", ""]
    lines += [
        "[pack]",
        _line("title", Path(book.first.file.title).stem.replace("_", " ").replace("-", " ").capitalize()),
    ]
    if "for" in head:
        grain = next((one for one in MOVED_BY if head["for"].endswith(one)), "month")
        head = {"for": head["for"], "choices": [grain], **head}
        why = {"for": f"marvex pack PACK.toml --for {MOVED_BY[grain]} moves the whole pack", **why}
    lines += [_line(key, value, why.get(key, "")) for key, value in head.items() if key not in CALENDAR]
    lines.append(_line("# restated", "fails", "a figure that differs from the last edition ends with status 1"))
    lines.append(_line("# remarks_needed", "worse", "so does a point in a worse band without a remark"))
    lines += ["", "[source]", _line("file", files)]
    lines += [f"# {one}" for one in decided]
    lines += [_line(key, value, why.get(key, "")) for key, value in said.items()]
    if calendar := [_line(key, value) for key, value in head.items() if key in CALENDAR]:
        lines += ["", "[calendar]", *calendar]
    text = "\n".join(lines) + "\n"
    if any(view.keys.get("rule") for view in views):
        text += RULE
    text += '\n# [style]\n# name = "teal"                      # or dark, grey, red-green, or file = your own\n'
    for view in views:
        rows = [_line(key, value) for key, value in {"draw": view.draw, "name": view.name, **view.keys}.items()]
        text += "\n".join(["", f"# {view.comment}", "[[view]]", *rows, ""])
    return text


def _line(key: str, value: Any, why: str = "") -> str:
    """A key of the file with its value, a list of one as that one, and why it is so."""
    one = value[0] if isinstance(value, list) and len(value) == 1 and key != "choices" else value
    text = f"{key} = {json.dumps(one, ensure_ascii=False)}"
    return f"{text:<37}# {why}" if why else text
