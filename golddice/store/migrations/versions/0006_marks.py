"""Revisions can be marked with names; a change says who made it; a copy knows where it came from."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "mark",
        sa.Column("game", sa.String(), sa.ForeignKey("game.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("revision", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
    )
    op.add_column("change", sa.Column("who", sa.String(), nullable=False, server_default=""))
    op.add_column("game", sa.Column("copied_from", sa.String()))
    op.add_column("game", sa.Column("copied_at", sa.Integer()))
