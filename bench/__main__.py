"""Measures Jaskel and prints a table; the same figures go to ``bench/last.json``.

Machines differ and are noisy, so the ratios of one run are what to read: each compares two things done one after the other.
``./run bench NAME …`` measures only the groups named.
"""

from __future__ import annotations

import json
import statistics
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass
from fractions import Fraction
from pathlib import Path

import av
import psutil

from jaskel.core.edition import Edition, Piece
from jaskel.core.operations import Append, Strike, apply
from jaskel.core.plan import compile_plan
from jaskel.core.transcript import Word
from jaskel.demo.prepare import MEDIA
from jaskel.media.card import draw_card
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.render import AAC_BITS, FILM_OPTIONS, MP3_BITS, Frame, Tags, write_film, write_mp3
from jaskel.media.sound import Shelf
from jaskel.settings import Settings
from jaskel.speech.measure import edge_errors, plain, word_error
from jaskel.speech.recognise import packaged_weights, whisper
from jaskel.speech.transcribe import transcribe

RATE = 48_000
TAGS = Tags("Bench", "Bench", "Bench")


@dataclass(frozen=True)
class Figure:
    """One measurement; ``reach`` is what it should be, and ``good`` whether it is."""

    name: str
    value: str
    reach: str
    good: bool


def timed(work: Callable[[], object], times: int = 1) -> float:
    """The least seconds ``work`` took."""
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begun)
    return min(taken)


def speech(folder: Path) -> Iterator[Figure]:
    """Transcription of the demo's recordings against the bare recogniser and against their truths."""
    recogniser = whisper(packaged_weights())
    for name in ("interview", "mending-a-sail"):
        path = MEDIA / f"{name}.mp4"
        info = probe(path, name)
        done = conform(path, info, folder / f"{name}.flac", folder / f"{name}.peaks")
        shelf = Shelf(lambda _, file=folder / f"{name}.flac": file)
        heard = shelf.mono_16k("", 0, done.length)
        recogniser.utterances(heard[:160_000], "en")  # both are measured warm
        words: list[Word] = []
        ours = timed(
            lambda words=words, shelf=shelf, done=done: [
                words.extend(part.words) for part in transcribe(lambda a, b: shelf.mono_16k("", a, b), done.length, recogniser)
            ]
        )
        bare_text: list[str] = []
        bare = timed(
            lambda bare_text=bare_text, heard=heard: bare_text.extend(
                word for segment in recogniser._model.transcribe(heard, language="en")[0] for word in segment.text.split()
            )
        )
        truth = json.loads((MEDIA / f"{name}.truth.json").read_text())["words"]
        reference = [plain(word["text"]) for word in truth]
        ours_error = word_error(reference, [plain(word.text) for word in words])
        bare_error = word_error(reference, [w for w in map(plain, bare_text) if w])
        seconds = done.length / RATE
        edges = edge_errors(truth, [(w.text, w.start / RATE, w.end / RATE) for w in words])
        middle, most = max(edges.percentile(50)), max(edges.percentile(90))
        yield Figure(f"{name}: transcription, × real time", f"{ours / seconds:.3f}", "≤ 0.07", ours / seconds <= 0.07)
        yield Figure(f"{name}: transcription to bare recogniser", f"{ours / bare:.2f}", "≤ 1.4", ours / bare <= 1.4)
        yield Figure(
            f"{name}: word error, bare recogniser’s", f"{ours_error:.1%}, {bare_error:.1%}", "≤ bare + 0.5 points",
            ours_error <= bare_error + 0.005,
        )  # fmt: skip
        yield Figure(f"{name}: word edges, median of {len(edges.starts)}", f"{middle * 1e3:.0f} ms", "≤ 20 ms", middle <= 0.02)
        yield Figure(f"{name}: word edges, 90th percentile", f"{most * 1e3:.0f} ms", "≤ 50 ms", most <= 0.05)


def edits(folder: Path) -> Iterator[Figure]:
    """Edits on an edition of 30,000 words with 2,000 cuts, through the API."""
    from jaskel.store.home import Home
    from jaskel.store.models import EditionRow, Episode, Recording, Show
    from jaskel.web.app import create_app
    from jaskel.web.serve import calm_collector

    settings = Settings(folder / "edits")
    home = Home(settings)
    home.database.migrate()
    length, count = 10_800 * RATE, 30_000
    step = length // count
    words = [Word(f"word{i}" + ("." if i % 14 == 13 else ""), i * step, i * step + step * 4 // 5, 0.9) for i in range(count)]
    with home.database.write() as session:
        show = Show(name="Bench")
        session.add(show)
        session.flush()
        episode = Episode(title="Three hours", show_id=show.id)
        session.add(episode)
        session.flush()
        edition = EditionRow(name="Programme", crossfade=480, episode_id=episode.id)
        info = {"container": "wav", "seconds": None, "sound_codec": "pcm", "channels": 1, "sample_rate": RATE, "picture": None}
        recording = Recording(episode_id=episode.id, name="r", digest="0", size=1, info=info, length=length, state="ready")
        session.add_all([edition, recording])
        session.flush()
        home.transcripts.extend(session, recording, 0, length, words)
        home.editions.arrive(session, edition.id, Append(recording.id, length))
        cuts = tuple((i * 15 * step, i * 15 * step + step) for i in range(2000))
        home.editions.perform(session, edition.id, 1, Strike(cuts, "filler"), lambda _: "")
        edition_id = edition.id
    home.close()
    calm_collector()
    client = create_app(settings).test_client()

    def post(address: str, body: object) -> None:
        assert client.post(f"/api/editions/{edition_id}/{address}", json=body).status_code == 200

    page = timed(lambda: client.get(f"/api/editions/{edition_id}/page"))
    yield Figure("opening the page of 30,000 words, server", f"{page * 1e3:.0f} ms", "≤ 1500 ms with drawing", page <= 1.0)
    revision, taken = 2, []
    for i in range(60):
        begin = (7 + 15 * i * 20) * step
        body = {"revision": revision, "operation": {"kind": "strike", "ranges": [{"begin": begin, "end": begin + step}]}}
        taken.append(timed(lambda body=body: post("operations", body)))
        revision += 1
    p95 = statistics.quantiles(taken, n=20)[-1]
    yield Figure("an edit on 30,000 words with 2,000 cuts, p95", f"{p95 * 1e3:.0f} ms", "≤ 50 ms", p95 <= 0.05)
    undo = timed(lambda: post("undo", {"revision": revision}))
    yield Figure("undo there", f"{undo * 1e3:.0f} ms", "≤ 50 ms", undo <= 0.05)
    ranges = [{"begin": (3 + 15 * i) * step, "end": (4 + 15 * i) * step} for i in range(2000)]
    body = {"revision": revision + 1, "operation": {"kind": "strike", "ranges": ranges}}
    batch = timed(lambda: post("operations", body))
    yield Figure("2,000 ranges struck in one operation", f"{batch * 1e3:.0f} ms", "≤ 50 ms", batch <= 0.05)
    blocks = timed(lambda: client.get(f"/api/editions/{edition_id}/blocks?mode=edited&at={5000 * RATE}"))
    yield Figure("after an edit, the blocks to play", f"{blocks * 1e3:.0f} ms", "part of 300 ms", blocks <= 0.2)


def exports(folder: Path) -> Iterator[Figure]:
    """Exports against a bare decode and encode of the same length and settings."""
    path = MEDIA / "interview.mp4"
    info = probe(path, "interview")
    done = conform(path, info, folder / "e.flac", folder / "e.peaks")
    shelf = Shelf(lambda _: folder / "e.flac")
    edition = Edition.of([Piece("a", 0, done.length)])
    plan = compile_plan(apply(edition, Strike(tuple((s * RATE, s * RATE + RATE // 2) for s in range(5, 300, 6))))[0])
    seconds = plan.length / RATE

    def bare(target: Path, with_picture: bool) -> None:
        with av.open(str(path)) as old, av.open(str(target), "w") as new:
            sound = new.add_stream("aac" if with_picture else "libmp3lame", rate=RATE, layout="stereo")
            sound.bit_rate = AAC_BITS if with_picture else MP3_BITS
            video = new.add_stream("libx264", rate=25, options=FILM_OPTIONS) if with_picture else None
            if video:
                video.width, video.height, video.pix_fmt = info.picture.width, info.picture.height, "yuv420p"
                video.thread_type = old.streams.video[0].thread_type = "AUTO"
            resampler = av.AudioResampler("fltp", "stereo", RATE)
            for frame in old.decode(*([old.streams.video[0]] if video else []), old.streams.audio[0]):
                if float(frame.pts * frame.time_base) > seconds:
                    break
                if isinstance(frame, av.VideoFrame):
                    frame.pict_type = av.video.frame.PictureType.NONE
                    new.mux(video.encode(frame))
                else:
                    for part in resampler.resample(frame):
                        new.mux(sound.encode(part))
            for stream in (video, sound):
                if stream:
                    new.mux(stream.encode())

    frame = Frame(info.picture.width, info.picture.height, Fraction(25))
    card = draw_card("Bench", "Bench", (frame.width, frame.height))
    mp3 = timed(lambda: write_mp3(folder / "a.mp3", plan, shelf.read, lambda _: None, TAGS), 2)
    bare_mp3 = timed(lambda: bare(folder / "b.mp3", False), 2)
    yield Figure(f"MP3 with {len(plan.spans) - 1} splices to bare", f"{mp3 / bare_mp3:.2f}", "≤ 1.5", mp3 / bare_mp3 <= 1.5)
    film = timed(lambda: write_film(folder / "a.mp4", plan, shelf.read, lambda _: path, frame, card, lambda _: None, TAGS), 2)
    bare_film = timed(lambda: bare(folder / "b.mp4", True), 2)
    ratio = film / bare_film
    yield Figure(f"MP4 with {len(plan.spans) - 1} splices to bare", f"{ratio:.2f}", "≤ 1.15", ratio <= 1.15)


def memory(_folder: Path) -> Iterator[Figure]:
    """The most this process held while it did all of the above, recogniser and exports in one."""
    held = psutil.Process().memory_info()
    most = getattr(held, "peak_wset", None) or int(Path("/proc/self/status").read_text().split("VmHWM:")[1].split()[0]) * 1024
    yield Figure("memory at its peak, all work in one process", f"{most / 1e6:.0f} MB", "≤ 800 MB", most <= 800e6)


GROUPS = {"speech": speech, "edits": edits, "exports": exports, "memory": memory}


def main(names: list[str]) -> int:
    figures: list[Figure] = []
    with tempfile.TemporaryDirectory() as folder:
        for name in names or GROUPS:
            for figure in GROUPS[name](Path(folder)):
                figures.append(figure)
                print(f"{'✓' if figure.good else '✗'} {figure.name:55} {figure.value:>14}   {figure.reach}", flush=True)
    Path(__file__).with_name("last.json").write_text(
        json.dumps([asdict(f) for f in figures], indent=1, ensure_ascii=False) + "\n"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
