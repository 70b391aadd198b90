"""An account erased with all that is personal: what goes, and what stays with others."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import delete, func, select, text, update
from sqlalchemy.orm import Session

from rovask.store import journal
from rovask.store.account_tables import AccountRow, MemberRow, Membership
from rovask.store.history_tables import ChangeRow
from rovask.store.record_tables import RefitRow
from rovask.store.sending_tables import SendingRow


@dataclass(frozen=True, slots=True)
class WhatGoes:
    """What erasing an account takes along. alone: refits nobody else is in, which go; leaderless: refits it alone is skipper of while
    others are in them, which have to have another skipper first; stays: refits of others.
    """

    alone: tuple[tuple[int, str], ...]
    leaderless: tuple[tuple[int, str], ...]
    stays: tuple[tuple[int, str], ...]


def what_goes(session: Session, account: int) -> WhatGoes:
    """What erasing it would take along."""
    rows = session.execute(
        select(RefitRow.pk, RefitRow.name, MemberRow.role)
        .join(MemberRow, MemberRow.refit_id == RefitRow.pk)
        .where(MemberRow.account_pk == account)
        .order_by(RefitRow.pk)
    ).all()
    found: dict[str, list[tuple[int, str]]] = {"alone": [], "leaderless": [], "stays": []}
    for pk, name, role in rows:
        others = session.scalars(
            select(func.count()).where(MemberRow.refit_id == pk, MemberRow.account_pk != account)
        ).one()
        leads = session.scalars(
            select(func.count()).where(
                MemberRow.refit_id == pk, MemberRow.account_pk != account, MemberRow.role == Membership.SKIPPER
            )
        ).one()
        sort = "alone" if not others else "leaderless" if role is Membership.SKIPPER and not leads else "stays"
        found[sort].append((pk, name))
    return WhatGoes(*(tuple(found[name]) for name in ("alone", "leaderless", "stays")))


def erase(session: Session, account: int) -> set[str]:
    """Erase an account and the refits nobody else is in; returns the checksums of photos that no refit names any more.

    What it did in refits of others stays there, without its name. Raises ValueError while others would be left without a skipper.
    """
    goes = what_goes(session, account)
    if goes.leaderless:
        raise ValueError("Others would be left without a skipper: " + ", ".join(name for _, name in goes.leaderless))
    numbers = [pk for pk, _ in goes.alone]
    named = set(session.scalars(text("select sha256 from photo where refit_id = any(:them)"), {"them": numbers}))
    session.execute(delete(RefitRow).where(RefitRow.pk.in_(numbers)))
    journal.forget(session, account)
    session.execute(update(ChangeRow).where(ChangeRow.account_pk == account).values(erased=True))
    session.execute(delete(SendingRow).where(SendingRow.sender == f"account {account}"))
    session.execute(delete(AccountRow).where(AccountRow.pk == account))
    session.flush()
    kept = set(session.scalars(text("select sha256 from photo where sha256 = any(:them)"), {"them": sorted(named)}))
    return named - kept
