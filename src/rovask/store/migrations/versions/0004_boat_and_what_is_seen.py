"""The boat's figures for drawing and recipes, what jobs were made from, and all that is seen, not known, off or parked.

Revision 0004, after 0003. New columns have defaults or may be empty, so that rows written before stay whole.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

MAST_STEP = postgresql.ENUM("deck", "keel", name="maststep")
PROPELLER = postgresql.ENUM("fixed", "folding", "feathering", "none", name="propeller")
COOLING = postgresql.ENUM("heat exchanger", "raw water", "keel", "air", "none", name="cooling")
SEVERITY = postgresql.ENUM("good", "watch", "bad", "dangerous", name="severity")
UNKNOWN_STATE = postgresql.ENUM("open", "vanished", "real", name="unknownstate")
SPOT = postgresql.ENUM(
    *[
        "rig",
        "mast",
        "foredeck",
        "deck",
        "cockpit",
        "forepeak",
        "saloon",
        "galley",
        "heads",
        "nav",
        "berths",
        "tanks",
        "bilge",
        "engine",
        "lazarette",
    ],
    *["topsides", "waterline", "bottom", "through-hulls", "shaft", "keel", "rudder", "ashore"],
    name="spot",
)
STATE = postgresql.ENUM(name="state", create_type=False)
NEW_TYPES = (MAST_STEP, PROPELLER, COOLING, SEVERITY, UNKNOWN_STATE, SPOT)
NEW_TABLES = ("inspection", "finding", "unknown", "off_boat", "parked", "decision", "photo", "recipe")


def text(name, null=False):
    return sa.Column(name, sa.Text(), nullable=null)


def words(name, **more):
    return sa.Column(name, postgresql.ARRAY(sa.Text()), nullable=False, **more)


def number(name, null=False):
    return sa.Column(name, sa.Float(), nullable=null)


def whole(name, kind=sa.Integer, **more):
    return sa.Column(name, kind(), nullable=False, **more)


def moment(name, null=False):
    return sa.Column(name, sa.DateTime(timezone=True), nullable=null)


def many(table, *columns, checks=(), within=()):
    """A table of things in a list of a refit."""
    op.create_table(
        table,
        *columns,
        whole("refit_id", sa.BigInteger),
        text("id"),
        whole("position"),
        whole("row_revision"),
        *(sa.CheckConstraint(rule, name=op.f(f"ck_{table}_{name}")) for name, rule in checks),
        *(
            sa.ForeignKeyConstraint(
                ["refit_id", column],
                [f"{other}.refit_id", f"{other}.id"],
                name=op.f(f"fk_{table}_refit_id_{column}"),
                deferrable=True,
                initially="DEFERRED",
            )
            for other, column in within
        ),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name=op.f(f"fk_{table}_refit_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("refit_id", "id", name=op.f(f"pk_{table}")),
    )


def upgrade() -> None:
    for kind in NEW_TYPES:
        kind.create(op.get_bind(), checkfirst=True)
        kind.create_type = False
    for name, default in (
        ("masts", "1"),
        ("engines", "1"),
        ("through_hulls", "8"),
        ("heads", "1"),
        ("berths", "4"),
        ("water_tanks", "1"),
        ("fuel_tanks", "1"),
    ):
        op.add_column("boat", whole(name, server_default=default))
    for name, kind, default in (
        ("mast_step", MAST_STEP, "deck"),
        ("propeller", PROPELLER, "fixed"),
        ("cooling", COOLING, "heat exchanger"),
    ):
        op.add_column("boat", sa.Column(name, kind, server_default=default, nullable=False))
    for name in ("mast_height_m", "freeboard_bow_m", "freeboard_stern_m", "bottom_area_m2"):
        op.add_column("boat", number(name, null=True))
    op.add_column("boat", words("fitted", server_default="{}"))
    op.add_column("place", sa.Column("spot", SPOT, nullable=True))
    op.add_column("job", text("recipe", null=True))
    op.add_column(
        "job", sa.Column("chosen", postgresql.JSONB(astext_type=sa.Text()), server_default="[]", nullable=False)
    )
    op.add_column("job", sa.Column("reason", sa.Text(), server_default="", nullable=False))
    op.add_column("task", sa.Column("check", sa.Text(), server_default="", nullable=False))
    op.create_table(
        "recipe",
        text("id"),
        text("text"),
        sa.Column("account_pk", sa.BigInteger(), nullable=True),
        moment("at"),
        sa.ForeignKeyConstraint(["account_pk"], ["account.pk"], name=op.f("fk_recipe_account_pk"), ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_recipe")),
    )
    many(
        "photo",
        text("title"),
        text("sha256"),
        whole("width"),
        whole("height"),
        whole("size", sa.BigInteger),
        moment("at"),
        checks=(("sha256", "sha256 ~ '^[0-9a-f]{64}$'"),),
    )
    many(
        "inspection",
        text("title"),
        text("place", null=True),
        text("task", null=True),
        text("how"),
        text("unit"),
        number("good_to", null=True),
        number("bad_from", null=True),
        number("repair_hours"),
        whole("lead_days"),
        text("recipe", null=True),
        sa.Column("verdict", SEVERITY, nullable=True),
        number("reading", null=True),
        text("note"),
        moment("at", null=True),
        words("photos"),
        checks=(("limits", "good_to is null or bad_from is null or bad_from >= good_to"),),
        within=(("place", "place"), ("task", "task")),
    )
    many(
        "finding",
        text("title"),
        text("place", null=True),
        sa.Column("severity", SEVERITY, nullable=False),
        text("note"),
        moment("at"),
        words("photos"),
        words("jobs"),
        sa.Column("settled", sa.Boolean(), server_default=sa.text("false"), nullable=False),
        within=(("place", "place"),),
    )
    many(
        "unknown",
        text("title"),
        number("chance"),
        number("hours"),
        whole("lead_days"),
        whole("money", sa.BigInteger),
        text("task", null=True),
        text("recipe", null=True),
        sa.Column("state", UNKNOWN_STATE, nullable=False),
        checks=(("chance", "chance between 0 and 1"),),
        within=(("task", "task"),),
    )
    many(
        "off_boat",
        text("what"),
        text("off_task", null=True),
        text("back_task", null=True),
        text("lies_at"),
        text("note"),
        words("photos"),
        moment("off_at", null=True),
        moment("back_at", null=True),
        checks=(("off_before_back", "back_at is null or off_at is not null"),),
        within=(("task", "off_task"), ("task", "back_task")),
    )
    many(
        "parked",
        text("title"),
        text("place", null=True),
        sa.Column("state", STATE, nullable=False),
        number("hours"),
        text("recipe", null=True),
        text("note"),
        sa.Column("next_time", sa.Boolean(), nullable=False),
        within=(("place", "place"),),
    )
    many(
        "decision",
        text("title"),
        sa.Column("alternatives", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        text("adopted"),
        text("reason"),
        text("job", null=True),
        moment("at"),
        within=(("job", "job"),),
    )


def downgrade() -> None:
    for table in NEW_TABLES:
        op.drop_table(table)
    op.drop_column("task", "check")
    for column in ("reason", "chosen", "recipe"):
        op.drop_column("job", column)
    op.drop_column("place", "spot")
    for column in (
        "masts",
        "engines",
        "through_hulls",
        "heads",
        "berths",
        "water_tanks",
        "fuel_tanks",
        "mast_step",
        "propeller",
        "cooling",
        "mast_height_m",
        "freeboard_bow_m",
        "freeboard_stern_m",
        "bottom_area_m2",
        "fitted",
    ):
        op.drop_column("boat", column)
    for kind in NEW_TYPES:
        kind.drop(op.get_bind(), checkfirst=True)
