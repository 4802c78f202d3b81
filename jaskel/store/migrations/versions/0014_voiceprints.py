"""voices are told by other prints: recordings whose voices were known are listened to once more"""

import sqlalchemy as sa
from alembic import op

from jaskel.store.models import new_id, now

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    known = op.get_bind().execute(
        sa.text(
            "SELECT DISTINCT recordings.id, recordings.episode_id FROM voice_prints"
            " JOIN recordings ON recordings.id = voice_prints.recording_id WHERE recordings.state = 'ready'"
        )
    )
    columns = "id kind episode_id subject state done total trouble cancel attempts worker beat"
    jobs = sa.table(
        "jobs", *map(sa.column, columns.split()), sa.column("details", sa.JSON()), sa.column("created", sa.DateTime())
    )
    waiting = [
        {
            "id": new_id(), "kind": "prints", "episode_id": episode, "subject": recording, "details": {}, "state": "queued",
            "done": 0, "total": 0, "trouble": "", "cancel": False, "attempts": 0, "worker": "", "beat": 0.0, "created": now(),
        }
        for recording, episode in known
    ]  # fmt: skip
    op.execute("DELETE FROM voice_prints")
    if waiting:
        op.bulk_insert(jobs, waiting)
