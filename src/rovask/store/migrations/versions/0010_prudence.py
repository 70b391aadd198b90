"""How long before the slings what was opened is closed, by whose word a job takes the last day, what a task does to its place.

Revision 0010, after 0009. All may be added beside a web process of 0.8.0.
"""

from alembic import op

from rovask.store.spelled_columns import column

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

MARGINS = """update refit set margins = '[{"what": "hull", "days": 1}, {"what": "water", "days": 1},
{"what": "steering", "days": 1}, {"what": "engine", "days": 1}, {"what": "gas", "days": 1}, {"what": "starter", "days": 1}]'"""


def upgrade() -> None:
    """A working day of each kind, as a new refit has."""
    op.add_column("refit", column("margins:json", "[]"))
    op.execute(MARGINS)
    op.add_column("refit", column("nobody_without:json", '["berth"]'))
    op.add_column("job", column("late_because:text", ""))
    op.add_column("task", column("does:words", "{}"))


def downgrade() -> None:
    """What was set of it is forgotten."""
    op.drop_column("task", "does")
    op.drop_column("job", "late_because")
    op.drop_column("refit", "nobody_without")
    op.drop_column("refit", "margins")
