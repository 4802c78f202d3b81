"""which of several exports that wait comes first"""

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("place", sa.Integer(), nullable=False, server_default="0"))
