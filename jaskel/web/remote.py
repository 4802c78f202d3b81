"""Media from elsewhere: a remote recording host, what it offers and fetching a take of it; and files by their address."""

from __future__ import annotations

from jaskel.core.problem import Problem
from jaskel.jobs import address
from jaskel.jobs.queue import add_job, send
from jaskel.jobs.reach import looked_at
from jaskel.jobs.remote import RecordingHost, host_of
from jaskel.jobs.shared_folder import SharedFolder
from jaskel.standins.recording_host import PREFIX, SHOW
from jaskel.store.models import Episode
from jaskel.web.context import context
from jaskel.web.resource import resource
from jaskel.web.schemas.common import EpisodePath
from jaskel.web.schemas.recordings import FetchTake, HostOut, SharedEntryOut, SharedFile, SharedFolderOut, SharedQuery
from jaskel.web.schemas.telling import NewAddress
from jaskel.web.schemas.work import JobOut
from jaskel.web.serializers import job_out, reply
from jaskel.web.shows import find_episode

api = resource("remote", __name__)


@api.get("/episodes/<episode_id>/recording-host", responses={200: HostOut})
def offered(path: EpisodePath):  # type: ignore[no-untyped-def]
    """Finished sessions on the recording host of the settings; ``set`` is false where there is none for this episode."""
    with context().workshop.home.database.read() as session:
        host = _host_for(find_episode(session, path.episode_id))
    return reply(HostOut.model_validate({"set": host is not None, "sessions": host.sessions() if host else []}))


def _host_for(episode: Episode) -> RecordingHost | None:
    """The recording host; the demo's is for the demo's show only."""
    simulated = context().workshop.settings.recording_host.endswith(PREFIX)
    return host_of(context().workshop) if not simulated or episode.show.name == SHOW else None


@api.post("/episodes/<episode_id>/fetch", responses={202: JobOut})
def fetch(path: EpisodePath, body: FetchTake):  # type: ignore[no-untyped-def]
    """Fetch the files of some guests of a take; several become a session."""
    home = context().workshop.home
    with home.database.read() as session:
        host = _host_for(find_episode(session, path.episode_id))
    if host is None:
        raise Problem("no-host", "No recording host is set. Set JASKEL_RECORDING_HOST and start again.")
    takes = [take for session in host.sessions() for take in session["takes"]]
    take = next((take for take in takes if take["id"] == body.take), None)
    files = [file for file in (take or {}).get("files", []) if file["id"] in body.files]
    if not files:
        raise Problem("no-files", "The recording host does not have these files any more. Look again and choose.")
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        job = add_job(session, "fetch", episode.id, f"{episode.id}.{body.take}", sum(f["size"] for f in files), files=files)
    send(home, job.id)
    return reply(job_out(job), 202)


@api.get("/episodes/<episode_id>/shared-folder", responses={200: SharedFolderOut})
def shared(path: EpisodePath, query: SharedQuery):  # type: ignore[no-untyped-def]
    """What lies in the shared folder of the settings, or in a folder of it; ``set`` is false where there is none."""
    settings = context().workshop.settings
    if not settings.shared_folder:
        return reply(SharedFolderOut(set=False, entries=[]))
    found = SharedFolder(settings).listed(query.path)
    entries = [SharedEntryOut(path=each.path, name=each.name, size=each.size, folder=each.is_folder) for each in found]
    return reply(SharedFolderOut(set=True, entries=entries))


@api.post("/episodes/<episode_id>/fetch-shared", responses={202: JobOut})
def fetch_shared(path: EpisodePath, body: SharedFile):  # type: ignore[no-untyped-def]
    """Fetch a file of the shared folder."""
    home = context().workshop.home
    SharedFolder(context().workshop.settings).address_of(body.path)
    name = body.path.rsplit("/", 1)[-1]
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        subject = f"{episode.id}.{body.path}"
        job = add_job(session, address.KIND, episode.id, subject, address=body.path, name=name, shared=True)
    send(home, job.id)
    return reply(job_out(job), 202)


@api.post("/episodes/<episode_id>/fetch-address", responses={202: JobOut})
def fetch_address(path: EpisodePath, body: NewAddress):  # type: ignore[no-untyped-def]
    """Fetch a file by its address; what lies within this machine or its network is refused unless the settings name it."""
    home = context().workshop.home
    looked_at(body.address, context().workshop.settings.reach)
    with home.database.write() as session:
        episode = find_episode(session, path.episode_id)
        job = add_job(session, address.KIND, episode.id, f"{episode.id}.{body.address}", **body.model_dump())
    send(home, job.id)
    return reply(job_out(job), 202)
