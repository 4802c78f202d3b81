"""lines said again: what a recording is a line of; and whose voice may be spoken by a machine"""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"


def upgrade() -> None:
    op.add_column("recordings", sa.Column("pickup", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("voices", sa.Column("consent", sa.JSON(), nullable=False, server_default="{}"))
