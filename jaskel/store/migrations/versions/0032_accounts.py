"""accounts, who is what in a show, invitations, guests, and a log for owners"""

import sqlalchemy as sa
from alembic import op

revision = "0032"
down_revision = "0031"


def upgrade() -> None:
    op.create_table(
        "accounts",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False, unique=True),
        sa.Column("mail", sa.String(), nullable=False, unique=True),
        sa.Column("password", sa.String(), nullable=False),
        sa.Column("keeper", sa.Boolean(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
    )
    op.create_table(
        "guest_links",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("digest", sa.String(), nullable=False, unique=True),
        sa.Column("edition_id", sa.String(), sa.ForeignKey("editions.id", ondelete="CASCADE"), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("ends", sa.DateTime(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_guest_links_edition_id", "guest_links", ["edition_id"])
    op.create_table(
        "sign_ins",
        sa.Column("digest", sa.String(), primary_key=True),
        sa.Column("account_id", sa.String(), sa.ForeignKey("accounts.id", ondelete="CASCADE")),
        sa.Column("guest_link_id", sa.String(), sa.ForeignKey("guest_links.id", ondelete="CASCADE")),
        sa.Column("guest", sa.String(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_sign_ins_account_id", "sign_ins", ["account_id"])
    op.create_index("ix_sign_ins_guest_link_id", "sign_ins", ["guest_link_id"])
    op.create_table(
        "members",
        sa.Column("show_id", sa.String(), sa.ForeignKey("shows.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("account_id", sa.String(), sa.ForeignKey("accounts.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("role", sa.String(), nullable=False),
    )
    op.create_index("ix_members_account_id", "members", ["account_id"])
    op.create_table(
        "invitations",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("digest", sa.String(), nullable=False, unique=True),
        sa.Column("show_id", sa.String(), sa.ForeignKey("shows.id", ondelete="CASCADE")),
        sa.Column("account_id", sa.String(), sa.ForeignKey("accounts.id", ondelete="CASCADE")),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("ends", sa.DateTime(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_invitations_show_id", "invitations", ["show_id"])
    op.create_table(
        "happenings",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("show_id", sa.String(), sa.ForeignKey("shows.id", ondelete="CASCADE")),
        sa.Column("who", sa.String(), nullable=False),
        sa.Column("told", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_happenings_show_id", "happenings", ["show_id"])
