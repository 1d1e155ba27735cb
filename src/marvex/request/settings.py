"""The one model of settings: name, type, default and help of every option, and where it can be used.

A field's name with `-` for `_` is the option of the command; the name itself is the key of a pack.
Its metadata, made by `option`, says the rest. No module of the computation is asked here, so that
`marvex --help` starts at once.
"""

from __future__ import annotations

import dataclasses
import datetime
from decimal import Decimal
from pathlib import Path

from marvex.core.errors import setting
from marvex.core.exact import POWERS
from marvex.core.values import dataclass
from marvex.request.option import (
    ALONG_TIME,
    COMMENTARY,
    COMPARING,
    DRAWN,
    EVERYWHERE,
    GRAINS,
    JUDGED_AS_SAID,
    JUDGING,
    ON_AXES,
    PRESENTING,
    READING,
    SEVERAL,
    SHOWN,
    TABLE,
    TRACE,
    Option,
    of_source,
    option,
)
from marvex.request.values import (
    Column,
    Counted,
    Ends,
    Size,
    change_for_variance,
    column,
    count,
    cut_at,
    day,
    decimals,
    ends,
    kept,
    labelled,
    memory,
    seconds,
    shown,
    size,
)
from marvex.request.values import names as parted

NO_STATEMENT = "none"  # for a file: a statement that is found is taken for a plain list


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Settings:
    """What one call asks for; a field that is None (or empty) was not said."""

    by: tuple[str, ...] = of_source(READING, "the categories compared; several are joined as 'A / B'", "COL[,COL]")
    where: tuple[str, ...] = option(
        READING,
        "keep these rows; also != >= <= < > and ~ with * for any text; repeat to narrow",
        "COL=VALUE[,VALUE]",
        repeats=True,
        places=EVERYWHERE,
    )
    date: tuple[str, ...] = of_source(
        READING, "the column of dates; a year and a month may stand in two", "COL[,COL]"
    )
    amount: tuple[str, ...] = of_source(
        READING,
        "the column of amounts, or what works them out: 'quantity * price'; several become categories",
        "COL[,COL…]",
    )
    scenario: tuple[str, ...] = of_source(READING, "the column that says actual, budget or forecast", "COL")
    account: tuple[str, ...] = of_source(READING, "the column of accounts, where there is a statement", "COL")
    current: str | None = option(
        READING, "the column of the current side, in a table that has both sides as columns", "COL"
    )
    base: str | None = option(READING, "the column of the base, in such a table", "COL")
    headings_are: tuple[str, ...] = of_source(
        READING,
        "the table is wide: its headings are periods, scenarios, or the values of a new column NAME",
        "period|scenario|NAME",
    )
    sheet: tuple[str, ...] = of_source(READING, "the sheet of a workbook, or several as one table", "NAME[,NAME]")
    cells: tuple[str, ...] = of_source(READING, "the part of a sheet", "B4:N40")
    table: tuple[str, ...] = of_source(READING, "the table of a database or a cluster", "[SCHEMA.]NAME")
    query: tuple[str, ...] = of_source(READING, "a file with one SELECT, in place of a table", "FILE.sql")
    memory: str | None = option(
        READING, "the most memory to take, with the rest in a temporary folder", "1GB", read=memory, places=EVERYWHERE
    )
    give_up_after: int | None = option(
        READING, "end a call that takes longer", "SECONDS", read=seconds, places=EVERYWHERE
    )
    total_as: str | None = option(
        READING,
        "how rows become one figure: sum, mean, count, distinct:COL, closing, closing:each, highest or lowest; "
        "default: sum",
        "HOW",
    )
    per: str | None = option(READING, "a rate: the amount divided by this column's sum, totals over totals", "COL")
    source_sign: tuple[str, ...] = of_source(
        READING,
        "how the source signs its amounts: all positive, all turned, as the effect on the result (costs negative), "
        "or debits positive and credits negative",
        "positive|negative|effect|credit",
    )
    amounts_in: tuple[str, ...] = of_source(
        READING, "the unit of the source's figures; default: as its headings say, such as EUR '000", "one|k|m|bn"
    )
    name_map: tuple[str, ...] = of_source(
        READING, "a two-column table: the name in the source, the name to show", "FILE"
    )
    lookup: tuple[str, ...] = of_source(
        READING,
        "a second table joined by the column that both have: accounts.csv, code to name and kind",
        "FILE[:COL]",
    )
    totals: tuple[str, ...] = of_source(
        READING, "rows and columns that are totals of others: left out and said, or kept; default: drop", "drop|keep"
    )
    lines: tuple[str, ...] = option(
        READING,
        "which lines of a statement are shown, after its totals are worked out",
        "LABEL[,LABEL]",
        read=parted,
        places=SHOWN,
        default=(),
    )
    numbers: tuple[str, ...] = of_source(
        READING, "how figures are written, where it is not worked out", "auto|point|comma"
    )
    dates: tuple[str, ...] = of_source(
        READING, "how dates are written, where it is not worked out", "auto|dmy|mdy|ymd"
    )
    year: tuple[str, ...] = of_source(
        READING, "the year of months that say none: 2026, or the two that they run over, 2025/26", "YEAR"
    )
    bad_cells: tuple[str, ...] = of_source(READING, "what an unreadable cell does; default: stop", "stop|blank")

    for_: tuple[str, ...] = option(
        COMPARING,
        "the current window: 2026, 2026-H1, 2026-Q2, 2026-06, 2026-W23, 2026-06-18, FY2026-P03, latest:month, "
        "year-to-date, quarter-to-date, rolling:12, full-year, today, yesterday or A/B; "
        "default: the reporting year so far",
        "WINDOW",
        repeats=True,
    )
    versus: tuple[str, ...] = option(
        COMPARING,
        "the base: prior, year-ago, a scenario, a window or none; default: the budget, else year-ago",
        "WHAT",
        repeats=True,
    )
    column: tuple[Column, ...] = option(
        COMPARING,
        "one group of columns: 'WINDOW [of SCENARIO] [versus WHAT]'; repeat",
        "GROUP",
        read=column,
        repeats=True,
        places=(SEVERAL,),
    )
    of: str | None = option(
        COMPARING,
        "the current side's scenario; default: actual; actual+forecast is the outlook",
        "SCENARIO",
    )
    every: str | None = option(
        COMPARING,
        "the points along time; default: month in a window of more than 62 days, else the data's own grain",
        "GRAIN",
        choices=GRAINS,
        places=ALONG_TIME,
    )
    span: str | None = option(
        COMPARING,
        "widen the window, keeping its end: period, quarter-to-date, year-to-date or rolling:N months, "
        "of a week or a day N of its own",
        "SPAN",
    )
    cumulative: str | None = option(
        COMPARING,
        "each point along time is the running total: year-to-date or rolling:N",
        "SPAN",
        places=ALONG_TIME,
    )
    year_starts: str | None = option(
        COMPARING, "the month in which the reporting year starts; default: january", "MONTH", places=EVERYWHERE
    )
    year_named: str = option(
        COMPARING,
        "FY is named by the year in which it ends, or starts; default: end",
        choices=("end", "start"),
        default="end",
        places=EVERYWHERE,
    )
    weeks: str | None = option(
        COMPARING,
        "a reporting year of weeks: how many in each period of a quarter",
        choices=("4-4-5", "4-5-4", "5-4-4"),
        places=EVERYWHERE,
    )
    year_ends: str | None = option(
        COMPARING,
        "when a year of weeks ends: 'last saturday of january', 'saturday nearest 31 january'",
        "WHEN",
        places=EVERYWHERE,
    )
    as_of: datetime.date | None = option(
        COMPARING,
        "the data are known to here; default: the current scenario's last date, without zeros to its end",
        "DATE",
        read=day,
    )
    full_base: bool = option(COMPARING, "keep the whole base where the current window is part filled", default=False)
    comparable: bool = option(
        COMPARING, "only what both sides have: categories, and along time periods", default=False
    )
    absent: str | None = option(
        COMPARING,
        "a side with no rows is absent, or counts as nothing; default: against a scenario nothing, otherwise absent",
        choices=("gap", "zero"),
    )
    spread: str | None = option(
        COMPARING,
        "a base kept at a coarser grain, such as a yearly budget, is spread over the points",
        choices=("even", "days", "year-ago"),
    )
    match: str | None = option(
        COMPARING,
        "what a day is paired with a year apart: the same date, or the same weekday 364 days before; default: date",
        choices=("date", "weekday"),
    )
    leap: str | None = option(
        COMPARING,
        "what 29 February is compared with: nothing, or 28 February; default: none",
        choices=("none", "feb28"),
    )
    holidays: str | None = option(
        COMPARING, "whose public holidays are no working days: GB, or a part of a country, GB-SCT", "COUNTRY"
    )
    per_day: str | None = option(
        COMPARING,
        "amounts divided by the window's days: all of them, or Monday to Friday",
        choices=("calendar", "working"),
    )

    better: str | None = option(
        JUDGING, "the direction that is good news; default: as the rule says, else up", choices=("up", "down")
    )
    band: tuple[str, ...] = option(
        JUDGING,
        "one band; repeat, and the first that holds wins",
        "'NAME [TONE]: CONDITION'",
        repeats=True,
        places=JUDGED_AS_SAID,
    )
    rule: str | None = option(
        JUDGING,
        "a ready rule (direction, budget, effect), or those of a TOML file; default: direction, or budget where "
        "the base is a scenario",
        "RULE|FILE[:NAME]",
        places=JUDGED_AS_SAID,
    )
    statement: Path | None = option(
        JUDGING,
        "the profit-and-loss lines: which accounts make which line, in which order; none takes a statement that "
        "is found in the table for a plain list",
        "FILE|none",
        read=Path,
    )
    unmapped: str | None = option(
        JUDGING, "a line that gathers the accounts which are on no line of the statement", "LABEL"
    )

    output: tuple[Path, ...] = option(
        PRESENTING, "a file to write; repeat for more", "FILE", read=Path, repeats=True, places=EVERYWHERE
    )
    figures: tuple[Path, ...] = option(
        PRESENTING, "the numbers behind it, as .json or .csv", "FILE", read=Path, repeats=True, places=SHOWN
    )
    order: str | None = option(
        PRESENTING,
        "the order of the points, the largest first",
        choices=("given", "current", "base", "change", "percent", "name"),
        read=change_for_variance,
    )
    keep: Counted | None = option(
        PRESENTING,
        "so many points, the top by the size of what they are in order of, else of their change; the rest become "
        "'Other (n)', or is left out and said",
        "top:N|bottom:N[,alone]",
        read=kept,
    )
    title: str | None = option(
        PRESENTING, "the title; {finding} stands for the finding itself, which is the default", "TEXT", places=SHOWN
    )
    subtitle: str | None = option(PRESENTING, "the subtitle; default: the comparison", "TEXT", places=SHOWN)
    note: str | None = option(PRESENTING, "a note under the picture or table", "TEXT", places=SHOWN)
    remark: tuple[str, ...] = option(
        PRESENTING,
        "a note of your own, pinned to a point; repeat for more",
        "'POINT: text'",
        repeats=True,
        places=SHOWN,
    )
    remarks: Path | None = option(PRESENTING, "a file of remarks, CSV: point, text", "FILE", read=Path, places=SHOWN)
    panels_by: str | None = option(
        PRESENTING,
        "small multiples: a panel for each value of a column, or for each day, week, month, quarter, half or year",
        "COL|GRAIN",
        places=(DRAWN,),
    )
    own_scale: bool = option(PRESENTING, "each panel has its own scale", places=(DRAWN,), default=False)
    labels: Counted | None = option(
        PRESENTING,
        "which points carry a label; the top by the size of their change, or of another figure",
        "all|none|ends|flagged|top:N[:FIGURE]|bottom:N",
        read=labelled,
        places=(ON_AXES,),
    )
    since: Path | None = option(
        PRESENTING,
        "the figures of an earlier run: its windows are asked again, and what was restated is told",
        "FILE.json",
        read=Path,
        places=SHOWN,
    )
    since_gate: bool = option(
        PRESENTING, "end with status 1 where something was restated", places=SHOWN, default=False
    )
    verify: bool = option(
        PRESENTING,
        "find every figure a second time, from the rows one by one; where one differs nothing is written",
        places=(TABLE, DRAWN),
        default=False,
    )
    show: tuple[str, ...] | None = option(
        PRESENTING,
        "what a label says, or which columns of figures a table has; default: what the view is about",
        "current,base,change,percent,contribution",
        read=shown,
        places=(ON_AXES, TABLE),
    )
    measure: str | None = option(
        PRESENTING, "what the amounts are called; default: their heading, and what the rows were narrowed to", "NAME"
    )
    units: str = option(
        PRESENTING, "what figures are shown in", choices=("auto", "one", "k", "m", "bn", "percent"), default="auto"
    )
    decimals: int | None = option(PRESENTING, "decimals of every figure", "N", read=decimals)
    currency: str | None = option(PRESENTING, "the currency of the amounts, such as EUR", "CODE")
    signs: str = option(
        PRESENTING,
        "how a change's sign is written: +1 −1, 1 −1, 1 (1), or 1 1 where mark and colour say the rest",
        choices=("plus", "minus", "parentheses", "unsigned"),
        default="plus",
    )
    marks: str = option(
        PRESENTING, "▲ or ▼ before a change, or none", choices=("on", "off"), places=(DRAWN,), default="on"
    )
    locale: str = option(
        PRESENTING,
        "how figures and dates are written; default: en_GB",
        "LOCALE",
        default="en_GB",
        places=EVERYWHERE,
    )
    style: str | None = option(
        PRESENTING, "colours and type: teal, dark, grey, red-green, or a file of your own", "NAME|FILE", places=SHOWN
    )
    size: Size | None = option(
        PRESENTING,
        "the picture's size in pixels; default: 1280x800",
        "WxH",
        read=size,
        places=(DRAWN,),
    )
    legend: str = option(
        PRESENTING,
        "where the legend stands",
        choices=("top", "right", "none"),
        default="top",
        places=(DRAWN,),
    )
    axis: Ends | None = option(
        PRESENTING, "the ends of the value axis, zero between them", "MIN/MAX", read=ends, places=(ON_AXES,)
    )
    grid: bool = option(
        PRESENTING, "a value axis with hairlines though points are labelled", places=(ON_AXES,), default=False
    )

    thresholds: str | None = option(
        PRESENTING,
        "a short hairline beside each bar where its colour would turn; default: on for at most 24 points",
        choices=("on", "off"),
        places=(ON_AXES,),
    )

    walk: str | None = option(
        PRESENTING,
        "what the steps are; default: statement, drivers or change where there is a base, else balance or movement",
        choices=("change", "balance", "movement", "statement", "drivers", "matched"),
        places=(),
    )
    standing: tuple[str, ...] | None = option(
        PRESENTING,
        "the rows of a list that stand; none: not even the last",
        "none|LABEL,…",
        read=parted,
        places=(),
    )
    deductions: tuple[str, ...] = option(
        PRESENTING,
        "the rows stored as positive that lower the total",
        "LABEL,…",
        read=parted,
        places=(),
        default=(),
    )
    plug: str | None = option(PRESENTING, "a step that takes up what a standing row differs by", "NAME", places=())
    opening_name: str | None = option(PRESENTING, "what the opening bar is called", "LABEL", places=())
    inside: bool = option(PRESENTING, "labels within the bars that have room for them", places=(), default=False)
    closing_name: str | None = option(
        PRESENTING, "what the closing bar is called, or none to leave it out", "none|LABEL", places=()
    )
    subtotal_after: tuple[str, ...] = option(
        PRESENTING,
        f"a standing bar behind this step, or behind a group of {setting('brackets')}, and its name",
        "'LABEL[: NAME]'",
        repeats=True,
        places=(),
    )
    via: str | None = option(
        PRESENTING,
        "two stretches that share the bar between them: from the base to this scenario, and on to the current side",
        "SCENARIO",
        places=(),
    )
    brackets: str | None = option(
        PRESENTING,
        "a bracket with a name under each run of steps of one group, by this column",
        "COL",
        places=(),
    )
    step_shape: str = option(PRESENTING, "what a step looks like", choices=("bar", "arrow"), places=(), default="bar")
    connectors: str = option(
        PRESENTING,
        "thin lines from bar to bar",
        choices=("on", "off"),
        places=(),
        default="on",
    )
    axis_break: Decimal | str = option(
        PRESENTING,
        "cut standing bars that dwarf the steps: auto, none, or the amount to cut at; default: auto",
        "auto|none|VALUE",
        read=cut_at,
        places=(),
        default="auto",
    )
    volume: str | None = option(
        PRESENTING, "the column of volumes: what volume, mix and price did", "COL", places=(TABLE,)
    )
    no_mix: bool = option(PRESENTING, "volume and price only", places=(TABLE,), default=False)
    horizontal: bool = option(PRESENTING, "rows instead of columns", places=(), default=False)
    upright: bool = option(PRESENTING, "columns instead of rows", places=(), default=False)
    paint: str = option(
        PRESENTING,
        "what the band colours: the whole bar, or the piece between base and current",
        choices=("bar", "change"),
        places=(),
        default="bar",
    )
    plot: str = option(
        PRESENTING, "what the bars measure", choices=("change", "percent"), places=(), default="change"
    )
    arrows: bool = option(PRESENTING, "a slim arrow from the tick to the bar's end", places=(), default=False)
    base_as: str = option(
        PRESENTING,
        "how the base is drawn; default: as a line, or not at all where each period is measured against the one before",
        choices=("line", "area", "none"),
        places=(),
        default="auto",
    )
    then_by: tuple[str, ...] = of_source(
        PRESENTING, "the parts of each variance, one level down", "COL", places=(COMMENTARY,)
    )
    at: str | None = option(
        PRESENTING, "which figure: a category, a period, CATEGORY@PERIOD, or Total", "POINT", places=(TRACE,)
    )
    trace_rows: int = option(
        PRESENTING,
        "how many rows a trace shows; 0 for none, where they are nobody's business",
        "N",
        read=count,
        places=(TRACE,),
        default=5,
    )

    @property
    def keeps_totals(self) -> bool:
        """Whether totals of any source are kept, as is said."""
        return any(one.rpartition("=")[2] == "keep" for one in self.totals)

    @property
    def is_of_list(self) -> bool:
        """Whether a call is about a list of movements, whose rows stand or are steps as it says."""
        return self.walk == "movement" or bool(self.standing or self.deductions or self.plug)

    @property
    def statement_file(self) -> Path | None:
        """The file of the statement, where there is one; `none` is no file."""
        return None if self.statement is None or str(self.statement) == NO_STATEMENT else self.statement


# What an option of a source may say, where not just anything.
WORDS_OF_SOURCE = {
    "numbers": ("auto", "point", "comma"),
    "dates": ("auto", "dmy", "mdy", "ymd"),
    "source_sign": ("positive", "negative", "effect", "credit"),
    "amounts_in": ("one", *POWERS),
    "bad_cells": ("stop", "blank"),
    "totals": ("drop", "keep"),
}

FIELDS = {field.name: field for field in dataclasses.fields(Settings)}
OPTIONS: dict[str, Option] = {name: field.metadata["option"] for name, field in FIELDS.items()}
