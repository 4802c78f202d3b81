"""A folder that forgets, as a file system in user space (FUSE): when its power is lost, so is what was written and not synced.

What is written is kept with what it took the place of until the file is synced. When the power goes, each file keeps the first
few of its writes that were not synced, by chance, and the others are taken back. Names stay as they are: a file may be there,
and nothing in it.
"""

from __future__ import annotations

import multiprocessing
import os
import random
import subprocess
import time
from collections import defaultdict
from contextlib import suppress
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path
from threading import RLock
from typing import Any

STARTS_SECONDS = 10.0
KNOWN = ("st_atime", "st_ctime", "st_gid", "st_ino", "st_mode", "st_mtime", "st_nlink", "st_size", "st_uid")
ROOM = ("f_bavail", "f_bfree", "f_blocks", "f_bsize", "f_favail", "f_ffree", "f_files", "f_flag", "f_frsize", "f_namemax")

_FORKS = multiprocessing.get_context("forkserver")


@dataclass(frozen=True)
class _Before:
    """What a write took the place of: bytes at an offset, and the size of the file."""

    offset: int
    content: bytes
    size: int


class Forgetful:
    """The files below ``root``, with what of them was not synced."""

    def __init__(self, root: Path) -> None:
        self._root, self._turn = root, RLock()
        self._unsynced: defaultdict[int, list[_Before]] = defaultdict(list)
        self._open: dict[int, int] = {}

    def forget(self, chance: random.Random) -> int:
        """Lose the power; gives how many writes were lost."""
        lost = 0
        with self._turn:
            for inode, writes in self._unsynced.items():
                stay = chance.randint(0, len(writes))
                for each in reversed(writes[stay:]):
                    os.pwrite(self._open[inode], each.content, each.offset)
                    os.ftruncate(self._open[inode], each.size)
                    lost += 1
            for file in self._open.values():
                os.close(file)
            self._unsynced.clear()
            self._open.clear()
        return lost

    def write(self, path: str, data: bytes, offset: int, fh: int) -> int:
        with self._turn:
            self._remember(fh, offset, len(data))
            return os.pwrite(fh, data, offset)

    def truncate(self, path: str, length: int, fh: int | None = None) -> None:
        file = os.open(self._of(path), os.O_RDWR) if fh is None else fh
        try:
            with self._turn:
                self._remember(file, length, max(0, os.fstat(file).st_size - length))
                os.ftruncate(file, length)
        finally:
            if fh is None:
                os.close(file)

    def fsync(self, path: str, datasync: int, fh: int) -> None:
        inode = os.fstat(fh).st_ino
        with self._turn:
            if self._unsynced.pop(inode, None) is not None:
                os.close(self._open.pop(inode))

    def _remember(self, file: int, offset: int, length: int) -> None:
        about = os.fstat(file)
        if about.st_ino not in self._open:
            self._open[about.st_ino] = os.open(f"/proc/self/fd/{file}", os.O_RDWR)
        self._unsynced[about.st_ino].append(_Before(offset, os.pread(file, length, offset), about.st_size))

    def _of(self, path: str) -> str:
        return f"{self._root}{path}"

    # The rest is passed on as it is.

    def getattr(self, path: str, fh: int | None = None) -> dict[str, Any]:
        about = os.lstat(self._of(path))
        return {name: getattr(about, name) for name in KNOWN}

    def statfs(self, path: str) -> dict[str, Any]:
        about = os.statvfs(self._root)
        return {name: getattr(about, name) for name in ROOM}

    def readdir(self, path: str, fh: int) -> list[str]:
        return [".", "..", *os.listdir(self._of(path))]

    def open(self, path: str, flags: int) -> int:
        # Bytes that a write takes the place of have to be read.
        return os.open(self._of(path), os.O_RDWR if flags & os.O_ACCMODE else os.O_RDONLY)

    def create(self, path: str, mode: int, fi: Any = None) -> int:
        return os.open(self._of(path), os.O_RDWR | os.O_CREAT, mode)

    def read(self, path: str, size: int, offset: int, fh: int) -> bytes:
        return os.pread(fh, size, offset)

    def release(self, path: str, fh: int) -> None:
        os.close(fh)

    def mkdir(self, path: str, mode: int) -> None:
        os.mkdir(self._of(path), mode)

    def rmdir(self, path: str) -> None:
        os.rmdir(self._of(path))

    def unlink(self, path: str) -> None:
        os.unlink(self._of(path))

    def rename(self, old: str, new: str) -> None:
        os.rename(self._of(old), self._of(new))

    def link(self, target: str, source: str) -> None:
        os.link(self._of(source), self._of(target))

    def symlink(self, target: str, source: str) -> None:
        os.symlink(source, self._of(target))

    def readlink(self, path: str) -> str:
        return os.readlink(self._of(path))

    def chmod(self, path: str, mode: int) -> None:
        os.chmod(self._of(path), mode)

    def chown(self, path: str, uid: int, gid: int) -> None:
        os.chown(self._of(path), uid, gid)

    def utimens(self, path: str, times: tuple[float, float] | None = None) -> None:
        os.utime(self._of(path), times)


class Power:
    """The power of a folder that forgets: ``place`` is where it is used, ``root`` where it lies."""

    def __init__(self, root: Path, place: Path) -> None:
        self._root, self.place = root, place
        self._process: BaseProcess | None = None
        self._told, self._tells = _FORKS.Pipe(duplex=False)
        self._times = 0
        self.forgotten = 0
        """Writes that were lost so far."""
        for each in (root, place):
            each.mkdir(parents=True, exist_ok=True)

    def on(self) -> None:
        """Begin to use the folder.

        Raises
        ------
        OSError
            Where there are no file systems in user space here.
        """
        self._times += 1
        self._process = _FORKS.Process(target=_mounted, args=(self._root, self.place, self._times, self._tells))
        self._process.start()
        deadline = time.monotonic() + STARTS_SECONDS
        while not os.path.ismount(self.place):
            if time.monotonic() > deadline or not self._process.is_alive():
                raise OSError("this machine has no file systems in user space (FUSE)")
            time.sleep(0.02)

    def lose(self) -> None:
        """Nobody uses it any more, and what was not synced is forgotten."""
        while os.path.ismount(self.place):
            with suppress(subprocess.CalledProcessError):
                subprocess.run(["fusermount3", "-u", str(self.place)], check=True, stderr=subprocess.DEVNULL)
                break
            time.sleep(0.05)
        if self._process:
            self.forgotten += self._told.recv()
            self._process.join()
            self._process = None


def _mounted(root: Path, place: Path, seed: int, tells: Connection) -> None:
    # It looks for the library of the system when it is imported, which not every machine has.
    from mfusepy import FUSE, Operations

    class Files(Forgetful, Operations):  # type: ignore[misc]
        pass

    files = Files(root)
    FUSE(files, str(place), foreground=True, default_permissions=True)
    tells.send(files.forget(random.Random(seed)))
