"""The scenario that a source is said to hold, among others that it has as well: which of its rows those are."""

from __future__ import annotations

from dataclasses import replace

from marvex.core.compare.scenario_words import scenario_meant, version_said
from marvex.core.errors import Mistake, listed
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.query import Query


def holding(facts: Facts, name: str, engine: Engine, source: str) -> Facts:
    """Facts of the scenario that a source is said to hold, under each of its names; of all rows where it names none.

    Raises Mistake where it has others alone.
    """
    asked = Query(f"SELECT DISTINCT scenario FROM {facts.table} WHERE scenario IS NOT NULL ORDER BY 1")
    known = [str(one[0]) for one in engine.rows(asked, source)]
    same = tuple(one for one in known if scenario_meant(one) == scenario_meant(name))
    if same:
        others = "scenario IS NULL OR NOT list_contains(?::VARCHAR[], scenario)"
        engine.run(Query(f"DELETE FROM {facts.table} WHERE {others}", (list(same),)), source)
    elif known:
        nearest = next((one for one in known if version_said(one) == version_said(name)), known[0])
        raise Mistake(
            f"{source} holds no scenario '{name}', only {listed(known)}",
            f"Name one that it holds, such as {nearest}={source}.",
        )
    engine.run(Query(f"UPDATE {facts.table} SET scenario = ?", (name,)), source)
    return replace(facts, held=name, held_as=same)
