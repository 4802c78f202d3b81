"""what the colours of selects stand for in a show"""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"


def upgrade() -> None:
    op.add_column("shows", sa.Column("colours", sa.JSON(), nullable=False, server_default="{}"))
