"""Mail over SMTP (RFC 5321), plain text (RFC 5322). A message keeps its id, so that one that comes twice is one."""

from __future__ import annotations

import smtplib
from collections.abc import Sequence
from email.message import EmailMessage
from urllib.parse import unquote, urlsplit

from barrio.sending.webhook import NotTaken

PATIENCE = 15.0


def send(address: str, secret: str, to: Sequence[str], subject: str, text: str, delivery: str) -> None:
    """Send a message by a server (`smtp://user@mail.example:587?from=barrio@azulejo.example`, `smtps://…` for TLS from the start). Raises `NotTaken`."""
    server = urlsplit(address)
    sender = dict(part.partition("=")[::2] for part in server.query.split("&") if part).get("from", "")
    message = EmailMessage()
    message["From"], message["To"], message["Subject"] = sender, ", ".join(to), subject
    message["Message-ID"] = f"<{delivery}@barrio>"
    message.set_content(text)
    kind = smtplib.SMTP_SSL if server.scheme == "smtps" else smtplib.SMTP
    try:
        with kind(
            server.hostname or "", server.port or (465 if server.scheme == "smtps" else 25), timeout=PATIENCE
        ) as line:
            line.ehlo()
            if server.scheme == "smtp" and line.has_extn("starttls"):
                line.starttls()
                line.ehlo()
            if server.username:
                line.login(unquote(server.username), secret)
            line.send_message(message)
    except (smtplib.SMTPException, OSError) as error:
        raise NotTaken(
            f"{server.hostname} did not take the mail ({type(error).__name__}); it is tried again."
        ) from error
