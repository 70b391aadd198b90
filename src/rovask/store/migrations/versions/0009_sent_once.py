"""Forms that were sent are done once; what it takes to take a change back, and whether it can be, stands with it.

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


TAKEN_BACK = """
with recursive chain as (
    select pk, false as back from change where undoes is null
    union all select change.pk, not chain.back from change join chain on change.undoes = chain.pk
)
update change set back = true from chain where chain.pk = change.pk and chain.back
"""  # a change that takes a taking back back makes something again


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
    op.add_column("change", column("needs:text?"))
    op.add_column("change", column("back:yes_no", "false"))
    op.add_column("change", column("final:yes_no", "false"))
    op.execute(TAKEN_BACK)
    op.drop_constraint(op.f("uq_change_refit_id_mark"), "change")
    op.drop_column("change", "mark")


def downgrade() -> None:
    """The column again; what was sent since is forgotten."""
    for name in ("final", "back", "needs"):
        op.drop_column("change", name)
    op.add_column("change", column("mark:text?"))
    op.create_unique_constraint(op.f("uq_change_refit_id_mark"), "change", ["refit_id", "mark"])
    op.drop_table("sending")
