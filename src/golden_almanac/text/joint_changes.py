"""Several changes as one story: which measures moved more than usual and which did not, by what they share, each fact
once."""

from __future__ import annotations

from collections.abc import Sequence

from ..analysis.change import Explanation, Named
from ..findings import Finding
from . import change_sentences as why_changed
from . import dates, names, numbers
from .change_sentences import compared, level
from .languages import mark, say
from .summary import Summary, fit


def joint_summary(told: Sequence[tuple[Finding, Explanation]]) -> Summary:
    """The story of several changes (finding, explanation), the leading one first."""
    lead, one = told[0]
    body: list[str] = []
    same = [(finding, other) for finding, other in told if other.period == one.period]
    alike = [(finding, other) for finding, other in same if other.baseline == one.baseline]
    body += why_changed.usual(one)
    body += _beside([entry for entry in same if entry[1].measure == one.measure][1:])
    body += _moved_beside([entry for entry in alike if entry[1].measure != one.measure])
    body += _where([other for _, other in alike])
    subject = why_changed.movement(one)
    body += [*why_changed.made_of(one, subject), *why_changed.through(one, subject), *why_changed.next_look(one)]
    known = list(dict.fromkeys(note for finding, _ in told for note in finding.notes))[:2]
    return fit(lead.headline, body, [say("Known of that time: {notes}.", notes="; ".join(known))] if known else [])


def _beside(others: Sequence[tuple[Finding, Explanation]]) -> list[str]:
    """The same measure and period against other baselines."""
    found = []
    for finding, other in others:
        places = {"it": names.subject(other.measure), "compared": compared(finding, dates.period(other.baseline))}
        usual = other.usual
        if usual is None or not usual.usual:
            found.append(say("{it:It|They} {it:was|were} {compared}.", **places))
        elif usual.season:
            found.append(say("{it:It|They} {it:was|were} {compared}, as usual for the season.", **places))
        else:
            found.append(say("{it:It|They} {it:was|were} {compared}, within {it:its|their} usual movement.", **places))
    return found


def others(told: Sequence[tuple[Finding, Explanation]]) -> list[str]:
    """How the measures behind the leading one went in the same period, those that moved more than usual first."""
    return _moved_beside([entry for entry in told if entry[1].measure != told[0][1].measure])


#: How the other measures went, in the order told.
_GROUPS = (
    mark("{told}, more than usual."),
    mark("{told}, less than usual."),
    mark("{told}."),
    mark("{told}, as usual."),
)


def _moved_beside(told: Sequence[tuple[Finding, Explanation]]) -> list[str]:
    """The other measures: those that moved beyond their usual movement, then those that did not."""
    groups: dict[str, list[str]] = {phrase: [] for phrase in _GROUPS}
    more, less, unknown, as_usual = _GROUPS
    for finding, one in told:
        usual = one.usual
        if usual is None:
            place = unknown
        elif usual.usual:
            place = as_usual
        else:
            place = more if (one.change - usual.change) * one.change > 0 else less
        groups[place].append(_moved(finding, one))
    return [names.capital(say(phrase, told=names.listed(texts))) for phrase, texts in groups.items() if texts]


def _moved(finding: Finding, explanation: Explanation) -> str:
    change, measure = finding.figures["change"], finding.measure
    who = names.subject(explanation.measure)
    if level(finding):
        return say("{who} held level", who=who)
    pct = finding.figures["change_pct"]
    size = numbers.percent(pct) if pct is not None else numbers.difference(change, measure)
    return (
        say("{who} rose by {size}", who=who, size=size)
        if change > 0
        else say("{who} fell by {size}", who=who, size=size)
    )


def _where(explanations: Sequence[Explanation]) -> list[str]:
    """Slices that explain several of the measures are named once, with what each measure did there."""
    by_slice: dict[str, list[tuple[Explanation, Named]]] = {}
    for explanation in explanations:
        for part in explanation.named:
            by_slice.setdefault(names.slice_(part.where), []).append((explanation, part))
    shared = {label: parts for label, parts in by_slice.items() if len(parts) > 1}
    found = []
    for label, parts in shared.items():
        sizes = [
            say(
                "{size} of {name}",
                size=numbers.signed(part.told, numbers.difference(part.told, one.measure)),
                name=names.measure_name(one.measure),
            )
            for one, part in parts
        ]
        found.append(say("{label} accounts for {told}.", label=label, told=names.listed(sizes)))
    for one in explanations:
        if one.named and not any(names.slice_(part.where) in shared for part in one.named):
            name = names.capital(names.measure_name(one.measure))
            found += [say("{name}: {text}", name=name, text=text) for text in why_changed.where(one)[:1]]
    if not found and explanations:
        found = why_changed.where(explanations[0])
    return found
