"""From a written text to a short film: it is read, sentences are proposed, and an edition is made of those that stay."""

from __future__ import annotations

from flask import request

from jaskel.core.problem import Missing
from jaskel.core.reuse.told import chosen, sentences_in
from jaskel.jobs.queue import send
from jaskel.jobs.told import Told, start_film
from jaskel.media.article_files import LARGEST, paragraphs_of, read_article
from jaskel.speech.meaning import meanings_of
from jaskel.store.models import Recording
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.told import ArticleOut, ArticleQuery, FilmIn, TellIn, TellOut, WrittenSentenceOut
from jaskel.web.schemas.work import JobOut
from jaskel.web.serializers import job_out, reply
from jaskel.web.shows import find_episode

api = resource("told", __name__)


@api.post("/articles", responses={200: ArticleOut})
def read(query: ArticleQuery):  # type: ignore[no-untyped-def]
    """Read a file that is sent as the body of the request: text, Markdown, HTML or a Word document. Nothing is stored."""
    return reply(ArticleOut(text=read_article(request.stream.read(LARGEST + 1), query.name)))


@api.post("/articles/sentences", responses={200: TellOut})
def tell(body: TellIn):  # type: ignore[no-untyped-def]
    """The sentences of a text, and which of them tell it in a length. Nothing is stored."""
    paragraphs = paragraphs_of(body.text)
    sentences = sentences_in(paragraphs)
    taken = set(chosen(paragraphs, body.length, meanings_of, set(body.pinned), set(body.refused)))
    return reply(
        TellOut(
            sentences=[
                WrittenSentenceOut(text=each.text, length=each.length, paragraph=each.paragraph, chosen=at in taken)
                for at, each in enumerate(sentences)
            ],
            length=sum(each.length for at, each in enumerate(sentences) if at in taken),
        )
    )


@api.post("/episodes/<episode_id>/films", responses={202: JobOut})
def make(path: EpisodePath, body: FilmIn):  # type: ignore[no-untyped-def]
    """Make a film of sentences: an edition of the episode, with a picture for each."""
    home = context().workshop.home
    told = Told(**body.model_dump(exclude={"who", "window"}))
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        for name in (told.music, told.reader):
            known = session.get(Recording, name) if name not in ("", "machine", "nobody") else None
            if name not in ("", "machine", "nobody") and (known is None or known.episode_id != episode.id):
                raise Missing("no-recording", "This recording is not in the episode any more. Choose another.")
        job = start_film(session, episode.id, told)
    send(home, job.id)
    return reply(job_out(job), 202)
