"""what the parts of exports took in a show"""

import sqlalchemy as sa
from alembic import op

revision = "0036"
down_revision = "0035"


def upgrade() -> None:
    with op.batch_alter_table("shows") as table:
        table.add_column(sa.Column("paces", sa.JSON(), nullable=False, server_default="{}"))
    with op.batch_alter_table("shows") as table:
        table.alter_column("paces", existing_type=sa.JSON(), server_default=None)
