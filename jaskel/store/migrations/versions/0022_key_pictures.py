"""whether key pictures of a recording can be seen before its working copy is made"""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"


def upgrade() -> None:
    op.add_column("recordings", sa.Column("has_key_copy", sa.Boolean(), nullable=False, server_default="0"))
