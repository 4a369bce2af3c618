"""Tables of text in the reader's language: what a terminal shows below the sentences of a result."""

from .change_tables import change_tables, changes_table
from .outcome_tables import comparison_tables, drivers_tables, fit_line, model_tables, regression_tables, relation_table
from .text_table import TextTable

__all__ = [
    "TextTable",
    "change_tables",
    "changes_table",
    "comparison_tables",
    "drivers_tables",
    "fit_line",
    "model_tables",
    "regression_tables",
    "relation_table",
]
