"""Answers that took many plans to work out.

Revision 0012, after 0011. May be added beside a web process of 0.10.0, which keeps its answers in memory.
"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """None is kept yet."""
    op.create_table(
        "answer",
        sa.Column("refit_id", sa.BigInteger, sa.ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True),
        sa.Column("digest", sa.Text, primary_key=True),
        sa.Column("change", sa.BigInteger, nullable=False),
        sa.Column("body", sa.LargeBinary, nullable=False),
    )


def downgrade() -> None:
    """They are worked out again."""
    op.drop_table("answer")
