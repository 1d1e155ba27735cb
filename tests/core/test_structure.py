"""The structure of a table's lines: sums, chains, ratios, openings, and what is asked and never guessed."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

import pytest

from marvex.core.errors import Mistake
from marvex.core.structure.evidence import TableFigures, TableLine, granularity
from marvex.core.structure.finder import found_structure
from marvex.core.structure.found_statement import is_statement, statement_of
from marvex.core.structure.statement import Statement, StatementLine, checked
from marvex.core.structure.structure_found import Doubt, Structure
from marvex.core.structure.sums import Open, Shape, sums_of
from marvex.core.structure.total_names import Naming, naming, namings

SALES = "Sales|5200|5010\nCosts|2310|2290"
_WITH_PARCELS = (
    "Fares|5174|5651\nFreight|1903|1919\nParcels|91|97\nShop|568|549\nRevenue|{}\n"
    "Fuel|2177|2077\nCrew|2716|2665\nHarbour dues|736|759\nOperating costs|{}\nOperating result|{}"
)


def lines(table: str, **beside: object) -> list[TableLine]:
    """Lines written one under another: a label and its figures, set in by blanks."""
    rows = [row for row in table.splitlines() if row.strip()]
    least = min(len(row) - len(row.lstrip()) for row in rows)
    found = []
    for row in rows:
        label, *figures = [cell.strip() for cell in row.split("|")]
        found.append(
            TableLine(
                label=label,
                figures=tuple(None if one in ("", "-") else Decimal(one.rstrip("%")) for one in figures),
                naming=naming(label),
                indent=len(row) - len(row.lstrip()) - least,
                is_percent=any(one.endswith("%") for one in figures),
                **beside,  # type: ignore[arg-type]
            )
        )
    return found


def sums(structure: Structure) -> dict[str, str]:
    """Each total as it was found: 'Profit': 'Sales − Costs'."""
    labels = [line.label for line in structure.lines]
    return {
        labels[one.line]: " ".join(f"{'+' if sign > 0 else '-'}{labels[place]}" for place, sign in one.parts)
        for one in structure.sums
    }


def test_a_chain_of_results_with_costs_stored_positive() -> None:
    found = found_structure(
        lines(
            """
            Sales | 5200 | 5010
            Goods | 2310 | 2290
            Gross margin | 2890 | 2720
            People | 1525 | 1498
            Other income | 110 | 95
            Operating profit | 1475 | 1317
            """
        )
    )
    # 2890 − 1525 + 110 = 1475: an income among the costs.
    assert sums(found) == {"Gross margin": "+Sales -Goods", "Operating profit": "+Gross margin -People +Other income"}
    assert is_statement(found)
    statement = statement_of(found, [line.label for line in found.lines], {})
    assert {line.label: line.is_cost for line in statement.lines} == {
        "Sales": False,
        "Goods": True,
        "Gross margin": False,
        "People": True,
        "Other income": False,
        "Operating profit": False,
    }
    assert statement.result is not None and statement.result.label == "Operating profit"


def test_blocks_of_blocks_and_totals_above_their_parts() -> None:
    below = lines(
        "Deck|410|422\nGalley|188|201\nTotal vessels|598|623\n"
        "Desk|96|91\nPost|74|88\nTotal shore|170|179\nTotal|768|802"
    )
    assert sums(found_structure(below)) == {
        "Total vessels": "+Deck +Galley",
        "Total shore": "+Desk +Post",
        "Total": "+Total vessels +Total shore",
    }
    above = lines("Costs|8120|8296\n  Crew|4650|4702\n  Fuel|3470|3594\n    Diesel|3000|3104\n    Oil|470|490")
    assert sums(found_structure(above)) == {"Fuel": "+Diesel +Oil", "Costs": "+Crew +Fuel"}


@pytest.mark.parametrize(
    ("table", "taken"),
    [
        ("North|52|48\nSouth|31|29\nBoth together|83|77", False),  # 12 bits are needed, and two digits say six
        ("North|5213|1871\nSouth|3127|9990\nWest|1811|2217\nOver there|10151|14078", True),
        ("A|1|2\nB|2|3\nC|3|4\nD|6|9", False),  # small figures meet by chance
        ("A|500|1000\nB|1500|2000\nC|500|500\nD|2500|3500", False),  # and round ones
        ("A|5213|5213\nB|3127|3127\nC|811|811\nD|9151|9151", True),  # a copied column adds nothing to the first
    ],
)
def test_without_a_totals_name_only_figures_that_tell_enough_make_a_total(table: str, taken: bool) -> None:
    assert bool(found_structure(lines(table)).sums) is taken


def test_rounding_hides_no_total_without_a_name_that_a_result_bears_out() -> None:
    block = "Property tax|112|148|171|99|83|130\nInsurance|87|51|84|35|90|66\nFixed charges|200|199|255|134|173|196"
    before = "Sales|812|790|845|901|770|990\nGoods|301|288|322|340|275|361\nGross profit|511|502|523|561|495|629"
    # 112 + 87 = 199, and 200 is printed; 511 − 200 = 311, 502 − 199 = 303, 523 − 255 = 268, 561 − 134 = 427 …
    found = found_structure(lines(f"{before}\n{block}\nNet operating income|311|303|268|427|322|433"))
    assert sums(found) == {
        "Gross profit": "+Sales -Goods",
        "Fixed charges": "+Property tax +Insurance",
        "Net operating income": "+Gross profit -Fixed charges",
    }
    # Nothing bears it out where no result is made of it: 200 is no total of 112 and 87.
    assert sums(found_structure(lines(block))) == {}


def test_whether_lines_of_nothing_before_all_others_count_is_no_second_way_to_read_a_total() -> None:
    figures = TableFigures(lines("Odd | 5\nCrew | 0\nPost | 424\nFuel | 534\nTotal pier | 958"))
    stack = Open(places=(0, 1, 2, 3), totals=frozenset(), headings=frozenset())
    # 424 + 534 = 958, with 0 before them or without; 5 is none of it
    assert [one.places for one in sums_of(figures, 4, stack) if one.shape is Shape.PLUS] == [[1, 2, 3]]


def test_evidence_counts_digits_columns_and_copies() -> None:
    assert [granularity(one) for one in ([5200, 2100, 4600], [5, 10, 25], [12, 7, 5], [])] == [100, 5, 1, 1]
    one = TableFigures(lines("A|5213\nB|3127\nTotal|8340"))
    two = TableFigures(lines("A|5213|1871\nB|3127|9990\nTotal|8340|11861"))
    copied = TableFigures(lines("A|5213|5213\nB|3127|3127\nTotal|8340|8340"))
    bits = []
    for figures in (one, two, copied):
        fit = figures.fit(2, ((0, 1), (1, 1)))
        assert fit is not None
        bits.append(round(fit.bits))
    # log2 8340 = 13; the second column adds log2 11861 = 13.5, at most; a copy nothing.
    assert bits[0] == bits[2] == 13 and bits[1] > 24
    off = TableFigures(lines("A|5213\nB|3127\nTotal|8341")).fit(2, ((0, 1), (1, 1)))
    assert off is not None and (off.most_off, off.off) == (1, ((0, Decimal(1)),))
    assert TableFigures(lines("A|5213\nB|3127\nTotal|8342")).fit(2, ((0, 1), (1, 1))) is None


def test_a_margin_is_the_quotient_of_the_two_lines_that_its_name_and_figures_say() -> None:
    table = "Sales|5200|5010\nCosts|2310|2290\nGross margin|2890|2720\nGross margin %|55.6%|54.3%\nRent %|5.5%|6.1%"
    found = found_structure(lines(table))
    assert [(one.line, one.over, one.under) for one in found.ratios] == [(3, 2, 0)]
    # Rent in per cent is of no two lines: it is left out, and never added up.
    assert found.loose_ratios == (4,) and found.leaves == (0, 1)


def test_a_line_beside_the_others_is_made_of_lines_that_are_taken_already() -> None:
    table = "Sales|9480|9215\nWages|2611|2588\nDepreciation|402|415\nOperating profit|6467|6212\n"
    found = found_structure(lines(f"{table}Tax|1310|1239\nNet profit|5157|4973\nEBITDA|6869|6627"))
    # EBITDA = operating profit + depreciation = 6467 + 402.
    assert next(one.shape for one in found.sums if one.line == 6) is Shape.MEMO
    statement = statement_of(found, [line.label for line in found.lines], {})
    assert statement.line("EBITDA").total_of == ("Sales", "Wages")
    assert statement.result is not None and statement.result.label == "Net profit"


@pytest.mark.parametrize(
    ("table", "doubt", "line"),
    [
        (
            "Sales|5200|5010\nCosts|2310|2290\nGross margin|2890|2920\nRent|402|409\nNet profit|2488|2311",
            Doubt.UNPROVEN,
            2,
        ),
        ("Sales|5200|5010\nCosts|2310|2290\nHeadcount|31|29\nRent|402|409\nNet profit|2488|2311", Doubt.LEFT_OUT, 4),
        ("Revenue|1000|1100\nGross margin|400|420\nEBITDA|200|190", Doubt.UNPROVEN, 1),
        # 5174 + 1903 + 568 = 7645 and 5651 + 1919 + 549 = 8119: the line that came in is in no total.
        (_WITH_PARCELS.format("7645|8119", "5629|5501", "2016|2618"), Doubt.LEFT_OUT, 4),
        # 2177 + 2716 + 736 = 5629 and not 5929, and 7645 + 91 - 5629 = 2107: the result is right, the costs are not.
        (_WITH_PARCELS.format("7736|8216", "5929|5501", "2107|2715"), Doubt.UNPROVEN, 8),
        # 8036 are 300 more than 7736 in one month, as the result is 300 less than 8036 - 5629 = 2407.
        (_WITH_PARCELS.format("8036|8216", "5629|5501", "2107|2715"), Doubt.UNPROVEN, 4),
        # All totals of the third month are those of the second: 5302 + 1875 + 571 = 7748.
        (
            "Fares|5174|5651|5302\nFreight|1903|1919|1875\nShop|568|549|571\nRevenue|7645|8119|8119\nFuel|2177|2077|2219\n"
            "Crew|2716|2665|2701\nOperating costs|4893|4742|4742\nOperating result|2752|3377|3377",
            Doubt.UNPROVEN,
            3,
        ),
    ],
)
def test_what_cannot_be_told_is_asked(table: str, doubt: Doubt, line: int) -> None:
    asked = found_structure(lines(table)).asked
    assert asked is not None and (asked.doubt, asked.line) == (doubt, line)


def test_signs_are_solved_where_the_figures_say_one_choice_only() -> None:
    amounts = (81231, 4127, 9982, 15518, 3391)
    signs = (1, -1, 1, 1, -1)
    seconds = tuple(one * 7 // 5 + place * 131 for place, one in enumerate(amounts))
    table = [f"Item {place}|{one}|{other}" for place, (one, other) in enumerate(zip(amounts, seconds, strict=True))]
    whole = [sum(sign * one for sign, one in zip(signs, column, strict=True)) for column in (amounts, seconds)]
    found = found_structure(lines("\n".join((*table, f"Result|{whole[0]}|{whole[1]}"))))
    assert [sign for _, sign in found.sums[0].parts] == list(signs)
    # One, two, three and four come to two in more than one way.
    several = found_structure(lines("A|1000\nB|2000\nC|3000\nD|4000\nE|5000\nNet profit|3000"))
    assert several.asked is not None


def test_a_list_is_no_statement_and_a_balance_sheet_takes_its_blocks() -> None:
    rows = ["Start of year|214", "Joiners|37", "Leavers|-22", "End of year|229"]
    walk = lines("\n".join(rows))
    closing = [
        TableLine(label=line.label, figures=line.figures, naming=named)
        for line, named in zip(walk, namings([line.label for line in walk]), strict=True)
    ]
    found = found_structure(closing)
    assert sums(found) == {"End of year": "+Start of year +Joiners +Leavers"} and not is_statement(found)
    sheet = lines(
        "Boats|42100|40850\nCash|5389|6766\nTotal assets|47489|47616\nLoans|21620|20888\nShares|15000|15000\n"
        "Retained earnings|10869|11728\nTotal equity|25869|26728\nTotal liabilities and equity|47489|47616"
    )
    assert sums(found_structure(sheet))["Total equity"] == "+Shares +Retained earnings"


@pytest.mark.parametrize(
    ("label", "found"),
    [
        *((label, Naming.RESULT) for label in ("Gross margin", "Profit/(loss) for the year", "EBITDA", "Net income")),
        *((label, Naming.RESULT) for label in ("Betriebsergebnis", "Résultat d'exploitation", "Årets resultat")),
        *(
            (label, Naming.RESULT)
            for label in ("Utile netto", "Winst voor belasting", "Lucro líquido", "Liikevoitto")
        ),
        *((label, Naming.TOTAL) for label in ("Total", "Grand total", "Total income", "Summe", "I alt", "All costs")),
        *((label, Naming.RATIO) for label in ("Gross margin %", "Cost ratio", "Rohertrag in Prozent")),
        *((label, Naming.GROUP) for label in ("Revenue", "Operating expenses", "Kosten")),
        *(
            (label, Naming.NONE)
            for label in ("Loss on disposal", "Profit share paid", "Summer camp", "Interest income")
        ),
    ],
)
def test_names_are_anchored(label: str, found: Naming) -> None:
    assert naming(label) is found


def made(lines_: Sequence[tuple[str, tuple[str, ...]]]) -> Statement:
    return Statement(
        name="P",
        lines=tuple(
            StatementLine(label=label, total_of=parts, accounts=() if parts else (label,)) for label, parts in lines_
        ),
    )


def test_a_statement_counts_each_line_once_in_whatever_order_it_stands() -> None:
    # The total stands above its parts, and the result is the one that no other contains.
    statement = checked(made([("All", ("B", "C")), ("B", ("x", "y")), ("x", ()), ("y", ()), ("C", ())]))
    assert statement.result is not None and statement.result.label == "All"
    assert statement.counts_in(statement.line("All")) == {"B": 1, "x": 1, "y": 1, "C": 1}
    with pytest.raises(Mistake, match="counts 'x' twice"):
        checked(made([("x", ()), ("B", ("x",)), ("All", ("B", "x"))]))
    with pytest.raises(Mistake, match="go round in a circle"):
        checked(made([("x", ()), ("B", ("All",)), ("All", ("B", "x"))]))
