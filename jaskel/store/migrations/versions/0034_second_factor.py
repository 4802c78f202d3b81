"""a second factor of accounts: its secret, and the last step of time whose figures were used"""

import sqlalchemy as sa
from alembic import op

revision = "0034"
down_revision = "0033"


def upgrade() -> None:
    with op.batch_alter_table("accounts") as table:
        table.add_column(sa.Column("second", sa.String(), nullable=False, server_default=""))
        table.add_column(sa.Column("second_step", sa.Integer(), nullable=False, server_default="0"))
    with op.batch_alter_table("accounts") as table:
        table.alter_column("second", existing_type=sa.String(), server_default=None)
        table.alter_column("second_step", existing_type=sa.Integer(), server_default=None)
