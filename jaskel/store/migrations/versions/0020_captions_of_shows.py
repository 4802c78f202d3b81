"""what a show keeps of its captions: rules, look, looks by name, fonts of its own"""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    op.add_column("shows", sa.Column("captions", sa.JSON(), nullable=False, server_default="{}"))
