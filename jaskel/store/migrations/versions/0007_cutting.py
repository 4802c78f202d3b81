"""kinds of recordings, what is set by hand, targets, named versions, how voices sound"""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.add_column("recordings", sa.Column("kind", sa.String(), nullable=False, server_default="speech"))
    op.add_column("snapshots", sa.Column("by_hand", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("editions", sa.Column("target", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("editions", sa.Column("target_kind", sa.String(), nullable=False, server_default="about"))
    op.add_column("log", sa.Column("who", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "versions",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("edition_id", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["edition_id"], ["editions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_versions_edition_id", "versions", ["edition_id"])
    op.create_table(
        "voice_prints",
        sa.Column("voice_id", sa.String(), nullable=False),
        sa.Column("recording_id", sa.String(), nullable=False),
        sa.Column("print", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["voice_id"], ["voices.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["recording_id"], ["recordings.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("voice_id", "recording_id"),
    )
