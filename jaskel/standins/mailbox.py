"""A mailbox: what Jaskel would mail is kept here, so that one can look at it."""

from __future__ import annotations

from email import message_from_bytes, policy
from pathlib import Path

from flask import Blueprint, render_template_string

PREFIX = "/standins/mailbox"
MOST = 200
"""Messages that are shown."""

PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>Mailbox</title>
</head>
<body>
<h1>Mailbox</h1>
<p>This is a stand-in: it keeps the mail that Jaskel sends, so that one can look at it.</p>
{% for each in messages %}
<article><h2>{{ each.subject }}</h2><p>To {{ each.to }}</p><pre>{{ each.text }}</pre></article>
{% else %}
<p>No mail has arrived yet.</p>
{% endfor %}
</body>
</html>
"""


def api_in(folder: Path) -> Blueprint:
    """The mailbox, with its messages in a folder."""
    api = Blueprint("mailbox", __name__, url_prefix=PREFIX)

    @api.get("/")
    def page() -> str:
        """What arrived, the newest first."""
        messages = []
        for file in sorted(folder.glob("*.eml"), reverse=True)[:MOST]:
            message = message_from_bytes(file.read_bytes(), policy=policy.default)
            body = message.get_body(("plain",))
            text = body.get_content() if body else ""
            messages.append({"subject": message["Subject"], "to": message["To"], "text": text})
        return render_template_string(PAGE, messages=messages)

    return api
