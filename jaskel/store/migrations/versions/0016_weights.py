"""weights of the recogniser that are added, and work that belongs to no episode"""

import sqlalchemy as sa
from alembic import op

from jaskel.store.models import now

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    weights = op.create_table(
        "weights",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("trouble", sa.String(), nullable=False),
        sa.Column("languages", sa.JSON(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("speed", sa.Double(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
    )
    ships = {"name": "", "state": "ready", "trouble": "", "languages": [], "size": 0, "speed": 0.0, "created": now()}
    op.bulk_insert(weights, [{"id": name, **ships} for name in ("english", "many-languages")])
    op.add_column("recordings", sa.Column("care", sa.String(), nullable=False, server_default="quick"))
    with op.batch_alter_table("jobs") as jobs:
        jobs.alter_column("episode_id", existing_type=sa.String(), nullable=True)
