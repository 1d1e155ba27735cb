"""The names of months as tables write them, in full and shortened, in most languages of Europe with Latin letters.

They are those of Unicode's Common Locale Data Repository, of which no word means two months, but for a few that mean
something else to more readers; a test holds them against it. They stand here because looking
them up would cost every command that has no need of them.
"""

from __future__ import annotations

LANGUAGES = (
    *("en", "de", "de_AT", "fr", "es", "it", "nl", "pt", "sv", "da", "nb", "fi", "is"),
    *("et", "lv", "lt", "pl", "cs", "sk", "sl", "hu", "ro", "tr"),
)
OTHERWISE = frozenset(("ara", "avg", "bal", "dub", "ian", "led", "lip", "marca", "mart", "nis", "pro", "sie"))
NAMES = (
    "ene enero gen gennaio ianuarie jaan jaanuar jan janeiro januar januari january január januára janv janvier "
    "janvāris janúar jän jänner leden ledna oca ocak saus sausio sausis sty styczeń stycznia tammi tammikuu "
    "tammikuuta",
    "feb febbraio febr febrero februar februari februarie february február februára februāris febrúar fev fevereiro "
    "févr février helmi helmikuu helmikuuta lut lutego luty vas vasario vasaris veebr veebruar úno únor února şub "
    "şubat",
    "bře březen března kov kovas kovo maalis maaliskuu maaliskuuta maart mar march marec mars martie "
    "marts marzec marzo março mrt márc március mär märts märz",
    "abr abril apr april aprile aprilie aprill apríl apríla aprīlis avr avril balandis balandžio duben "
    "dubna huhti huhtikuu huhtikuuta kwi kwiecień kwietnia nisan ápr április",
    "geg gegužė gegužės kvě květen května mag maggio mai maijs maio maj maja may mayo mayıs maí mei máj mája május "
    "touko toukokuu toukokuuta",
    "birž birželio birželis cze czerwca czerwiec giu giugno haz haziran iun iunie juin jun june junho juni junij "
    "junio juuni jún júna június júní jūn jūnijs kesä kesäkuu kesäkuuta červen června čvn",
    "heinä heinäkuu heinäkuuta iul iulie juil juillet jul julho juli julij julio july juuli júl júla július júlí "
    "jūl jūlijs liep liepa liepos lipca lipiec lug luglio tem temmuz července červenec čvc",
    "ago agosto août aug august augusta augusti augusts augustus augusztus avgust ağu ağustos elo elokuu "
    "elokuuta rugp rugpjūtis rugpjūčio sierpień sierpnia srp srpen srpna ágú ágúst",
    "eyl eylül rugs rugsėjis rugsėjo sep sept september septembra septembre septembrie septembris septiembre set "
    "setembro settembre syys syyskuu syyskuuta szept szeptember wrz wrzesień września zář září",
    "eki ekim loka lokakuu lokakuuta oct october octobre octombrie octubre okt oktober oktobris oktoober október "
    "októbra ott ottobre out outubro paź październik października spal spalio spalis říj říjen října",
    "kas kasım lapkr lapkritis lapkričio lis listopad listopada listopadu marras marraskuu marraskuuta noiembrie "
    "nov november novembra novembre novembris novembro noviembre nóv nóvember",
    "aralık dec december decembra decembrie decembris des desember dets detsember dez dezember dezembro dic "
    "dicembre diciembre déc décembre gru grudnia grudzień gruod gruodis gruodžio joulu joulukuu joulukuuta "
    "prosince prosinec",
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
