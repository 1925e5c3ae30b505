"""Changes with ids of their own, undo without reading the log, shapes of bodies, trials' numbers and kernel.

What undo and redo would take next is worked out once, for the changes that are there.
"""

from itertools import groupby

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table in ("game", "change"):
        op.add_column(table, sa.Column("undo", sa.Integer()))
        op.add_column(table, sa.Column("redo", sa.Integer()))
    op.add_column("change", sa.Column("token", sa.String()))
    for table in ("entity", "change"):
        op.add_column(table, sa.Column("shape", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("trial", sa.Column("kernel", sa.Integer()))
    op.execute("UPDATE trial SET kernel = 1")
    _chain()
    _number_trials()
    op.create_index("ix_change_token", "change", ["game", "token"], unique=True)
    op.create_unique_constraint("uq_trial_number", "trial", ["game", "number"])
    op.create_index("ix_entity_order", "entity", ["game", "kind", "position"])


def _chain() -> None:
    """For every change what was next to be undone and redone before it; and for every game now."""
    change, game = (
        _table("change", "game", "revision", "origin", "undo", "redo"),
        _table("game", "id", "undo", "redo"),
    )
    connection = op.get_bind()
    found = connection.execute(
        sa.select(change.c.game, change.c.revision, change.c.origin).order_by(
            change.c.game, change.c.revision
        )
    ).all()
    for name, changes in groupby(found, key=lambda row: row.game):
        undo = redo = None
        before: dict[int, tuple[int | None, int | None]] = {}
        for row in changes:
            before[row.revision] = (undo, redo)
            if row.origin == "edit":
                undo, redo = row.revision, None
            elif row.origin == "undo" and undo is not None:
                undo, redo = before[undo][0], row.revision
            elif row.origin == "redo" and redo is not None:
                undo, redo = row.revision, before[redo][1]
        for number, (own_undo, own_redo) in before.items():
            connection.execute(
                sa.update(change)
                .where(change.c.game == name, change.c.revision == number)
                .values(undo=own_undo, redo=own_redo)
            )
        connection.execute(sa.update(game).where(game.c.id == name).values(undo=undo, redo=redo))


def _number_trials() -> None:
    """Two trials that began at once may have one number: count them anew, in their order."""
    op.execute(
        "UPDATE trial SET number = counted.number FROM (SELECT id, row_number() OVER "
        "(PARTITION BY game ORDER BY number, created_at, id) AS number FROM trial) AS counted "
        "WHERE trial.id = counted.id"
    )


def _table(name: str, *columns: str) -> sa.TableClause:
    return sa.table(name, *(sa.column(column) for column in columns))


def downgrade() -> None:
    op.drop_index("ix_entity_order", "entity")
    op.drop_constraint("uq_trial_number", "trial")
    op.drop_index("ix_change_token", "change")
    op.drop_column("trial", "kernel")
    for table in ("entity", "change"):
        op.drop_column(table, "shape")
    op.drop_column("change", "token")
    for table in ("game", "change"):
        op.drop_column(table, "undo")
        op.drop_column(table, "redo")
