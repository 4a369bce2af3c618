"""A ledger reviewed: which accounts want a question, and how the margin moved."""

from .account_months import AccountMonths
from .account_paths import Course
from .account_questions import Base, Judged
from .ledger_review import LedgerReview, Materiality, review_of
from .margin_bridge import BridgeLine, LineSlice, MarginBridge, bridge_of
from .question_checks import check_of
from .questions_asked import LASTING, LedgerQuestion, Weight

__all__ = [
    "LASTING", "AccountMonths", "Base", "BridgeLine", "Course", "Judged", "LedgerQuestion", "LedgerReview", "LineSlice",
    "MarginBridge", "Materiality", "Weight", "bridge_of", "check_of", "review_of",
]  # fmt: skip
