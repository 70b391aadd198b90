"""Forty boats in one process: what a page costs when they are asked for in turn, beside what it costs on one of them."""

from __future__ import annotations

import json
import resource
import time
from collections.abc import Callable
from statistics import median

from benches.generate import generated_refit
from benches.run import stage_of

BOATS, ROUNDS, BOUND = 40, 4, 1.2
PAGES = ("morning", "purse", "slip", "jobs", "stores", "launch", "boat", "progress", "purse/ledger")


def boats() -> list[bool]:
    """Processor time of each page round forty boats against that on one: at most 1.2 times as much."""
    from fastapi.testclient import TestClient

    from rovask.core.refit.whole import Whole
    from rovask.desk.command import Actor
    from rovask.desk.door import Desk
    from rovask.start.asgi import app_for
    from rovask.store.accounts import account_named
    from rovask.store.database import transaction

    with stage_of(books=True) as stage:
        with transaction(stage.settings.database_url) as session:
            account = account_named(session, "Bench")
        actor = Actor(account.pk if account is not None else None)
        client = TestClient(app_for(stage.settings), cookies={"rovask_session": stage.cookie})
        keys = [stage.pk]
        _rounds(client.get, keys)
        one = {page: _taken(client.get, keys * BOATS, page) for page in PAGES}
        before = _resident()
        for seed in range(2, BOATS + 1):
            refit = generated_refit(250, seed % 4 + 1)
            keys.append(Desk(stage.settings).add(actor, Whole(refit), "bench").pk)
        _rounds(client.get, keys)  # what is worked out once for a plan is there, as it is on one
        print(
            json.dumps({"bench": "boats: memory", "each_mb": round((_resident() - before) / (BOATS - 1), 1)}),
            flush=True,
        )
        holds = []
        for page in PAGES:
            alone, round_all = one[page], _taken(client.get, [stage.pk, *keys[1:]], page, only=stage.pk)
            ratio = round(round_all / alone, 2)
            holds.append(ratio <= BOUND)
            figures = {"one_ms": round(alone, 1), "round_forty_ms": round(round_all, 1), "ratio": ratio, "bound": BOUND}
            print(json.dumps({"bench": f"boats: page {page}", **figures, "holds": holds[-1]}), flush=True)
        return holds


def _rounds(get: Callable[[str], object], keys: list[int]) -> None:
    for page in PAGES:
        for pk in keys:
            get(f"/r/{pk}/{page}")


def _taken(get: Callable[[str], object], keys: list[int], page: str, only: int | None = None) -> float:
    """Processor milliseconds of a page of one boat, the median; asked for in turn with all of ``keys``."""
    taken: list[float] = []
    for _ in range(ROUNDS if only is None else ROUNDS * 3):
        for pk in keys:
            began = time.process_time()
            get(f"/r/{pk}/{page}")
            if only is None or pk == only:
                taken.append((time.process_time() - began) * 1000)
    return median(taken)


def _resident() -> float:
    """The most this process has held, in megabytes."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
