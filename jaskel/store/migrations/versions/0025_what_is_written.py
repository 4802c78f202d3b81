"""articles, summaries and notes as people edited them"""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"


def upgrade() -> None:
    op.add_column("editions", sa.Column("written", sa.JSON(), nullable=False, server_default="{}"))
