"""Lifting as a state of its own, the yard's hours for it, a temperature for cures, prices for what isn't money, readings.

Besides: jobs under a job, the spread of waits and lead times, what is missing.

Revision 0006, after 0005. New columns have defaults or may be empty. The lift and the blocking of haul-out jobs made
from the recipe get the state they are now told by; everything else ashore waits for them. Going back makes them ashore
work again.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

BEFORE = ("afloat_before", "ashore", "slings", "afloat_after", "either")
AFTER = ("afloat_before", "lifting", "ashore", "slings", "afloat_after", "either")
PRICES = ("service_day", "night_ashore", "leave_should", "leave_could", "moved_task", "day_sooner")
ADDED = (
    ("job", "under", sa.Text()),
    ("part", "lead_least", sa.Integer()),
    ("part", "lead_most", sa.Integer()),
    ("part", "missing_since", sa.DateTime(timezone=True)),
    ("off_boat", "missing_since", sa.DateTime(timezone=True)),
    ("link", "least_lag", sa.Float()),
    ("link", "most_lag", sa.Float()),
    ("link", "reading", sa.Text()),
)
POINTS = (("job", "under", "job"), ("link", "reading", "inspection"))


def _states(values: tuple[str, ...]) -> None:
    """The states again; a value added to a type can't be used in the transaction that adds it, a new type can."""
    op.execute("alter type state rename to state_before")
    sa.Enum(*values, name="state").create(op.get_bind())
    for table in ("task", "parked"):
        op.execute(f"alter table {table} alter column state type state using state::text::state")
    op.execute("drop type state_before")


def upgrade() -> None:
    """Expand, then say which tasks are the lifting itself."""
    _states(AFTER)
    op.add_column("yard", sa.Column("temperature", sa.Float()))
    op.add_column("yard", sa.Column("lift_hours", sa.Float(), nullable=False, server_default="1"))
    op.add_column("yard", sa.Column("block_hours", sa.Float(), nullable=False, server_default="1.5"))
    for name in PRICES:
        op.add_column("refit", sa.Column(f"price_{name}", sa.BigInteger()))
    series = sa.Column("readings", postgresql.JSONB(), nullable=False, server_default="[]")
    op.add_column("inspection", series)
    for table, name, column_type in ADDED:
        op.add_column(table, sa.Column(name, column_type))
    for table, name, to in POINTS:
        op.create_foreign_key(
            f"fk_{table}_refit_id_{name}_{to}",
            table,
            to,
            ["refit_id", name],
            ["refit_id", "id"],
            deferrable=True,
            initially="DEFERRED",
        )
    op.execute(
        "update task set state = 'lifting' from job where job.refit_id = task.refit_id and job.id = task.job"
        " and job.recipe = 'haul' and task.skill = 'lifting' and task.state = 'ashore'"
    )


def downgrade() -> None:
    """Back to ashore work."""
    for table in ("task", "parked"):
        op.execute(f"update {table} set state = 'ashore' where state = 'lifting'")
    _states(BEFORE)
    for name in PRICES:
        op.drop_column("refit", f"price_{name}")
    op.drop_column("inspection", "readings")
    for table, name, to in POINTS:
        op.drop_constraint(f"fk_{table}_refit_id_{name}_{to}", table)
    for table, name, _ in ADDED:
        op.drop_column(table, name)
    op.drop_column("yard", "block_hours")
    op.drop_column("yard", "lift_hours")
    op.drop_column("yard", "temperature")
