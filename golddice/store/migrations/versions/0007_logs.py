"""What a log of the running game was found to say is kept, with the revision that it was held against."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "held_log",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column(
            "game", sa.String(), sa.ForeignKey("game.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("result", JSONB(), nullable=False),
    )
