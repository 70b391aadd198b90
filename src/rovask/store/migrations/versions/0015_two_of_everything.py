"""Two of everything: which side a place is on, where further masts stand, how many rudders.

Revision 0015, after 0014. May be added beside a web process of 0.15.0.
"""

from alembic import op

from rovask.store.spelled_columns import choices, column

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Nobody said it yet: places of two go by their order until somebody does."""
    choices({"which": ("port", "starboard", "middle", "main", "mizzen", "third")})
    op.add_column("place", column("which:which?"))
    op.add_column("boat", column("rudders:whole?"))
    op.add_column("boat", column("mizzen_step:maststep?"))
    op.add_column("boat", column("third_step:maststep?"))


def downgrade() -> None:
    """Forgotten again."""
    op.drop_column("boat", "third_step")
    op.drop_column("boat", "mizzen_step")
    op.drop_column("boat", "rudders")
    op.drop_column("place", "which")
    op.execute("DROP TYPE which")
