"""What a start brings into a database: the link of whoever starts it, and the demo."""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path

from rovask.core.refit.givens.choices import Role
from rovask.settings import Settings
from rovask.store import accounts, refits
from rovask.store.account_tables import Membership
from rovask.store.database import transaction

DEMO_FILE = Path(__file__).with_name("demo.refit.json")
SKIPPER = "Skipper"


def start_link(settings: Settings) -> str:
    """A link that signs whoever was here first in, once: only who starts Rovask sees it."""
    clock = settings.clock()
    with transaction(settings.database_url) as session:
        account = accounts.first_account(session) or accounts.new_account(session, SKIPPER, clock)
        account.operator = True  # whoever can start it can do with it as they like anyway
        for pk in refits.without_members(session):  # the demo, and what was here before there were members
            owner = next((one.id for one in refits.load(session, pk).refit.people if one.role is Role.OWNER), None)
            accounts.join(session, pk, account.pk, Membership.SKIPPER, clock, owner)
        return accounts.device_link(session, account.pk, None, clock)


def load_demo(settings: Settings, clock: datetime, *, fresh: bool) -> int:
    """Load the demo if it isn't there; an untouched one starts its day 9 again. Returns its key."""
    from rovask.desk.command import Actor
    from rovask.desk.door import Desk
    from rovask.formats.refit_file import read_refit

    whole = read_refit(DEMO_FILE.read_bytes())
    started = max(entry.at for entry in whole.refit.hours_log) + timedelta(minutes=30)
    with transaction(settings.database_url) as session:
        found = refits.demo_pk(session)
        if found is not None and fresh:
            refits.remove(session, found)
            found = None
        elif found is not None and refits.load(session, found).revision == 1:
            refits.set_clock(session, found, started - clock)
        elif found is not None:
            print("The demo is as you left it; --fresh loads it anew.", flush=True)
    if found is not None:
        return found
    print("Loading the demo refit …", flush=True)
    desk = Desk(settings)
    return desk.add(Actor(None), whole, "loaded the demo", clock, clock_shift=started - clock, is_demo=True).pk
