"""episodes that were published, what the feed of a show says of it, and whom it tells of what is done"""

import sqlalchemy as sa
from alembic import op

revision = "0029"
down_revision = "0028"


def upgrade() -> None:
    op.create_table(
        "publications",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("episode_id", sa.String(), sa.ForeignKey("episodes.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("summary", sa.String(), nullable=False, server_default=""),
        sa.Column("season", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("number", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("length", sa.Integer(), nullable=False),
        sa.Column("files", sa.JSON(), nullable=False),
        sa.Column("persons", sa.JSON(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
    )
    op.add_column("shows", sa.Column("tell", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("shows", sa.Column("feed", sa.JSON(), nullable=False, server_default="{}"))
