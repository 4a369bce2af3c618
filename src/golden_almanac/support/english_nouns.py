"""One and many of an English noun, as column names and labels have them."""

from __future__ import annotations

#: Words of business tables whose plural follows no rule; a library knows more of them and is wrong on others
#: ("datas", "saless", "GPSS"), and takes a second to load.
IRREGULAR = {
    "person": "people", "child": "children", "man": "men", "woman": "women", "half": "halves", "criterion": "criteria",
    "analysis": "analyses", "series": "series", "staff": "staff", "data": "data", "news": "news", "sales": "sales",
    "goods": "goods", "shelf": "shelves", "basis": "bases", "crisis": "crises", "means": "means", "species": "species",
    "crew": "crew", "foot": "feet", "tooth": "teeth", "quay": "quays", "axis": "axes",
    "genus": "genera", "taxon": "taxa", "stratum": "strata",
}  # fmt: skip
_ONE_OF = {many: one for one, many in IRREGULAR.items()}
#: Words in s that are one thing.
_ONE_IN_S = frozenset({"gas", "bias", "lens", "canvas", "atlas", "alias", "christmas", "yes"})
#: What ends in ies and is many of what ends in ie; the others are many of what ends in y.
_OF_IE = frozenset(
    "movies cookies calories pies ties lies dies rookies selfies hoodies smoothies genies prairies sorties zombies "
    "brownies birdies hippies junkies veggies newbies talkies indies groupies eyries aeries "
    "collies lassies budgies magpies neckties pixies walkies quickies townies foodies freebies".split()
)
#: Words that end as plurals do and are none, or have no singular that is said.
_AS_THEY_ARE = ("ss", "us", "is", "sales", "goods", "news", "series", "means", "species", "premises", "earnings")


def plural(word: str) -> str:
    """ "routes", "fare classes", "cities", "people": many of what the last word names."""
    before, space, last = word.rpartition(" ")
    if last in IRREGULAR:
        return before + space + IRREGULAR[last]
    if last in _ONE_OF:
        return word
    if last.endswith("s") and last not in _ONE_IN_S and singular(last) != last:
        # A column of "events" is many of them already.
        return word
    if last.endswith("sis"):
        return word[:-2] + "es"
    if word.endswith(("s", "x", "ch", "sh", "zz")):
        return word + "es" if not word.endswith("ies") else word
    if word.endswith("y") and word[-2:-1] not in "aeiou":
        return word[:-1] + "ies"
    return word + "s"


def singular(name: str) -> str:
    """One of what a name counts: "order" of "orders", "bus trip" of "bus trips"; other names as they are."""
    before, space, last = name.rpartition(" ")
    if last in _ONE_OF:
        return before + space + _ONE_OF[last]
    if not name.endswith("s") or name.endswith(_AS_THEY_ARE) or last in _ONE_IN_S:
        return name
    if last.rpartition("-")[2] in _OF_IE:
        return name[:-1]
    if name.endswith("ies") and len(name) > 4:
        return name[:-3] + "y"
    if name.endswith(("theses", "gnoses")):
        return name[:-2] + "is"
    # "buses" and "campuses" are many of what ends in us; "causes", "houses" and "uses" of what ends in use.
    of_us = name.endswith("uses") and not name.endswith(("auses", "ouses", "cuses")) and last != "uses"
    if of_us or last[:-2] in _ONE_IN_S or name.endswith(("sses", "xes", "ches", "shes", "zes")):
        return name[:-2]
    return name[:-1]
