"""Generated tables whose totals are known, for the finder of a table's structure; nothing of it is used in them."""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from decimal import Decimal

from marvex.core.structure.evidence import TableLine
from marvex.core.structure.structure_found import Structure
from marvex.core.structure.total_names import naming

SUBTOTALS = ("Total {}", "{} total", "Subtotal", "Total")
RESULTS = ("Gross margin", "Operating profit", "Profit before tax", "Net profit")
WORDS = ("Fuel", "Crew", "Berths", "Tickets", "Freight", "Cafe", "Repairs", "Rent", "Energy", "Post", "Audit", "Bank")
DECOYS = ("Total Marine", "Profit share paid", "Net nets", "Loss on disposal", "Margin call fees", "Summary desk")


@dataclass
class Made:
    """A table and the totals and ratios that it was made with."""

    lines: list[TableLine] = field(default_factory=list)
    totals: dict[int, dict[int, int]] = field(default_factory=dict)
    ratios: dict[int, tuple[int, int]] = field(default_factory=dict)

    def add(self, label: str, figures: list[Decimal], indent: int = 0) -> int:
        self.lines.append(TableLine(label=label, figures=tuple(figures), naming=naming(label), indent=indent))
        return len(self.lines) - 1


def statement(random_: random.Random, columns: int) -> Made:
    """A statement of 2 to 40 leaves and 1 to 4 levels of totals, as one of several kinds."""
    leaves = random_.randint(2, 40) if random_.random() < 0.5 else random_.randint(3, 14)
    made = Made()
    amounts = _Amounts(random_, columns)
    if random_.random() < 0.6 and leaves > 3:
        _chain(made, amounts, leaves)
    else:
        _blocks(made, amounts, leaves, is_above=random_.random() < 0.35)
    return amounts.finished(made)


class _Amounts:
    """How the figures of one table are made: their size, their digits, and whether one column follows another."""

    def __init__(self, random_: random.Random, columns: int) -> None:
        self.random, self.columns = random_, columns
        self.decimals = random_.choice((0, 0, 2, 2, 1))
        self.size = random_.choice((500, 5_000, 80_000, 2_000_000))
        self.is_rounded = random_.random() < 0.2  # in thousands that do not quite add
        self.spread = random_.choice((0.05, 0.15, 0.4))

    def leaf(self, sign: int = 1) -> list[Decimal]:
        base = self.random.lognormvariate(0, 1.2) * self.size
        unit = Decimal(1).scaleb(-self.decimals - (3 if self.is_rounded else 0))
        return [
            Decimal(sign * base * (1 + self.random.gauss(0, self.spread))).quantize(unit) for _ in range(self.columns)
        ]

    def total(self, made: Made, parts: dict[int, int]) -> list[Decimal]:
        return [
            sum((sign * made.lines[at].figures[column] for at, sign in parts.items()), Decimal(0))
            for column in range(self.columns)
        ]

    def finished(self, made: Made) -> Made:
        """The figures as the sheet has them: rounded where it is in thousands."""
        if not self.is_rounded:
            return made
        unit = Decimal(1).scaleb(-self.decimals)
        for at, line in enumerate(made.lines):
            if at not in made.ratios:
                figures = tuple(one.quantize(unit) for one in line.figures)
                made.lines[at] = TableLine(label=line.label, figures=figures, naming=line.naming, indent=line.indent)
        return made


def _leaf_name(random_: random.Random, used: set[str]) -> str:
    while True:
        name = f"{random_.choice(WORDS)} {random_.choice(WORDS).lower()}"
        if name not in used:
            used.add(name)
            return name


def _chain(made: Made, amounts: _Amounts, leaves: int) -> None:
    """Income, costs, a margin, more costs, a result, and so on: costs positive or negative."""
    random_, used = amounts.random, set[str]()
    cost = random_.choice((1, -1))
    levels = min(random_.randint(1, 4), max(1, leaves // 2))
    sizes = [1] * (levels + 1)
    for _ in range(leaves - levels - 1):
        sizes[random_.randrange(len(sizes))] += 1
    open_parts = _block(made, amounts, sizes[0], 1, used, random_.random() < 0.5 and sizes[0] > 1)
    under = next(iter(open_parts))
    names = sorted(random_.sample(range(4), levels))
    for level, size in enumerate(sizes[1:]):
        block = _block(made, amounts, size, cost, used, random_.random() < 0.4 and size > 1)
        parts = {**open_parts, **dict.fromkeys(block, -1 if cost > 0 else 1)}
        at = made.add(RESULTS[names[level]], amounts.total(made, parts))
        made.totals[at] = parts
        open_parts = {at: 1}
        if random_.random() < 0.3 and not amounts.is_rounded:
            _ratio(made, at, under)


def _ratio(made: Made, over: int, under: int) -> None:
    pairs = list(zip(made.lines[over].figures, made.lines[under].figures, strict=True))
    if all(two for _, two in pairs):
        quotients = [(one / two).quantize(Decimal("0.001")) for one, two in pairs]
        made.ratios[made.add(f"{made.lines[over].label} %", quotients)] = (over, under)


def _block(made: Made, amounts: _Amounts, size: int, sign: int, used: set[str], has_total: bool) -> dict[int, int]:
    own = {made.add(_leaf_name(amounts.random, used), amounts.leaf(sign)): 1 for _ in range(size)}
    if not has_total:
        return own
    name = amounts.random.choice(SUBTOTALS).format(amounts.random.choice(WORDS).lower())
    if size > 2 and not amounts.is_rounded and amounts.columns > 2 and amounts.random.random() < 0.2:
        name = f"Other {amounts.random.choice(WORDS).lower()}"  # no total's name
    at = made.add(name, amounts.total(made, own))
    made.totals[at] = own
    return {at: 1}


def _blocks(made: Made, amounts: _Amounts, leaves: int, is_above: bool) -> None:
    """Blocks with totals, and blocks of blocks; above, they are set in."""
    random_, used = amounts.random, set[str]()

    def tree(count: int, depth: int, indent: int) -> int:
        if count == 1:
            return made.add(_leaf_name(random_, used), amounts.leaf(), indent)
        name = random_.choice(SUBTOTALS[:2]).format(f"{random_.choice(WORDS).lower()} {len(made.lines)}")
        head = made.add(name, [Decimal(0)] * amounts.columns, indent) if is_above else -1
        parts: dict[int, int] = {}
        rest = count
        while rest:
            few = 1 if depth >= 3 or rest == count == 2 else random_.choice((1, 1, min(rest, random_.randint(2, 6))))
            few = few if few < count else 1
            parts[tree(few, depth + 1, indent + 1)] = 1
            rest -= few
        figures = amounts.total(made, parts)
        if not is_above:
            at = made.add(name, figures, indent)
        else:
            at = head
            made.lines[at] = TableLine(label=name, figures=tuple(figures), naming=naming(name), indent=indent)
        made.totals[at] = parts
        return at

    tree(leaves, 0, 0)


def no_statement(random_: random.Random) -> list[TableLine]:
    """A table without totals: small figures, many zeros, copies, proportional columns, decoy names."""
    count, columns = random_.randint(3, 30), random_.choice((1, 1, 2, 3, 6, 12))
    kind = random_.choice(("small", "zeros", "copies", "proportional", "plain", "round"))
    rows: list[list[Decimal]] = []
    for _ in range(count):
        match kind:
            case "small":
                row = [Decimal(random_.randint(0, 20)) for _ in range(columns)]
            case "zeros":
                row = [Decimal(random_.choice((0, 0, 0, random_.randint(1, 900)))) for _ in range(columns)]
            case "copies" if rows and random_.random() < 0.4:
                row = list(random_.choice(rows))
            case "proportional":
                first = random_.randint(1, 5000)
                row = [Decimal(first * (column + 1)) for column in range(columns)]
            case "round":
                row = [Decimal(random_.randint(-20, 80) * 500) for _ in range(columns)]
            case _:
                row = [Decimal(random_.randint(-9999, 99999)) / 100 for _ in range(columns)]
        rows.append(row)
    used: set[str] = set()
    names = [random_.choice(DECOYS) if random_.random() < 0.06 else _leaf_name(random_, used) for _ in rows]
    return [
        TableLine(label=name, figures=tuple(row), naming=naming(name)) for name, row in zip(names, rows, strict=True)
    ]


def spoilt(random_: random.Random, made: Made) -> int:
    """Makes one total wrong by more than the tolerance; its place."""
    at = random_.choice(list(made.totals))
    line = made.lines[at]
    column = random_.randrange(len(line.figures))
    decimals = max(-int(one.as_tuple().exponent) for one in line.figures)
    unit = Decimal(1).scaleb(-decimals)
    off = unit * (len(made.totals[at]) + random_.randint(1, 400)) * random_.choice((1, -1))
    figures = tuple(one + off if place == column else one for place, one in enumerate(line.figures))
    made.lines[at] = TableLine(label=line.label, figures=figures, naming=line.naming, indent=line.indent)
    return at


def verdict(made: Made, found: Structure) -> str:
    """`right`, `asked`, `ratio left out` with a caution, or what is silently wrong."""
    if found.asked is not None:
        return "asked"
    totals = {one.line: dict(one.parts) for one in found.sums}
    ratios = {one.line for one in found.ratios}
    if totals != made.totals:
        return "wrong"
    if ratios == set(made.ratios):
        return "right"
    return "ratio left out" if set(made.ratios) - ratios <= set(found.loose_ratios) else "wrong ratio"
