"""The tables of recipes that sailors brought in, and of the refits they are given to."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, Identity, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base


class RecipeRow(Base):
    """A recipe somebody brought in, as the text of its file. ``account_pk``: whose; None for one from before accounts."""

    __tablename__ = "recipe"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    id: Mapped[str]
    text: Mapped[str]
    account_pk: Mapped[int | None] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"))
    at: Mapped[datetime]

    __table_args__ = (UniqueConstraint("account_pk", "id"),)


class GivenRecipeRow(Base):
    """A recipe of somebody's own that is at hand in a refit."""

    __tablename__ = "given_recipe"

    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True)
    recipe_pk: Mapped[int] = mapped_column(ForeignKey("recipe.pk", ondelete="CASCADE"), primary_key=True)

    __table_args__ = (Index(None, "recipe_pk"),)
