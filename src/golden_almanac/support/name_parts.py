"""The words that a column's name is put together from, as people run them together."""

from __future__ import annotations

import re

#: Where words meet: `closingBalance`, `Individuals.Affected`; a point between figures is a decimal one.
_MEET = re.compile(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[^\W\d_])\.(?=[^\W\d_])")
#: An "of" that lost its capital between two words: `NumberofSeats`, `DateofBirth`.
_OF = re.compile(
    r"(?<=[Nn]umber|[Aa]mount)of(?=[A-Z])|(?<=[Pp]ercent)of(?=[A-Z])|(?<=[Cc]ount|[Tt]otal|[Pp]lace)of(?=[A-Z])"
    r"|(?<=[Dd]ate|[Tt]ype|[Nn]ame|[Rr]ate|[Yy]ear|[Tt]ime|[Cc]ost|[Kk]ind|[Dd]ays)of(?=[A-Z])"
)


#: Short forms with a small letter in their midst: units of measure, year on year; thousands of a currency.
_SHORT = re.compile(r"(?<![^\W_])(?:[A-Z]o[A-Z]|KPIs|SKUs|IDs|PCs|[kKTM](?:EUR|USD|GBP|CHF|SEK|NOK|DKK))(?![^\W_])")


def apart(name: str, between: str = "_") -> str:
    """A name with what stands between its words put in: `closingBalance` is `closing_Balance`."""
    plain = _SHORT.sub(lambda short: short[0].lower(), name)
    return _MEET.sub(between, _OF.sub(f"{between}of", plain))
