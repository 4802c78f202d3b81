"""files that come in parts"""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.create_table(
        "uploads",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("episode_id", sa.String(), sa.ForeignKey("episodes.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("length", sa.BigInteger(), nullable=False),
        sa.Column("placed", sa.Boolean(), nullable=False),
        sa.Column("transcribe", sa.Boolean(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
    )
