"""How sure things are: what was said of single ones, usual spreads, slots after this one, what an unknown may come to.

Revision 0013, after 0012. May be added beside a web process of 0.12.0.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from rovask.store.spelled_columns import choices, column

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

OF_UNKNOWN = ("hours_least:number?", "hours_most:number?", "lead_least:whole?", "lead_most:whole?",
              "money_least:large?", "money_most:large?", "after:text?")  # fmt: skip
SURE = ("task", "link", "part", "unknown")


def upgrade() -> None:
    """Nothing was said yet: as usual."""
    choices({"sureness": ("sure", "usual", "wild")})
    for table in SURE:
        op.add_column(table, column("sureness:sureness?"))
    for spec in OF_UNKNOWN:
        op.add_column("unknown", column(spec))
    op.create_foreign_key(
        op.f("fk_unknown_refit_id_after_unknown"), "unknown", "unknown", ["refit_id", "after"], ["refit_id", "id"],
        deferrable=True, initially="DEFERRED",
    )  # fmt: skip
    op.add_column("refit", column("usual_spreads:json", "[]"))
    op.add_column("refit", column("next_slots:json", "[]"))
    op.create_table(
        "odds",
        sa.Column("refit_id", sa.BigInteger, sa.ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True),
        sa.Column("change", sa.BigInteger, primary_key=True),
        sa.Column("now", sa.DateTime(timezone=True), nullable=False),
        sa.Column("kept_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("runs", sa.Integer, nullable=False),
        *(sa.Column(name, sa.Float) for name in ("odds", "low", "high")),
        sa.Column("body", postgresql.JSONB(astext_type=sa.Text())),
    )


def downgrade() -> None:
    """What was said of it is forgotten."""
    op.drop_table("odds")
    op.drop_column("refit", "next_slots")
    op.drop_column("refit", "usual_spreads")
    op.drop_constraint(op.f("fk_unknown_refit_id_after_unknown"), "unknown", type_="foreignkey")
    for spec in reversed(OF_UNKNOWN):
        op.drop_column("unknown", spec.partition(":")[0])
    for table in reversed(SURE):
        op.drop_column(table, "sureness")
    op.execute("drop type sureness")
