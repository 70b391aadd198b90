"""Weather, equipment, yard rules, what tasks give off and can't stand, outages, the slings; searches for better plans.

Revision 0003, after 0002. New columns have defaults, so that rows written before stay whole; every refit there is gets
an empty forecast and the usual limit for the heads.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("alter type state add value if not exists 'slings'")
    op.create_table(
        "gear",
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("refit_id", sa.BigInteger(), nullable=False),
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("row_revision", sa.Integer(), nullable=False),
        sa.CheckConstraint("count >= 0", name=op.f("ck_gear_count")),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name=op.f("fk_gear_refit_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("refit_id", "id", name=op.f("pk_gear")),
    )
    op.create_table(
        "search",
        sa.Column("refit_id", sa.BigInteger(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column(
            "state", sa.Enum("running", "done", "proven", "stopped", "failed", name="searchstate"), nullable=False
        ),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("seen_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("seconds", sa.Float(), nullable=False),
        sa.Column("taken", sa.Float(), server_default="0", nullable=False),
        sa.Column("first_value", sa.BigInteger(), nullable=True),
        sa.Column("value", sa.BigInteger(), nullable=True),
        sa.Column("bound", sa.BigInteger(), nullable=True),
        sa.Column("better", sa.Integer(), server_default="0", nullable=False),
        sa.Column("stop", sa.Boolean(), server_default=sa.text("false"), nullable=False),
        sa.Column("told", sa.Text(), server_default="", nullable=False),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name=op.f("fk_search_refit_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("refit_id", name=op.f("pk_search")),
    )
    op.create_table(
        "weather",
        sa.Column("source", sa.Text(), nullable=False),
        sa.Column("fetched_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("start", sa.DateTime(timezone=True), nullable=True),
        sa.Column("temperature", postgresql.ARRAY(sa.Float()), nullable=False),
        sa.Column("humidity", postgresql.ARRAY(sa.Float()), nullable=False),
        sa.Column("rain", postgresql.ARRAY(sa.Float()), nullable=False),
        sa.Column("wind", postgresql.ARRAY(sa.Float()), nullable=False),
        sa.Column("climate", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("refit_id", sa.BigInteger(), nullable=False),
        sa.Column("row_revision", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name=op.f("fk_weather_refit_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("refit_id", name=op.f("pk_weather")),
    )
    op.add_column("link", sa.Column("cures", sa.Boolean(), server_default=sa.text("false"), nullable=False))
    op.add_column("link", sa.Column("make_good_hours", sa.Float(), nullable=True))
    op.add_column("link", sa.Column("make_good", sa.Text(), server_default="", nullable=False))
    op.add_column("person", sa.Column("longest_run", sa.Integer(), server_default="9", nullable=False))
    op.add_column("place", sa.Column("outdoors", sa.Boolean(), server_default=sa.text("false"), nullable=False))
    op.add_column("place", sa.Column("opens_onto", postgresql.ARRAY(sa.Text()), server_default="{}", nullable=False))
    op.add_column("plan", sa.Column("previous", postgresql.JSONB(astext_type=sa.Text()), nullable=True))
    op.add_column("plan", sa.Column("proposal", postgresql.JSONB(astext_type=sa.Text()), nullable=True))
    op.add_column(
        "refit",
        sa.Column("outage_limits", postgresql.JSONB(astext_type=sa.Text()), server_default="[]", nullable=False),
    )
    op.add_column("refit", sa.Column("ask_first", sa.Boolean(), server_default=sa.text("false"), nullable=False))
    op.add_column("task", sa.Column("units", sa.Integer(), server_default="1", nullable=False))
    op.add_column("task", sa.Column("units_done", sa.Integer(), server_default="0", nullable=False))
    op.add_column("task", sa.Column("skilled", postgresql.ARRAY(sa.Text()), server_default="{}", nullable=False))
    op.add_column("task", sa.Column("gear", postgresql.ARRAY(sa.Text()), server_default="{}", nullable=False))
    op.add_column("task", sa.Column("weather", postgresql.JSONB(astext_type=sa.Text()), nullable=True))
    op.add_column("task", sa.Column("emits", postgresql.ARRAY(sa.Text()), server_default="{}", nullable=False))
    op.add_column("task", sa.Column("shuns", postgresql.ARRAY(sa.Text()), server_default="{}", nullable=False))
    op.add_column("task", sa.Column("tender", sa.Float(), server_default="0", nullable=False))
    op.add_column("task", sa.Column("contained_by", sa.Text(), nullable=True))
    op.add_column("task", sa.Column("takes_out", postgresql.ARRAY(sa.Text()), server_default="{}", nullable=False))
    op.add_column("task", sa.Column("until", sa.Text(), nullable=True))
    op.create_foreign_key(
        op.f("fk_task_refit_id_until"),
        "task",
        "task",
        ["refit_id", "until"],
        ["refit_id", "id"],
        initially="DEFERRED",
        deferrable=True,
    )
    op.create_foreign_key(
        op.f("fk_task_refit_id_contained_by"),
        "task",
        "task",
        ["refit_id", "contained_by"],
        ["refit_id", "id"],
        initially="DEFERRED",
        deferrable=True,
    )
    op.add_column("yard", sa.Column("latitude", sa.Float(), nullable=True))
    op.add_column("yard", sa.Column("longitude", sa.Float(), nullable=True))
    op.add_column(
        "yard", sa.Column("rules", postgresql.JSONB(astext_type=sa.Text()), server_default="[]", nullable=False)
    )
    op.add_column("yard", sa.Column("slings_hours", sa.Float(), server_default="4", nullable=False))
    op.add_column("yard", sa.Column("slings_night", sa.BigInteger(), server_default="0", nullable=False))
    op.create_check_constraint(op.f("ck_task_units"), "task", "units >= 1 and units_done between 0 and units")
    op.execute(
        "insert into weather (refit_id, row_revision, source, temperature, humidity, rain, wind, climate)"
        " select pk, 1, '', '{}', '{}', '{}', '{}', '[]' from refit"
    )
    op.execute("""update refit set outage_limits = '[{"service": "heads", "hours": 48}]'""")


def downgrade() -> None:
    """Take the columns away; the value added to the state type stays, for a type can't lose one."""
    op.drop_constraint(op.f("ck_task_units"), "task", type_="check")
    op.drop_column("yard", "slings_night")
    op.drop_column("yard", "slings_hours")
    op.drop_column("yard", "rules")
    op.drop_column("yard", "longitude")
    op.drop_column("yard", "latitude")
    op.drop_constraint(op.f("fk_task_refit_id_contained_by"), "task", type_="foreignkey")
    op.drop_constraint(op.f("fk_task_refit_id_until"), "task", type_="foreignkey")
    op.drop_column("task", "until")
    op.drop_column("task", "takes_out")
    op.drop_column("task", "contained_by")
    op.drop_column("task", "tender")
    op.drop_column("task", "shuns")
    op.drop_column("task", "emits")
    op.drop_column("task", "weather")
    op.drop_column("task", "gear")
    op.drop_column("task", "skilled")
    op.drop_column("task", "units_done")
    op.drop_column("task", "units")
    op.drop_column("refit", "ask_first")
    op.drop_column("refit", "outage_limits")
    op.drop_column("plan", "proposal")
    op.drop_column("plan", "previous")
    op.drop_column("place", "opens_onto")
    op.drop_column("place", "outdoors")
    op.drop_column("person", "longest_run")
    op.drop_column("link", "make_good")
    op.drop_column("link", "make_good_hours")
    op.drop_column("link", "cures")
    op.drop_table("weather")
    op.drop_table("search")
    op.drop_table("gear")
    op.execute("drop type searchstate")
