"""The task queue: procrastinate's own tables and functions, as its package ships them.

Revision 0002, after 0001. Through a raw cursor, for the script holds % signs and several statements.
"""

from alembic import op
from procrastinate.schema import SchemaManager

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the queue."""
    cursor = op.get_bind().connection.cursor()
    cursor.execute(SchemaManager.get_schema())


def downgrade() -> None:
    """Drop the queue with everything in it."""
    for table in (
        "procrastinate_events",
        "procrastinate_periodic_defers",
        "procrastinate_jobs",
        "procrastinate_workers",
    ):
        op.execute(f"drop table if exists {table} cascade")
