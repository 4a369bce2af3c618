"""Several changes as one story: which measures moved more than usual and which did not, by what they share, each fact
once."""

from __future__ import annotations

from collections.abc import Sequence

from ..core.changes import Explanation, Named
from ..core.findings import Finding
from . import change as why_changed
from . import names, numbers
from .change import change_size
from .summary import Summary, fit


def joint_summary(told: Sequence[tuple[Finding, Explanation]]) -> Summary:
    """The story of several changes (finding, explanation), the leading one first."""
    lead, one = told[0]
    body: list[str] = []
    same = [(finding, other) for finding, other in told if other.period == one.period]
    alike = [(finding, other) for finding, other in same if other.baseline == one.baseline]
    body += why_changed.usual(one)
    body += _beside(one, [entry for entry in same if entry[1].measure == one.measure][1:])
    body += _others([entry for entry in alike if entry[1].measure != one.measure])
    body += _where([other for _, other in alike])
    subject = why_changed.movement(one)
    body += [*why_changed.made_of(one, subject), *why_changed.through(one, subject), *why_changed.next_look(one)]
    known = list(dict.fromkeys(note for finding, _ in told for note in finding.notes))[:2]
    return fit(lead.headline, body, [f"Known of that time: {'; '.join(known)}."] if known else [])


def _beside(one: Explanation, others: Sequence[tuple[Finding, Explanation]]) -> list[str]:
    """The same measure and period against other baselines."""
    found = []
    for finding, other in others:
        text = f"It was {change_size(finding)} {names.period(other.baseline)}"
        usual = other.usual
        if usual is not None and usual.usual:
            text += ", as usual for the season" if usual.season else ", within its usual movement"
        found.append(text + ".")
    return found


def _others(told: Sequence[tuple[Finding, Explanation]]) -> list[str]:
    """The other measures: those that moved beyond their usual movement, then those that did not."""
    groups: dict[str, list[str]] = {", more than usual": [], ", less than usual": [], "": [], ", as usual": []}
    for finding, one in told:
        usual = one.usual
        if usual is None:
            place = ""
        elif usual.usual:
            place = ", as usual"
        else:
            place = ", more than usual" if (one.change - usual.change) * one.change > 0 else ", less than usual"
        groups[place].append(f"{names.measure_name(one.measure)} {_moved(finding)}")
    return [f"{names.capital(names.listed(texts))}{end}." for end, texts in groups.items() if texts]


def _moved(finding: Finding) -> str:
    change, measure = finding.figures["change"], finding.measure
    size = change_size(finding)
    if size == "level with":
        return "held level"
    pct = finding.figures["change_pct"]
    by = numbers.percent(pct) if pct is not None else numbers.difference(change, measure)
    return f"{'rose' if change > 0 else 'fell'} by {by}"


def _where(told: Sequence[Explanation]) -> list[str]:
    """Slices that explain several of the measures are named once, with what each measure did there."""
    by_slice: dict[str, list[tuple[Explanation, Named]]] = {}
    for one in told:
        for part in one.named:
            by_slice.setdefault(names.slice_(part.where), []).append((one, part))
    shared = {label: parts for label, parts in by_slice.items() if len(parts) > 1}
    found = []
    for label, parts in shared.items():
        sizes = [
            f"{numbers.signed(part.told, numbers.difference(part.told, one.measure))} of {one.measure.label}"
            for one, part in parts
        ]
        found.append(f"{label} accounts for {names.listed(sizes)}.")
    for one in told:
        if one.named and not any(names.slice_(part.where) in shared for part in one.named):
            found += [
                f"{names.capital(names.measure_name(one.measure))}: {text}" for text in why_changed.where(one)[:1]
            ]
    if not found and told:
        found = why_changed.where(told[0])
    return found
