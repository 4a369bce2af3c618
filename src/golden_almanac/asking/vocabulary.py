"""What can be named of a table: its columns in their forms, the labels in them. Made once, kept with the table."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace

from ..aggregation.measure_names import spoken
from ..sql.expressions import quote_name
from ..support.english_nouns import plural, singular
from ..tables import Column, Role, Table
from ..tables.meaning.name_words import AVERAGES
from ..tables.meaning.row_nouns import row_noun
from ..tables.yes_no import is_flag
from .lexicon import Lexicon
from .words import fold, stem, tokens

#: Labels of a column that are known by name.
MOST_LABELS = 50_000
#: Words of a column's name that say nothing alone.
_WEAK = frozenset(
    "total number no nr count rate id code name value amount of the per avg mean sum pct percent time date".split()
)
#: Small words, which are in many names and questions.
_SMALL = frozenset("on in at by to for from with is are was has have would will be not and or the a an of per".split())
_UNITS = frozenset(
    "eur usd gbp chf min mins minutes h hrs hours pct percent kg km t tonnes tons litres l m sec".split()
)


@dataclass(slots=True)
class Vocabulary:
    """`exact` are columns by the stems of their whole name; `words` by each stem in it; `joined` by the name without
    spaces. `labels` are (column, label) by their folded words, `label_words` by each word of a longer label."""

    table: Table
    columns: dict[str, Column]
    exact: dict[tuple[str, ...], list[str]] = field(default_factory=dict)
    words: dict[str, list[str]] = field(default_factory=dict)
    sizes: dict[str, int] = field(default_factory=dict)
    joined: dict[str, list[str]] = field(default_factory=dict)
    counts: dict[tuple[str, str], float] = field(default_factory=dict)
    labels: dict[tuple[str, ...], list[tuple[str, str]]] = field(default_factory=dict)
    label_words: dict[str, list[tuple[str, str]]] = field(default_factory=dict)
    longest: int = 1
    noun: str = ""
    rows: frozenset[str] = frozenset()
    spellings: tuple[str, ...] = ()


def vocabulary(table: Table, known: Lexicon) -> Vocabulary:
    """What can be named of a table; the private columns it does not have are no part of it."""
    key = ("vocabulary",)
    if key not in table._cache:
        table._cache[key] = _made(table, known)
    return table._cache[key]  # type: ignore[no-any-return]


def _made(table: Table, known: Lexicon) -> Vocabulary:
    told = {
        column.name: replace(column, type="boolean") if is_flag(table, column) else column for column in table.columns
    }
    made = Vocabulary(table=table, columns=told, noun=row_noun(table, surely=False))
    for column in table.columns:
        _name(made, column)
    _synonyms(made)
    _further_names(made, known)
    _of_one_row(made, known)
    for column in table.columns:
        if column.type == "text" and 0 < column.distinct <= MOST_LABELS and column.role is not Role.IGNORED:
            _labels(made, column)
    rows = {made.noun, singular(made.noun)} if made.noun else set()
    last = made.noun.rpartition(" ")[2]
    if last:
        rows |= {last, singular(last)}
    if made.noun and (singular(made.noun) in known.people or made.noun in known.people):
        rows |= set(known.people)
    elif not made.noun:
        rows |= {"people"} if _of_people(table) else set()
    made.rows = frozenset(fold(word) for word in rows if word) | known.rows
    spelled = {word for words in made.labels for word in words} | set(made.rows)
    for column in table.columns:
        for word in spoken(column.name).split():
            spelled |= _derived(fold(word))
    made.spellings = tuple(sorted(word for word in spelled if len(word) >= 4))
    return made


def flag_sql(column: Column, table: Table, *, negated: bool = False) -> str:
    """The condition that a column says yes, or says no."""
    name = quote_name(column.name)
    if table.column(column.name).type == "number":
        return f"{name} = {0 if negated else 1}"
    return f"{name} IS FALSE" if negated else name


def _derived(word: str) -> set[str]:
    """A word in the forms that a question has it in: route, routes; cancelled, cancellation, cancellations."""
    made = {word, plural(word), singular(word)}
    for end in ("ed", "ing"):
        base = word.removesuffix(end)
        if base != word and len(base) > 3:
            made |= {base + ending for ending in ("ed", "ing", "ation", "ations", "s")}
    return made


def _of_people(table: Table) -> bool:
    names = {fold(column.name) for column in table.columns}
    return bool(names & {"gender", "sex", "age", "salary"})


def name_words(column: Column) -> list[str]:
    """The words of a column's name, its unit left out."""
    words = [fold(word) for word in spoken(column.name).split()]
    while len(words) > 1 and words[-1] in _UNITS:
        words = words[:-1]
    return words


def _name(made: Vocabulary, column: Column) -> None:
    words = name_words(column)
    stems = tuple(stem(word) for word in words)
    told = tuple(stem(fold(word)) for word in spoken(column.name).split())
    forms = {stems, told, tuple(stem(word) for word in re.split(r"\W+", fold(column.original)) if word)}
    shorter = {tuple(word for word in form if word not in _SMALL) for form in forms}
    forms |= {form for form in shorter if len(form) > 1 or not _WEAK & set(form)}
    if column.type == "number" and column.role is not Role.MEASURE and _of_years(made, column):
        forms |= {("year", *stems), (*stems, "year")}
    if len(stems) > 1 and words[0] in AVERAGES and not _taken(made, words[1:]):
        # Of an average one asks for the average: the average price per room of `avg_price_per_room`.
        forms |= {form[1:] for form in forms if len(form) > 1 and form[0] == stems[0]}
    if len(stems) > 1 and stems[-1] in ("id", "nam", "name", "code"):
        forms.add(stems[:-1])
    for form in sorted(forms):
        if form and column.name not in made.exact.setdefault(form, []):
            made.exact[form].append(column.name)
            made.longest = max(made.longest, len(form))
    made.sizes[column.name] = len(stems)
    made.joined.setdefault("".join(words), []).append(column.name)
    for word, base in zip(words, stems, strict=True):
        if (
            word not in _WEAK
            and word not in _SMALL
            and len(word) > 1
            and column.name not in made.words.setdefault(base, [])
        ):
            made.words[base].append(column.name)


def _taken(made: Vocabulary, words: list[str]) -> bool:
    """Whether a column is called so by itself."""
    return any(name_words(column) == words for column in made.table.columns)


def _synonyms(made: Vocabulary) -> None:
    """What somebody stated that a column is called besides: it goes before every guess."""
    for name, others in made.table.stated.synonyms.items():
        for other in others:
            form = tuple(stem(token.low) for token in tokens(other))
            if form:
                made.exact[form] = [name]
                made.longest = max(made.longest, len(form))


def _further_names(made: Vocabulary, known: Lexicon) -> None:
    """What a kind of column is called beside its name, where no column is called so: waiting time for waiting_days,
    insurance type for insurance, fee income for fee; order value for the amount of an order."""
    for column in made.table.columns:
        words = name_words(column)
        stems = tuple(stem(word) for word in words)
        if column.nature == "duration":
            units = known.further["duration_units"]
            base = tuple(stem(word) for word in words if word not in units and word not in _SMALL) or stems
            heads = known.further["duration"]
        elif column.type == "number" and column.unit is not None and column.unit.isupper() and column.adds_up:
            base, heads = stems, known.further["money"]
        elif column.role is Role.DIMENSION and column.type == "text":
            base, heads = stems, known.further["labels"]
        else:
            continue
        for head in heads:
            form = (*base, stem(fold(head)))
            if form not in made.exact or made.exact[form] == [column.name]:
                made.exact[form] = [column.name]


def _of_one_row(made: Vocabulary, known: Lexicon) -> None:
    """What is asked of a row by its noun, "order value", is the figure that the table is mostly about, where one is."""
    from .asked import Problem
    from .measuring import assumed

    if not made.noun:
        return
    try:
        column = assumed(made.table).column
    except Problem:
        return
    if column is None or not made.columns[column].adds_up:
        return
    for head in known.further["rows"]:
        made.exact.setdefault((stem(fold(singular(made.noun))), stem(fold(head))), [column])


def _of_years(made: Vocabulary, column: Column) -> bool:
    low, high = made.table.extent(column.name)
    return low is not None and 1800 <= float(low) <= float(high) <= 2100


def _labels(made: Vocabulary, column: Column) -> None:
    rank = 0 if column.role is Role.DIMENSION else 1
    whole_words = column.distinct <= 2_000
    labels, counts = made.table.label_counts(column.name)
    for label, count in zip(labels, counts.tolist(), strict=True):
        if label is None:
            continue
        found = tuple(token.low for token in tokens(label))
        if not found or len(found) > 8:
            continue
        pair = (column.name, label)
        made.counts[pair] = count / max(1, made.table.rows)
        held = made.labels.setdefault(found, [])
        if rank == 0:
            held.insert(0, pair)
        else:
            held.append(pair)
        made.longest = max(made.longest, len(found))
        if whole_words and len(found) > 1:
            for word in found:
                if len(word) > 3:
                    made.label_words.setdefault(word, []).append(pair)


def forms_of(word: str) -> set[str]:
    """A word in its other number."""
    return {word, singular(word), plural(word)}
