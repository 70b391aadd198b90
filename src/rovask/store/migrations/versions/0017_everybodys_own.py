"""Solid ground: an outbox, a security journal, tries that all processes count, passkeys, recovery codes, copies, orphaned photos.

Revision 0017, after 0016. May be added beside a web process of 0.16.0; what that one sends meanwhile is not in the outbox.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from rovask.store.spelled_columns import choices, column

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

TYPES = {
    "outstate": ("waits", "taken", "refused", "given up"),
    "happened": (
        "signed in",
        "refused",
        "signed out",
        "password set",
        "passkey",
        "recovery codes",
        "recovered",
        "link made",
        "link opened",
        "link withdrawn",
        "invited",
        "joined",
        "role changed",
        "taken out",
        "left",
        "exported",
        "refit removed",
        "account erased",
        "operator",
    ),
}
TABLES = ("outbox", "journal", "attempt", "passkey", "challenge", "recovery_code", "orphan", "copy")
# Orders that went out before there was an outbox: their marks stay known. What was sent with them was not kept.
SENT = """
insert into outbox (mark, refit_id, about, recipient, body, at, state, tries)
select mark, refit_id, id, supplier, '{}', placed_at,
       cast(case when state = 'sending' then 'waits' when state = 'cancelled' and number = '' then 'refused' else 'taken' end as outstate), 0
from purchase where mark <> '' on conflict do nothing
"""


def _numbered() -> sa.Column[int]:
    return sa.Column("pk", sa.BigInteger(), sa.Identity(), primary_key=True)


def _of(table: str, of: str, *, kept: bool = False, optional: bool = False) -> sa.Column[int]:
    name = f"{of}_{'id' if of == 'refit' else 'pk'}"
    key = sa.ForeignKey(f"{of}.pk", ondelete="SET NULL" if kept else "CASCADE", name=op.f(f"fk_{table}_{name}"))
    return sa.Column(name, sa.BigInteger(), key, nullable=kept or optional)


def upgrade() -> None:
    """The marks of what was sent are taken over."""
    choices(TYPES)
    op.create_table(
        "outbox",
        sa.Column("mark", sa.Text(), primary_key=True),
        _of("outbox", "refit", kept=True),
        *(column(one) for one in ("about:text", "recipient:text", "body:json", "at:moment", "state:outstate")),
        column("tries:whole", "0"),
        column("tried_at:moment?"),
        column("told:text", ""),
    )
    op.create_index(op.f("ix_outbox_refit_id"), "outbox", ["refit_id"])
    op.execute(SENT)
    for one, default in (
        ("tries:whole", "0"),
        ("next_at:moment?", None),
        ("given_up_at:moment?", None),
        ("why:text", ""),
    ):
        op.add_column("inbox", column(one, default))
    op.create_table(
        "journal",
        _numbered(),
        column("at:moment"),
        column("what:happened"),
        _of("journal", "account", kept=True),
        _of("journal", "refit", kept=True),
        *(column(one) for one in ("who:text", "about:text", "address:text")),
    )
    for names in (["account_pk"], ["refit_id", "pk"], ["at"]):
        op.create_index(op.f(f"ix_journal_{'_'.join(names)}"), "journal", names)
    op.create_table("attempt", _numbered(), sa.Column("who", sa.LargeBinary(), nullable=False), column("at:moment"))
    op.create_index(op.f("ix_attempt_who_at"), "attempt", ["who", "at"])
    op.create_index(op.f("ix_attempt_at"), "attempt", ["at"])
    op.create_table(
        "passkey",
        sa.Column("credential", sa.LargeBinary(), primary_key=True),
        sa.Column("pk", sa.BigInteger(), sa.Identity(), nullable=False),
        _of("passkey", "account"),
        sa.Column("public_key", sa.LargeBinary(), nullable=False),
        *(column(one) for one in ("count:large", "name:text", "made_at:moment", "used_at:moment?")),
        sa.UniqueConstraint("pk", name=op.f("uq_passkey_pk")),
    )
    op.create_index(op.f("ix_passkey_account_pk"), "passkey", ["account_pk"])
    op.create_table(
        "challenge",
        sa.Column("challenge", sa.LargeBinary(), primary_key=True),
        _of("challenge", "account", optional=True),
        column("expires_at:moment"),
    )
    op.create_table(
        "recovery_code",
        sa.Column("code_hash", sa.LargeBinary(), primary_key=True),
        _of("recovery_code", "account"),
        column("made_at:moment"),
    )
    op.create_index(op.f("ix_recovery_code_account_pk"), "recovery_code", ["account_pk"])
    op.create_table("orphan", sa.Column("sha256", sa.Text(), primary_key=True), column("since:moment"))
    op.create_table(
        "copy",
        _numbered(),
        *(column(one) for one in ("at:moment", "file:text", "size:large", "photos:whole", "version:text", "why:text")),
        column("checked_at:moment?"),
    )
    op.execute(  # a calendar's address had no end
        "update secret set expires_at = greatest(made_at, now()) + interval '180 days' "
        "where purpose = 'calendar' and expires_at is null"
    )
    op.add_column("account", column("operator:yes_no", "false"))
    op.add_column("change", column("erased:yes_no", "false"))
    op.add_column("session", column("address:text", ""))
    op.add_column("secret", column("sent_bytes:large", "0"))
    op.add_column("plan", column("made_by:text", ""))


def downgrade() -> None:
    """Forgotten again."""
    op.drop_column("plan", "made_by")
    op.drop_column("secret", "sent_bytes")
    op.drop_column("session", "address")
    op.drop_column("change", "erased")
    op.drop_column("account", "operator")
    for name in ("why", "given_up_at", "next_at", "tries"):
        op.drop_column("inbox", name)
    for table in reversed(TABLES):
        op.drop_table(table)
    for name in TYPES:
        postgresql.ENUM(name=name).drop(op.get_bind())
