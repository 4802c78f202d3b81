"""Bad calls of the command line. Each must end with one plain line and change nothing."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import soundfile
from PIL import Image


def stage(folder: Path) -> None:
    """Lay the files out that the calls are about."""
    soundfile.write(folder / "talk.wav", np.zeros(4800, np.float32), 48_000)
    (folder / "link.wav").symlink_to("talk.wav")
    os.link(folder / "talk.wav", folder / "hard.wav")
    Image.new("RGB", (40, 30)).save(folder / "picture.png")
    (folder / "empty.wav").touch()
    (folder / "noise.mp4").write_bytes(np.random.default_rng(1).bytes(5000))
    (folder / "script.txt").write_text("So we begin.")
    (folder / "latin.txt").write_bytes(b"\xff\xfe\xff" * 9 + b"\0\0")
    (folder / "list.m3u8").write_text(f"#EXTM3U\n#EXTINF:1,\n{folder / 'talk.wav'}\n")
    (folder / "folder").mkdir()
    os.mkfifo(folder / "pipe.wav")
    (folder / "model").mkdir()
    (folder / "model" / "model.bin").write_bytes(b"no weights")
    (folder / "model" / "config.json").write_text("{}")


def calls(folder: Path) -> list[list[str]]:
    """Calls that must be refused, as the words after ``jaskel``."""
    f = {path.name: str(path) for path in folder.iterdir()}
    talk, out = f["talk.wav"], str(folder / "out.json")
    wav, nowhere = str(folder / "out.wav"), str(folder / "none" / "out.json")
    media = [f[name] for name in ("folder", "picture.png", "empty.wav", "noise.mp4", "script.txt", "list.m3u8", "pipe.wav")]
    media += [str(folder / "missing.wav"), "concat:" + talk + "|" + talk, "http://localhost/a.wav", "", "\n"]
    found = [["transcribe", each, "--out", out] for each in media]
    found += [["roughcut", each, "--out", wav] for each in media]
    found += [["align", each, f["script.txt"], "--out", out] for each in (f["folder"], f["picture.png"], f["pipe.wav"])]
    found += [["align", talk, each, "--out", out] for each in (f["folder"], f["latin.txt"], f["empty.wav"], f["pipe.wav"])]
    for same in (talk, f["link.wav"], f["hard.wav"], str(folder / "folder" / ".." / "talk.wav")):
        found += [[command, talk, "--out", same] for command in ("transcribe", "roughcut")]
    found += [
        ["transcribe", f["link.wav"], "--out", talk],
        ["transcribe", talk, "--out", nowhere],
        ["transcribe", talk, "--out", f["folder"]],
        ["transcribe", talk, "--out", "/proc/out.json"],
        ["transcribe", talk, "--out", out, "--voices", "0"],
        ["transcribe", talk, "--out", out, "--spellings", f["latin.txt"]],
        ["transcribe", talk, "--out", out, "--spellings", f["folder"]],
        ["transcribe", talk, "--out", out, "--script", f["picture.png"]],
        ["transcribe", talk, "--out", f["script.txt"], "--script", f["script.txt"]],
        ["transcribe", talk, "--out", out, "--model", "tiny"],
        ["transcribe", talk, "--out", out, "--model", f["folder"]],
        ["transcribe", talk, "--out", out, "--model", f["model"]],
        ["transcribe", talk, "--out", out, "--language", "xx"],
        ["transcribe", talk, "--out", out],
        ["roughcut", talk, "--out", str(folder / "out.ogg")],
        ["roughcut", talk, "--out", str(folder / "out")],
        ["roughcut", talk, "--out", str(folder / "none" / "out.wav")],
        ["roughcut", talk, "--out", wav, "--captions", str(folder / "c.ass")],
        ["roughcut", talk, "--out", wav, "--captions", str(folder / "none" / "c.srt")],
        ["roughcut", talk, "--out", wav, "--transcript", str(folder / "t.pdf")],
        ["roughcut", talk, "--out", wav, "--report", wav],
        ["roughcut", talk, "--out", wav, "--report", talk],
        ["roughcut", talk, "--out", wav, "--report", f["folder"]],
        ["roughcut", talk, "--out", wav, "--rests", "inf:0.1"],
        ["roughcut", talk, "--out", wav, "--rests", "nan:nan"],
        ["roughcut", talk, "--out", wav, "--rests", "1e300:0.1"],
        ["roughcut", talk, "--out", wav, "--rests", "0.1:5"],
        ["roughcut", talk, "--out", wav, "--rests", "one"],
        ["roughcut", talk, "--out", wav, "--rests=-1:-2"],
        ["roughcut", talk, "--out", wav, "--script", f["latin.txt"]],
        ["roughcut", talk, "--out", wav, "--model", "small.en"],
    ]
    return found


def environments(folder: Path) -> list[dict[str, str]]:
    """Settings on which ``jaskel serve`` must not start."""
    damaged = folder / "damaged"
    damaged.mkdir()
    (damaged / "jaskel.db").write_bytes(b"this is no database" * 300)
    data = {"JASKEL_DATA": str(folder / "data"), "JASKEL_PORT": "18999"}
    return [
        {**data, "JASKEL_DATA": str(folder / "script.txt")},
        {**data, "JASKEL_DATA": "/proc/data"},
        {**data, "JASKEL_DATA": str(damaged)},
        {**data, "JASKEL_PORT": "99999"},
        {**data, "JASKEL_PORT": "http"},
        {**data, "JASKEL_PORT": "0"},
        {**data, "JASKEL_HOST": "203.0.113.7"},
        {**data, "JASKEL_HOST": "no such host"},
        {**data, "JASKEL_QUEUE": "redis://127.0.0.1:1"},
        {**data, "JASKEL_QUEUE": "redis://a b:x"},
        {**data, "JASKEL_QUEUE": "amqp://127.0.0.1"},
    ]
