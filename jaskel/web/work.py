"""Work under way, and exports."""

from __future__ import annotations

from flask import Response, send_file

from jaskel.core.problem import Missing
from jaskel.core.roles import Right
from jaskel.jobs import queue
from jaskel.jobs.export import wanted
from jaskel.media.forms import FORMS, Form, are_text
from jaskel.store.deleted import found
from jaskel.store.models import EditionRow, Export, now
from jaskel.store.notices import post
from jaskel.web.context import context
from jaskel.web.gate import require
from jaskel.web.resource import binary, resource
from jaskel.web.schemas.common import EditionPath
from jaskel.web.schemas.work import ExportPath, FormOut, FormsOut, JobOut, JobPath, NewExport
from jaskel.web.serializers import job_out, reply

api = resource("work", __name__)


@api.post("/jobs/<job_id>/cancel", responses={200: JobOut})
def cancel(path: JobPath):  # type: ignore[no-untyped-def]
    """Stop work. What it had finished stays."""
    return reply(job_out(queue.cancel(context().workshop.home, path.job_id)))


@api.post("/jobs/<job_id>/pause", responses={200: JobOut})
def pause(path: JobPath):  # type: ignore[no-untyped-def]
    """Let an export rest until it is tried again."""
    return reply(job_out(queue.pause(context().workshop.home, path.job_id)))


@api.post("/jobs/<job_id>/first", responses={200: JobOut})
def first(path: JobPath):  # type: ignore[no-untyped-def]
    """Let an export that waits come before all others."""
    return reply(job_out(queue.put_first(context().workshop.home, path.job_id)))


@api.post("/jobs/<job_id>/retry", responses={200: JobOut})
def retry(path: JobPath):  # type: ignore[no-untyped-def]
    """Let work that stopped go on."""
    return reply(job_out(queue.retry(context().workshop.home, path.job_id)))


@api.get("/forms", responses={200: FormsOut})
def forms():  # type: ignore[no-untyped-def]
    """What an edition can be exported as."""
    return reply(FormsOut(forms=[_form(each) for each in FORMS.values()]))


def _form(known: Form) -> FormOut:
    return FormOut(
        key=known.key,  # type: ignore[arg-type]
        group=known.group,
        label=known.label,
        about=known.about,
        ending=known.ending,
        text=known.is_text,
        lost=[*known.lost],
    )


@api.post("/editions/<edition_id>/exports", responses={202: JobOut})
def export(path: EditionPath, body: NewExport):  # type: ignore[no-untyped-def]
    """Start an export of the edition as it is now."""
    home = context().workshop.home
    with home.database.write() as session:
        opened = home.editions.open(session, path.edition_id)
        row = session.get_one(EditionRow, path.edition_id)
        length = context().plan(session, opened).length
        details = body.model_dump(exclude_defaults=True)
        destination = wanted(details, row.episode.show)
        details["needs"] = Right.EXPORT_TEXT if are_text(destination.forms) else Right.EXPORT
        require(row.episode.show_id, details["needs"])
        if destination.key:
            details["called"] = destination.name
        job = queue.add_job(session, "export", row.episode_id, row.id, length, **details)
    queue.send(home, job.id)
    return reply(job_out(job), 202)


@api.get("/exports/<export_id>/file", responses=binary("*/*"))
def download(path: ExportPath):  # type: ignore[no-untyped-def]
    """The file of a finished export."""
    home = context().workshop.home
    with home.database.read() as session:
        export = found(session, Export, path.export_id)
    if export is None or not home.vault.export(export.id).exists():
        raise Missing("no-export", "This export is not there any more. Export it again.")
    return send_file(home.vault.export(export.id), as_attachment=True, download_name=export.file_name)


@api.delete("/exports/<export_id>", responses={204: None})
def remove(path: ExportPath):  # type: ignore[no-untyped-def]
    """Delete an export; for a week it can be brought back. The edition is not touched."""
    _set_deleted(path.export_id, True)
    return Response(status=204)


@api.post("/exports/<export_id>/restore", responses={204: None})
def restore(path: ExportPath):  # type: ignore[no-untyped-def]
    """Bring a deleted export back."""
    _set_deleted(path.export_id, False)
    return Response(status=204)


def _set_deleted(export_id: str, deleted: bool) -> None:
    with context().workshop.home.database.write() as session:
        export = session.get(Export, export_id)
        if export is None:
            raise Missing("no-export", "This export is not there any more. Export it again.")
        export.deleted = now() if deleted else None
        post(session, "export", session.get_one(EditionRow, export.edition_id).episode_id, id=export.id)
