"""The language that sentences are said in: a voice, its phrase catalogue, its nouns."""

from .catalogue import languages
from .inflection import Noun, elided, noun, pronoun
from .phrases import count, mark, phrase, say
from .statement import Quantity, Statement, capital, figure_of, joined, pieces_of, quantity, statement
from .voice import Voice, speaking, voice, voice_of

__all__ = [
    "Noun",
    "Quantity",
    "Statement",
    "Voice",
    "capital",
    "count",
    "elided",
    "figure_of",
    "joined",
    "languages",
    "mark",
    "noun",
    "phrase",
    "pieces_of",
    "pronoun",
    "quantity",
    "say",
    "speaking",
    "statement",
    "voice",
    "voice_of",
]
