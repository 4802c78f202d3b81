"""Timecode, names of tracks and cue points, as recorders write them."""

from __future__ import annotations

import struct
from fractions import Fraction

import av
import numpy as np
import pytest
import soundfile
from conftest import RATE, tone

from jaskel.media.probe import MediaInfo, probe


def film(path, timecode, rate):
    """Half a second of grey, with a track of timecode."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=rate)
        stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
        stream.metadata["timecode"] = timecode
        for number in range(round(rate / 2)):
            frame = av.VideoFrame.from_ndarray(np.full((48, 64, 3), 90, np.uint8))
            frame.pts, frame.time_base = number, 1 / Fraction(rate)
            out.mux(stream.encode(frame))
        out.mux(stream.encode())
    return path


@pytest.mark.parametrize(
    ("timecode", "rate", "seconds"),
    [
        ("10:00:00:00", Fraction(25), 36_000),
        ("01:02:03:12", Fraction(24), 3_723.5),
        ("01:00:00:00", Fraction(30_000, 1001), 3_603.6),
        ("01:00:00;00", Fraction(30_000, 1001), 3_600),
    ],
)
def test_timecode_of_films(tmp_path, timecode, rate, seconds):
    info = probe(film(tmp_path / "a.mov", timecode, rate), "a.mov")
    assert info.begins / RATE == pytest.approx(seconds, abs=float(1 / rate))


def chunk(kind, body):
    return kind + struct.pack("<I", len(body)) + body + b"\0" * (len(body) % 2)


def bext(reference):
    return chunk(b"bext", b"\0" * 338 + struct.pack("<Q", reference) + b"\0" * 256)


IXML = b"""<BWFXML><TRACK_LIST><TRACK_COUNT>2</TRACK_COUNT>
<TRACK><CHANNEL_INDEX>1</CHANNEL_INDEX><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>Orla boom</NAME></TRACK>
<TRACK><CHANNEL_INDEX>2</CHANNEL_INDEX><INTERLEAVE_INDEX>2</INTERLEAVE_INDEX><NAME>Teo lav</NAME></TRACK>
</TRACK_LIST></BWFXML>"""


def cues(*places):
    entries = b"".join(struct.pack("<II4sIII", n, at, b"data", 0, 0, at) for n, (at, _) in enumerate(places, 1))
    named = [(n, text) for n, (_, text) in enumerate(places, 1) if text]
    labels = b"".join(chunk(b"labl", struct.pack("<I", n) + text.encode() + b"\0") for n, text in named)
    return chunk(b"cue ", struct.pack("<I", len(places)) + entries) + chunk(b"LIST", b"adtl" + labels)


def wave(path, rate, *chunks):
    """Two seconds of sound with chunks of a recorder before it."""
    soundfile.write(path, tone(2)[: 2 * rate], rate, "PCM_16")
    content = path.read_bytes()
    body = content[12:36] + b"".join(chunks) + content[36:]
    path.write_bytes(b"RIFF" + struct.pack("<I", 4 + len(body)) + b"WAVE" + body)
    return path


def test_what_a_field_recorder_writes(tmp_path):
    places = ((44_100, "Slate 1"), (22_050, ""))
    path = wave(tmp_path / "a.wav", 44_100, bext(44_100 * 3600 * 9), chunk(b"iXML", IXML), cues(*places))
    info = probe(path, "a.wav")
    assert info.begins == 9 * 3600 * RATE
    assert info.tracks == ("Orla boom", "Teo lav")
    assert info.cues == ((RATE // 2, "Cue 1"), (RATE, "Slate 1"))
    assert MediaInfo.from_json(info.to_json()) == info


def test_files_that_say_nothing(tmp_path):
    info = probe(wave(tmp_path / "a.wav", RATE), "a.wav")
    assert (info.begins, info.tracks, info.cues) == (None, (), ())
    known = {name: value for name, value in info.to_json().items() if name not in ("begins", "tracks", "cues")}
    assert MediaInfo.from_json(known) == info


@pytest.mark.parametrize(
    "chunks",
    [
        [chunk(b"iXML", b"<BWFXML><TRACK_LIST>")],
        [chunk(b"iXML", b"<!DOCTYPE a [<!ENTITY b 'c'><!ENTITY d '&b;&b;'>]><a>&d;</a>")],
        [chunk(b"cue ", struct.pack("<I", 2**31))],
        [chunk(b"cue ", b"\1")],
        [chunk(b"iXML", b"\xff" * 2_000_000)],
        [bext(2**63)],
    ],
    ids=["open", "entities", "many cues", "no cue", "large", "no time"],
)
def test_what_is_damaged_is_left_out(tmp_path, chunks):
    info = probe(wave(tmp_path / "a.wav", RATE, *chunks), "a.wav")
    assert info.has_sound and (info.begins, info.cues) == (None, ())
