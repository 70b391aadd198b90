"""Members with roles, sessions people see, links that invite, recipes of one's own, and more in the history.

Revision 0005, after 0004. Everybody who had an account could do everything in every refit until now: they become its
skippers, so that nobody loses anything. Recipes brought in are given to every refit there is, for the same reason.
Wrong tries are counted by a limiter in memory now, no longer on the account. Going back loses who was what.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

MEMBERSHIP = postgresql.ENUM("skipper", "crew", "reader", "trade", name="membership", create_type=False)
BIG_ID = sa.BigInteger()


def upgrade() -> None:
    """Expand; what nobody reads any more goes."""
    MEMBERSHIP.create(op.get_bind())
    op.create_table(
        "member",
        sa.Column("refit_id", BIG_ID, nullable=False),
        sa.Column("account_pk", BIG_ID, nullable=False),
        sa.Column("role", MEMBERSHIP, nullable=False),
        sa.Column("person", sa.Text()),
        sa.Column("since", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name="fk_member_refit_id", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["account_pk"], ["account.pk"], name="fk_member_account_pk", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("refit_id", "account_pk", name="pk_member"),
    )
    op.create_index("ix_member_account_pk", "member", ["account_pk"])
    op.execute(
        "insert into member (refit_id, account_pk, role, since)"
        " select r.pk, a.pk, 'skipper', a.created_at from refit r cross join account a"
    )
    op.create_table(
        "known_device",
        sa.Column("token_hash", sa.LargeBinary(), nullable=False),
        sa.Column("account_pk", BIG_ID, nullable=False),
        sa.Column("since", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["account_pk"], ["account.pk"], name="fk_known_device_account_pk", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("token_hash", name="pk_known_device"),
    )
    op.create_index("ix_known_device_account_pk", "known_device", ["account_pk"])

    op.alter_column("sign_in_link", "account_pk", nullable=True)
    op.add_column("sign_in_link", sa.Column("refit_id", BIG_ID))
    op.add_column("sign_in_link", sa.Column("role", MEMBERSHIP))
    op.add_column("sign_in_link", sa.Column("person", sa.Text()))
    op.add_column("sign_in_link", sa.Column("name", sa.Text(), nullable=False, server_default=""))
    op.add_column("sign_in_link", sa.Column("made_by", BIG_ID))
    op.create_foreign_key("fk_sign_in_link_refit_id", "sign_in_link", "refit", ["refit_id"], ["pk"], ondelete="CASCADE")
    op.create_foreign_key("fk_sign_in_link_made_by", "sign_in_link", "account", ["made_by"], ["pk"], ondelete="CASCADE")
    op.create_check_constraint(
        op.f("ck_sign_in_link_device_or_invitation"), "sign_in_link", "(account_pk is null) = (refit_id is not null)"
    )
    op.create_check_constraint(
        op.f("ck_sign_in_link_invitation_has_a_role"), "sign_in_link", "(refit_id is null) = (role is null)"
    )

    op.add_column("session", sa.Column("pk", BIG_ID, sa.Identity(), nullable=False))
    op.create_unique_constraint("uq_session_pk", "session", ["pk"])
    op.add_column("session", sa.Column("seen_at", sa.DateTime(timezone=True)))
    op.execute("update session set seen_at = created_at")
    op.alter_column("session", "seen_at", nullable=False)
    op.add_column("session", sa.Column("agent", sa.Text(), nullable=False, server_default=""))
    op.create_index("ix_session_account_pk", "session", ["account_pk"])
    op.drop_column("account", "failures")
    op.drop_column("account", "locked_until")

    op.drop_constraint("pk_recipe", "recipe", type_="primary")
    op.add_column("recipe", sa.Column("pk", BIG_ID, sa.Identity(), nullable=False))
    op.create_primary_key("pk_recipe", "recipe", ["pk"])
    op.create_unique_constraint("uq_recipe_account_pk_id", "recipe", ["account_pk", "id"])
    op.drop_constraint("fk_recipe_account_pk", "recipe", type_="foreignkey")
    op.create_foreign_key("fk_recipe_account_pk", "recipe", "account", ["account_pk"], ["pk"], ondelete="CASCADE")
    op.create_table(
        "given_recipe",
        sa.Column("refit_id", BIG_ID, nullable=False),
        sa.Column("recipe_pk", BIG_ID, nullable=False),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name="fk_given_recipe_refit_id", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["recipe_pk"], ["recipe.pk"], name="fk_given_recipe_recipe_pk", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("refit_id", "recipe_pk", name="pk_given_recipe"),
    )
    op.create_index("ix_given_recipe_recipe_pk", "given_recipe", ["recipe_pk"])
    op.execute("insert into given_recipe (refit_id, recipe_pk) select r.pk, p.pk from refit r cross join recipe p")

    op.alter_column("photo", "size", type_=sa.Integer())  # as large as the model lets it be
    op.add_column("change", sa.Column("same_as", sa.Integer()))
    op.add_column("change", sa.Column("effect", postgresql.JSONB()))


def downgrade() -> None:
    """Back to everybody may everything; a recipe of which there are two keeps the newer."""
    op.drop_column("change", "effect")
    op.drop_column("change", "same_as")
    op.alter_column("photo", "size", type_=sa.BigInteger())
    op.drop_table("given_recipe")
    op.execute("delete from recipe a using recipe b where a.id = b.id and a.pk < b.pk")
    op.drop_constraint("uq_recipe_account_pk_id", "recipe", type_="unique")
    op.drop_constraint("pk_recipe", "recipe", type_="primary")
    op.drop_column("recipe", "pk")
    op.create_primary_key("pk_recipe", "recipe", ["id"])
    op.drop_constraint("fk_recipe_account_pk", "recipe", type_="foreignkey")
    op.create_foreign_key("fk_recipe_account_pk", "recipe", "account", ["account_pk"], ["pk"], ondelete="SET NULL")

    op.add_column("account", sa.Column("locked_until", sa.DateTime(timezone=True)))
    op.add_column("account", sa.Column("failures", sa.Integer(), nullable=False, server_default="0"))
    op.alter_column("account", "failures", server_default=None)
    op.drop_index("ix_session_account_pk", "session")
    op.drop_column("session", "agent")
    op.drop_column("session", "seen_at")
    op.drop_constraint("uq_session_pk", "session", type_="unique")
    op.drop_column("session", "pk")

    op.execute("delete from sign_in_link where account_pk is null")
    op.drop_constraint(op.f("ck_sign_in_link_invitation_has_a_role"), "sign_in_link", type_="check")
    op.drop_constraint(op.f("ck_sign_in_link_device_or_invitation"), "sign_in_link", type_="check")
    op.drop_constraint("fk_sign_in_link_made_by", "sign_in_link", type_="foreignkey")
    op.drop_constraint("fk_sign_in_link_refit_id", "sign_in_link", type_="foreignkey")
    for name in ("made_by", "name", "person", "role", "refit_id"):
        op.drop_column("sign_in_link", name)
    op.alter_column("sign_in_link", "account_pk", nullable=False)
    op.drop_table("known_device")
    op.drop_table("member")
    MEMBERSHIP.drop(op.get_bind())
