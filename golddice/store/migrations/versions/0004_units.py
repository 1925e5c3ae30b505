"""What each unit of a trial brought is kept as it finishes; trials have notes, can be pinned and put away."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("note", sa.String(), nullable=False, server_default=""))
    op.add_column("trial", sa.Column("pinned", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("trial", sa.Column("program", sa.String()))
    op.add_column("trial", sa.Column("beside", sa.String()))
    op.add_column("trial", sa.Column("deleted_at", sa.DateTime(timezone=True)))
    op.create_table(
        "trial_unit",
        sa.Column("trial", sa.String(), sa.ForeignKey("trial.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("players", sa.Integer(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
    )
