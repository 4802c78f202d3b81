"""What the tests share: made-up media, data folders, and the demo's media with its truths."""

from __future__ import annotations

import hashlib
import json
import shutil
from collections.abc import Iterator
from fractions import Fraction
from itertools import islice
from pathlib import Path
from typing import IO

import av
import numpy as np
import pytest
import soundfile
from hypothesis import settings as hypothesis_settings
from sqlalchemy import select

from bench.servers import PostgreSQL, programs, running_postgresql, running_redis
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.workshop import Workshop
from jaskel.media.conform import decoded
from jaskel.settings import Settings
from jaskel.store.home import Home
from jaskel.store.models import Job, Recording
from jaskel.web.app import create_app

DEMO = Path(__file__).resolve().parents[1] / "jaskel" / "demo" / "media"
RATE = 48_000

# How long an example takes says more about the machine than about the code.
hypothesis_settings.register_profile("calm", deadline=None)
hypothesis_settings.load_profile("calm")


ORDER = ("e2e/test_library", "e2e/test_gather", "speech/", "e2e/", "jobs/", "hostile/", "")
"""What takes long begins first, so that nobody waits for it at the end. The very first ones prepare the demo for the others."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    def rank(item: pytest.Item) -> int:
        path = item.path.relative_to(Path(__file__).parent).as_posix()
        return next(place for place, beginning in enumerate(ORDER) if path.startswith(beginning))

    items.sort(key=rank)
    for item in items:
        if item.get_closest_marker("e2e"):
            # A browser beside two other processes sometimes draws between a look and a click. What is wrong fails twice.
            item.add_marker(pytest.mark.flaky(reruns=1))


def tone(seconds: float, hertz: float = 440.0, rate: int = RATE) -> np.ndarray:
    """A tone with a slow swell, so that every place in it sounds different."""
    t = np.arange(round(seconds * rate)) / rate
    return (0.4 * np.sin(2 * np.pi * hertz * t) * (0.5 + 0.5 * np.sin(2 * np.pi * 0.31 * t))).astype(np.float32)


def write_media(
    path: Path, sound: np.ndarray | None, pictures: int = 0, *, codec: str = "", rate: int = RATE, fps: int = 25
) -> Path:
    """Write a file whose suffix says what it is; pictures are numbered by their brightness."""
    codecs = {".wav": "pcm_s16le", ".mp3": "libmp3lame", ".flac": "flac", ".ogg": "libopus", ".m4a": "aac"}
    with av.open(str(path), "w") as out:
        video = audio = None
        if pictures:
            video = out.add_stream("libx264", rate=fps, options={"crf": "10", "g": "30"})
            video.width, video.height, video.pix_fmt = 160, 96, "yuv420p"
        if sound is not None:
            layout = "mono" if sound.ndim == 1 else "stereo"
            audio = out.add_stream(codec or codecs.get(path.suffix, "aac"), rate=rate, layout=layout)
        for number in range(pictures):
            level = 16 + number * 7 % 220
            frame = av.VideoFrame.from_ndarray(np.full((96, 160, 3), level, np.uint8), "rgb24")
            frame.pts, frame.time_base = number, Fraction(1, fps)
            out.mux(video.encode(frame))
        if video:
            out.mux(video.encode())
        if audio:
            whole = np.atleast_2d(sound if sound.ndim == 1 else sound.T)
            for start in range(0, whole.shape[1], 4800):
                part = np.ascontiguousarray(whole[:, start : start + 4800])
                frame = av.AudioFrame.from_ndarray(part, "fltp", layout)
                frame.sample_rate, frame.pts, frame.time_base = rate, start, Fraction(1, rate)
                resampled = frame
                out.mux(audio.encode(resampled))
            out.mux(audio.encode())
    return path


def assert_same_film(one: Path | IO[bytes], other: Path | IO[bytes]) -> None:
    """Two films are the same to the bit, but for pictures of x264, which may look a little otherwise.

    Its threads, beside much other work, now and then store one of the same pictures otherwise by a byte or two.
    """
    stored, also = stored_in(one), stored_in(other)
    assert [of for of, _ in stored] == [of for of, _ in also]
    freely = {stream for (stream, codec, *_), _ in stored if codec == "h264"}
    kept, kept_also = ([digest for (stream, *_), digest in each if stream not in freely] for each in (stored, also))
    assert kept == kept_also
    for stream in freely:
        with av.open(as_file(one)) as first, av.open(as_file(other)) as second:
            for picture, like in zip(first.decode(video=stream), second.decode(video=stream), strict=True):
                assert picture.pts == like.pts
                assert np.abs(picture.to_ndarray().astype(int) - like.to_ndarray()).mean() < 1, f"at {picture.time} s"


def stored_in(film: Path | IO[bytes]) -> list[tuple[tuple[int, str, int | None, int | None], str]]:
    """All packets of a film as they are stored: of which stream and codec and when, and a digest of each."""
    with av.open(as_file(film)) as file:
        return [
            ((each.stream.index, each.stream.codec_context.name, each.pts, each.dts), hashlib.sha256(bytes(each)).hexdigest())
            for each in file.demux()
        ]


def as_file(film: Path | IO[bytes]) -> str | IO[bytes]:
    if isinstance(film, Path):
        return str(film)
    film.seek(0)
    return film


@pytest.fixture(scope="session")
def talk(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The first 75 seconds of the piece to camera, without its picture: enough for several parts of a transcript."""
    path = tmp_path_factory.mktemp("talk") / "talk.wav"
    blocks = islice(decoded(DEMO / "mending-a-sail.mp4", 1), 75 * RATE // 1024)
    soundfile.write(path, np.concatenate(list(blocks)), RATE)
    return path


@pytest.fixture(scope="session")
def postgresql() -> Iterator[PostgreSQL]:
    """A PostgreSQL that runs."""
    if programs() is None:
        pytest.skip("PostgreSQL is not installed here")
    with running_postgresql() as server:
        yield server


@pytest.fixture
def redis(tmp_path: Path) -> Iterator[str]:
    """The address of a Redis that runs."""
    if shutil.which("redis-server") is None:
        pytest.skip("Redis is not installed here")
    with running_redis(tmp_path) as address:
        yield address


@pytest.fixture
def settings(tmp_path: Path) -> Settings:
    return Settings(tmp_path / "data")


@pytest.fixture
def home(settings: Settings) -> Iterator[Home]:
    opened = Home(settings)
    opened.database.migrate()
    yield opened
    opened.close()


def excerpt(path: Path, source: str, seconds: float) -> Path:
    """The beginning of one of the demo's recordings as a file of its own, streams copied."""
    with av.open(str(DEMO / source)) as old, av.open(str(path), "w") as new:
        streams = {s.index: new.add_stream_from_template(s) for s in old.streams}
        for packet in old.demux():
            if packet.dts is not None and packet.dts * packet.time_base < seconds:
                packet.stream = streams[packet.stream.index]
                new.mux(packet)
    return path


def truth(name: str) -> dict:
    return json.loads((DEMO / f"{name}.truth.json").read_text())


class Jaskel:
    """A server without sockets, whose jobs are done when asked to."""

    def __init__(self, settings):
        self.workshop = Workshop(settings)
        self.workshop.home.database.migrate()
        self.settings = settings
        self.client = create_app(settings).test_client()

    def get(self, path, status=200):
        return self._checked(self.client.get(path), status)

    def post(self, path, body=None, status=200):
        return self._checked(self.client.post(path, json=body), status)

    def put(self, path, body, status=200):
        return self._checked(self.client.put(path, json=body), status)

    def delete(self, path, status=204):
        return self._checked(self.client.delete(path), status)

    def upload(self, episode, path: Path, status=201, transcribe=False, **more):
        url = f"/api/episodes/{episode}/recordings?name={path.name}&transcribe={str(transcribe).lower()}"
        return self._checked(self.client.post(url, data=path.read_bytes(), **more), status)

    @staticmethod
    def _checked(response, status):
        assert response.status_code == status, response.text
        if response.mimetype.endswith("json"):
            return json.loads(response.text)
        return response

    def episode(self):
        show = self.post("/api/shows", {"name": "Ropewalk"}, 201)
        return self.post(f"/api/shows/{show['id']}/episodes", {"title": "The dry hull"}, 201)

    def work(self, *kinds: str):
        """Do what is waiting, or only jobs of some kinds; each once, for one that is held up waits on."""
        wanted = [Job.state == "queued", *([Job.kind.in_(kinds)] if kinds else [])]
        done: set[str] = set()
        while True:
            with self.workshop.home.database.read() as session:
                waiting = session.scalar(select(Job.id).where(*wanted, Job.id.not_in(done)).order_by(Job.created).limit(1))
            if waiting is None:
                return
            done.add(waiting)
            carry_out(self.workshop, waiting)

    def edition(self, edition_id):
        """An edition as the core knows it."""
        with self.workshop.home.database.read() as session:
            return self.workshop.home.editions.open(session, edition_id).edition

    def words(self, recording, words):
        with self.workshop.home.database.write() as session:
            row = session.get_one(Recording, recording)
            self.workshop.home.transcripts.extend(session, row, 0, row.length, words)
            row.transcript_state = "done"


@pytest.fixture
def jaskel(settings: Settings) -> Iterator[Jaskel]:
    made = Jaskel(settings)
    yield made
    made.workshop.close()
