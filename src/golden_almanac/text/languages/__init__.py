"""The language that sentences are said in: a voice, its phrase catalogue, its nouns."""

from .catalogue import languages
from .inflection import Noun, elided, noun, pronoun
from .phrases import count, mark, phrase, say
from .voice import Voice, speaking, voice, voice_of

__all__ = [
    "Noun",
    "Voice",
    "count",
    "elided",
    "languages",
    "mark",
    "noun",
    "phrase",
    "pronoun",
    "say",
    "speaking",
    "voice",
    "voice_of",
]
