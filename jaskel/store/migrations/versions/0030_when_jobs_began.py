"""when a job was begun, by which one tells how long it still takes"""

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("started", sa.Double(), nullable=False, server_default="0"))
