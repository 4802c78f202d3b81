"""exports, texts and takes that are deleted can be brought back for a while"""

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"


def upgrade() -> None:
    for table in ("exports", "texts", "takes"):
        op.add_column(table, sa.Column("deleted", sa.DateTime(), nullable=True))
