"""destinations of shows and of exports, and what was passed in the last listen"""

import sqlalchemy as sa
from alembic import op

revision = "0028"
down_revision = "0027"


def upgrade() -> None:
    op.add_column("shows", sa.Column("destinations", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("editions", sa.Column("passed", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("exports", sa.Column("destination", sa.String(), nullable=False, server_default=""))
