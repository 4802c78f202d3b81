"""The tables. Values that only the core understands (pieces, words, operations) are stored as JSON."""

from __future__ import annotations

from datetime import UTC, datetime
from secrets import token_hex
from typing import Any

from sqlalchemy import JSON, BigInteger, ForeignKey, Index, Integer
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


def new_id() -> str:
    return token_hex(6)


def now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    # Ticks go beyond 32 bits after twelve hours; SQLite's integers have 64, and number rows under this name alone.
    type_annotation_map = {int: BigInteger().with_variant(Integer, "sqlite")}  # noqa: RUF012


class Deletable:
    """What can be brought back after it was deleted; see :mod:`jaskel.store.deleted`."""

    deleted: Mapped[datetime | None]


class Show(Base):
    """A series with a common look and sound.

    ``tidy`` is what it wants tidied and how, where that is not as usual; ``numbers`` how it wants them written, one of
    :data:`jaskel.core.numbers.STYLES`. ``sound`` is what it keeps of how it sounds, see
    :mod:`jaskel.store.way`, ``captions`` how it has those, see :mod:`jaskel.store.house_captions`, and ``style`` how its
    pictures look, a :class:`jaskel.core.picture.style.Style`.
    """

    __tablename__ = "shows"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    name: Mapped[str]
    about: Mapped[str] = mapped_column(default="")
    deleted: Mapped[datetime | None]
    tidy: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    numbers: Mapped[str] = mapped_column(default="heard")
    sound: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    captions: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    style: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    colours: Mapped[dict[str, str]] = mapped_column(JSON, default=dict)
    """What the colours of selects stand for."""
    feed: Mapped[dict[str, str]] = mapped_column(JSON, default=dict)
    """What its feed says of it: ``author``, ``site`` and ``language``."""
    tell: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    """Whom it tells of what is done: see :mod:`jaskel.jobs.tell`."""
    destinations: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    """See :mod:`jaskel.store.destinations`."""
    paces: Mapped[dict[str, dict[str, float]]] = mapped_column(JSON, default=dict)
    """What the parts of exports took, by destination: see :mod:`jaskel.jobs.pace`."""
    created: Mapped[datetime] = mapped_column(default=now)
    episodes: Mapped[list[Episode]] = relationship(back_populates="show", order_by="Episode.created")
    voices: Mapped[list[Voice]] = relationship(order_by="Voice.number")


class Episode(Base):
    """One programme being made. ``marks`` are those of its material, as the log of them left them."""

    __tablename__ = "episodes"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    show_id: Mapped[str] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"), index=True)
    title: Mapped[str]
    folder: Mapped[str] = mapped_column(default="")
    archived: Mapped[bool] = mapped_column(default=False)
    deleted: Mapped[datetime | None]
    marks: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    marks_revision: Mapped[int] = mapped_column(default=0)
    created: Mapped[datetime] = mapped_column(default=now)
    show: Mapped[Show] = relationship(back_populates="episodes")
    recordings: Mapped[list[Recording]] = relationship(back_populates="episode", order_by="Recording.created")
    sessions: Mapped[list[SessionRow]] = relationship(order_by="SessionRow.created")
    every_edition: Mapped[list[EditionRow]] = relationship(back_populates="episode", order_by="EditionRow.created")

    @property
    def editions(self) -> list[EditionRow]:
        """Those that are not deleted."""
        return [edition for edition in self.every_edition if edition.deleted is None]


class Recording(Base):
    """A captured or imported piece of media.

    ``state`` is ``preparing``, ``cut off`` (readable in part; a person decides), ``ready``, ``cleared`` (what was made of it is
    gone, see :mod:`jaskel.store.room`) or ``failed``. ``digest`` names the original in the vault, ``info`` is what the file
    says of itself, ``length`` is in ticks once its sound is decoded.
    ``placed`` is whether it is (or goes) on the page by itself; one that came with others waits for a decision. ``kind`` is
    ``speech``, ``music``, ``still`` (a picture), ``video`` (to be seen, not heard) or ``pickup`` (a line said again, see
    :mod:`jaskel.store.pickups`); only speech goes on the page by itself.
    """

    __tablename__ = "recordings"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    episode_id: Mapped[str] = mapped_column(ForeignKey("episodes.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    kind: Mapped[str] = mapped_column(default="speech")
    digest: Mapped[str] = mapped_column(index=True)
    size: Mapped[int]
    info: Mapped[dict[str, Any]] = mapped_column(JSON)
    state: Mapped[str] = mapped_column(default="preparing")
    length: Mapped[int] = mapped_column(default=0)
    missing: Mapped[float] = mapped_column(default=0.0)
    trouble: Mapped[str] = mapped_column(default="")
    has_working_copy: Mapped[bool] = mapped_column(default=False)
    has_key_copy: Mapped[bool] = mapped_column(default=False)
    """A few key pictures can be seen, until the working copy is made."""
    language: Mapped[str] = mapped_column(default="auto")
    """A code of ISO 639-1, or ``auto`` until it is found from the sound."""
    languages: Mapped[list[list[Any]]] = mapped_column(JSON, default=list)
    """From which tick on which language was found, where there is more than one."""
    parted: Mapped[bool] = mapped_column(default=False)
    """Each of these stretches is heard in its own language."""
    care: Mapped[str] = mapped_column(default="quick")
    """Heard by the weights that come with Jaskel (``quick``), or by the largest that were added (``careful``)."""
    transcript_state: Mapped[str] = mapped_column(default="none")
    transcript_trouble: Mapped[str] = mapped_column(default="")
    transcript_revision: Mapped[int] = mapped_column(default=0)
    placed: Mapped[bool] = mapped_column(default=True)
    pickup: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    created: Mapped[datetime] = mapped_column(default=now)
    episode: Mapped[Episode] = relationship(back_populates="recordings")


class Voice(Base):
    """A person who speaks, known across the show. Without a name it is shown by its number.

    ``role`` is what stands below the name in a lower third.

    ``consent`` is that of the person to be spoken for by a machine (:class:`jaskel.store.pickups.Consent`), empty without.
    """

    __tablename__ = "voices"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    show_id: Mapped[str] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    name: Mapped[str] = mapped_column(default="")
    role: Mapped[str] = mapped_column(default="")
    consent: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    created: Mapped[datetime] = mapped_column(default=now)


class VoicePrint(Base):
    """How a voice sounds in one recording: see :func:`jaskel.speech.voices.print_of`."""

    __tablename__ = "voice_prints"
    voice_id: Mapped[str] = mapped_column(ForeignKey("voices.id", ondelete="CASCADE"), primary_key=True)
    recording_id: Mapped[str] = mapped_column(ForeignKey("recordings.id", ondelete="CASCADE"), primary_key=True)
    print: Mapped[list[float]] = mapped_column(JSON)


class SessionRow(Base):
    """Recordings made at the same time. ``state`` is ``syncing``, ``proposed`` or ``joined``.

    ``length`` is on the session's own clock, in ticks; ``revision`` counts changes of what is heard.
    """

    __tablename__ = "sessions"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    episode_id: Mapped[str] = mapped_column(ForeignKey("episodes.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    state: Mapped[str] = mapped_column(default="syncing")
    length: Mapped[int] = mapped_column(default=0)
    revision: Mapped[int] = mapped_column(default=0)
    created: Mapped[datetime] = mapped_column(default=now)
    tracks: Mapped[list[TrackRow]] = relationship(
        back_populates="session", order_by="TrackRow.position", cascade="all, delete-orphan", passive_deletes=True
    )


class TrackRow(Base):
    """A recording in a session; see :class:`jaskel.core.session.Track`.

    ``sure`` is the share of windows that bear the offset out, 0 where nothing told, -1 where a person set it. ``own`` holds
    from-to in ticks of the recording of where it is its own voice that is heard.
    """

    __tablename__ = "tracks"
    recording_id: Mapped[str] = mapped_column(ForeignKey("recordings.id", ondelete="CASCADE"), primary_key=True)
    session_id: Mapped[str] = mapped_column(ForeignKey("sessions.id", ondelete="CASCADE"), index=True)
    position: Mapped[int]
    offset: Mapped[int] = mapped_column(default=0)
    drift: Mapped[float] = mapped_column(default=0.0)
    sure: Mapped[float] = mapped_column(default=0.0)
    sounds: Mapped[bool] = mapped_column(default=True)
    voice_id: Mapped[str | None] = mapped_column(ForeignKey("voices.id", ondelete="SET NULL"))
    own: Mapped[list[list[int]] | None] = mapped_column(JSON)
    session: Mapped[SessionRow] = relationship(back_populates="tracks")
    recording: Mapped[Recording] = relationship()
    voice: Mapped[Voice | None] = relationship()


class TranscriptPart(Base):
    """Words of one part of a recording, in order: as :func:`jaskel.core.transcript.word_to_json` has them."""

    __tablename__ = "transcript_parts"
    recording_id: Mapped[str] = mapped_column(ForeignKey("recordings.id", ondelete="CASCADE"), primary_key=True)
    start: Mapped[int] = mapped_column(primary_key=True)
    end: Mapped[int]
    words: Mapped[list[list[Any]]] = mapped_column(JSON)


class BroughtText(Deletable, Base):
    """A text brought to a recording. ``state`` is ``seen``, ``fitting``, ``taken``, ``guided`` or ``failed``.

    ``words`` are ``[text, voice, start, end]`` each; ``report`` says how text and sound compared.
    """

    __tablename__ = "texts"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    recording_id: Mapped[str] = mapped_column(ForeignKey("recordings.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    form: Mapped[str]
    timed: Mapped[bool]
    words: Mapped[list[list[Any]]] = mapped_column(JSON)
    state: Mapped[str] = mapped_column(default="seen")
    trouble: Mapped[str] = mapped_column(default="")
    report: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    created: Mapped[datetime] = mapped_column(default=now)


class Take(Deletable, Base):
    """Something being recorded in a browser. ``beat`` is when its last chunk came."""

    __tablename__ = "takes"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    episode_id: Mapped[str] = mapped_column(ForeignKey("episodes.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    chunks: Mapped[int] = mapped_column(default=0)
    size: Mapped[int] = mapped_column(default=0)
    beat: Mapped[float] = mapped_column(default=0.0)
    created: Mapped[datetime] = mapped_column(default=now)


class Upload(Base):
    """A file that comes in parts; what has come of it lies in the vault, under its id.

    An archive belongs to no episode: it brings one. ``sender`` is the account that sends it, where there are accounts.
    """

    __tablename__ = "uploads"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    episode_id: Mapped[str | None] = mapped_column(ForeignKey("episodes.id", ondelete="CASCADE"), index=True)
    sender: Mapped[str] = mapped_column(default="")
    name: Mapped[str]
    length: Mapped[int] = mapped_column(BigInteger)
    placed: Mapped[bool]
    transcribe: Mapped[bool]
    created: Mapped[datetime] = mapped_column(default=now)


class SpellingRow(Base):
    """A house spelling of a show: a term, and what it was misheard as."""

    __tablename__ = "spellings"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    show_id: Mapped[str] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"), index=True)
    term: Mapped[str]
    heard: Mapped[list[str]] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(default=now)


class SpokenPart(Base):
    """Names a row of the full-text index after the part of a transcript it is made from."""

    __tablename__ = "spoken_parts"
    id: Mapped[int] = mapped_column(primary_key=True)
    recording_id: Mapped[str] = mapped_column(ForeignKey("recordings.id", ondelete="CASCADE"))
    start: Mapped[int]


class Meant(Base):
    """Which rows of the index of meanings are those of a recording, as it read at a revision; see :mod:`jaskel.store.meant`."""

    __tablename__ = "meant"
    recording_id: Mapped[str] = mapped_column(ForeignKey("recordings.id", ondelete="CASCADE"), primary_key=True)
    revision: Mapped[int]
    first: Mapped[int]
    count: Mapped[int]


class EditionRow(Base):
    """One edited version of an episode; its content is the log of operations on it.

    ``length`` is what is kept of it now, for lists that do not open it. ``target`` is how long it is to become, in ticks, 0 for
    no target; ``target_kind`` says whether ``exactly``, ``at most`` or ``about`` so long. ``shape`` is one of
    :data:`jaskel.core.shape.PictureShape`: what it is now, and ``first_shape`` what it was before the first step.
    """

    __tablename__ = "editions"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    episode_id: Mapped[str] = mapped_column(ForeignKey("episodes.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    crossfade: Mapped[int]
    target: Mapped[int] = mapped_column(default=0)
    target_kind: Mapped[str] = mapped_column(default="about")
    shape: Mapped[str] = mapped_column(default="as recorded")
    first_shape: Mapped[str] = mapped_column(default="as recorded")
    deleted: Mapped[datetime | None]
    length: Mapped[int] = mapped_column(default=0)
    revision: Mapped[int] = mapped_column(default=0)
    wishes: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    """What is asked of each kind of proposal: see :mod:`jaskel.web.reuse`."""
    written: Mapped[dict[str, str]] = mapped_column(JSON, default=dict)
    """What people made of what was proposed, by what it is: ``article``, ``summary``, ``notes``; Markdown."""
    passed: Mapped[list[str]] = mapped_column(JSON, default=list)
    """Places of the last listen that were passed, by the digests of what sounds there."""
    created: Mapped[datetime] = mapped_column(default=now)
    episode: Mapped[Episode] = relationship(back_populates="every_edition")


class Refusal(Base):
    """A finding that somebody judged to be none, by its kind and its place in a recording or session."""

    __tablename__ = "refusals"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    edition_id: Mapped[str] = mapped_column(ForeignKey("editions.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    recording: Mapped[str]
    start: Mapped[int]
    end: Mapped[int]
    created: Mapped[datetime] = mapped_column(default=now)


class HeardRow(Base):
    """See :class:`jaskel.core.tidy.heard.Heard`, as from-to in ticks; ``state`` says how it sounded when it was heard."""

    __tablename__ = "heard"
    name: Mapped[str] = mapped_column(primary_key=True)
    state: Mapped[str]
    voice: Mapped[list[list[int]]] = mapped_column(JSON)
    breaths: Mapped[list[list[int]]] = mapped_column(JSON)
    bursts: Mapped[list[list[int]]] = mapped_column(JSON)


class Logged:
    """What a step of an append-only log holds. ``number`` is the revision it led to.

    ``step`` is ``do``, ``undo``, ``redo``, or ``base`` for material that arrives by itself and is not undone. ``target`` is
    the entry an undo or redo is about. ``operation`` was applied, ``inverse`` takes it back. ``who`` did it, where a window
    has said so; ``author`` names that window.
    """

    number: Mapped[int] = mapped_column(primary_key=True)
    step: Mapped[str]
    target: Mapped[int]
    operation: Mapped[dict[str, Any]] = mapped_column(JSON)
    inverse: Mapped[dict[str, Any]] = mapped_column(JSON)
    summary: Mapped[str]
    who: Mapped[str] = mapped_column(default="")
    author: Mapped[str] = mapped_column(default="")
    at: Mapped[datetime] = mapped_column(default=now)


class LogEntry(Logged, Base):
    """One step of an edition's log."""

    __tablename__ = "log"
    edition_id: Mapped[str] = mapped_column(ForeignKey("editions.id", ondelete="CASCADE"), primary_key=True, sort_order=-1)


class MaterialEntry(Logged, Base):
    """One step of the log of an episode's own marks."""

    __tablename__ = "material_log"
    episode_id: Mapped[str] = mapped_column(ForeignKey("episodes.id", ondelete="CASCADE"), primary_key=True, sort_order=-1)


class Version(Base):
    """A revision of an edition that somebody gave a name."""

    __tablename__ = "versions"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    edition_id: Mapped[str] = mapped_column(ForeignKey("editions.id", ondelete="CASCADE"), index=True)
    revision: Mapped[int]
    name: Mapped[str]
    created: Mapped[datetime] = mapped_column(default=now)


class Snapshot(Base):
    """An edition at a revision, so that logs are not read whole; see :func:`jaskel.core.codec.edition_to_json`."""

    __tablename__ = "snapshots"
    edition_id: Mapped[str] = mapped_column(ForeignKey("editions.id", ondelete="CASCADE"), primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True)
    state: Mapped[dict[str, Any]] = mapped_column(JSON)


class Weights(Base):
    """Weights of a recogniser that were added to those that come with Jaskel; their files lie in a folder of this id.

    ``state`` is ``arriving``, ``checking``, ``ready`` or ``failed``. ``speed`` says how many seconds of sound they hear in one
    here. Those that come with Jaskel have a row each for their speed, with the name of :mod:`jaskel.speech.weights` as its id.
    """

    __tablename__ = "weights"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    name: Mapped[str]
    state: Mapped[str] = mapped_column(default="arriving")
    trouble: Mapped[str] = mapped_column(default="")
    languages: Mapped[list[str]] = mapped_column(JSON, default=list)
    size: Mapped[int] = mapped_column(default=0)
    speed: Mapped[float] = mapped_column(default=0.0)
    created: Mapped[datetime] = mapped_column(default=now)


class Job(Base):
    """Work for the worker. ``state`` is ``queued``, ``running``, ``paused``, ``done``, ``failed`` or ``cancelled``.

    It belongs to an episode, or to none where it is for all shows. ``done`` and ``total`` are ticks of media. ``worker`` and
    ``beat`` say who has it and when that one was last alive.
    """

    __tablename__ = "jobs"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    kind: Mapped[str]
    episode_id: Mapped[str | None] = mapped_column(ForeignKey("episodes.id", ondelete="CASCADE"), index=True)
    subject: Mapped[str] = mapped_column(index=True)
    details: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    state: Mapped[str] = mapped_column(default="queued", index=True)
    done: Mapped[int] = mapped_column(default=0)
    total: Mapped[int] = mapped_column(default=0)
    trouble: Mapped[str] = mapped_column(default="")
    cancel: Mapped[bool] = mapped_column(default=False)
    attempts: Mapped[int] = mapped_column(default=0)
    worker: Mapped[str] = mapped_column(default="")
    beat: Mapped[float] = mapped_column(default=0.0)
    started: Mapped[float] = mapped_column(default=0.0)
    """When it was last begun, in seconds since 1970; 0 where it was not yet. Until it comes further, that moves on."""
    since: Mapped[int] = mapped_column(default=0)
    """How far it had come then."""
    place: Mapped[int] = mapped_column(default=0)
    """Of work that is done in order, what has a lower place comes first."""
    created: Mapped[datetime] = mapped_column(default=now)

    @property
    def of_episode(self) -> str:
        """The id of its episode, empty where it belongs to none."""
        return self.episode_id or ""


class Export(Deletable, Base):
    """A finished export; its file lies in the vault under its id."""

    __tablename__ = "exports"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    edition_id: Mapped[str] = mapped_column(ForeignKey("editions.id", ondelete="CASCADE"), index=True)
    job_id: Mapped[str]
    form: Mapped[str]
    destination: Mapped[str] = mapped_column(default="")
    """The name of the destination it was made for, with other files of the same ``job_id``."""
    file_name: Mapped[str]
    size: Mapped[int]
    length: Mapped[int]
    revision: Mapped[int]
    created: Mapped[datetime] = mapped_column(default=now)


class Publication(Base):
    """An episode on the publishing host. ``files`` are ``[form, name, address, size]`` each; ``persons`` ``[name, role]``."""

    __tablename__ = "publications"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    episode_id: Mapped[str] = mapped_column(ForeignKey("episodes.id", ondelete="CASCADE"), index=True)
    title: Mapped[str]
    summary: Mapped[str] = mapped_column(default="")
    season: Mapped[int] = mapped_column(default=0)
    number: Mapped[int] = mapped_column(default=0)
    length: Mapped[int]
    files: Mapped[list[list[Any]]] = mapped_column(JSON)
    persons: Mapped[list[list[str]]] = mapped_column(JSON, default=list)
    created: Mapped[datetime] = mapped_column(default=now)
    episode: Mapped[Episode] = relationship()


class Account(Base):
    """Somebody who signs in, where several work together. ``password`` is its Argon2 hash, empty until they have chosen one.

    ``keeper`` looks after this Jaskel: owner of every show, the one who adds weights.
    """

    __tablename__ = "accounts"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    name: Mapped[str] = mapped_column(unique=True)
    mail: Mapped[str] = mapped_column(unique=True)
    password: Mapped[str] = mapped_column(default="")
    keeper: Mapped[bool] = mapped_column(default=False)
    second: Mapped[str] = mapped_column(default="")
    """The secret of their second factor (:mod:`jaskel.store.second_factor`), empty where there is none."""
    second_step: Mapped[int] = mapped_column(default=0)
    """The last step of time whose figures were used."""
    created: Mapped[datetime] = mapped_column(default=now)


class SignIn(Base):
    """A browser that is signed in, for an account or a guest; ``digest`` is that of the secret in its cookie."""

    __tablename__ = "sign_ins"
    digest: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[str | None] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"), index=True)
    guest_link_id: Mapped[str | None] = mapped_column(ForeignKey("guest_links.id", ondelete="CASCADE"), index=True)
    guest: Mapped[str] = mapped_column(default="")
    """What a guest calls themself."""
    created: Mapped[datetime] = mapped_column(default=now)
    account: Mapped[Account | None] = relationship()
    guest_link: Mapped[GuestLink | None] = relationship()


class Member(Base):
    """What an account is in a show: see :class:`jaskel.core.roles.Role`."""

    __tablename__ = "members"
    show_id: Mapped[str] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True)
    account_id: Mapped[str] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"), primary_key=True, index=True)
    role: Mapped[str]
    account: Mapped[Account] = relationship()


class Invitation(Base):
    """A link that makes whoever opens it first part of a show, or lets an account choose a password anew.

    ``digest`` is that of the secret in the link. Without a show it is for the account ``account_id`` alone.
    """

    __tablename__ = "invitations"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    digest: Mapped[str] = mapped_column(unique=True)
    show_id: Mapped[str | None] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"), index=True)
    account_id: Mapped[str | None] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"))
    role: Mapped[str] = mapped_column(default="")
    label: Mapped[str] = mapped_column(default="")
    ends: Mapped[datetime]
    created: Mapped[datetime] = mapped_column(default=now)
    show: Mapped[Show | None] = relationship()
    account: Mapped[Account | None] = relationship()


class GuestLink(Base):
    """A link by which guests hear one edition and write notes on it, until it ``ends``."""

    __tablename__ = "guest_links"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    digest: Mapped[str] = mapped_column(unique=True)
    edition_id: Mapped[str] = mapped_column(ForeignKey("editions.id", ondelete="CASCADE"), index=True)
    label: Mapped[str]
    ends: Mapped[datetime]
    created: Mapped[datetime] = mapped_column(default=now)
    edition: Mapped[EditionRow] = relationship()


class Happening(Base):
    """A line of the log for owners: who signed in, invited, exported or deleted what. Without a show it is for keepers."""

    __tablename__ = "happenings"
    id: Mapped[int] = mapped_column(primary_key=True)
    show_id: Mapped[str | None] = mapped_column(ForeignKey("shows.id", ondelete="CASCADE"), index=True)
    who: Mapped[str]
    told: Mapped[str]
    at: Mapped[datetime] = mapped_column(default=now)


class Notice(Base):
    """Something that happened, for the windows that are open; old ones are deleted."""

    __tablename__ = "notices"
    __table_args__ = {"sqlite_autoincrement": True}  # noqa: RUF012
    id: Mapped[int] = mapped_column(primary_key=True)
    episode_id: Mapped[str] = mapped_column(default="")
    kind: Mapped[str]
    facts: Mapped[dict[str, Any]] = mapped_column(JSON)
    at: Mapped[datetime] = mapped_column(default=now)


Index("jobs_by_subject", Job.subject, Job.kind)
Index("spoken_by_part", SpokenPart.recording_id, SpokenPart.start, unique=True)
