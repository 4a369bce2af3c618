"""What was noticed while a table was read: one shape for notes, repairs and open questions."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """One thing noticed. `severity` is blocker, question, repair or note; `rows` counts the cells
    or rows concerned; `repair` says what was done, None exactly when nothing was changed."""

    check: str
    severity: str
    column: str | None
    rows: int
    message: str
    repair: str | None = None

    def to_dict(self) -> dict[str, Any]:
        repair = None if self.repair is None else {"applied": True, "what": self.repair}
        return {
            "check": self.check,
            "severity": self.severity,
            "column": self.column,
            "rows": self.rows,
            "message": self.message,
            "repair": repair,
        }
