"""Days as they were, hours lost, people's stays, looks at work, the launch gate, plans to measure by, secret addresses.

Revision 0008, after 0007. New tables, and new columns that have defaults. Going back drops what only this version knows.
"""

import sqlalchemy as sa
from alembic import op

from rovask.store.spelled_columns import choices, column, record_table

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

CHOICES = {
    "lostto": (
        *("rain", "a part", "found work", "slower than thought", "somebody didn't come", "a tool", "something else"),
    ),
    "said": ("coming", "late", "done", "found"),
    "secretuse": ("trade", "calendar"),
    "offsort": ("off the boat", "open", "borrowed"),
}
TABLES = (
    ("day", "on:day here:words weather:text words:text photos:words closed_at:moment", {}, ()),
    (
        "lost",
        "on:day reason:lostto hours:number person:text? job:text? note:text",
        {"person": "person", "job": "job"},
        (),
    ),
    (
        "visit",
        "title:text person:text? first:day last:day guests:whole ready:text note:text was:day?",
        {"person": "person"},
        (),
    ),
    (
        "acceptance",
        "task:text title:text at:moment person:text? passed:yes_no seen:text photos:words snag:text? until:day?",
        {"task": "task", "person": "person", "snag": "task"},
        ("task",),
    ),
    (
        "gate_tick",
        "item:text at:moment person:text? passed:yes_no overruled:yes_no seen:text photos:words",
        {"person": "person"},
        (),
    ),
    (
        "trade_word",
        "person:text task:text? said:said at:moment day:day? note:text photos:words answered:yes_no",
        {"person": "person", "task": "task"},
        (),
    ),
    ("baseline", "title:text at:moment launch_at:moment ready_at:moment? why:text tasks:json unplanned:words", {}, ()),
)
ADDED = (
    ("task", "opens:words", "{}"),
    ("task", "paced:number", "1"),
    ("person", "paces:json", "[]"),
    ("refit", "closed_at:moment?", None),
    ("refit", "surprised:text", ""),
    ("session", "visit_before:moment?", None),
    ("change", "mark:text?", None),
    ("off_boat", "sort:offsort", "off the boat"),
    ("off_boat", "count:whole", "1"),
    ("off_boat", "bag:text", ""),
    ("yard", "holds_unpaid:yes_no", "false"),
)


def upgrade() -> None:
    """Expand only."""
    choices(CHOICES)
    for table, columns, points, looked_up in TABLES:
        record_table(table, columns, points, looked_up)
    op.create_unique_constraint(
        op.f("uq_day_refit_id_on"), "day", ["refit_id", "on"], deferrable=True, initially="DEFERRED"
    )
    op.create_check_constraint(op.f("ck_visit_forwards"), "visit", "first <= last")
    op.create_check_constraint(op.f("ck_lost_hours"), "lost", "hours > 0")
    op.create_check_constraint(
        op.f("ck_gate_tick_by_name"), "gate_tick", "not overruled or (person is not null and seen <> '')"
    )
    for table, spec, default in ADDED:
        op.add_column(table, column(spec, default))
    op.create_unique_constraint(op.f("uq_change_refit_id_mark"), "change", ["refit_id", "mark"])
    op.create_check_constraint(op.f("ck_trade_word_late"), "trade_word", "said <> 'late' or day is not null")
    op.create_check_constraint(op.f("ck_task_paced"), "task", "paced > 0")
    op.create_table(
        "day_plan",
        sa.Column("refit_id", sa.BigInteger(), nullable=False),
        column("day:day"),
        column("tasks:json"),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name=op.f("fk_day_plan_refit_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("refit_id", "day", name=op.f("pk_day_plan")),
    )
    op.create_table(
        "secret",
        sa.Column("token_hash", sa.LargeBinary(), nullable=False),
        sa.Column("pk", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("refit_id", sa.BigInteger(), nullable=False),
        column("purpose:secretuse"),
        column("person:text?"),
        column("agreement:yes_no", "false"),
        column("hint:text"),
        sa.Column("made_by", sa.BigInteger(), nullable=True),
        column("made_at:moment"),
        column("expires_at:moment?"),
        column("withdrawn_at:moment?"),
        column("seen_at:moment?"),
        sa.CheckConstraint("purpose <> 'trade' or person is not null", name=op.f("ck_secret_a_trade_is_somebody")),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name=op.f("fk_secret_refit_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["made_by"], ["account.pk"], name=op.f("fk_secret_made_by"), ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("token_hash", name=op.f("pk_secret")),
        sa.UniqueConstraint("pk", name=op.f("uq_secret_pk")),
    )
    op.create_index(op.f("ix_secret_refit_id"), "secret", ["refit_id"])


def downgrade() -> None:
    """Without them."""
    op.drop_table("secret")
    op.drop_table("day_plan")
    op.drop_constraint("ck_task_paced", "task")
    for table, spec, _ in reversed(ADDED):
        op.drop_column(table, spec.partition(":")[0])
    for table, _, _, _ in reversed(TABLES):
        op.drop_table(table)
    for name in CHOICES:
        op.execute(f"drop type {name}")
