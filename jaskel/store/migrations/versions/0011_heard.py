"""what is to be heard besides words: breaths and bursts beside voice"""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    # What was heard so far lacks the new kinds; recordings are listened to again when somebody looks.
    op.drop_table("voice_activity")
    op.create_table(
        "heard",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("voice", sa.JSON(), nullable=False),
        sa.Column("breaths", sa.JSON(), nullable=False),
        sa.Column("bursts", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("name"),
    )
