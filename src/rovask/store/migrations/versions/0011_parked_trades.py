"""Whose the hours of a parked job are; hold-backs that are a sum; what the yard charges for a task.

Revision 0011, after 0010. May be added beside a web process of 0.9.0.
"""

from alembic import op

from rovask.store.spelled_columns import column

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Nobody's in particular, until it is said."""
    op.add_column("parked", column("trades:json", "[]"))
    op.add_column("task", column("charge:charge?"))
    op.add_column("agreement", column("hold_back_sum:large?"))


def downgrade() -> None:
    """What was said of it is forgotten."""
    op.drop_column("agreement", "hold_back_sum")
    op.drop_column("task", "charge")
    op.drop_column("parked", "trades")
