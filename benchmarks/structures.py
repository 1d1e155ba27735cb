"""How often the finder of a table's structure is right, asks, or is silently wrong, on generated tables.

python benchmarks/structures.py [TABLES [SEED]]     by itself 500 statements of each width, and 10,000 that are none
"""

from __future__ import annotations

import random
import sys
import time
from collections import Counter
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from made_tables import no_statement, spoilt, statement, verdict
from marvex.core.structure.finder import found_structure


def main(statements: int = 500, others: int = 10_000) -> None:
    random_ = random.Random(int(sys.argv[2]) if len(sys.argv) > 2 else 14)
    for columns in (1, 2, 3, 6, 12, 24):
        counted: Counter[str] = Counter()
        took = 0.0
        for _ in range(statements):
            made = statement(random_, columns)
            start = time.perf_counter()
            found = found_structure(made.lines)
            took += time.perf_counter() - start
            counted[verdict(made, found)] += 1
        print(f"{statements} statements, {columns} columns: {dict(counted)}, {1000 * took / statements:.1f} ms each")
    counted = Counter()
    for _ in range(others):
        found = found_structure(no_statement(random_))
        counted["a total" if found.sums else "asked" if found.asked else "none"] += 1
    print(f"{others} tables that are no statements: {dict(counted)}")
    counted = Counter()
    for _ in range(statements):
        made = statement(random_, random_.choice((1, 2, 3, 12)))
        at = spoilt(random_, made)
        found = found_structure(made.lines)
        if found.asked is not None:
            counted["asked, by its row" if found.asked.line == at else "asked, by another row"] += 1
        else:
            counted["taken" if at in found.totals else "said"] += 1
    print(f"{statements} tables with one wrong total: {dict(counted)}")


if __name__ == "__main__":
    main(*(int(one) for one in sys.argv[1:2]))
