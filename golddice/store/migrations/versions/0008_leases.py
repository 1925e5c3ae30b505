"""Trials are leased to whoever plays them, with how far they are; what is made has an id to be sent under
again."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("owner", sa.String()))
    op.add_column("trial", sa.Column("lease_until", sa.DateTime(timezone=True)))
    op.add_column("trial", sa.Column("started_at", sa.DateTime(timezone=True)))
    op.add_column("trial", sa.Column("progress", JSONB()))
    op.add_column("trial", sa.Column("partial", JSONB()))
    op.create_index(
        "trial_under_way", "trial", ["status"], postgresql_where=sa.text("status in ('waiting', 'running')")
    )
    op.create_table(
        "made",
        sa.Column("token", sa.String(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.Column("id", sa.String(), nullable=False),
    )
