"""A picture can be laid under the plan of a place."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "picture",
        sa.Column("game", sa.String(), sa.ForeignKey("game.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("place", sa.String(), primary_key=True),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
    )
