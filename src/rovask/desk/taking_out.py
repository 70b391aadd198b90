"""What is taken out as files: a refit with its photos and its Log, and all that is somebody's own."""

from __future__ import annotations

import json
import re
import zipfile
from collections.abc import Iterable
from datetime import UTC
from typing import IO, Any

from sqlalchemy.orm import Session

from rovask.core.refit.model import Photo, Refit
from rovask.core.refit.register import kinds
from rovask.core.refit.whole import Whole
from rovask.desk.door import Desk
from rovask.formats.bundle import write_bundle
from rovask.formats.tables import write_csv
from rovask.store import accounts, journal, ways_in
from rovask.store.accounts import SignedIn
from rovask.store.errors import NotFound
from rovask.store.history import ChangeEntry, history
from rovask.store.records import load_aside
from rovask.store.refits import list_refits

LOG_HEAD = ("change", "at", "who", "what", "taken back", "spare before, min", "spare after, min")
MOST_CHANGES = 1_000_000
MAY_SAVE = ("skipper", "crew", "reader")  # a trade sees its own work alone


def whole_of(desk: Desk, session: Session, account: int, pk: int) -> Whole:
    """A refit with all that is kept aside, for whoever may see it. Raises NotFound for others."""
    refit = desk.seen_by(session, account, pk).kept.refit
    return Whole(refit, {kind.name: load_aside(session, pk, kind) for kind in kinds(aside=True)})


def log_file(entries: Iterable[ChangeEntry]) -> bytes:
    """Every change of a refit as CSV, the first first."""
    rows = [
        (
            one.pk,
            one.at.astimezone(UTC).isoformat(timespec="seconds"),
            one.who,
            one.what,
            "yes" if one.taken_back else "",
            one.before.spare_minutes if one.before else None,
            one.after.spare_minutes if one.after else None,
        )
        for one in entries
    ]
    return write_csv(LOG_HEAD, rows[::-1])


def bundle_of(desk: Desk, account: int, pk: int) -> tuple[Refit, bytes]:
    """A refit with its photos and its Log as one zip; a photo whose file is gone is left out and still named. Raises NotFound."""
    with desk.looking() as session:
        whole = whole_of(desk, session, account, pk)
        log = log_file(history(session, pk, MOST_CHANGES))
    photos = {}
    for photo in whole.of(Photo):
        try:
            photos[photo.sha256] = desk.photos.content(photo.sha256)
        except NotFound:
            continue
    return whole.refit, write_bundle(whole, photos, log)


def file_name(refit: Refit) -> str:
    """What a file of a refit is called."""
    return re.sub(r"[^a-z0-9]+", "-", refit.name.lower()).strip("-") or "refit"


def everything_of(desk: Desk, who: SignedIn, file: IO[bytes]) -> None:
    """All that is somebody's own, into a zip: each refit they may see as a zip that can be brought in again, and their account."""
    with desk.looking() as session:
        mine = list_refits(session, who.account)
        account: dict[str, Any] = {
            "name": who.name,
            "refits": [{"name": one.name, "role": one.role.value, "number": one.pk} for one in mine],
            "browsers": [
                {
                    "since": one.since.isoformat(),
                    "last_used": one.seen_at.isoformat(),
                    "from": one.address,
                    "calls_itself": one.agent,
                }
                for one in accounts.sessions_of(session, who, desk.settings.clock())
            ],
            "passkeys": [
                {"name": one.name, "since": one.made_at.isoformat()}
                for one in ways_in.passkeys_of(session, who.account)
            ],
            "journal": [
                {"at": one.at.isoformat(), "what": one.what.value, "about": one.about, "from": one.address}
                for one in journal.lines(session, account=who.account, most=100_000)
            ],
        }
    with zipfile.ZipFile(file, "w") as out:
        out.writestr("account.json", json.dumps(account, indent=1, ensure_ascii=False), zipfile.ZIP_DEFLATED)
        for one in mine:
            if one.role.value not in MAY_SAVE:
                continue
            refit, content = bundle_of(desk, who.account, one.pk)
            out.writestr(f"{one.pk}-{file_name(refit)}.refit.zip", content)
