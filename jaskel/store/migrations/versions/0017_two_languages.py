"""recordings in several languages can be parted"""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    op.add_column("recordings", sa.Column("languages", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("recordings", sa.Column("parted", sa.Boolean(), nullable=False, server_default=sa.false()))
