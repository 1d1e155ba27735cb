"""Accounts as they are printed: inner and outer columns, funds brought forward, balance sheets, lines of nothing."""

from __future__ import annotations

import pytest

from conftest import Desk, by_label, typed

# Fixed assets 1,200, stock and the like 1,180, owed soon 730 and later 500: 1,200 + 1,180 - 730 - 500 = 1,150.
SHEET = """Fixed assets,,,,
Tangible assets,,1200,,1150
Current assets,,,,
Stock,410,,380,
Debtors,620,,590,
Cash,150,,170,
,1180,,1140,
Creditors: amounts falling due within one year,(730),,(700),
Net current assets,,450,,440
Total assets less current liabilities,,1650,,1590
Creditors: amounts falling due after one year,,(500),,(550)
Net assets,,1150,,1040
"""


@pytest.mark.parametrize(
    "headings", [",2026,2026,2025,2025\n,£,£,£,£", ",2026,2026,2025,2025", ",2026,,2025,", ",,2026,,2025"]
)
def test_inner_and_outer_columns_of_a_year_are_one(desk: Desk, headings: str) -> None:
    (desk.folder / "b.csv").write_text(f"{headings}\n{SHEET}")
    found = by_label(desk.figures("table", "b.csv"))
    # They were added up: 1,600 of 2026, with the lines of the inner column beside their total in the outer.
    assert (found["Net assets"]["current"], found["Net assets"]["base"]) == (1150, 1040)
    assert (found["Net current assets"]["current"], found["Stock"]["current"]) == (450, 410)
    assert found["Current assets"]["current"] == 1180  # a total without a name, called as the heading above its parts


def test_two_columns_of_one_name_with_figures_in_both_are_not_added_up(desk: Desk) -> None:
    (desk.folder / "b.csv").write_text("Line,2026 £,2026 £,2025 £,2025 £\nSales,10,9,8,7\nFees,6,5,4,3\n")
    told = desk.refused("table", "b.csv")
    assert "has two columns called '2026 £'" in told and "--amount '2026 £,2025 £' takes the first of each" in told
    points = by_label(desk.figures("table", "b.csv", "--amount", "2026 £,2025 £"))
    assert (points["Total"]["current"], points["Total"]["base"]) == (16, 12)
    # A heading over the second of two leaves it open whose the third column is.
    (desk.folder / "b.csv").write_text(",,2026,,2025\n,£,£,£,£\nRents,4,,3,\nFees,5,,2,\nDues,,9,,5\nTax,,1,,2\n")
    assert "two columns called" in desk.refused("table", "b.csv")
    # What stands below the amounts in a column of its own is none of them; nor are two of one year sides.
    (desk.folder / "b.csv").write_text("Line,2026,\nSales,112,\nRents,54,\nCrew,,12\nTrips,,34\n")
    assert "2026 and column 3 could each be the amount" in desk.refused("table", "b.csv")
    (desk.folder / "b.csv").write_text("Line,2026 A1,2026 B1\nSales,112,54\nRents,13,35\n")
    assert "--base" not in desk.refused("table", "b.csv")


@pytest.mark.parametrize("funds", ["Funds {}", "Total funds {}", "Total equity {}"])
def test_what_is_brought_forward_is_a_line_and_no_total(desk: Desk, funds: str) -> None:
    rows = ["Gifts,150,141", "Trading,125,119", "Total income,275,260", "Raising funds,31,29", "Charity work,208,201"]
    rows += ["Total expenditure,239,230", "Net income,36,30", "Transfers between funds,0,0"]
    rows += ["Net movement in funds,36,30", f"{funds.format('brought forward')},260,230"]
    rows += [f"{funds.format('carried forward')},296,260"]
    (desk.folder / "f.csv").write_text("\n".join((",2026,2025", *rows)) + "\n")
    found = by_label(desk.figures("table", "f.csv"))
    last = found[funds.format("carried forward")]
    assert (last["kind"], last["current"], last["base"]) == ("total", 296, 260)
    assert found[funds.format("brought forward")]["kind"] == "line"


@pytest.mark.parametrize(
    ("rows", "kinds"),
    [
        # A line of nothing has no sign that figures could say: its name says it, else it is added.
        ("Sales,90,80|Wages,50,45|Profit before tax,40,35|Tax,0,0|Profit after tax,40,35", {"Tax": -1}),
        ("Sales,90,80|Wages,50,45|Margin,40,35|Grants,0,0|Profit,40,35", {"Grants": 1, "Wages": -1}),
        ("Sales,90,80|Training,0,0|Wages,50,45|Rent,9,9|Profit,31,26", {"Training": -1, "Rent": -1}),
    ],
)
def test_a_line_of_nothing_is_no_question_of_signs(desk: Desk, rows: str, kinds: dict[str, int]) -> None:
    (desk.folder / "z.csv").write_text("\n".join(("Line,2026,2025", *rows.split("|"))) + "\n")
    found = by_label(desk.figures("table", "z.csv"))
    assert [one for one in found if found[one]["kind"] == "total"][-1] == rows.split("|")[-1].partition(",")[0]
    done = desk.run("begin", "z.csv", "--write", "statement", "-o", "s.toml")
    assert done.status == 0, done.err
    said = (desk.folder / "s.toml").read_text()
    for label, sign in kinds.items():
        block = said.partition(f'label = "{label}"')[2].partition("[[line]]")[0]
        assert ('kind = "cost"' in block) is (sign < 0)


def test_the_balance_sheet_of_a_small_company(desk: Desk) -> None:
    rows = "Tangible assets,1200|Investments,300|,1500||Stock,410|Debtors,620|Cash,150|,1180|Creditors,-730"
    rows += "|Net current assets,450|Total assets less current liabilities,1950|Loans,-500|Net assets,1450"
    rows += "|Capital and reserves|Share capital,100|Profit and loss account,1350|Shareholders' funds,1450"
    doubled = (f"{one},{one.rpartition(',')[2]}0" if "," in one else f"{one}," for one in rows.split("|"))
    (desk.folder / "b.csv").write_text("\n".join((",31 Dec 2026,31 Dec 2025", *doubled)) + "\n")
    found = by_label(desk.figures("table", "b.csv"))
    totals = {one: found[one]["current"] for one in found if found[one]["kind"] == "total"}
    # 410 + 620 + 150 - 730; 1,200 + 300 + 450; less 500; 100 + 1,350.
    assert totals == {
        "Net current assets": 450,
        "Total assets less current liabilities": 1950,
        "Net assets": 1450,
        "Shareholders' funds": 1450,
    }


def test_a_report_of_costs_with_a_recharge_says_which_way_is_good_news(desk: Desk) -> None:
    rows = ["Material,12543,12000", "Wages,8810,8600", "Social charges,1905,1889", "Personnel,10715,10489"]
    rows += ["Total debit,23258,22489", "Recharge,-4000,-3800", "Net,19258,18689"]
    (desk.folder / "c.csv").write_text("\n".join(("L,Actual,Plan", *rows)) + "\n")
    assert "--better down if they are costs" in desk.run("table", "c.csv").err
    found = by_label(desk.figures("table", "c.csv", "--better", "down"))
    assert {one: found[one]["band"] for one in ("Material", "Recharge", "Total debit", "Net")} == {
        "Material": "Adverse",
        "Recharge": "Favourable",
        "Total debit": "Adverse",
        "Net": "Adverse",
    }
    assert (found["Net"]["current"], found["Net"]["base"]) == (19258, 18689)
    # Of a profit it was passed by in silence.
    (desk.folder / "p.csv").write_text("L,Actual,Plan\nSales,90,80\nWages,50,45\nRent,9,9\nProfit,31,26\n")
    told = desk.refused(*typed("table p.csv --better down"))
    assert "Profit counts as income, against --better down" in told


def test_a_cash_forecast_goes_on_without_what_it_begins_with(desk: Desk) -> None:
    months = [f"{name} 2026" for name in ("Jul", "Aug", "Sep")]
    rows = [("Opening cash", 1000, 1450, 1210), ("Customers", 900, 700, 650), ("Suppliers", -300, -620, -410)]
    rows += [("Payroll", -150, -320, -290), ("Net cash flow", 450, -240, -50), ("Closing cash", 1450, 1210, 1160)]
    desk.write("c.csv", rows, ("Line", *months))
    told = desk.refused("table", "c.csv")
    assert "--where 'Line!=Opening cash'" in told
    found = by_label(desk.figures("table", "c.csv", "--where", "Line!=Opening cash"))
    # 450 - 240 - 50; what it closes with goes with what it begins with.
    assert found["Net cash flow"]["current"] == 160 and "Closing cash" not in found
