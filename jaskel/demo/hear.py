"""Makes what comes with the demo, by the jobs that hear everything else: ``python -m jaskel.demo.hear``.

It is shipped so that the demo opens at once. Make it anew when the recogniser or the demo's recordings have changed.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
from pathlib import Path

from sqlalchemy import select

from jaskel.demo.prepare import INTERVIEW, MIXED, TO_CAMERA, add_demo, work
from jaskel.demo.shipped import SHIPPED, Shipped, faces_of, ship
from jaskel.jobs.carry_out import carry_out
from jaskel.jobs.join import put_on_page
from jaskel.jobs.queue import add_job
from jaskel.jobs.workshop import Workshop
from jaskel.settings import Settings
from jaskel.store.models import Recording, SessionRow, TrackRow


def main() -> None:
    """Sync the interview's session, hear its voices and the mix, find the faces, and write down what was found."""
    with tempfile.TemporaryDirectory(prefix="jaskel-") as folder:
        workshop = Workshop(Settings(Path(folder)))
        try:
            workshop.home.database.migrate()
            add_demo(workshop.home, {})
            for kind in ("prepare", "sync", "picture", "faces"):
                print(kind, file=sys.stderr)
                work(workshop, kind)
            _join(workshop)
            ship(_heard(workshop))
            _ship_faces(workshop)
        finally:
            workshop.close()
    print(f"Written: {SHIPPED}", file=sys.stderr)


def _join(workshop: Workshop) -> None:
    with workshop.home.database.write() as session:
        put_on_page(workshop.home, session, session.scalars(select(SessionRow)).one())


def _ship_faces(workshop: Workshop) -> None:
    names = {taken.name: taken.file for taken in (*INTERVIEW, MIXED, TO_CAMERA)}
    with workshop.home.database.read() as session:
        for recording in session.scalars(select(Recording)):
            found = workshop.home.vault.faces(recording.digest)
            if found.exists():
                shutil.copyfile(found, faces_of(names[recording.name]))


def _heard(workshop: Workshop) -> dict[str, Shipped]:
    names = {track.name: track.file for track in (*INTERVIEW, MIXED)}
    home, found = workshop.home, {}
    with home.database.read() as session:
        wanted = [row.id for row in session.scalars(select(Recording).where(Recording.name.in_(names)))]
    for recording_id in wanted:
        with home.database.write() as session:
            recording = session.get_one(Recording, recording_id)
            track = session.get(TrackRow, recording_id)
            job = None
            if track is None or track.sounds:
                print(f"hearing {recording.name}", file=sys.stderr)
                job = add_job(session, "transcribe", recording.episode_id, recording_id, recording.length).id
        if job:
            carry_out(workshop, job)
        with home.database.read() as session:
            recording = session.get_one(Recording, recording_id)
            track = session.get(TrackRow, recording_id)
            words = home.transcripts.of(session, recording).words
            place = (track.offset, track.drift, track.sure) if track else (0, 0.0, 0.0)
            found[names[recording.name]] = Shipped(recording.length, words, *place)
    return found


if __name__ == "__main__":
    main()
