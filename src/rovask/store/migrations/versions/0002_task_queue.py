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
    op.execute(_ITS_OWN)


# Its functions and types, whatever the version of the package made; the types last, for functions speak of them.
_ITS_OWN = """
do $$ declare one text; begin
  for one in select oid::regprocedure::text from pg_proc where proname like 'procrastinate\\_%' loop
    execute 'drop function ' || one || ' cascade';
  end loop;
  for one in select oid::regtype::text from pg_type where typname like 'procrastinate\\_%' and typtype in ('e', 'c') loop
    execute 'drop type ' || one || ' cascade';
  end loop;
end $$
"""
