"""The report as a mail: summary and charts inline, a plain-text part, the page attached; and sending it by SMTP."""

from __future__ import annotations

from collections.abc import Sequence
from email.message import EmailMessage
from email.policy import SMTP
from typing import Any

from ..charts.chart import MADE_BY
from ..charts.look import worn
from ..reports import Report
from ..reports.brief import check_mail
from ..reports.page_model import shown_edition
from ..support.errors import OutputError
from ..text import page_labels
from . import html_page
from .office_parts import clean

_MOST_PICTURES = 4


def render(report: Report, sender: str = "", to: Sequence[str] = ()) -> bytes:
    """The mail's bytes (RFC 5322), the same on every run; it has no date until it is sent."""
    return _message(report, sender, to).as_bytes(policy=SMTP)


def send(report: Report, *, host: str, port: int, sender: str, to: Sequence[str]) -> None:
    """Hand the mail to an SMTP server. Raises RequestError for addresses that are none, OutputError where it is
    refused."""
    import smtplib

    check_mail(host, port, sender, to)
    try:
        with smtplib.SMTP(host, port, timeout=20) as server:
            server.send_message(_message(report, sender, to))
    except (OSError, smtplib.SMTPException, ValueError) as problem:
        raise OutputError(
            f"{host}:{port}", f"the mail was not taken ({_why(problem)})", "Check the server and the addresses."
        ) from problem


def _why(problem: Exception) -> str:
    """Why a mail was not taken, without the words of a library."""
    import smtplib
    import socket

    if isinstance(problem, smtplib.SMTPResponseException):
        return f"the server answered {problem.smtp_code}"
    if isinstance(problem, smtplib.SMTPRecipientsRefused):
        return "the server refused the recipients"
    if isinstance(problem, smtplib.SMTPServerDisconnected):
        return "the server broke the connection off"
    if isinstance(problem, socket.gaierror):
        return "there is no server of that name"
    if isinstance(problem, TimeoutError):
        return "the server did not answer in time"
    if isinstance(problem, OSError) and problem.strerror:
        return problem.strerror.lower()
    return "the server did not understand"


def _message(report: Report, sender: str, to: Sequence[str]) -> EmailMessage:
    from markupsafe import escape

    message = EmailMessage()
    message["Subject"] = " ".join(clean(report.summary.headline, 150).split())
    message["X-Mailer"] = MADE_BY
    if sender:
        message["From"] = sender
    if to:
        message["To"] = ", ".join(to)
    told = [report.summary.headline, "", *(f"- {text}" for text in report.summary.bullets), ""]
    told += [f"{key.name}: {key.value}, {key.change}" for key in report.keys]
    if report.steps:
        told += ["", page_labels.heading("steps"), *(f"- {text}" for text in report.steps)]
    told += ["", *(f"* {section.claim}" for section in report.sections), "", shown_edition(report)]
    told += [page_labels.heading("attached")]
    message.set_content(clean("\n".join(told), 20_000))
    shown = [section for section in report.sections if section.chart is not None][:_MOST_PICTURES]
    bullets = "".join(f"<li>{escape(clean(text))}</li>" for text in report.summary.bullets)
    keys = "".join(
        f"<td style='padding:0 24px 0 0'><small>{escape(clean(key.name))}</small><br>"
        "<b style='font-size:22px;white-space:nowrap'>"
        f"{escape(clean(key.value))}</b><br><small>{escape(clean(key.change))}</small></td>"
        for key in report.keys
    )
    pictures = "".join(
        f"<p><img src='cid:chart{place}' width='640' alt='{escape(clean(section.chart.alternative, 600))}'></p>"
        for place, section in enumerate(shown)
        if section.chart is not None
    )
    steps = "".join(f"<li>{escape(clean(text))}</li>" for text in report.steps)
    steps = f"<h2 style='font-size:16px'>{escape(page_labels.heading('steps'))}</h2><ul>{steps}</ul>" if steps else ""
    paper, ink = worn().colour("paper"), worn().colour("ink")
    body = (
        f"<html><body style='background:{paper};color:{ink};font-family:sans-serif;max-width:680px'>"
        f"<p><small>{escape(clean(shown_edition(report)))}</small></p>"
        f"<h1 style='font-family:serif;font-size:24px'>{escape(clean(report.summary.headline))}</h1><ul>{bullets}</ul>"
        f"<table><tr>{keys}</tr></table>{steps}{pictures}<p><small>{escape(page_labels.heading('attached'))}</small></p></body></html>"
    )
    message.add_alternative(body, subtype="html")
    parts: Any = message.get_payload()
    related = parts[1]
    for place, section in enumerate(shown):
        assert section.chart is not None
        related.add_related(
            section.chart.png(),
            "image",
            "png",
            cid=f"<chart{place}>",
            filename=f"chart{place}.png",
            disposition="inline",
        )
    message.add_attachment(html_page.render(report), maintype="text", subtype="html", filename="report.html")
    _fixed_boundaries(message)
    return message


def _fixed_boundaries(message: EmailMessage) -> None:
    """Boundaries by place, not by chance."""
    for place, part in enumerate(message.walk()):
        if part.is_multipart():
            part.set_boundary(f"==almanac-part-{place}==")
