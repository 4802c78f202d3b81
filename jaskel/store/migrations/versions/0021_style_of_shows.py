"""the house style of a show's pictures, and the roles of its voices"""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    op.add_column("shows", sa.Column("style", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("voices", sa.Column("role", sa.String(), nullable=False, server_default=""))
