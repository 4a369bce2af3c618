"""The language that sentences are said in: a voice, its phrase catalogue, its nouns."""

from .catalogue import languages
from .inflection import Noun, elided, noun, pronoun
from .phrases import count, mark, phrase, qualified, say
from .statement import (
    Digits,
    Quantity,
    Statement,
    capital,
    digits,
    figure_of,
    joined,
    leaves,
    pieces_of,
    quantity,
    spelled,
    statement,
)
from .voice import Voice, speaking, voice, voice_of

__all__ = [
    "Digits",
    "Noun",
    "Quantity",
    "Statement",
    "Voice",
    "capital",
    "count",
    "digits",
    "elided",
    "figure_of",
    "joined",
    "languages",
    "leaves",
    "mark",
    "noun",
    "phrase",
    "pieces_of",
    "pronoun",
    "qualified",
    "quantity",
    "say",
    "speaking",
    "spelled",
    "statement",
    "voice",
    "voice_of",
]
