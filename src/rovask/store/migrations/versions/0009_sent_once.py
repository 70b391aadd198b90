"""Forms that were sent are done once, whatever they do; marks of ticks that devices kept go there too.

Revision 0009, after 0008. The marks of changes move, so a web process of 0.7.0 beside this one would not know of them:
stop all of them first. Going back keeps the marks of kept ticks.
"""

import sqlalchemy as sa
from alembic import op

from rovask.store.spelled_columns import column

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """A table of sendings; the marks of changes in it."""
    op.create_table(
        "sending",
        column("sender:text"),
        column("mark:text"),
        column("digest:text"),
        column("at:moment"),
        column("answer:text"),
        sa.PrimaryKeyConstraint("sender", "mark", "digest", name=op.f("pk_sending")),
    )
    op.create_index(op.f("ix_sending_at"), "sending", ["at"])
    op.execute(
        "insert into sending select 'account ' || account_pk, mark, '', at, '-' from change "
        "where mark is not null and account_pk is not null on conflict do nothing"
    )
    op.drop_constraint(op.f("uq_change_refit_id_mark"), "change")
    op.drop_column("change", "mark")


def downgrade() -> None:
    """The column again; what was sent since is forgotten."""
    op.add_column("change", column("mark:text?"))
    op.create_unique_constraint(op.f("uq_change_refit_id_mark"), "change", ["refit_id", "mark"])
    op.drop_table("sending")
