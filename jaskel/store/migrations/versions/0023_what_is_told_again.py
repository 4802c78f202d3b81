"""what is wished of the proposals of an edition"""

import sqlalchemy as sa
from alembic import op

revision = "0023"
down_revision = "0022"


def upgrade() -> None:
    op.add_column("editions", sa.Column("wishes", sa.JSON(), nullable=False, server_default="{}"))
