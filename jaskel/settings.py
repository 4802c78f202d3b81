"""Settings, from the environment or as given. Every one has a default that works."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from secrets import token_hex

from jaskel.core.problem import Problem


@dataclass(frozen=True)
class Settings:
    """Where data lives and how it is served.

    Environment: ``JASKEL_DATA`` (folder), ``JASKEL_HOST``, ``JASKEL_PORT``, ``JASKEL_MODEL`` (folder of recogniser
    weights), ``JASKEL_QUEUE`` (``redis://…`` for a shared queue; the default is a file beside the database),
    ``JASKEL_DATABASE`` (``postgresql://…`` for a database that machines share; the default is a file in the data folder),
    ``JASKEL_RECORDING_HOST``, ``JASKEL_PICTURE_LIBRARY`` and ``JASKEL_PUBLISHING_HOST`` (addresses of a remote recording
    host, of a library of pictures, and of where episodes are published; the demo has simulated ones), ``JASKEL_REACH`` (hosts
    within this machine or its network that may be fetched from and told things, with commas between them), ``JASKEL_MAIL``
    (``smtp://…`` or ``smtps://…``, through which mail is sent; the demo has a simulated one) and ``JASKEL_MAIL_FROM``.

    ``JASKEL_ORIGINALS`` are folders, with colons between them, in which originals lie that were put aside from the data folder.

    ``JASKEL_SCANNER`` is the command of a virus scanner (:mod:`jaskel.store.scanner`) that is shown what comes in.

    ``JASKEL_WATCH`` is a folder that is watched (:mod:`jaskel.jobs.watched`), ``JASKEL_SHARED_FOLDER`` the address of one that
    a team shares, by WebDAV; the demo has a simulated one.

    ``JASKEL_TEAM`` (``1``) asks for accounts. ``JASKEL_ADDRESS`` is where others reach the page (``https://…``), by which links
    for them are made; ``JASKEL_CERTIFICATE`` and ``JASKEL_KEY`` are files in PEM form for answering by HTTPS.
    """

    data: Path
    host: str = "127.0.0.1"
    port: int = 8750
    model: Path | None = None
    queue: str = ""
    shared_database: str = ""
    recording_host: str = ""
    picture_library: str = ""
    publishing_host: str = ""
    reach: tuple[str, ...] = ()
    mail: str = ""
    mail_from: str = "jaskel@localhost"
    originals: tuple[Path, ...] = ()
    watch: Path | None = None
    shared_folder: str = ""
    scanner: str = ""
    team: bool = False
    public: str = ""
    certificate: Path | None = None
    key: Path | None = None

    @classmethod
    def from_environment(cls, data: Path | None = None) -> Settings:
        """The settings that the environment asks for.

        Raises
        ------
        Problem
            ``port``, ``queue`` or ``database``, where one of them cannot be meant.
        """
        env = os.environ
        return cls(
            data=data or Path(env.get("JASKEL_DATA", "data")).expanduser().resolve(),
            host=env.get("JASKEL_HOST", "127.0.0.1"),
            port=_port(env.get("JASKEL_PORT") or "8750"),
            model=Path(env["JASKEL_MODEL"]).expanduser() if env.get("JASKEL_MODEL") else None,
            queue=_queue(env.get("JASKEL_QUEUE", "")),
            shared_database=database_address(env.get("JASKEL_DATABASE", "")),
            recording_host=env.get("JASKEL_RECORDING_HOST", ""),
            picture_library=env.get("JASKEL_PICTURE_LIBRARY", ""),
            publishing_host=env.get("JASKEL_PUBLISHING_HOST", ""),
            reach=tuple(each.strip() for each in env.get("JASKEL_REACH", "").split(",") if each.strip()),
            mail=_mail(env.get("JASKEL_MAIL", "")),
            mail_from=env.get("JASKEL_MAIL_FROM") or "jaskel@localhost",
            originals=tuple(
                Path(each).expanduser().resolve() for each in env.get("JASKEL_ORIGINALS", "").split(os.pathsep) if each
            ),
            watch=_folder(env.get("JASKEL_WATCH", "")),
            shared_folder=_web(env.get("JASKEL_SHARED_FOLDER", "")),
            scanner=env.get("JASKEL_SCANNER", ""),
            team=env.get("JASKEL_TEAM", "") not in ("", "0"),
            public=_public(env.get("JASKEL_ADDRESS", "")),
            certificate=Path(env["JASKEL_CERTIFICATE"]).expanduser() if env.get("JASKEL_CERTIFICATE") else None,
            key=Path(env["JASKEL_KEY"]).expanduser() if env.get("JASKEL_KEY") else None,
        )

    @property
    def database(self) -> Path:
        return self.data / "jaskel.db"

    @property
    def has_data(self) -> bool:
        """Whether something is stored already, as far as can be told without looking into a shared database."""
        return bool(self.shared_database) or self.database.exists()

    @property
    def vault(self) -> Path:
        """Originals, exports, and what is derived from originals."""
        return self.data / "vault"

    @property
    def fonts(self) -> Path:
        """The folder of fonts that were added."""
        return self.data / "fonts"

    @property
    def logos(self) -> Path:
        """The folder of logos."""
        return self.data / "logos"

    @property
    def mailbox(self) -> Path:
        """Where the simulated mailbox keeps what it was sent."""
        return self.data / "mail"

    @property
    def published(self) -> Path:
        """Where the simulated publishing host keeps what it was sent."""
        return self.data / "published"

    def weights(self, weights_id: str) -> Path:
        """The folder of weights that were added."""
        return self.data / "weights" / weights_id

    @property
    def address(self) -> str:
        """Where the page is, as seen from here."""
        host = f"[{self.host}]" if ":" in self.host else self.host
        return f"{'https' if self.certificate else 'http'}://{host}:{self.port}"

    @property
    def reached(self) -> str:
        """Where others reach the page."""
        return self.public or self.address

    @property
    def is_secure(self) -> bool:
        """Whether the page is reached by HTTPS."""
        return self.reached.startswith("https:")

    @property
    def on_loopback(self) -> bool:
        """Whether only this machine reaches the server."""
        return self.host in LOOPBACK

    def secret(self) -> str:
        """What cookies are signed with: made once, and kept in the data folder."""
        file = self.data / "secret"
        with suppress(FileExistsError):
            self.data.mkdir(parents=True, exist_ok=True)
            with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as new:
                new.write(token_hex(32))
        return file.read_text(encoding="ascii")

    def environment(self) -> dict[str, str]:
        """The same settings for a process that is started."""
        values = {"JASKEL_DATA": str(self.data), "JASKEL_HOST": self.host, "JASKEL_PORT": str(self.port)}
        if self.model:
            values["JASKEL_MODEL"] = str(self.model)
        if self.queue:
            values["JASKEL_QUEUE"] = self.queue
        if self.shared_database:
            values["JASKEL_DATABASE"] = self.shared_database
        if self.recording_host:
            values["JASKEL_RECORDING_HOST"] = self.recording_host
        if self.picture_library:
            values["JASKEL_PICTURE_LIBRARY"] = self.picture_library
        if self.publishing_host:
            values["JASKEL_PUBLISHING_HOST"] = self.publishing_host
        if self.reach:
            values["JASKEL_REACH"] = ",".join(self.reach)
        if self.originals:
            values["JASKEL_ORIGINALS"] = os.pathsep.join(map(str, self.originals))
        if self.watch:
            values["JASKEL_WATCH"] = str(self.watch)
        if self.shared_folder:
            values["JASKEL_SHARED_FOLDER"] = self.shared_folder
        if self.scanner:
            values["JASKEL_SCANNER"] = self.scanner
        if self.team:
            values["JASKEL_TEAM"] = "1"
        if self.public:
            values["JASKEL_ADDRESS"] = self.public
        if self.certificate and self.key:
            values |= {"JASKEL_CERTIFICATE": str(self.certificate), "JASKEL_KEY": str(self.key)}
        if self.mail:
            values |= {"JASKEL_MAIL": self.mail, "JASKEL_MAIL_FROM": self.mail_from}
        return values


def _port(value: str) -> int:
    if not (value.isascii() and value.isdigit() and 1 <= int(value) <= 65_535):
        raise Problem("port", f"JASKEL_PORT takes a number from 1 to 65535, not {value}.")
    return int(value)


LOOPBACK = ("127.0.0.1", "localhost", "::1")


def _folder(value: str) -> Path | None:
    if not value:
        return None
    folder = Path(value).expanduser().resolve()
    if not folder.is_dir():
        raise Problem("watch", f"JASKEL_WATCH takes a folder that is there, not {value}.")
    return folder


def _web(value: str) -> str:
    if value and not value.startswith(("http://", "https://")):
        raise Problem(
            "shared-folder", f"JASKEL_SHARED_FOLDER takes an address such as https://dav.example.org/team, not {value}."
        )
    return value


def _public(value: str) -> str:
    if value and not value.startswith(("http://", "https://")):
        raise Problem("address", f"JASKEL_ADDRESS takes an address such as https://jaskel.example.org, not {value}.")
    return value.rstrip("/")


def _queue(value: str) -> str:
    if value and not value.startswith(("redis://", "rediss://", "unix://")):
        raise Problem("queue", f"JASKEL_QUEUE takes an address such as redis://localhost:6379, not {value}.")
    return value


STAND_IN = "stand-in"
"""Mail goes to the mailbox that ships with Jaskel."""


def _each_folder(value: str) -> Iterator[Path]:
    yield from (Path(each).expanduser().resolve() for each in value.split(os.pathsep) if each)


def database_address(value: str) -> str:
    """The address of a PostgreSQL, or nothing.

    Raises
    ------
    Problem
        ``database``.
    """
    if value and not value.startswith("postgresql://"):
        # What follows may be a password.
        raise Problem("database", "A shared database has an address such as postgresql://user@host/jaskel.")
    return value


def _mail(value: str) -> str:
    if value and value != STAND_IN and not value.startswith(("smtp://", "smtps://")):
        raise Problem("mail", f"JASKEL_MAIL takes an address such as smtp://mail.example.org:587, not {value}.")
    return value
