"""Choices: ways laid side by side, what was found of them, the search for what makes the date; the storm season of a coast.

Revision 0014, after 0013. May be added beside a web process of 0.14.0.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from rovask.store.spelled_columns import column, record_table

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Nothing was laid out yet."""
    for spec, default in (("storm_from:whole?", None), ("storm_to:whole?", None), ("shelter_days:whole", "0")):
        op.add_column("yard", column(spec, default))
    record_table("ways", "title:text about:text ways:json at:moment taken:text", {}, ())
    op.create_table(
        "laid",
        sa.Column("refit_id", sa.BigInteger, sa.ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True),
        sa.Column("ways", sa.Text, primary_key=True),
        sa.Column("change", sa.BigInteger, primary_key=True),
        sa.Column("now", sa.DateTime(timezone=True), nullable=False),
        sa.Column("kept_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("body", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("plans", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
    )
    op.create_table(
        "frontier",
        sa.Column("refit_id", sa.BigInteger, sa.ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True),
        sa.Column("change", sa.BigInteger, nullable=False),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("seen_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("asked", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("stop", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.Column("over", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.Column("body", postgresql.JSONB(astext_type=sa.Text())),
    )


def downgrade() -> None:
    """What was laid out is forgotten."""
    op.drop_table("frontier")
    op.drop_table("laid")
    op.drop_table("ways")
    for name in ("shelter_days", "storm_to", "storm_from"):
        op.drop_column("yard", name)
