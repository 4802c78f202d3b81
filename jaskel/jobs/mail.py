"""Sending mail: through the server that ``JASKEL_MAIL`` names, or into the mailbox that comes along."""

from __future__ import annotations

import smtplib
import ssl
from collections.abc import Sequence
from datetime import UTC, datetime
from email.message import EmailMessage
from urllib.parse import unquote, urlsplit

from sqlalchemy.orm import Session

from jaskel.core.problem import Problem
from jaskel.jobs.progress import Progress
from jaskel.jobs.queue import add_job
from jaskel.jobs.reach import SECONDS
from jaskel.jobs.workshop import Workshop
from jaskel.settings import STAND_IN, Settings
from jaskel.store.models import Job

KIND = "mail"


def start_mail(session: Session, settings: Settings, to: str, subject: str, lines: Sequence[str]) -> str | None:
    """Write down the job that sends a mail to somebody; gives its id, or None where no mail can be sent here."""
    if not settings.mail:
        return None
    return add_job(session, KIND, None, to, to=to, about=subject, lines=[*lines]).id


def carry_out_mail(workshop: Workshop, job: Job, _progress: Progress) -> None:
    """Send the mail of a job."""
    send_mail(workshop.settings, [job.details["to"]], job.details["about"], job.details["lines"])


def send_mail(settings: Settings, people: Sequence[str], subject: str, lines: Sequence[str]) -> None:
    """Send a mail.

    Raises
    ------
    Problem
        ``no-mail`` or ``mail-away``.
    """
    if not settings.mail:
        raise Problem("no-mail", "No mail can be sent: set JASKEL_MAIL and start again.")
    message = EmailMessage()
    # A line break in a header would begin another one.
    message["Subject"] = " ".join(subject.split())[:200]
    message["From"], message["To"] = settings.mail_from, ", ".join(people)
    message.set_content("\n".join(lines))
    if settings.mail == STAND_IN:
        settings.mailbox.mkdir(parents=True, exist_ok=True)
        name = f"{datetime.now(UTC):%Y%m%d-%H%M%S-%f}.eml"
        (settings.mailbox / name).write_bytes(message.as_bytes())
        return
    where = urlsplit(settings.mail)
    try:
        secure = where.scheme == "smtps"
        host, port = where.hostname or "localhost", where.port or (465 if secure else 25)
        safe = ssl.create_default_context()
        with (
            smtplib.SMTP_SSL(host, port, timeout=SECONDS, context=safe)
            if secure
            else smtplib.SMTP(host, port, timeout=SECONDS) as server
        ):
            server.ehlo()  # only then it is known whether it can be spoken to in secret
            if not secure and server.has_extn("starttls"):
                server.starttls(context=safe)
                server.ehlo()
            if where.username:
                server.login(unquote(where.username), unquote(where.password or ""))
            server.send_message(message)
    except (OSError, smtplib.SMTPException) as error:
        raise Problem("mail-away", "The mail server does not take the mail. Is JASKEL_MAIL right?") from error
