"""what shows want tidied, findings that were refused, where there is voice"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.add_column("shows", sa.Column("tidy", sa.JSON(), nullable=False, server_default="{}"))
    op.create_table(
        "refusals",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("edition_id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("recording", sa.String(), nullable=False),
        sa.Column("start", sa.Integer(), nullable=False),
        sa.Column("end", sa.Integer(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["edition_id"], ["editions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_refusals_edition_id", "refusals", ["edition_id"])
    op.create_table(
        "voice_activity",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("stretches", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("name"),
    )
