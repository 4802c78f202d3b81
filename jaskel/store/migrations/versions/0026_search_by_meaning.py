"""which rows of the index of meanings are those of a recording"""

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"


def upgrade() -> None:
    op.create_table(
        "meant",
        sa.Column("recording_id", sa.String(), sa.ForeignKey("recordings.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("first", sa.Integer(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
    )
