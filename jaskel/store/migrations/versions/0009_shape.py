"""the shape of an edition's picture"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.add_column("editions", sa.Column("shape", sa.String(), nullable=False, server_default="as recorded"))
