"""first tables"""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "notices",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("episode_id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("facts", sa.JSON(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "shows",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("about", sa.String(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "episodes",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("show_id", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["show_id"], ["shows.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("episodes", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_episodes_show_id"), ["show_id"], unique=False)

    op.create_table(
        "editions",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("episode_id", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("crossfade", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["episode_id"], ["episodes.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("editions", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_editions_episode_id"), ["episode_id"], unique=False)

    op.create_table(
        "jobs",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("episode_id", sa.String(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("details", sa.JSON(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("total", sa.Integer(), nullable=False),
        sa.Column("trouble", sa.String(), nullable=False),
        sa.Column("cancel", sa.Boolean(), nullable=False),
        sa.Column("attempts", sa.Integer(), nullable=False),
        sa.Column("worker", sa.String(), nullable=False),
        sa.Column("beat", sa.Double(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["episode_id"], ["episodes.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("jobs", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_jobs_episode_id"), ["episode_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_jobs_state"), ["state"], unique=False)
        batch_op.create_index(batch_op.f("ix_jobs_subject"), ["subject"], unique=False)
        batch_op.create_index("jobs_by_subject", ["subject", "kind"], unique=False)

    op.create_table(
        "recordings",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("episode_id", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("info", sa.JSON(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("length", sa.Integer(), nullable=False),
        sa.Column("missing", sa.Double(), nullable=False),
        sa.Column("trouble", sa.String(), nullable=False),
        sa.Column("has_working_copy", sa.Boolean(), nullable=False),
        sa.Column("language", sa.String(), nullable=False),
        sa.Column("transcript_state", sa.String(), nullable=False),
        sa.Column("transcript_trouble", sa.String(), nullable=False),
        sa.Column("transcript_revision", sa.Integer(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["episode_id"], ["episodes.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("recordings", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_recordings_digest"), ["digest"], unique=False)
        batch_op.create_index(batch_op.f("ix_recordings_episode_id"), ["episode_id"], unique=False)

    op.create_table(
        "exports",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("edition_id", sa.String(), nullable=False),
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("form", sa.String(), nullable=False),
        sa.Column("file_name", sa.String(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("length", sa.Integer(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["edition_id"], ["editions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("exports", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_exports_edition_id"), ["edition_id"], unique=False)

    op.create_table(
        "log",
        sa.Column("edition_id", sa.String(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("step", sa.String(), nullable=False),
        sa.Column("target", sa.Integer(), nullable=False),
        sa.Column("operation", sa.JSON(), nullable=False),
        sa.Column("inverse", sa.JSON(), nullable=False),
        sa.Column("summary", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["edition_id"], ["editions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("edition_id", "number"),
    )
    op.create_table(
        "snapshots",
        sa.Column("edition_id", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("pieces", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["edition_id"], ["editions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("edition_id", "revision"),
    )
    op.create_table(
        "transcript_parts",
        sa.Column("recording_id", sa.String(), nullable=False),
        sa.Column("start", sa.Integer(), nullable=False),
        sa.Column("end", sa.Integer(), nullable=False),
        sa.Column("words", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["recording_id"], ["recordings.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("recording_id", "start"),
    )


def downgrade() -> None:
    op.drop_table("transcript_parts")
    op.drop_table("snapshots")
    op.drop_table("log")
    with op.batch_alter_table("exports", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_exports_edition_id"))

    op.drop_table("exports")
    with op.batch_alter_table("recordings", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_recordings_episode_id"))
        batch_op.drop_index(batch_op.f("ix_recordings_digest"))

    op.drop_table("recordings")
    with op.batch_alter_table("jobs", schema=None) as batch_op:
        batch_op.drop_index("jobs_by_subject")
        batch_op.drop_index(batch_op.f("ix_jobs_subject"))
        batch_op.drop_index(batch_op.f("ix_jobs_state"))
        batch_op.drop_index(batch_op.f("ix_jobs_episode_id"))

    op.drop_table("jobs")
    with op.batch_alter_table("editions", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_editions_episode_id"))

    op.drop_table("editions")
    with op.batch_alter_table("episodes", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_episodes_show_id"))

    op.drop_table("episodes")
    op.drop_table("shows")
    op.drop_table("notices")
