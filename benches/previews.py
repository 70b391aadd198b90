"""Nobody waits for a search: what anybody's page takes while forty previews of one boat are asked for at once."""

from __future__ import annotations

import http.client
import json
import threading
import time
from statistics import median

from benches.run import stage_of

AT_ONCE, BOUND = 40, 200.0
RECIPES = ("bottom-coating", "bilge-pumps", "anodes", "hatches", "gas", "chain", "furler", "floors")


def previews() -> list[bool]:
    """The page to sign in, and the Morning of another boat, within 200 ms each time."""
    import uvicorn

    from benches.generate import generated_refit
    from rovask.core.refit.whole import Whole
    from rovask.desk.command import Actor
    from rovask.desk.door import Desk
    from rovask.start.asgi import app_for
    from rovask.start.sockets import listening_socket
    from rovask.store.accounts import account_named
    from rovask.store.database import transaction

    with stage_of(helpers=1) as stage, listening_socket("127.0.0.1", 0) as sock:
        with transaction(stage.settings.database_url) as session:
            account = account_named(session, "Bench")
        other = (
            Desk(stage.settings).add(Actor(account.pk if account else None), Whole(generated_refit(120, 2)), "bench").pk
        )
        app = app_for(stage.settings)
        app.state.helpers.warm()
        server = uvicorn.Server(uvicorn.Config(app, log_level="warning", lifespan="off"))
        thread = threading.Thread(target=server.run, kwargs={"sockets": [sock]})
        thread.start()
        port = sock.getsockname()[1]

        def get(path: str) -> float:
            began = time.perf_counter()
            line = http.client.HTTPConnection("127.0.0.1", port, timeout=120)
            line.request("GET", path, headers={"cookie": f"rovask_session={stage.cookie}"})
            answer = line.getresponse()
            answer.read()
            if answer.status not in (200, 204, 303):
                raise RuntimeError(f"{path} answered {answer.status}")
            return (time.perf_counter() - began) * 1000

        pages = {"sign-in": "/sign-in", "morning of another boat": f"/r/{other}/morning"}
        for path in pages.values():
            get(path)
        over = threading.Event()

        def preview(number: int) -> None:
            while not over.is_set():
                get(f"/r/{stage.pk}/recipes/{RECIPES[number % len(RECIPES)]}?settled=1&way={number}")

        crowd = [threading.Thread(target=preview, args=(number,)) for number in range(AT_ONCE)]
        for one in crowd:
            one.start()
        time.sleep(1)
        holds = []
        for name, path in pages.items():
            taken = sorted(get(path) for _ in range(20))
            figures = {"median_ms": round(median(taken), 1), "worst_ms": round(taken[-1], 1), "bound_ms": BOUND}
            holds.append(taken[-1] <= BOUND)
            print(json.dumps({"bench": f"forty previews: {name}", **figures, "holds": holds[-1]}), flush=True)
        over.set()
        for one in crowd:
            one.join()
        server.should_exit = True
        app.state.helpers.close()
        thread.join(timeout=10)
        return holds
