"""uploads that belong to no episode yet: archives, and who sends them"""

import sqlalchemy as sa
from alembic import op

revision = "0033"
down_revision = "0032"


def upgrade() -> None:
    with op.batch_alter_table("uploads") as table:
        table.alter_column("episode_id", existing_type=sa.String(), nullable=True)
        table.add_column(sa.Column("sender", sa.String(), nullable=False, server_default=""))
    with op.batch_alter_table("uploads") as table:
        table.alter_column("sender", existing_type=sa.String(), server_default=None)
