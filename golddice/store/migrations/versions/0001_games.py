"""Games, entities, the change log, trials."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "game",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True)),
        sa.Column("updated_at", sa.DateTime(timezone=True)),
        sa.Column("deleted_at", sa.DateTime(timezone=True)),
    )
    op.create_table(
        "entity",
        sa.Column("game", sa.String(), sa.ForeignKey("game.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("kind", sa.String(), primary_key=True),
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("position", sa.Float(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("body", JSONB(none_as_null=True)),
    )
    op.create_table(
        "change",
        sa.Column("game", sa.String(), sa.ForeignKey("game.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("revision", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True)),
        sa.Column("origin", sa.String(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("entries", JSONB(), nullable=False),
    )
    op.create_table(
        "trial",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("game", sa.String(), sa.ForeignKey("game.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("spec", JSONB(), nullable=False),
        sa.Column("status", sa.String(), nullable=False),
        sa.Column("done", sa.BigInteger(), nullable=False),
        sa.Column("seconds", sa.Float()),
        sa.Column("error", sa.String()),
        sa.Column("result", JSONB(none_as_null=True)),
        sa.Column("created_at", sa.DateTime(timezone=True)),
    )
    op.create_index("ix_trial_game", "trial", ["game"])


def downgrade() -> None:
    for name in ("trial", "change", "entity", "game"):
        op.drop_table(name)
