"""how far jobs had come when they were begun"""

import sqlalchemy as sa
from alembic import op

revision = "0035"
down_revision = "0034"


def upgrade() -> None:
    count = sa.BigInteger().with_variant(sa.Integer(), "sqlite")
    with op.batch_alter_table("jobs") as table:
        table.add_column(sa.Column("since", count, nullable=False, server_default="0"))
    with op.batch_alter_table("jobs") as table:
        table.alter_column("since", existing_type=count, server_default=None)
