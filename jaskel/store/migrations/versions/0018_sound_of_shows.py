"""what a show keeps of its sound: chains by name, those of its voices, its loudness, its opening and ending"""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"


def upgrade() -> None:
    op.add_column("shows", sa.Column("sound", sa.JSON(), nullable=False, server_default="{}"))
