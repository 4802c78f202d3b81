"""What is written of an edition: proposed from what was said, edited by people, kept with it."""

from __future__ import annotations

from sqlalchemy.orm import Session

from jaskel.core.chapters import programme_chapters
from jaskel.core.marks.chapter import Chapter
from jaskel.core.reuse.article import Manner, article
from jaskel.core.reuse.notes import notes_text, summary_text
from jaskel.core.reuse.programme import words_heard
from jaskel.media.articles import as_html
from jaskel.store.editions import Opened
from jaskel.store.material import marks_of
from jaskel.store.models import EditionRow
from jaskel.web.context import context, voice_names
from jaskel.web.resource import resource
from jaskel.web.schemas.written import MannerQuery, WrittenIn, WrittenOut, WrittenPath
from jaskel.web.serializers import reply
from jaskel.web.subject import known_subject

api = resource("written", __name__)


@api.get("/editions/<edition_id>/written/<kind>", responses={200: WrittenOut})
def look(path: WrittenPath, query: MannerQuery):  # type: ignore[no-untyped-def]
    """A text as somebody left it, else as it is proposed."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        kept = session.get_one(EditionRow, path.edition_id).written.get(path.kind, "")
        return reply(_out(kept, kept or _proposed(session, opened, path.kind, query.manner)))


@api.post("/editions/<edition_id>/written/<kind>", responses={200: WrittenOut})
def propose(path: WrittenPath, query: MannerQuery):  # type: ignore[no-untyped-def]
    """A text as it is proposed now, whatever is kept; nothing is stored."""
    with context().workshop.home.database.read() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        return reply(_out("", _proposed(session, opened, path.kind, query.manner)))


@api.put("/editions/<edition_id>/written/<kind>", responses={200: WrittenOut})
def keep(path: WrittenPath, body: WrittenIn):  # type: ignore[no-untyped-def]
    """Keep a text as somebody edited it."""
    with context().workshop.home.database.write() as session:
        opened = context().workshop.home.editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        others = {kind: text for kind, text in row.written.items() if kind != path.kind}
        row.written = {**others, path.kind: body.text} if body.text.strip() else others
        return reply(_out(row.written.get(path.kind, ""), body.text or _proposed(session, opened, path.kind, "names")))


def _out(kept: str, text: str) -> WrittenOut:
    return WrittenOut(text=text, html=as_html(text), edited=bool(kept))


def _proposed(session: Session, opened: Opened, kind: str, manner: Manner) -> str:
    plan = context().plan(session, opened)
    if kind == "summary":
        return summary_text(known_subject(session, opened, plan))
    row = session.get_one(EditionRow, opened.id)
    chapters = programme_chapters(marks_of(row.episode).marks.all(Chapter), plan)
    voices = voice_names(session, opened)
    if kind == "notes":
        return notes_text(known_subject(session, opened, plan), chapters, voices)
    return article(words_heard(plan), chapters, voices, row.episode.title, manner)
