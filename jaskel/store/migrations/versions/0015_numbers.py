"""shows say how they want numbers written"""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.add_column("shows", sa.Column("numbers", sa.String(), nullable=False, server_default="heard"))
