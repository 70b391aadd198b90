"""Which files a tick and a bill pass through, in the order in which they come: printed, and written into CONTRIBUTING.

python -m tests.ways: run by hand when the way has changed. Everything is run in one thread, once before it is traced, so that
what is worked out once for a refit is there.
"""

from __future__ import annotations

import asyncio
import re
import sys
from collections.abc import Callable
from pathlib import Path
from types import FrameType
from typing import Any

import fastapi.dependencies.utils
import fastapi.routing
import httpx2

from benches.run import Stage, stage_of
from rovask.start.asgi import app_for

ROOT = Path(__file__).parents[1]
SOURCE = str(ROOT / "src/rovask") + "/"
BEGIN, END = "<!-- ways: made by python -m tests.ways -->", "<!-- end of ways -->"
LAYERS = ("web", "desk", "store", "core", "formats")


async def _inline(work: Callable[..., Any], *args: Any, **more: Any) -> Any:
    return work(*args, **more)


def passed(stage: Stage, path: str, form: dict[str, str]) -> list[str]:
    """The files of ours that one form passes through, the page it leads to included, by when each is first called."""
    seen: dict[str, None] = {}

    def note(frame: FrameType, event: str, _: object) -> None:
        name = frame.f_code.co_filename
        if event == "call" and name.startswith(SOURCE):
            seen.setdefault(name.removeprefix(SOURCE))

    async def go() -> None:
        transport = httpx2.ASGITransport(app=app_for(stage.settings))
        cookies = {"rovask_session": stage.cookie}
        async with httpx2.AsyncClient(transport=transport, base_url="http://testserver", cookies=cookies) as client:
            await client.get(f"/r/{stage.pk}/morning")
            sys.setprofile(note)
            answer = await client.post(path, data={"csrf": stage.csrf} | form)
            if answer.status_code == 303:
                await client.get(answer.headers["location"])
            sys.setprofile(None)
            if answer.status_code != 303:
                raise RuntimeError(f"{path} was refused: {answer.status_code}")

    asyncio.run(go())
    return list(seen)


def told(name: str, files: list[str]) -> str:
    """A paragraph on one way: layer by layer, each file once."""
    lines = [f"**{name}** passes {len(files)} files:"]
    for layer in LAYERS:
        mine = [
            re.sub(r"\.py$|\.html$", "", one.removeprefix(f"{layer}/")) for one in files if one.startswith(f"{layer}/")
        ]
        lines.append(f"- `{layer}` ({len(mine)}): {', '.join(mine)}")
    return "\n".join(lines)


def main() -> None:
    """Trace both ways and write them down."""
    fastapi.routing.run_in_threadpool = _inline  # type: ignore[assignment]
    fastapi.dependencies.utils.run_in_threadpool = _inline  # type: ignore[assignment]
    with stage_of() as stage:
        morning = {"next": f"/r/{stage.pk}/morning", "person": "ann", "anyway": "1"}
        tick = passed(stage, f"/r/{stage.pk}/task/t1/done", morning)
        bill = {"next": f"/r/{stage.pk}/purse", "kind": "invoice", "title": "Tape", "amount": "12"}
        bought = passed(stage, f"/r/{stage.pk}/purse/entry", bill)
    text = f"{BEGIN}\n{told('A tick', tick)}\n\n{told('A bill', bought)}\n{END}"
    page = ROOT / "CONTRIBUTING.md"
    page.write_text(re.sub(f"{re.escape(BEGIN)}.*?{re.escape(END)}", lambda _: text, page.read_text(), flags=re.DOTALL))
    print(text)


if __name__ == "__main__":
    main()
