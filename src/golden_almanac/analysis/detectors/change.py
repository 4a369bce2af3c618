"""Change: the last complete period, where it is unusual against earlier comparisons of the same kind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from ...aggregation import Survey
from ...findings import Candidate
from ...findings.finding_kind import FindingKind
from ..change import unusual
from ..change.change_findings import KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """The whole's last period against its baseline, for each measure."""

    kind: ClassVar[FindingKind] = KIND

    def detect(self, survey: Survey) -> Sequence[Candidate]:
        return unusual(survey)
