"""Days as they were, hours lost, people's stays, looks at work that is done, ticks at the launch gate.

Revision 0008, after 0007. New tables, and new columns that have defaults. Going back drops what only this version knows.
"""

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
)
ADDED = (
    ("task", "opens:words", "{}"),
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


def downgrade() -> None:
    """Without them."""
    for table, spec, _ in reversed(ADDED):
        op.drop_column(table, spec.partition(":")[0])
    for table, _, _, _ in reversed(TABLES):
        op.drop_table(table)
    for name in CHOICES:
        op.execute(f"drop type {name}")
