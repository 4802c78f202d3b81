"""The files a command reads and writes: checked before anything is done, and written as a whole or not at all."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Collection, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from pathlib import Path

from jaskel.core.problem import Problem


def check_inputs(*paths: Path | None) -> None:
    """Refuse what cannot be read as a file.

    Raises
    ------
    Problem
        ``no-file``, ``a-folder``, ``no-file-of-bytes`` (a pipe or a device) or ``not-allowed``.
    """
    for path in filter(None, paths):
        if not path.exists():
            raise Problem("no-file", f"There is no file {path}.")
        if path.is_dir():
            raise Problem("a-folder", f"{path} is a folder. Name a file in it.")
        if not path.is_file():
            raise Problem("no-file-of-bytes", f"{path} is no file but a pipe or a device. Save it as a file first.")
        if not os.access(path, os.R_OK):
            raise Problem("not-allowed", f"You are not allowed to read {path}.")


def check_outputs(outputs: Sequence[tuple[str, Path | None, Collection[str]]], inputs: Sequence[Path | None]) -> None:
    """Refuse outputs that could not be written, or would destroy what is read; also where a link hides that.

    Each output is the option that names it, its path or None, and the endings it may have; no endings allow any.

    Raises
    ------
    Problem
        ``form``, ``a-folder``, ``no-folder``, ``not-allowed``, ``same-file`` or ``same-output``.
    """
    taken: list[tuple[str, Path]] = []
    for option, path, endings in outputs:
        if path is None:
            continue
        if endings and path.suffix.lower() not in endings:
            raise Problem("form", f"{option} takes a name that ends in {' or '.join(sorted(endings))}, not {path.name}.")
        if path.is_dir():
            raise Problem("a-folder", f"{option} takes a file, but {path} is a folder.")
        folder = path.resolve().parent
        if not folder.is_dir():
            raise Problem("no-folder", f"There is no folder {folder} to write {path.name} into. Make it first.")
        if not _writable(folder) or (path.exists() and not (path.is_file() and os.access(path, os.W_OK))):
            raise Problem("not-allowed", f"{path} cannot be written: its folder, or the file that is there, is read-only.")
        for source in filter(None, inputs):
            if _same(path, source):
                raise Problem("same-file", f"{option} would overwrite {source}, which is read. Choose another name.")
        for other, its_path in taken:
            if _same(path, its_path):
                raise Problem("same-output", f"{option} and {other} name the same file. Give them different names.")
        taken.append((option, path))


def _writable(folder: Path) -> bool:
    """Whether a file can be made there: permissions alone do not tell of file systems that are read-only."""
    try:
        with tempfile.TemporaryFile(dir=folder):
            return True
    except OSError:
        return False


def _same(one: Path, other: Path) -> bool:
    if one.resolve() == other.resolve():
        return True
    return one.exists() and other.exists() and one.samefile(other)


@contextmanager
def complete(*paths: Path | None) -> Iterator[list[Path]]:
    """Temporary names for files, which take their own names together when all are complete; else none is there.

    Gives a name for each path that is not None, in order.
    """
    wanted = [path for path in paths if path is not None]
    with ExitStack() as cleaning:
        partial: list[Path] = []
        for path in wanted:
            handle, name = tempfile.mkstemp(prefix=".jaskel-", suffix=path.suffix, dir=path.resolve().parent)
            os.close(handle)
            partial.append(Path(name))
            cleaning.callback(partial[-1].unlink, missing_ok=True)
        yield partial
        for written, path in zip(partial, wanted, strict=True):
            written.chmod(0o666 & ~_umask())
            written.replace(path.resolve())  # a link goes on naming its file


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
