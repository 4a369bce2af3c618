"""The kinds of finding: every file of this folder that declares one (`KIND`), loaded when first asked for."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from typing import ClassVar, Protocol, cast

from ...aggregation import Survey
from ...findings import Candidate
from ...findings.finding_kind import FindingKind


class Detector(Protocol):
    """Settings are frozen; `detect` keeps nothing and changes nothing it is given.

    Every test done is returned, also those that find nothing: the false-discovery control counts
    them. What the kind needs is checked by the caller.
    """

    kind: ClassVar[FindingKind]

    def detect(self, survey: Survey) -> Sequence[Candidate]: ...


@cache
def kinds() -> dict[str, FindingKind]:
    """Each kind by its name, in the order of the names; a change last, since it is read first."""
    package = __package__
    names = sorted(module_info.name for module_info in iter_modules(import_module(package).__path__))
    modules = [import_module(f".{name}", package) for name in names if name != "registry"]
    declared: list[FindingKind] = [module.KIND for module in modules if hasattr(module, "KIND")]
    return {kind.name: kind for kind in sorted(declared, key=lambda kind: (kind.name == "change", kind.name))}


def load(kind: str, floor: float | None = None) -> Detector:
    """The detector of a kind, with its default settings but for its floor where one is given."""
    declared = kinds()[kind]
    settings = {} if floor is None or declared.floor is None else {declared.floor.setting: floor}
    return cast(Detector, getattr(import_module(f".{kind}", __package__), declared.detector)(**settings))


def floor_of(kind: str) -> tuple[float, str] | None:
    """The floor of a kind and what it is measured in; None for kinds that have no single one."""
    floor = kinds()[kind].floor
    return None if floor is None else (float(getattr(load(kind), floor.setting)), floor.unit)
