"""The words of a column's name, and which of them tell what the column means, in English, German, French and Spanish.

Words are folded (no capitals, no accents) and looked for whole; German ones also at the end of a compound
(Kontostand), since that is where German says what a thing is.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable

from ...support.english_nouns import singular
from ...support.name_parts import apart

#: Columns of which no two names are alike: what a number is of, when it stands alone.
ENTITIES = frozenset(
    "invoice customer client article item product order account ticket case patient student employee supplier vendor "
    "member policy claim device sensor meter shipment booking transaction sku ean isbn user session asset machine "
    "kunde artikel rechnung auftrag konto beleg vorgang fall patient mitarbeiter lieferant mitglied gerat zahler "
    "sendung buchung facture cliente compte dossier eleve salarie fournisseur produit commande abonne factura articulo "
    "pedido cuenta caso paciente alumno empleado proveedor producto branch store shop site warehouse outlet filiale "
    "county municipality commune gemeinde municipio kostenstelle standort tienda sucursal almacen magasin "
    "agence centre center industry branche sector occupation profession "
    "episode chapter lesson kapitel episodio capitulo chapitre".split()
)
IDENTIFIERS = frozenset(
    "id ids key code no nr num number ref reference uuid guid serial rownum zip zipcode postcode postal plz phone tel "
    "telephone mobile fax iban bic nummer kennung schlussel kennzeichen numero codigo clave identificador identifiant "
    "cp postleitzahl hausnummer nif cif siret siren vat ssn ean isbn sku barcode licence license fips puma sic "
    "naics isic nace isco soc occ cip icd countyid "
    "schoolid "
    "studyid firmid personid houseid hhid stateid distid schid userid custid prodid empid".split()
)
#: Of these, what numbers or names a thing however few there are of it; a "number" or "key" may be how many.
SURE_IDENTIFIERS = frozenset(
    "id ids code uuid guid zip zipcode postcode postal plz iban bic kennung kennzeichen codigo identificador "
    "identifiant postleitzahl ean isbn sku barcode fips puma sic naics isic nace isco soc occ cip icd".split()
)
RUNNING = frozenset(
    "ytd mtd qtd cumulative cumulated cum cumul kumuliert kum kumulativ aufgelaufen acumulado acumulada cumule cumulee "
    "running todate odometer zahlerstand kilometerstand tachostand lectura".split()
)
SCORES = frozenset(
    "score rating stars mark marks grade nps csat satisfaction note noten bewertung punktzahl zufriedenheit notes "
    "calificacion puntuacion satisfaccion valoracion evaluation likert sterne nota notas estrellas etoiles "
    "severity schweregrad gravedad gravite".split()
)
SHARES = frozenset(
    "rate ratio pct percent percentage share margin conversion utilisation utilization occupancy probability yield "
    "efficiency growth yoy mom churn quote anteil prozent auslastung marge spanne wachstum quota tasa porcentaje "
    "ocupacion margen crecimiento taux pourcentage croissance occupation proportion fraction % likelihood "
    "availability verfugbarkeit disponibilidad disponibilite possession roi ctr apr return returns rendite "
    "rendimiento rendement unemployment inflation arbeitslosigkeit desempleo chomage "
    "mortality fertility perc percentil percentile".split()
)
AVERAGES = frozenset(
    "avg average mean median durchschnitt mittelwert mittel promedio media mediana moyenne mediane mediano".split()
)
PRICES = frozenset(
    "price preis precio prix index indice cpi ppi deflator kurs rateof tarif tarifa tariff wage lohnsatz stundensatz "
    "stundenlohn stuckpreis unitcost quotation adjclose nav bid ask spread "
    "strike adr revpar cpc cpm cpa cpl arpu aov roas".split()
)
DURATIONS = frozenset(
    "duration delay wait waiting age tenure lifetime min mins minute minutes sec secs second seconds latency leadtime "
    "dauer verspatung wartezeit alter laufzeit liegezeit reaktionszeit bearbeitungszeit durchlaufzeit espera retraso "
    "duracion edad plazo attente retard duree anciennete delai uptime downtime los tat turnaround dpd dso dpo".split()
)
PHYSICAL = frozenset(
    "temperature temp humidity pressure speed height weight width length depth altitude alt lat lon lng long latitude "
    "longitude "
    "level factor ph voltage bmi distance radius diameter angle density concentration wind visibility brightness "
    "temperatur feuchte feuchtigkeit druck geschwindigkeit hohe gewicht breite lange tiefe abstand spannung "
    "temperatura humedad presion velocidad altura peso anchura profundidad humidite pression vitesse hauteur poids "
    "largeur profondeur noise concentracion expectancy lebenserwartung rank ranking rang rango mpg rpm hp "
    "horsepower displacement hubraum wheelbase frontage elevation torque thickness cylinders cyl gears "
    "bp bpm mmhg pulse puls glucose cholesterol systolic diastolic "
    "dewpoint dewpt dewp tmin tmax tavg tmean humid visib visibility hour heure hora stunde uhrzeit "
    "gust gusts gustkmh boe boen rafale rafales rafaga racha taille estatura talla korpergrosse tide tides".split()
)
#: Readings whose nought is no nothing: twenty degrees are not twice as warm as ten.
NO_NOUGHT = frozenset(
    "temperature temperatures temp temps temperatur temperaturen temperatura temperaturas celsius fahrenheit "
    "dewpoint dewpt dewp tmin tmax tavg tmean ph".split()
)
LEVELS = frozenset(
    "balance headcount employees fte ftes inventory onhand outstanding backlog subscribers members population "
    "populations pop assets debt receivables payables closing opening aum equity workforce staff stock stocks holdings "
    "liabilities deposits kontostand saldo salden bestand lagerbestand personalbestand mitarbeiterzahl belegschaft "
    "einwohner vermogen "
    "schulden forderungen verbindlichkeiten abonnenten mitglieder bestande existencias inventario plantilla poblacion "
    "activos deuda abonados miembros solde soldes stocks effectif effectifs encours creances dettes abonnes membres "
    "adherents empleados".split()
)
#: Of words that tell a level, what makes a movement of it.
MOVEMENTS = frozenset(
    "new added gained lost joined left sold bought received issued in out change net movement adjustment neue neu "
    "zugang zugange abgang abgange verkauft nuevos nuevas altas bajas nouveaux nouvelles entrees sorties payments paid "
    "hired fired cost costs value price".split()
)
COUNTS = frozenset(
    "capacity kapazitat capacidad capacite seats plazas platze tonnage tonnen liter litres count quantity qty "
    "units pieces orders visits visitors clicks impressions sessions passengers calls tickets items "
    "anzahl menge stuck stuckzahl bestellungen besuche klicks fahrgaste anrufe cantidad unidades pedidos visitas clics "
    "pasajeros llamadas nombre quantite unites commandes visites passagers appels transactions shipments".split()
)
#: What makes a price of a rate: an hourly rate, the rate of a room.
PER_WHAT = frozenset("hourly daily nightly weekly monthly hour day night room billing labour labor wage".split())
#: Prices of a day on an exchange, which are prices only by themselves: open accounts are none.
QUOTED = frozenset("open high low close adj last settle".split())
#: What is set against another of them: debt to income, loan to value.
RATIOS = frozenset("debt loan cost costs price income value sales earnings book equity assets revenue gdp".split())
#: What stands before things of which there are so many at a moment.
STANDING = frozenset(
    "open active current offene aktive laufende abiertas abiertos activas activos ouverts ouvertes actifs "
    "actives".split()
)
#: Units of time, and what makes hours and days an amount of work.
TIMES = frozenset("days hours weeks tage stunden wochen dias horas semanas jours heures semaines nights nachte".split())
#: One of them is where something lies in time: the day of a trial, the week of a purchase.
ONE_TIME = frozenset(
    "day week month quarter tag woche monat quartal dia semana mes trimestre jour semaine mois".split()
)
WORKED = frozenset(
    "worked billed booked logged working work gearbeitet geleistet trabajadas facturadas travaillees sold rented leave "
    "holiday absence overtime uberstunden fehltage machine running".split()
)
#: Number of …: what a code of its own would be is then a count.
_NUMBER_OF = frozenset("of of_ de von der".split())
MONEY = frozenset(
    "revenue sales turnover income amount profit cost costs expense expenses spend value price fee fees salary wage "
    "fare fares takings proceeds receipts earnings donation donations premium premiums rent rents fahrgeld einnahme "
    "wages payment charge charges tax umsatz erlos betrag kosten gewinn gehalt lohn ausgaben einnahmen ingresos "
    "ventas importe coste costes beneficio salario gasto gastos montant chiffre cout couts depense depenses salaire "
    "recettes benefice".split()
)
#: Words that stand at the end of German compounds.
_ENDINGS = (
    "bestand kontostand stand saldo preis quote anteil dauer zeit menge anzahl zahl zinssatz steuersatz "
    "prozentsatz kosten "
    "umsatz absatz nummer note deflator "
    "alter temperatur betrag punktzahl kurs auslastung marge hohe gewicht verspatung bewertung".split()
)
#: What such an ending means, where it is no word by itself in the sets above.
_ENDING_WORDS = {
    "stand": "bestand",
    "zeit": "dauer",
    "zahl": "anzahl",
    "zinssatz": "quote",
    "steuersatz": "quote",
    "prozentsatz": "quote",
}


#: Labels for whatever has none of its own: a heap of small things, no thing.
_REST = frozenset(
    "other others misc miscellaneous rest various remainder sonstige sonstiges sonstiger andere anderes ubrige diverse "
    "otros otras otro otra resto varios autres autre divers reste".split()
)


def is_rest(label: str) -> bool:
    """Whether a label names what is left over: "Other", "Sonstige", "(others)", "All other"."""
    said = [word for word in words(label) if word not in ("all", "alle", "todos", "tous")]
    return bool(said) and set(said) <= _REST


def folded(text: str) -> str:
    """A text without capitals and accents."""
    plain = unicodedata.normalize("NFKD", text.casefold())
    return "".join(letter for letter in plain if not unicodedata.combining(letter)).replace("ß", "ss")


def words(name: str) -> list[str]:
    """The words of a name: `closingBalance_EUR` → closing, balance, eur."""
    split = apart(name)
    # Years behind a word are none of it: age75, wage2019.
    split = re.sub(r"(?<=[a-zA-Z]{3})(?=(?:19|20)?\d{2}$)", "_", split)
    # A year of something is one: foundingyear, birthyear.
    split = re.sub(r"(?<=[a-z]{4})(?=year$)", "_", split)
    return [word for word in re.split(r"[^\w€$£%]+|_", folded(split)) if word]


#: Ends of words that only look like an id run together with what it is of: "unitid" is one, "paid" none.
_NO_IDS = (
    "paid aid bid mid lid kid rid did hid said laid raid maid grid acid void avoid valid rapid solid liquid fluid "
    "humid hybrid covid android rigid vivid lipid oid candid morbid timid splendid druid squid placid".split()
)


def _run_together(word: str) -> bool:
    """Whether a word is an id and what it is of in one: "unitid", "zipcode"."""
    if re.fullmatch(r"[a-z]{1,5}code", word):
        return True
    return bool(re.fullmatch(r"[a-z]{3,8}id", word)) and not word.endswith(tuple(_NO_IDS))


def tells(name_words: Iterable[str], known: frozenset[str]) -> str | None:
    """The first word of a name that is among those known, or a compound that ends with one."""
    for word in name_words:
        if word in known or (known is IDENTIFIERS and _run_together(word)):
            return word
        if known is SHARES and re.match(
            r"(?:pct|perc(?!ent))\w|\w{2,5}(?<!corpo)(?<!sepa)(?<!mode)(?:rate|pct)$", word
        ):
            return word
        # Of several endings the longest says what it is: Umsatz is no Satz.
        ending = max((one for one in _ENDINGS if word.endswith(one)), key=len, default="")
        compound = len(word) > len(ending) or ending in _ENDING_WORDS
        if compound and {ending, _ENDING_WORDS.get(ending, "")} & known:
            return word
    return None


#: Whom or what rows come back to, each with ways of its own: people and single machines. Shops, suppliers and accounts
#: of a ledger, which are reported on one by one, are none.
_INDIVIDUALS = frozenset(
    "customer client patient student pupil employee member session user visitor passenger machine device sensor meter "
    "household respondent participant subject person clerk driver teacher worker staff emp empl cust pat "
    "doctor kunde mitarbeiter mitglied gerat zahler schuler fahrer cliente eleve "
    "salarie abonne paciente alumno empleado usuario utilisateur personne persona".split()
)
_NAME_OF = frozenset({"name", "nom", "nombre"})


def of_individual(name_words: list[str]) -> bool:
    """Whether a name says that a column tells single people or things apart: "customer", "patient_id", "client name";
    not "customer segment"."""
    *before, last = name_words or [""]
    if last in IDENTIFIERS | _NAME_OF and before:
        last = before[-1]
    return last in _INDIVIDUALS


def numbers_something(name_words: list[str]) -> bool:
    """Whether a name says how many of something there are: "number of orders", "no_of_visits", "n_items"."""
    for place, word in enumerate(name_words[:-1]):
        if word in ("number", "no", "num", "nr", "numero", "nombre") and name_words[place + 1] in _NUMBER_OF:
            return True
    if len(name_words) > 1 and name_words[0] in ("no", "num", "number", "nr", "numbers"):
        # "no_orders", "num visits": so many of them; "no_order" is which.
        return any(singular(word) != word for word in name_words[1:])
    return len(name_words) > 1 and name_words[0] == "n"
