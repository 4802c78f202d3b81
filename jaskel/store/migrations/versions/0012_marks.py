"""marks of the material with a log of their own, whole editions as snapshots, shapes in the log, authors, deleted editions"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("log", sa.Column("author", sa.String(), nullable=False, server_default=""))
    # What an edition was before its first step: its shape stood beside the log, so it has it from the beginning.
    op.add_column("editions", sa.Column("first_shape", sa.String(), nullable=False, server_default="as recorded"))
    op.execute("UPDATE editions SET first_shape = shape")
    op.add_column("editions", sa.Column("deleted", sa.DateTime(), nullable=True))
    op.add_column("snapshots", sa.Column("state", sa.JSON(), nullable=False, server_default="{}"))
    op.execute(
        "UPDATE snapshots SET state = "
        "json_object('version', 1, 'pieces', json(pieces), 'by_hand', json(coalesce(by_hand, '{}')))"
    )
    op.drop_column("snapshots", "pieces")
    op.drop_column("snapshots", "by_hand")
    op.add_column("episodes", sa.Column("marks", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("episodes", sa.Column("marks_revision", sa.Integer(), nullable=False, server_default="0"))
    op.create_table(
        "material_log",
        sa.Column("episode_id", sa.String(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("step", sa.String(), nullable=False),
        sa.Column("target", sa.Integer(), nullable=False),
        sa.Column("operation", sa.JSON(), nullable=False),
        sa.Column("inverse", sa.JSON(), nullable=False),
        sa.Column("summary", sa.String(), nullable=False),
        sa.Column("who", sa.String(), nullable=False),
        sa.Column("author", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["episode_id"], ["episodes.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("episode_id", "number"),
    )
    _move_notes()
    op.drop_table("notes")


def _move_notes() -> None:
    connection = op.get_bind()
    notes: dict[str, list[dict[str, object]]] = {}
    rows = connection.execute(sa.text("SELECT id, episode_id, recording, at, text, who FROM notes ORDER BY created"))
    for id, episode, recording, at, text, who in rows:
        place = {"recording": recording, "at": at, "kind": "place"}
        mark = {"kind": "note", "id": id, "anchors": [place], "text": text, **({"who": who} if who else {})}
        notes.setdefault(episode, []).append(mark)
    for episode, marks in notes.items():
        connection.execute(
            sa.text("UPDATE episodes SET marks = :marks WHERE id = :id"), {"marks": json.dumps(marks), "id": episode}
        )
