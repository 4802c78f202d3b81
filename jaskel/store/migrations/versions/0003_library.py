"""folders, archive, deletion with a way back, and search over what is said"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("episodes", sa.Column("folder", sa.String(), nullable=False, server_default=""))
    op.add_column("episodes", sa.Column("archived", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("episodes", sa.Column("deleted", sa.DateTime(), nullable=True))
    op.add_column("shows", sa.Column("deleted", sa.DateTime(), nullable=True))
    op.add_column("editions", sa.Column("length", sa.Integer(), nullable=False, server_default="0"))
    # Until the next edit says exactly: everything that is there.
    op.execute(
        "UPDATE editions SET length = coalesce("
        "(SELECT sum(length) FROM recordings WHERE recordings.episode_id = editions.episode_id AND placed), 0)"
    )
    op.create_table(
        "spoken_parts",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("recording_id", sa.String(), nullable=False),
        sa.Column("start", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["recording_id"], ["recordings.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("spoken_by_part", "spoken_parts", ["recording_id", "start"], unique=True)
    op.execute("CREATE VIRTUAL TABLE spoken USING fts5(words, tokenize='unicode61')")
    connection = op.get_bind()
    parts = connection.execute(sa.text("SELECT recording_id, start, words FROM transcript_parts")).all()
    for number, (recording, start, words) in enumerate(parts, 1):
        text = " ".join(word[0] for word in json.loads(words))
        connection.execute(
            sa.text("INSERT INTO spoken_parts (id, recording_id, start) VALUES (:id, :recording, :start)"),
            {"id": number, "recording": recording, "start": start},
        )
        connection.execute(sa.text("INSERT INTO spoken (rowid, words) VALUES (:id, :words)"), {"id": number, "words": text})
