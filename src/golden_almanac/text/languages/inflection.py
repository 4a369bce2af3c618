"""Nouns with what grammar needs of them: article, gender, number, plural, and how "of" goes with them.

A noun is written `word, gender, other number, genitive`, of which all but the word may be left out:
`Umsatz, m, Umsätze, des Umsatzes`. Gender is m, f or n, or with a p behind it (p, mp, fp) for a word that stands in the
plural, whose other number is then the singular. Cases that its phrases ask for besides (`{who.loc}`) are named behind
them: `loc=przychodach`. A word that no catalogue knows is said in quotation marks, as a name.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from .catalogue import catalogue, quotes
from .voice import Voice, voice

_DE = {"m": ("der", "des"), "f": ("die", "der"), "n": ("das", "des"), "p": ("die", "der")}
_ES = {"m": ("el ", "del "), "f": ("la ", "de la "), "mp": ("los ", "de los "), "fp": ("las ", "de las ")}
_FR = {"m": ("le ", "du "), "f": ("la ", "de la "), "p": ("les ", "des ")}
_VOWELS = "aeiouyhàâäéèêëîïôöùûüœ"


class Noun(str):
    """A noun as said. `form` gives it with its article ("the"; "acc" as an object), with "of" before it, without an
    article behind "of" ("de"), or in its other number ("other")."""

    gender: str
    number: str
    forms: dict[str, str]

    def form(self, name: str) -> str:
        """Raises KeyError for a form that no phrase may ask for."""
        return self.forms[name]

    def each(self, change: Callable[[str], str]) -> Noun:
        """The same noun, changed alike in all its forms."""
        return _made(
            change(str(self)), self.gender, self.number, {key: change(text) for key, text in self.forms.items()}
        )

    def in_plural(self) -> Noun:
        """The same noun as one that stands for many: verbs agree with that."""
        return _made(str(self), self.gender, "many", self.forms)


def noun(word: str) -> Noun:
    """An English word or phrase in the current language, by the reader's own names, then the catalogue's."""
    own = voice()
    if own.rows and "row" in word:
        word = _of_rows(word, own)
    entry = dict(own.names).get(word)
    if entry is None and not own.english:
        found = catalogue(own.language).get(("noun", word))
        entry = found if isinstance(found, str) and found else None
    if entry is None:
        return plain(word) if own.english else _unknown(word, own.language)
    return written(entry, own.language)


def _of_rows(word: str, own: Voice) -> str:
    """A noun about rows, of what they are: where the language knows that word, if it is another than English."""
    from .phrases import of_what_rows_are

    told = of_what_rows_are(word, own.rows)
    return told if own.english or known(told) else word


def known(word: str) -> bool:
    """Whether the current language has a noun for it."""
    own = voice()
    return word in dict(own.names) or (not own.english and ("noun", word) in catalogue(own.language))


def written(entry: str, language: str) -> Noun:
    """A noun from how it is written; see the top of this module."""
    parts = [part.strip() for part in entry.split(",")]
    cases = dict(part.split("=", 1) for part in parts if "=" in part)
    word, gender, other, genitive = ([part for part in parts if "=" not in part] + ["", "", ""])[:4]
    gender = gender or "m"
    number = "many" if gender.endswith("p") else "one"
    other = other or word
    forms = _FORMS.get(language, _as_given)(word, gender, genitive) | cases
    forms["other"] = other
    return _made(word, gender, number, forms)


def plain(word: str) -> Noun:
    """A label or phrase that is said as it stands."""
    language = voice().language
    of = elided("de", word) if language == "fr" else {"de": "von ", "es": "de ", "en": "of "}.get(language, "") + word
    return _made(word, "m", "one", {"the": word, "acc": word, "of": of, "de": of, "other": word})


def elided(word: str, before: str) -> str:
    """French "de" before a word: "d'Outer Bar", "de Tern Rock"."""
    return f"{word[:-1]}’{before}" if before[:1].lower() in _VOWELS and before[:1] else f"{word} {before}"


def agreeing(value: object, forms: Sequence[str]) -> str:
    """The form that agrees with a noun: by number (two forms), by gender or plural (three), or by both (four)."""
    gender, many = ("m", False) if not isinstance(value, Noun) else (value.gender, value.number == "many")
    if len(forms) == 2:
        return forms[many]
    if len(forms) == 3:
        return forms[2 if many else gender.startswith("f")]
    if voice().language == "de":
        return forms[3 if many else "mfn".index(gender[0])]
    return forms[2 * many + gender.startswith("f")]


def _made(word: str, gender: str, number: str, forms: dict[str, str]) -> Noun:
    noun = Noun(word)
    noun.gender, noun.number, noun.forms = gender, number, forms
    return noun


def _unknown(word: str, language: str) -> Noun:
    first, last = quotes(language)
    return plain(f"{first}{word}{last}")


def _english(word: str, gender: str, genitive: str) -> dict[str, str]:
    return {"the": f"the {word}", "acc": f"the {word}", "of": f"of {word}", "de": f"of {word}"}


def _german(word: str, gender: str, genitive: str) -> dict[str, str]:
    article, of = _DE["p" if gender.endswith("p") else gender]
    if not genitive:
        genitive = f"{of} {word}" + ("s" if of == "des" else "")
    accusative = "den" if article == "der" else article
    return {"the": f"{article} {word}", "acc": f"{accusative} {word}", "of": genitive, "de": f"von {word}"}


def _spanish(word: str, gender: str, genitive: str) -> dict[str, str]:
    the, of = _ES[{"p": "mp"}.get(gender, gender)]
    return {"the": the + word, "acc": the + word, "of": of + word, "de": f"de {word}"}


def _french(word: str, gender: str, genitive: str) -> dict[str, str]:
    many = gender.endswith("p")
    the, of = _FR["p" if many else gender]
    if not many and word[:1].lower() in _VOWELS and word[:1]:
        the, of = "l’", "de l’"
    return {"the": the + word, "acc": the + word, "of": of + word, "de": elided("de", word)}


def _as_given(word: str, gender: str, genitive: str) -> dict[str, str]:
    """A language that has no rules here: its nouns stand as the catalogue gives them."""
    return {"the": word, "acc": word, "of": genitive or word, "de": genitive or word}


_FORMS = {"en": _english, "de": _german, "es": _spanish, "fr": _french}


def pronoun(of: Noun) -> Noun:
    """What stands for a noun that was just said: "it", "they"; nothing in Spanish, where the verb says it."""
    word = (
        {
            "de": agreeing(of, ["er", "sie", "es", "sie"]),
            "fr": agreeing(of, ["il", "elle", "ils", "elles"]),
            "es": "",
        }.get(voice().language)
        if not voice().english
        else agreeing(of, ["it", "they"])
    )
    made = plain(word or "")
    made.gender, made.number = of.gender, of.number
    return made
