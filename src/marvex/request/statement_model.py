"""What a statement file may hold: `[statement]` with a name and the signs, and one `[[line]]` a line."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from marvex.request.toml_file import Model

Sign = Literal["positive", "negative"]
SIGNS = "'positive' or 'negative'"
LABELS = "a list of labels, ['…', '…']"


class Head(Model):
    """`[statement]`: what it is called, and how the source signs its amounts."""

    name: str | None = Field(default=None, description="a text")
    result: str | None = Field(default=None, description="a label, 'Profit before tax'")
    income_sign: Sign = Field(default="positive", description=SIGNS)
    cost_sign: Sign = Field(default="positive", description=SIGNS)


class LineTable(Model):
    """`[[line]]`: the accounts that make a line, the lines that it is the total of, or those it is a ratio of."""

    label: str = Field(min_length=1, description="a text, 'Passenger fares'")
    accounts: list[str | int] | None = Field(
        None, min_length=1, description="a list of accounts, ['4000-4099', '41*']"
    )
    total_of: list[str] | None = Field(default=None, min_length=1, description=LABELS)
    ratio_of: list[str] | None = Field(
        None, min_length=2, max_length=2, description="two labels, ['Margin', 'Sales']"
    )
    kind: Literal["income", "cost"] | None = Field(default=None, description="'income' or 'cost'")
    sign: Sign | None = Field(default=None, description=SIGNS)
    section: str = Field(default="", description="a text")
    indent: int = Field(default=0, ge=0, le=5, description="a number of steps from 0 to 5")


class StatementFile(Model):
    """The whole file."""

    statement: Head = Field(default=Head(), description="a table [statement]")
    line: list[LineTable] = Field(min_length=1, description="one [[line]] a line, with a label and accounts")
