"""The vault: media files by what is in them.

Originals are stored under the SHA-256 of their content, once however often they are used, and are never written to again.
What is derived from them (conformed sound, envelope, working copy) can be made anew at any time. Names given by people
never become paths.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import shutil
import socket
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from errno import ENOSPC
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import BinaryIO

import psutil

from jaskel.core.problem import Problem
from jaskel.store.scanner import NO_SCANNER, Scanner

CHUNK = 1 << 20

ARRIVED = ".arrived"
"""Ends the name of a note that an original came, before a recording has it."""

_HOST = socket.gethostname()


def _put(path: Path, place: Path) -> None:
    """Give a complete file its name, for good: without its folders, which may be new, a power loss may take the name back."""
    os.replace(path, place)
    for each in (place.parent, place.parent.parent):
        folder = os.open(each, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)


def _place_in(folder: Path, digest: str) -> Path:
    return folder / digest[:2] / digest


def _alive(pid: str) -> bool:
    return pid.isdigit() and psutil.pid_exists(int(pid))


UPLOAD_SECONDS = 7 * 86_400
"""So long what has come of an upload waits to be gone on with."""


@dataclass(frozen=True)
class Received:
    """A file as it came in, not yet in its place."""

    path: Path
    digest: str
    size: int


class Vault:
    """Files under ``root``; several processes may use it at once. Originals may also lie in ``elsewhere``, on other disks.

    Originals are shown to ``scanner`` before they are kept.
    """

    def __init__(self, root: Path, elsewhere: Sequence[Path] = (), scanner: Scanner = NO_SCANNER) -> None:
        self.root, self.elsewhere, self._scanner = root, elsewhere, scanner
        if self.is_there:
            self.begin()  # a folder that only newer versions have is made

    @property
    def is_there(self) -> bool:
        """Whether its folder is: it may lie on a disk that was taken out."""
        return (self.root / "originals").is_dir()

    def begin(self) -> None:
        """Make its folders."""
        for folder in ("incoming", "originals", "derived", "exports", "takes", "uploads"):
            (self.root / folder).mkdir(parents=True, exist_ok=True)

    def missing(self) -> Problem | None:
        """What people are told while it is away."""
        if self.is_there:
            return None
        return Problem("no-vault", "The folder of the media is not there. Bring its disk back; nothing is lost.")

    @contextmanager
    def receive(self, stream: BinaryIO, name: str, expected: int | None = None) -> Iterator[Received]:
        """Stream an upload to disk while hashing it; it is gone after the block unless :meth:`keep` was called.

        Raises
        ------
        Problem
            ``upload-broken`` when fewer bytes came than ``expected``; ``disk-full``.
        """
        with NamedTemporaryFile(dir=self.root / "incoming", delete=False) as file:
            path = Path(file.name)
            try:
                digest, size = hashlib.sha256(), 0
                while chunk := stream.read(CHUNK):
                    file.write(chunk)
                    digest.update(chunk)
                    size += len(chunk)
                file.flush()
                if expected is not None and size < expected:
                    raise Problem(
                        "upload-broken", f"“{name}” broke off after {size / 1e6:.1f} of {expected / 1e6:.1f} MB. Add it again."
                    )
                yield Received(path, digest.hexdigest(), size)
            except OSError as error:
                if error.errno == ENOSPC:
                    raise Problem(
                        "disk-full", f"The disk became full while “{name}” came in. Make room and add it again."
                    ) from error
                raise
            finally:
                path.unlink(missing_ok=True)

    def keep(self, received: Received, *, anew: bool = False) -> None:
        """Put a received file in its place among the originals, ``anew`` also where one is, which may be damaged.

        A note says that it came; :meth:`claim` takes the note away once a recording has it. So :meth:`sweep` knows which
        originals came with an upload that was killed.

        Raises
        ------
        Problem
            ``virus-found`` or ``no-scanner``.
        """
        if self.original(received.digest).exists() and not anew:
            return
        self._scanner.look(received.path)
        place = _place_in(self.root / "originals", received.digest)
        self._note(received.digest).touch()
        place.parent.mkdir(exist_ok=True)
        with received.path.open("rb") as file:
            os.fsync(file.fileno())
        received.path.chmod(0o444)
        _put(received.path, place)

    def claim(self, digest: str) -> None:
        """Say that a recording has an original."""
        self._note(digest).unlink(missing_ok=True)

    def _note(self, digest: str) -> Path:
        return self.root / "incoming" / f"{digest}{ARRIVED}"

    def adopt(self, path: Path) -> Received:
        """Copy a file of this machine into the vault, leaving it where it is."""
        with path.open("rb") as stream, self.receive(stream, path.name) as received:
            self.keep(received)
            return received

    def original(self, digest: str) -> Path:
        """Where an original lies, or would."""
        own = _place_in(self.root / "originals", digest)
        if self.elsewhere and not own.exists():
            return next((place for each in self.elsewhere if (place := _place_in(each, digest)).exists()), own)
        return own

    def put_aside(self, digest: str, folder: Path) -> bool:
        """Move an original to a folder elsewhere; gives whether it lay here. It is there as a whole before it is gone.

        Raises
        ------
        Problem
            ``damaged-original`` where the copy is not what came once: then it stays where it is.
        """
        own, place = _place_in(self.root / "originals", digest), _place_in(folder, digest)
        if not own.exists():
            return False
        place.parent.mkdir(parents=True, exist_ok=True)
        new = place.with_name(f".{digest}.coming")
        try:
            shutil.copyfile(own, new)
            with new.open("rb") as file:
                if hashlib.file_digest(file, "sha256").hexdigest() != digest:
                    raise Problem("damaged-original", f"The original {digest[:12]}… is damaged, so it stays where it is.")
                os.fsync(file.fileno())
            new.chmod(0o444)
            _put(new, place)
        finally:
            new.unlink(missing_ok=True)
        own.unlink()
        return True

    def intact(self, digest: str, size: int) -> bool:
        """Whether an original is there as long as it was."""
        try:
            return self.original(digest).stat().st_size == size
        except FileNotFoundError:
            return False

    def drop_original(self, digest: str) -> None:
        """Delete an original that nothing uses any more, and all that was derived from it."""
        self.original(digest).unlink(missing_ok=True)
        self.claim(digest)
        shutil.rmtree(self.root / "derived" / digest, ignore_errors=True)

    def derived(self, digest: str) -> Path:
        """The folder of what was made from an original."""
        return self.root / "derived" / digest

    def sound(self, digest: str, drift: float = 0.0, chain: str = "") -> Path:
        """Conformed sound, with the drift of its clock corrected, having gone through the chain of that name."""
        name = f"sound{drift * 1e6:+.2f}" if drift else "sound"
        return self.root / "derived" / digest / (f"{name}.{chain}.flac" if chain else f"{name}.flac")

    def peaks(self, digest: str) -> Path:
        return self.root / "derived" / digest / "peaks.bin"

    def tone(self, digest: str, chain: str = "") -> Path:
        """Room tone made from the quiet places of an original, or of what a chain made of it."""
        return self.root / "derived" / digest / (f"tone.{chain}.flac" if chain else "tone.flac")

    def weighted(self, digest: str, drift: float = 0.0, chain: str = "") -> Path:
        """The loudness over time of what :meth:`sound` names."""
        return self.sound(digest, drift, chain).with_suffix(".loudness.npy")

    def curve(self, sound: str) -> Path:
        """The loudness over time of a whole programme, by the name of its sound."""
        return self.root / "derived" / "programmes" / f"{sound}.json"

    def working_copy(self, digest: str) -> Path:
        return self.root / "derived" / digest / "picture.mp4"

    def key_copy(self, digest: str) -> Path:
        """Key pictures that stand for the light copy until it is made."""
        return self.root / "derived" / digest / "keys.mp4"

    def faces(self, digest: str) -> Path:
        """The faces that were found in the pictures of an original."""
        return self.root / "derived" / digest / "faces.json"

    def meanings(self, episode: str) -> Path:
        """What the sentences of an episode mean."""
        return self.root / "derived" / "meanings" / f"{episode}.npz"

    @property
    def meant(self) -> Path:
        """The folder of what all that was said means."""
        return self.root / "derived" / "meant"

    def poster(self, digest: str) -> Path:
        """A small picture that stands for an original in lists."""
        return self.root / "derived" / digest / "poster.jpg"

    def stretch(self, key: str) -> Path:
        """A short film of what the monitor cannot put together itself."""
        return self.root / "derived" / "stretches" / f"{key}.mp4"

    def turned(self, digest: str, key: str, number: int) -> Path:
        """A piece of a light copy in which eyes are turned."""
        return self.root / "derived" / digest / "turned" / key / f"{number}.mp4"

    def export(self, export_id: str) -> Path:
        return self.root / "exports" / export_id

    def parts(self, job_id: str) -> Path:
        """The folder of the parts of a job that were made by themselves."""
        return self.root / "parts" / job_id

    def folders_of_parts(self) -> list[Path]:
        return [*(self.root / "parts").glob("*")]

    def take(self, take_id: str) -> Path:
        return self.root / "takes" / take_id

    def append(self, take_id: str, at: int, content: bytes) -> None:
        """Write a chunk of a take at byte ``at``; what an attempt that failed left after that is overwritten."""
        with self.take(take_id).open("r+b") as file:
            file.seek(at)
            file.write(content)
            file.truncate()
            file.flush()
            os.fsync(file.fileno())

    def upload(self, upload_id: str) -> Path:
        return self.root / "uploads" / upload_id

    def extend(self, upload_id: str, stream: BinaryIO, room: int) -> int:
        """Add to an upload what comes of a stream, ``room`` bytes at most, also where it breaks off; gives its size then."""
        with self.upload(upload_id).open("ab") as file:
            while room > 0 and (chunk := stream.read(min(CHUNK, room))):
                file.write(chunk)
                room -= len(chunk)
            file.flush()
            os.fsync(file.fileno())
            return file.tell()

    @contextmanager
    def arrived(self, upload_id: str) -> Iterator[Received]:
        """An upload that is complete; it is gone after the block, kept or not."""
        path = self.upload(upload_id)
        try:
            with path.open("rb") as file:
                digest = hashlib.file_digest(file, "sha256").hexdigest()
            yield Received(path, digest, path.stat().st_size)
        finally:
            path.unlink(missing_ok=True)

    @contextmanager
    def making(self, place: Path) -> Iterator[Path]:
        """A temporary path beside ``place``, put there as a whole when the block ends well and deleted when not."""
        place.parent.mkdir(parents=True, exist_ok=True)
        for left in place.parent.glob(f".{place.name}.{_HOST}-*.partial"):
            if not _alive(left.name.split("-")[-2]):
                left.unlink(missing_ok=True)  # by a process that was killed while it wrote
        # Two jobs of one process may make the same.
        partial = place.with_name(f".{place.name}.{_HOST}-{os.getpid()}-{secrets.token_hex(4)}.partial")
        try:
            yield partial
            with partial.open("rb") as file:
                os.fsync(file.fileno())
            _put(partial, place)
        finally:
            partial.unlink(missing_ok=True)

    def sweep(self, wanted: Callable[[str], bool]) -> None:
        """Delete what an earlier run left half made, also originals that arrived and are not ``wanted`` by a recording.

        Only to be called while nothing else uses the vault.
        """
        for path in (self.root / "incoming").iterdir():
            digest = path.name.removesuffix(ARRIVED)
            if digest != path.name and not wanted(digest):
                self.drop_original(digest)
            path.unlink(missing_ok=True)
        for path in (self.root / "uploads").iterdir():
            if time.time() - path.stat().st_mtime > UPLOAD_SECONDS:
                path.unlink(missing_ok=True)
        for path in (*self.root.glob("derived/*/.*.partial"), *self.root.glob("exports/.*.partial")):
            path.unlink(missing_ok=True)
