"""The language that sentences are said in: a voice, its phrase catalogue, its nouns."""

from .inflection import Noun, elided, noun, pronoun
from .phrases import count, mark, phrase, say
from .voice import LANGUAGES, Voice, speaking, voice, voice_of

__all__ = [
    "LANGUAGES",
    "Noun",
    "Voice",
    "count",
    "elided",
    "mark",
    "noun",
    "phrase",
    "pronoun",
    "say",
    "speaking",
    "voice",
    "voice_of",
]
