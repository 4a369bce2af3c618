"""The look of a report: the house's own, or the organisation's colours and fonts in the same roles.

Charts are drawn in the colours of the house, each of which stands for a role; a look says what the roles are when a
chart is saved or a file written, as dark paper does. A colour that could not be read on its paper is refused.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ..support.errors import OutputError, RequestError
from ..support.house_colours import DARK_PAPER, LIGHT_PAPER
from . import theme
from .palette import CATEGORIES, DARK_CATEGORIES, checked, contrast

#: How much a role must stand out from its paper (WCAG 2.2): letters more than marks. Rules need not.
_LETTERS, _MARKS = 4.5, 3.0
_NEEDED = {"ink": _LETTERS, "quiet": _LETTERS, "accent": _MARKS, "context": _MARKS, "good": _MARKS, "bad": _MARKS}
#: The fonts of a look, by what each is called in a brief, and the file of the house in its place.
FONTS = {
    "sans": "SourceSans3-Regular.ttf",
    "sans_bold": "SourceSans3-SemiBold.ttf",
    "serif": "SourceSerif4-Regular.ttf",
    "serif_bold": "SourceSerif4-SemiBold.ttf",
}
#: Bytes of a font and of a logo at most: both go into every page.
_LARGEST_FONT, _LARGEST_LOGO = 4_000_000, 500_000
#: Pixels of a logo on its longer side, and bytes of a template unpacked, at most.
_WIDEST_LOGO, _MOST_UNPACKED = 4_000, 400_000_000
_REMEDY = "Name another file in [look]."
_PICTURES = {b"\x89PNG\r\n\x1a\n": "image/png", b"\xff\xd8\xff": "image/jpeg"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """Colours by role on light and on dark paper, colours of categories, fonts (name and file) where they are not the
    house's, a logo, and the organisation's own template of slides and of documents."""

    colours: Mapping[str, str] = field(default_factory=lambda: LIGHT_PAPER)
    dark: Mapping[str, str] = field(default_factory=lambda: DARK_PAPER)
    categories: tuple[str, ...] = CATEGORIES
    dark_categories: tuple[str, ...] = DARK_CATEGORIES
    fonts: Mapping[str, Path] = field(default_factory=dict)
    families: Mapping[str, str] = field(default_factory=dict)
    logo: Path | None = None
    slides: Path | None = None
    document: Path | None = None

    def colour(self, role: str) -> str:
        """A role's colour on light paper, as #RRGGBB."""
        return self.colours[role]

    @property
    def sans(self) -> str:
        return self.families.get("sans", theme.SANS)

    @property
    def serif(self) -> str:
        return self.families.get("serif", theme.SERIF)

    def font_files(self) -> dict[str, Path]:
        """The four fonts, those of the house where the look has none of its own."""
        return {name: self.fonts.get(name) or theme.font_file(house) for name, house in FONTS.items()}

    def turned(self, *, dark: bool) -> dict[str, str]:
        """What each colour of the house is in this look, where it is another."""
        roles, categories = (self.dark, self.dark_categories) if dark else (self.colours, self.categories)
        turned = dict(zip(CATEGORIES, categories, strict=True))
        turned |= {colour: roles[role] for role, colour in LIGHT_PAPER.items()}
        return {house: own for house, own in turned.items() if own != house}

    def logo_picture(self) -> tuple[str, bytes] | None:
        """The kind of picture that the logo is, and its bytes."""
        if self.logo is None:
            return None
        content = self.logo.read_bytes()
        return _kind_of(content), content


HOUSE = Look()
_worn: ContextVar[Look] = ContextVar("worn", default=HOUSE)


def worn() -> Look:
    """The look of the report that is being written."""
    return _worn.get()


@contextmanager
def wearing(look: Look) -> Iterator[None]:
    """Inside, charts are saved and files written in a look."""
    token = _worn.set(look)
    try:
        yield
    finally:
        _worn.reset(token)


def look_of(wishes: Mapping[str, Any], folder: Path) -> Look:
    """A look from what a brief's `[look]` says; files are relative to `folder`.

    Raises RequestError for a role that is not there or a colour that cannot be read on its paper, OutputError for a
    font, logo or template that cannot be used.
    """
    # Colours of labels are the palette's, which every chart of the report shares.
    known = (*LIGHT_PAPER, *FONTS, "colours", "dark", "categories", "dark_categories", "logo", "slides", "document")
    for name in wishes:
        if name not in known:
            raise RequestError("A key of the look", name, f"one of {', '.join(known)}")
    colours = {role: checked(str(wishes.get(role) or house)) for role, house in LIGHT_PAPER.items()}
    _check(colours, "the look")
    asked = wishes.get("dark") or {}
    dark = {role: checked(str(asked.get(role) or _on_dark(role, colours, asked))) for role in LIGHT_PAPER}
    _check(dark, "the dark look")
    light = _categories(wishes.get("categories"), colours, CATEGORIES)
    usual = tuple(_lightened(one, dark["paper"]) for one in light) if wishes.get("categories") else DARK_CATEGORIES
    fonts = {name: _font(name, folder / str(wishes[name])) for name in FONTS if wishes.get(name)}
    drawn = {name: fonts.get(name) or fonts.get(f"{name}_bold") for name in ("sans", "serif")}
    return Look(
        colours=colours,
        dark=dark,
        categories=light,
        dark_categories=_categories(wishes.get("dark_categories"), dark, usual),
        fonts=fonts,
        families={name: family_of(path) for name, path in drawn.items() if path is not None},
        logo=_logo(folder / str(wishes["logo"])) if wishes.get("logo") else None,
        slides=_template(folder / str(wishes["slides"]), (".pptx", ".potx")) if wishes.get("slides") else None,
        document=_template(folder / str(wishes["document"]), (".docx", ".dotx")) if wishes.get("document") else None,
    )


def family_of(path: Path) -> str:
    """The family name that a font bears, of letters that mean nothing in a style sheet."""
    from fontTools.ttLib import TTFont

    with TTFont(path, lazy=True) as font:
        told = str(font["name"].getBestFamilyName() or path.stem)
    return re.sub(r"[^\w .-]", "", told)[:80].strip() or "own"


def _check(colours: Mapping[str, str], what: str) -> None:
    for role, needed in _NEEDED.items():
        _stands_out(f"The colour {role} of {what}", colours[role], colours["paper"], needed)


def _stands_out(what: str, colour: str, paper: str, needed: float) -> None:
    """Raises RequestError for a colour that cannot be told from its paper."""
    ratio = contrast(colour, paper)
    if ratio < needed:
        allowed = f"one that stands out from its paper ({paper}) by {needed:g}:1 or more; this does by {ratio:.1f}:1"
        raise RequestError(what, colour, allowed)


def _on_dark(role: str, colours: Mapping[str, str], asked: Mapping[str, Any]) -> str:
    """A role on dark paper where it was not said: the house's, or the colour of light paper made light enough."""
    paper = checked(str(asked.get("paper") or DARK_PAPER["paper"]))
    if colours[role] == LIGHT_PAPER[role] or role == "paper":
        return DARK_PAPER[role] if role != "paper" else paper
    return _lightened(colours[role], paper, _NEEDED.get(role, 1.0))


def _lightened(colour: str, paper: str, needed: float = _MARKS) -> str:
    """The colour mixed with white until it stands out from dark paper."""
    parts = [int(colour[place : place + 2], 16) for place in (1, 3, 5)]
    for white in range(0, 101, 5):
        mixed = "#" + "".join(f"{round(part + (255 - part) * white / 100):02X}" for part in parts)
        if contrast(mixed, paper) >= needed:
            return mixed
    return "#FFFFFF"


def _categories(asked: Sequence[Any] | None, colours: Mapping[str, str], usual: Sequence[str]) -> tuple[str, ...]:
    """Eight colours of categories: the accent, those asked for, then the usual ones that differ from them."""
    given = [checked(str(one)) for one in asked or ()]
    if len({*given, colours["accent"]}) <= len(given) or len(given) >= len(CATEGORIES):
        allowed = f"at most {len(CATEGORIES) - 1} colours, none twice, none the accent"
        raise RequestError("Categories of the look", ", ".join(given), allowed)
    made = tuple(dict.fromkeys([colours["accent"], *given, *usual[1:], usual[0], *DARK_CATEGORIES]))[: len(CATEGORIES)]
    for one in made:
        _stands_out("A category of the look", one, colours["paper"], _MARKS)
    return made


def _font(name: str, path: Path) -> Path:
    from fontTools.ttLib import TTFont, TTLibError

    _readable(path, _LARGEST_FONT)
    try:
        with TTFont(path, lazy=True) as font:
            letters = font.getBestCmap()
    except (TTLibError, OSError, KeyError, AssertionError) as problem:
        raise OutputError(
            str(path), f"no font of the kind TTF or OTF ({name})", "Name another file in [look]."
        ) from problem
    if not letters or any(ord(letter) not in letters for letter in "0123456789.,-%aZ"):
        raise OutputError(str(path), f"the font lacks digits or letters ({name})", _REMEDY)
    return path


def _logo(path: Path) -> Path:
    _readable(path, _LARGEST_LOGO)
    content = path.read_bytes()
    # A PNG says its size in its first chunk; pressed, a vast one is small.
    if _kind_of(content, path) == "image/png":
        across, down = (int.from_bytes(content[place : place + 4]) for place in (16, 20))
        if max(across, down) > _WIDEST_LOGO:
            raise OutputError(str(path), f"larger than {_WIDEST_LOGO} pixels", _REMEDY)
    return path


def _kind_of(content: bytes, path: Path | None = None) -> str:
    for start, kind in _PICTURES.items():
        if content.startswith(start):
            return kind
    raise OutputError(str(path or "the logo"), "no picture of the kind PNG or JPEG", _REMEDY)


def _template(path: Path, endings: tuple[str, ...]) -> Path:
    import zipfile

    _readable(path, 50_000_000)
    if path.suffix.lower() in endings and zipfile.is_zipfile(path):
        with zipfile.ZipFile(path) as package:
            if sum(one.file_size for one in package.infolist()) > _MOST_UNPACKED:
                raise OutputError(str(path), f"larger than {_MOST_UNPACKED:,} bytes when unpacked", _REMEDY)
    else:
        raise OutputError(str(path), f"no template of the kind {' or '.join(endings)}", _REMEDY)
    return path


def _readable(path: Path, most: int) -> None:
    """Raises OutputError for a file that is not there, or larger than so many bytes."""
    try:
        size = path.stat().st_size if path.is_file() else -1
    except OSError:
        size = -1
    if size < 0:
        raise OutputError(str(path), "there is no such file", "Name it in [look] by its path beside the brief.")
    if size > most:
        raise OutputError(str(path), f"larger than {most:,} bytes", "Name a smaller file in [look].")
