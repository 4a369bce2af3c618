"""What a row is: a sailing, an order, a patient; said by who reads the table, or plain from its key's or own name."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from ...support.english_nouns import plural, singular
from ...support.name_parts import apart

if TYPE_CHECKING:
    from ..table import Table

#: Ends of a key's name that say that it numbers something.
_NUMBERED = re.compile(r"[_\s-]*(id|ids|no|nr|num|number|key|code|ref|uuid|guid)$", re.IGNORECASE)
#: A key has another value on so many of the rows.
_ALL = 0.95
#: Names that say nothing of what is numbered.
_EMPTY = frozenset(
    "row rows record records entry entries line lines item index table data file sheet source export report query id "
    "result results list sample test input output values master reference register name ticket".split()
)
#: What rows say and are not: nobody counts wages by the row.
_SAID_OF_THEM = frozenset(
    "wage price rate premium salary cost income score temperature index value amount figure number statistic level "
    "earning share percentage".split()
)
#: What rows are often of, one of them: a file's name in the plural may as well be of what is counted in each row
#: (fatalities by state and year), or the name of a study.
_OFTEN = frozenset(
    "absence accident account admission animal answer apartment appeal applicant application appointment arrest "
    "arrival article asset audit bike bill birth book booking bug call campaign candidate car case charge city "
    "claim class client comment company complaint consignment contract conversation country county course crime "
    "crossing customer deal death defect delivery departure device donation driver earthquake email employee "
    "enquiry enrollment enrolment event expense experiment failure farm film fine fire firm flat flight game goal "
    "grant guest harbour hire home hospital hotel house household incident inquiry inspection inspector invoice "
    "issue job journey landing lead lease letter listing loan loss machine match meal meeting member message "
    "movie offence offense offer opportunity order outage package parcel passage passenger patient payment "
    "penalty permit person pet player policy port post product project property purchase race refund registration "
    "rental repair reply request reservation respondent response restaurant return review ride room route sailing "
    "sale school sensor service session shift ship shipment shop shot song station stay stop store student "
    "submission subscription supplier task team tenant ticket town transaction transfer tree trip tweet user "
    "vehicle vendor vessel village visit visitor voyage worker".split()
)
#: Short forms that keys are named with.
_SHORT = {"emp": "employee", "empl": "employee", "cust": "customer", "inv": "invoice", "ord": "order", "pat": "patient",
          "trans": "transaction", "txn": "transaction", "resp": "respondent", "prod": "product"}  # fmt: skip
_WORDS = re.compile(r"[a-z]+( [a-z]+)?")


def row_noun(table: Table, *, surely: bool = True) -> str:
    """What rows are called, many of them: "sailings"; "" where nothing says so plainly. Who asks of a table may call
    its rows by any name that it has; `surely` is what is said of them unasked."""
    if table.noun:
        return table.noun
    for column in table.columns:
        numbered = _NUMBERED.sub("", _apart(column.name))
        numbered = _SHORT.get(numbered, numbered)
        # Of a table in its file labels are counted to a few percent.
        whole = column.distinct >= _ALL * table.rows and not column.missing
        if column.role.value == "key" and whole and numbered != _apart(column.name) and _is_noun(numbered):
            return plural(singular(numbered))
    stem = _apart(re.sub(r"\.\w+(\.\w+)?$", "", table.name.rpartition("/")[2]))
    repeated = [_apart(column.name) for column in table.columns if column.distinct < _ALL * table.rows]
    named = {singular(word) for name in repeated for word in (name, _NUMBERED.sub("", name))}
    last = singular(stem).rpartition(" ")[2]
    if {singular(stem), last} & named:
        # A table of harbours by month: its rows are no harbours.
        return ""
    if last in _SAID_OF_THEM or (surely and last not in _OFTEN):
        return ""
    return stem if _is_noun(stem) and singular(stem) != stem and plural(singular(stem)) == stem else ""


def _apart(name: str) -> str:
    """The words of a name, in small letters: "SailingID" is "sailing id"."""
    spaced = apart(name, " ")
    return " ".join(re.split(r"[_\s-]+", spaced)).strip().casefold()


def _is_noun(text: str) -> bool:
    return bool(_WORDS.fullmatch(text)) and len(text) > 2 and not _EMPTY & set(text.split())
