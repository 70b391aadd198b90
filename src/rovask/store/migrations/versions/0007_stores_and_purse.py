"""What is bought from whom and where it lies, and the money that is planned, agreed, owed and paid.

Revision 0007, after 0006. New tables, and new columns that have defaults or may be empty. Going back drops what only this
version knows.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from rovask.store.spelled_columns import choices, column, record_table

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

CHOICES = {
    "supplierkind": ("shop", "by order", "workshop", "store of our own", "carrier", "customs"),
    "offerform": ("maker's kit", "bare part by its code", "second-hand", "substitute", "made for us"),
    "offerstate": ("asked for", "offered", "chosen", "declined"),
    "orderstate": ("sending", "placed", "acknowledged", "shipped", "customs", "arrived", "cancelled"),
    "condition": ("arrived", "fits", "wrong thing", "damaged", "does not fit", "lost", "returned"),
    "remedy": ("exchange", "modify", "another offer", "money back"),
    "lies": ("aboard", "yard shed", "shop", "workshop", "far store", "unknown"),
    "certainty": ("likely", "safe"),
    "agreementform": ("fixed price", "by the hour"),
    "entrykind": ("invoice", "payment", "credit note", "refund"),
    "charge": (
        *("lift", "wash", "block", "lay-days", "launch", "nights in the slings", "power", "move", "second lift"),
        *("permit", "contractors' access", "environment levy", "other"),
    ),
}
# By table: its columns as "name:type", a "?" where it may be empty; what points where; what is looked up by.
QUOTED = "currency:text rate:text freight:large duty:number tax:number"
TABLES = (
    ("budget_line", "title:text amount:large sections:words contingency:yes_no", {}, ()),
    (
        "draw",
        "title:text amount:large source:text to:text? at:moment",
        {"source": "budget_line", "to": "budget_line"},
        (),
    ),
    (
        "supplier",
        "name:text what:supplierkind town:text currency:text? open_days:words shut:json away_hours:number"
        " contact:text returns:text by_service:yes_no note:text",
        {},
        (),
    ),
    ("use", "task:text part:text amount:number used:number?", {"task": "task", "part": "part"}, ("part",)),
    (
        "offer",
        f"{QUOTED} part:text supplier:text what:text form:offerform state:offerstate quantity:number price:large"
        " lead_least:whole? lead_days:whole lead_most:whole? misfit:number returns:text valid_until:day?"
        " least_lag:number? most_lag:number? note:text",
        {"part": "part"},
        ("part",),
    ),
    (
        "purchase",
        f"{QUOTED} supplier:text number:text state:orderstate placed_at:moment expected:moment? expected_most:moment?"
        " carrier:text tracking:text made:yes_no closed:yes_no mark:text steps:json note:text photos:words",
        {},
        (),
    ),
    (
        "order_line",
        "order:text part:text what:text quantity:number price:large price_most:large?",
        {"order": "purchase", "part": "part"},
        ("order", "part"),
    ),
    (
        "receipt",
        "line:text at:moment quantity:number condition:condition lies:lies stowed:text off_by:text remedy:remedy?"
        " by:text? tried_at:moment? photos:words",
        {"line": "order_line", "by": "task"},
        ("line",),
    ),
    (
        "agreement",
        "title:text party:text person:text? job:text? form:agreementform currency:text rate:text price:large"
        " rate_of_pay:large deposit:large stages:json hold_back:number accepted_at:moment? closed:yes_no line:text?"
        " at:moment note:text photos:words",
        {"person": "person", "job": "job", "line": "budget_line"},
        (),
    ),
    (
        "entry",
        "kind:entrykind title:text at:moment party:text number:text currency:text rate:text amount:large order:text?"
        " agreement:text? against:text? person:text? job:text? charge:charge? line:text? source:text note:text"
        " photos:words",
        {
            "order": "purchase",
            "agreement": "agreement",
            "against": "entry",
            "person": "person",
            "job": "job",
            "line": "budget_line",
        },
        ("order", "agreement"),
    ),
    ("yard_extra", "title:text charge:charge on:day count:number price:large?", {}, ()),
    ("column_match", "table:text head:words columns:words at:moment", {}, ()),
    ("exchange_rate", "currency:text base:text rate:text at:moment source:text", {}, ()),
)
AMOUNTS = {
    "budget_line": ("amount",),
    "draw": ("amount",),
    "offer": ("price", "freight", "quantity"),
    "purchase": ("freight",),
    "order_line": ("price", "quantity"),
    "receipt": ("quantity",),
    "agreement": ("price", "rate_of_pay", "deposit"),
    "use": ("amount",),
}
ADDED = (
    ("refit", "certainty:certainty", "likely"),
    ("yard", "tariff:json", "[]"),
    ("yard", "meter:json", "[]"),
    ("job", "line:text?", None),
    ("part", "pack:number?", None),
    ("part", "dimension:text", ""),
    ("part", "must_fit:yes_no", "true"),
    ("part", "substitute:yes_no", "false"),
    ("part", "hazardous:yes_no", "false"),
    ("part", "price_least:large?", None),
    ("part", "price_most:large?", None),
    ("part", "counted:number?", None),
    ("part", "counted_at:moment?", None),
    ("part", "lies:lies", "aboard"),
    ("part", "fetch:text?", None),
    ("part", "line:text?", None),
)
POINTS = (("job", "line", "budget_line"), ("part", "fetch", "task"), ("part", "line", "budget_line"))


def upgrade() -> None:
    """Expand only."""
    choices(CHOICES)
    for table, columns, points, looked_up in TABLES:
        record_table(table, columns, points, looked_up, AMOUNTS.get(table, ()))
    op.create_table(
        "upload",
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("refit_id", sa.BigInteger(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name=op.f("fk_upload_refit_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("token", name=op.f("pk_upload")),
    )
    op.create_table(
        "inbox",
        sa.Column("mark", sa.Text(), nullable=False),
        sa.Column("event", sa.Text(), nullable=False),
        sa.Column("body", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("done", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("mark", "event", name=op.f("pk_inbox")),
    )
    op.create_unique_constraint(
        op.f("uq_use_refit_id_task_part"), "use", ["refit_id", "task", "part"], deferrable=True, initially="DEFERRED"
    )
    op.create_check_constraint(op.f("ck_entry_amount"), "entry", "amount > 0")
    op.create_check_constraint(op.f("ck_entry_part_of_one"), "entry", '"order" is null or agreement is null')
    for table, spec, default in ADDED:
        op.add_column(table, column(spec, default))
    for table, name, to in POINTS:
        op.create_foreign_key(
            op.f(f"fk_{table}_refit_id_{name}_{to}"),
            table,
            to,
            ["refit_id", name],
            ["refit_id", "id"],
            deferrable=True,
            initially="DEFERRED",
        )


def downgrade() -> None:
    """Without them."""
    for table, name, to in POINTS:
        op.drop_constraint(f"fk_{table}_refit_id_{name}_{to}", table)
    for table, spec, _ in ADDED:
        op.drop_column(table, spec.partition(":")[0])
    op.drop_table("upload")
    op.drop_table("inbox")
    for table, _, _, _ in reversed(TABLES):
        op.drop_table(table)
    for name in CHOICES:
        op.execute(f"drop type {name}")
