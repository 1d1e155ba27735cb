"""The names of months as tables write them, in full and shortened, in the languages of Western and Northern Europe.

They are those of Unicode's Common Locale Data Repository, of which no word means two months; a test holds them
against it. They stand here because looking them up would cost every command that has no need of them.
"""

from __future__ import annotations

LANGUAGES = ("en", "de", "fr", "es", "it", "nl", "pt", "sv", "da", "nb", "fi")
NAMES = (
    "ene enero gen gennaio jan janeiro januar januari january janv janvier tammi tammikuu tammikuuta",
    "feb febbraio febrero februar februari february fev fevereiro févr février helmi helmikuu helmikuuta",
    "maalis maaliskuu maaliskuuta maart mar march mars marts marzo março mrt mär märz",
    "abr abril apr april aprile avr avril huhti huhtikuu huhtikuuta",
    "mag maggio mai maio maj may mayo mei touko toukokuu toukokuuta",
    "giu giugno juin jun june junho juni junio kesä kesäkuu kesäkuuta",
    "heinä heinäkuu heinäkuuta juil juillet jul julho juli julio july lug luglio",
    "ago agosto août aug august augusti augustus elo elokuu elokuuta",
    "sep sept september septembre septiembre set setembro settembre syys syyskuu syyskuuta",
    "loka lokakuu lokakuuta oct october octobre octubre okt oktober ott ottobre out outubro",
    "marras marraskuu marraskuuta nov november novembre novembro noviembre",
    "dec december des desember dez dezember dezembro dic dicembre diciembre déc décembre joulu joulukuu joulukuuta",
)
MONTHS = {name: number for number, names in enumerate(NAMES, 1) for name in names.split()}


def month_number(name: str) -> int:
    """The number of a month by a name of it, whatever its case; raises ValueError where it is none.

    >>> month_number("Okt."), month_number("março")
    (10, 3)
    """
    number = MONTHS.get(name.casefold().rstrip("."))
    if number is None:
        raise ValueError(f"{name} is no month")
    return number
