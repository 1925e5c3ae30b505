"""Each page undoes its own changes. Those made until now are nobody's: every page can take them back."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "steps",
        sa.Column("game", sa.String(), sa.ForeignKey("game.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("page", sa.String(), primary_key=True),
        sa.Column("undo", sa.Integer()),
        sa.Column("redo", sa.Integer()),
    )
    op.add_column("change", sa.Column("page", sa.String(), nullable=False, server_default=""))
    op.execute("INSERT INTO steps (game, page, undo, redo) SELECT id, '', undo, redo FROM game")
    op.drop_column("game", "undo")
    op.drop_column("game", "redo")
