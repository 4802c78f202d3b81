"""Shows and episodes."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any, TypeVar

from sqlalchemy import Select as Query
from sqlalchemy import func, select
from sqlalchemy.orm import Session, aliased

from jaskel.core.marks.chapter import Chapter
from jaskel.core.marks.note import Note
from jaskel.core.marks.select import Select
from jaskel.core.problem import Missing
from jaskel.core.roles import EVERYTHING, Role
from jaskel.demo import prepare
from jaskel.jobs.prepare import resume, wake
from jaskel.jobs.queue import send
from jaskel.jobs.spell import style_of
from jaskel.store import library
from jaskel.store.accounts import Person, names_of, set_role
from jaskel.store.material import marks_of
from jaskel.store.models import (
    Account,
    BroughtText,
    EditionRow,
    Episode,
    Export,
    Job,
    LogEntry,
    Member,
    Recording,
    SessionRow,
    Show,
    SpellingRow,
    Take,
    TrackRow,
    now,
)
from jaskel.store.notices import post
from jaskel.store.prints import recognised
from jaskel.store.room import CLEARED
from jaskel.web.context import context
from jaskel.web.gate import ANYBODY, asking, looked_through
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath, ShowPath
from jaskel.web.schemas.library import (
    Duplicate,
    EpisodeChange,
    EpisodeOut,
    NewEpisode,
    NewShow,
    PersonOut,
    ShowChange,
    ShowOut,
    ShowsOut,
)
from jaskel.web.serializers import (
    chapter_out,
    edition_brief,
    export_out,
    job_out,
    note_out,
    recording_out,
    reply,
    select_out,
    session_out,
    spelling_out,
    take_out,
    text_out,
    voice_out,
)

api = resource("shows", __name__)


@api.get("/shows", responses={200: ShowsOut})
def list_shows():  # type: ignore[no-untyped-def]
    """Every show with its episodes, the newest last; deleted ones are marked so."""
    with context().workshop.home.database.read() as session:
        shows = select(Show).order_by(Show.created)
        if (seen := looked_through(session)) is not None:
            shows = shows.where(Show.id.in_(seen))
        return reply(ShowsOut(shows=_shows(session, shows)))


@api.post("/shows", responses={201: ShowOut})
def make_show(body: NewShow):  # type: ignore[no-untyped-def]
    """Make a show."""
    person = asking()
    with context().workshop.home.database.write() as session:
        show = library.new_show(session, body.name, body.about)
        if person is not ANYBODY:
            set_role(session, show.id, person.id, Role.OWNER)
        return reply(_show(session, show).model_copy(update={"may": [*EVERYTHING]}), 201)


@api.post("/shows/<show_id>/episodes", responses={201: EpisodeOut})
def make_episode(path: ShowPath, body: NewEpisode):  # type: ignore[no-untyped-def]
    """Make an episode, with an empty edition called Programme."""
    with context().workshop.home.database.write() as session:
        return reply(_episode(session, library.new_episode(session, find_show(session, path.show_id), body.title)), 201)


@api.post("/demo", responses={201: EpisodeOut})
def add_demo():  # type: ignore[no-untyped-def]
    """Add the demo's show; gives its interview, whose sound is then read like any other's."""
    home = context().workshop.home
    episode_id, jobs = prepare.add_demo(home)
    for job in jobs:
        send(home, job)
    with home.database.read() as session:
        return reply(_episode(session, find_episode(session, episode_id)), 201)


@api.patch("/shows/<show_id>", responses={200: ShowOut})
def change_show(path: ShowPath, body: ShowChange):  # type: ignore[no-untyped-def]
    """Rename a show, delete it, or bring it back."""
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        show.name = body.name or show.name
        show.about = show.about if body.about is None else body.about
        if body.deleted is not None:
            show.deleted = now() if body.deleted else None
        if body.numbers is not None:
            show.numbers = body.numbers
            for episode in show.episodes:
                post(session, "recording", episode.id)
        if body.colours is not None:
            known = {**show.colours, **{str(colour): name for colour, name in body.colours.items()}}
            show.colours = {colour: name for colour, name in known.items() if name}
            for episode in show.episodes:
                post(session, "recording", episode.id)
        session.flush()
        return reply(_show(session, show))


@api.patch("/episodes/<episode_id>", responses={200: EpisodeOut})
def change_episode(path: EpisodePath, body: EpisodeChange):  # type: ignore[no-untyped-def]
    """Rename an episode, lay it in a folder, archive or delete it, or bring it back."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        episode.title = body.title or episode.title
        episode.folder = episode.folder if body.folder is None else body.folder
        episode.archived = episode.archived if body.archived is None else body.archived
        if body.deleted is not None:
            episode.deleted = now() if body.deleted else None
        post(session, "recording", episode.id)
        return reply(_episode(session, episode))


@api.post("/episodes/<episode_id>/duplicate", responses={201: EpisodeOut})
def duplicate(path: EpisodePath, body: Duplicate):  # type: ignore[no-untyped-def]
    """A second episode with everything this one has, or a new one with the same settings."""
    with context().workshop.home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        copy = library.duplicate(session, episode, body.title, template=body.template)
        jobs = resume(session, copy)
        made = _episode(session, copy)
    for job in jobs:
        send(context().workshop.home, job)
    return reply(made, 201)


@api.get("/episodes/<episode_id>", responses={200: EpisodeOut})
def get_episode(path: EpisodePath):  # type: ignore[no-untyped-def]
    """An episode with its recordings, editions, work under way and exports.

    What was cleared of it from the disk is made again from now on.
    """
    home = context().workshop.home
    with home.database.read() as session:
        asleep = any(each.state == CLEARED for each in find_episode(session, path.episode_id).recordings)
    if asleep:
        with home.database.write() as session:
            jobs = wake(session, find_episode(session, path.episode_id))
        for job in jobs:
            send(home, job)
    with home.database.read() as session:
        episode = find_episode(session, path.episode_id)
        return reply(_for_guest(session, episode, asking()) if asking().is_guest else _episode(session, episode))


def find_show(session: Session, show_id: str) -> Show:
    show = session.get(Show, show_id)
    if show is None:
        raise Missing("no-show", "This show is not there any more. Go back to the library.")
    return show


def find_episode(session: Session, episode_id: str) -> Episode:
    episode = session.get(Episode, episode_id)
    if episode is None:
        raise Missing("no-episode", "This episode is not there any more. Go back to the library and open another.")
    return episode


NOTHING = 0, 0, 0, 0, 0, 0


def _shows(session: Session, wanted: Query[Any]) -> list[ShowOut]:
    """Shows with their episodes, in as few questions to the database however many there are."""
    shows = session.scalars(wanted).all()
    # There may be thousands: their few columns are asked for alone, and all become an answer in one go.
    listed = select(
        Episode.id, Episode.show_id, Episode.title, Episode.folder, Episode.archived, Episode.deleted, Episode.created
    )
    of_shows = listed.where(Episode.show_id.in_([show.id for show in shows])).order_by(Episode.created)
    # What a session hears by another track, as cameras are, needs no words of its own.
    unheard = select(TrackRow.recording_id).where(~TrackRow.sounds)
    speech = (Recording.kind == "speech") & Recording.id.not_in(unheard)
    states = {
        episode: counted
        for episode, *counted in session.execute(
            select(
                Recording.episode_id,
                func.count(),
                func.count().filter(Recording.transcript_state == "done"),
                func.count().filter(Recording.transcript_state.in_(("waiting", "running"))),
                func.count().filter(Recording.state == "preparing"),
                func.count().filter((Recording.state == "failed") | (Recording.transcript_state == "failed")),
                func.count().filter(speech & (Recording.state == "ready") & (Recording.transcript_state == "none")),
            ).group_by(Recording.episode_id)
        )
    }
    lengths = dict(
        session.execute(select(EditionRow.episode_id, func.max(EditionRow.length)).group_by(EditionRow.episode_id)).all()
    )
    exported = set(session.scalars(select(EditionRow.episode_id).join(Export, Export.edition_id == EditionRow.id)))
    proposed = dict(
        session.execute(
            select(SessionRow.episode_id, func.count()).where(SessionRow.state == "proposed").group_by(SessionRow.episode_id)
        ).all()
    )
    step = aliased(LogEntry)
    newest = select(func.max(step.number)).where(step.edition_id == EditionRow.id).correlate(EditionRow).scalar_subquery()
    steps = (
        select(EditionRow.episode_id, LogEntry.at, LogEntry.who)
        .join(LogEntry, (LogEntry.edition_id == EditionRow.id) & (LogEntry.number == newest))
        .order_by(LogEntry.at)
    )
    changed = {episode: (at, who) for episode, at, who in session.execute(steps)}

    def state(episode: str, count: int, transcribed: int, busy: int) -> str:
        if not count:
            return "empty"
        if busy:
            return "transcribing"
        return "exported" if episode in exported else "transcribed" if transcribed else "gathered"

    episodes: dict[str, list[dict[str, Any]]] = {show.id: [] for show in shows}
    for id_, show_id, title, folder, archived, deleted, created in session.execute(of_shows):
        count, transcribed, busy, preparing, failed, silent = states.get(id_, NOTHING)
        at, who = changed.get(id_, (None, ""))
        brief = {
            "id": id_,
            "title": title,
            "folder": folder,
            "archived": archived,
            "deleted": deleted is not None,
            "recordings": count,
            "length": lengths.get(id_, 0),
            "state": state(id_, count, transcribed, busy),
            "waiting": {
                "preparing": preparing,
                "failed": failed,
                "to_transcribe": silent,
                "to_place": proposed.get(id_, 0),
            },
            "changed": f"{at or created:%Y-%m-%dT%H:%M:%SZ}",
            "who": who,
        }
        episodes[show_id].append(brief)

    return [
        ShowOut.model_validate(
            {
                "id": show.id,
                "name": show.name,
                "about": show.about,
                "deleted": show.deleted is not None,
                "may": [*asking().rights_in(show.id)],
                "episodes": episodes[show.id],
            }
        )
        for show in shows
    ]


def _show(session: Session, show: Show) -> ShowOut:
    return _shows(session, select(Show).where(Show.id == show.id))[0]


def _episode(session: Session, episode: Episode) -> EpisodeOut:
    jobs = session.scalars(select(Job).where(Job.episode_id == episode.id, Job.state != "done").order_by(Job.created))
    texts = session.scalars(
        select(BroughtText)
        .join(Recording, Recording.id == BroughtText.recording_id)
        .where(Recording.episode_id == episode.id, BroughtText.deleted.is_(None))
        .order_by(BroughtText.created)
    )
    spellings = session.scalars(
        select(SpellingRow).where(SpellingRow.show_id == episode.show_id).order_by(func.lower(SpellingRow.term))
    )
    like = recognised(session, episode.show)
    editions = context().workshop.home.editions
    on_page = {name for row in episode.editions for name in editions.open(session, row.id).edition.recordings}
    vault = context().workshop.home.vault

    def gone(recording: Recording) -> bool:
        return recording.state == "ready" and not vault.intact(recording.digest, recording.size)

    sessions = [*episode.sessions, *borrowed(session, SessionRow, episode, on_page)]
    session_of = {track.recording_id: row.id for row in sessions for track in row.tracks}
    lent = borrowed(session, Recording, episode, on_page)
    lent += [track.recording for row in sessions if row.episode_id != episode.id for track in row.tracks]
    foreign = {voice.id: voice for recording in lent for voice in recording.episode.show.voices}
    edition_ids = [edition.id for edition in episode.editions]
    finished = select(Export).where(Export.edition_id.in_(edition_ids), Export.deleted.is_(None))
    exports = session.scalars(finished.order_by(Export.created.desc()))
    takes = session.scalars(select(Take).where(Take.episode_id == episode.id, Take.deleted.is_(None)))
    marks, names = marks_of(episode).marks, names_of(session)
    return EpisodeOut(
        id=episode.id,
        title=episode.title,
        show_id=episode.show_id,
        show=episode.show.name,
        folder=episode.folder,
        homes={each.id: each.episode_id for each in lent}
        | {row.id: row.episode_id for row in sessions if row.episode_id != episode.id},
        recordings=[
            *(recording_out(each, session_of.get(each.id), each.id in on_page, gone=gone(each)) for each in episode.recordings),
            *(recording_out(each, session_of.get(each.id), True, True, gone(each)) for each in dict.fromkeys(lent)),
        ],
        sessions=[session_out(row, row.id in on_page) for row in sessions],
        voices=[
            *(voice_out(voice, like.get(voice.id)) for voice in episode.show.voices),
            *(voice_out(voice) for voice in foreign.values() if voice.show_id != episode.show_id),
        ],
        texts=[text_out(text) for text in texts],
        spellings=[spelling_out(row) for row in spellings],
        numbers=style_of(episode.show),
        notes=[note_out(note, names) for note in marks.all(Note)],
        selects=[select_out(each) for each in marks.all(Select)],
        colours=episode.show.colours,  # type: ignore[arg-type]
        chapters=[chapter_out(each) for each in marks.all(Chapter)],
        takes=[take_out(take) for take in takes],
        editions=[edition_brief(edition) for edition in episode.editions],
        jobs=[job_out(job) for job in jobs],
        exports=[export_out(export) for export in exports],
        may=[*asking().rights_in(episode.show_id)],
        people=_people(session, episode.show_id),
    )


def _people(session: Session, show_id: str) -> list[PersonOut]:
    """Those of a show, whom notes can be given to; nobody where there are no accounts."""
    if asking() is ANYBODY:
        return []
    members = select(Member.account_id).where(Member.show_id == show_id)
    known = session.scalars(select(Account).where(Account.keeper | Account.id.in_(members)).order_by(Account.name))
    return [PersonOut(id=each.id, name=each.name) for each in known]


def _for_guest(session: Session, episode: Episode, guest: Person) -> EpisodeOut:
    """What a guest is told of an episode: what they need to read and hear their edition, and their own notes."""
    whole = _episode(session, episode)
    lists = ("recordings", "sessions", "texts", "spellings", "selects", "chapters", "takes", "jobs", "exports", "people")
    nothing: dict[str, Any] = {**{name: [] for name in lists}, "homes": {}, "colours": {}, "folder": ""}
    return whole.model_copy(
        update={
            **nothing,
            "notes": [each for each in whole.notes if each.by == guest.id],
            "editions": [each for each in whole.editions if each.id == guest.edition],
        }
    )


Lent = TypeVar("Lent", Recording, SessionRow)


def borrowed(session: Session, table: type[Lent], episode: Episode, on_page: Collection[str]) -> list[Lent]:
    """What the pages of an episode use of other episodes: it was pasted there."""
    return list(session.scalars(select(table).where(table.id.in_(on_page), table.episode_id != episode.id)))
