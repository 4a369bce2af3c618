"""The report model: what a page says, before any format."""

from .page_model import KeyFigure, Report, Section, change_report, changes_report, scan_report

__all__ = ["KeyFigure", "Report", "Section", "change_report", "changes_report", "scan_report"]
