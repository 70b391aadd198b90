"""Make the demo's refit file of demo.toml, as it stands on day 9 of 38.

The work is planned from the haul-out on; what that plan puts before day 9 is then recorded as done, but for
a few things that went late. ``./rovask assets`` writes the file; a check proves that it is current.
"""

from __future__ import annotations

import runpy
import tomllib
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from rovask.core.plain.words import minutes_of
from rovask.core.plan.baseline import baseline_of
from rovask.core.plan.planner import Planned, make_plan
from rovask.core.plan.result import Plan
from rovask.core.plan.verdict.verdict import judge
from rovask.core.readings.acceptance import acceptances
from rovask.core.refit.model import ExchangeRate, Refit
from rovask.core.refit.stores.choices import PartStatus
from rovask.standins.synthetic_weather import synthetic_weather

ZONE = timedelta(hours=1)  # Lisbon time in May and June
HAUL = datetime(2026, 5, 4, 9, tzinfo=UTC) - ZONE
AT_FIRST = datetime(2026, 6, 4, 10, 30, tzinfo=UTC) - ZONE  # the slot on haul day …
LAUNCH = AT_FIRST + timedelta(days=7)  # … put off a week when nobody believed in it any more
DAY_9 = datetime(2026, 5, 12, 10, 0, tzinfo=UTC) - ZONE
OUTDOORS = ("rig", "mast", "fore", "deck", "cockpit", "tops", "water", "bottom", "keel", "rudder", "shaft", "open")
LATITUDE, SKY_SEED = 38.6, 3
PACES = {"joss": 1.25, "mira": 1.1}  # hours they really take for one that was thought
WEEK = ["mon", "tue", "wed", "thu", "fri", "sat"]
SPOTS = {"fore": "foredeck", "peak": "forepeak", "laz": "lazarette", "tops": "topsides", "water": "waterline"}
SPOTS |= {"open": "through-hulls"}
RECIPES = {
    "aloft": "nav-lights",
    "bilge": "bilge-pumps",
    "boot": "boot-top",
    "bottom": "bottom-coating",
    "hatch": "hatches",
    "head": "heads",
    "hoses": "raw-water",
    "keel": "keel-joint",
    "mounts": "engine-mounts",
    "plates": "chainplates",
    "rigw": "standing-rigging",
    "seal": "face-seal",
    "seat": "ceilings",
    "shaft": "shaft-bearing",
    "steer": "steering-gear",
    "step": "mast-out",
    "tops": "topsides",
    "valves": "through-hulls",
    "winch": "winches",
}
BOOKS = runpy.run_path(str(Path(__file__).with_name("build_purse.py")))
WAYS = tomllib.loads((Path(__file__).parent / "ways.toml").read_text(encoding="utf-8"))
HANDS = tomllib.loads(
    (Path(__file__).parent / "hands.toml").read_text(encoding="utf-8")
)  # what was met, measured, found
SOURCE = tomllib.loads(Path(__file__).with_name("demo.toml").read_text(encoding="utf-8"))


def _task(job: str, at: int, row: list[Any]) -> dict[str, Any]:
    title, place, hours, more = row
    return {
        "id": f"{job}-{at}",
        "title": title,
        "place": more.get("place", place),
        "state": more.get("state", "ashore"),
        "work": {
            "least": min(max(0.5, round(hours * 1.5) / 2), hours),
            "likely": hours,
            "most": max(round(hours * 3.2) / 2, hours),
        },
        "hands": more.get("hands", 1),
        "skill": more.get("skill"),
        "unbroken": more.get("unbroken", False),
        "people": more.get("people", []),
        "parts": more.get("parts", []),
        "caution": SOURCE["cautions"].get(more.get("caution"), ""),
        "opens": SOURCE["opens"].get(f"{job}-{at}", []),
    } | _rules(f"{job}-{at}", title, more.get("place", place), more)


def _rules(key: str, title: str, place: str, more: dict[str, Any]) -> dict[str, Any]:
    """What a task gives off, can't stand and needs of the weather: by its title and caution, then as demo.toml says."""
    low, out = title.lower(), {}
    wet = any(word in low for word in ("coat ", "fairing coat", "paint", "varnish", "primed")) and "sand" not in low
    if any(word in low for word in ("sand", "grind", "scrape", "taper")):
        out = {"emits": ["dust"], "gear": ["sander"] if "sand" in low or "taper" in low else []}
    elif wet:
        out = {"shuns": ["dust"], "tender": 4 if place in OUTDOORS else 6}
        if place in OUTDOORS and more.get("unbroken"):
            out["weather"] = {"dry": True, "least_temp": 8, "most_humidity": 88, "dew_margin": 3}
    elif place == "rig":
        out = {"weather": {"dry": True, "most_wind": 10}}
    if more.get("caution") == "solvent" and not wet:
        out["emits"] = [*out.get("emits", []), "fumes"]
    return out | SOURCE["rules"].get(key, {})


def _tie(first: str, then: str, least: float, most: float, reason: str) -> dict[str, Any]:
    limit = None if most < 0 else most
    return {"first": first, "then": then, "min_lag": least, "max_lag": limit, "reason": reason}


def _ties() -> list[dict[str, Any]]:
    """Each task after the one before it in its job, unless it is free; then the ties between jobs."""
    out = []
    for job in SOURCE["job"]:
        for at, row in enumerate(job["tasks"][1:], 2):
            if row[3].get("free"):
                continue
            least, most = row[3].get("lag", (0, -1))
            why = "cure and overcoating window" if most >= 0 else "cure" if least else ""
            out.append(_tie(f"{job['id']}-{at - 1}", f"{job['id']}-{at}", least, most, why))
    return out + [_tie(*row) for row in SOURCE["data"]["ties"]]


def _part(row: list[Any]) -> dict[str, Any]:
    names = ("id", "name", "quantity", "unit", "supplier", "price", "lead_days", "status")
    day = row[8]
    arrives = (HAUL + timedelta(days=day - 1, hours=2)).isoformat() if day else None
    return dict(zip(names, row[:8], strict=True)) | {"arrives": arrives}


def refit() -> Refit:
    """The whole haul-out as it was planned on haul day, nothing done yet."""
    jobs = [
        {key: job[key] for key in ("id", "title", "need", "owner")}
        | {"recipe": RECIPES.get(job["id"], job["id"])}
        | {"tasks": [_task(job["id"], at, row) for at, row in enumerate(job["tasks"], 1)]}
        for job in SOURCE["job"]
    ]
    return Refit.model_validate(
        {
            "name": "Sandling, spring haul-out",
            "currency": "EUR",
            "budget": 1580000,
            "haul_at": HAUL,
            "launch_at": AT_FIRST,
            "boat": {
                "name": "Sandling",
                "rig": "cutter",
                "hull_material": "grp",
                "keel": "fin",
                "rudder": "skeg",
                "drive": "shaft",
                "length_m": 11.9,
                "waterline_m": 9.8,
                "beam_m": 3.7,
                "draft_m": 1.95,
                "displacement_kg": 9800,
                "mast_step": "keel",
                "mast_height_m": 16.2,
                "freeboard_bow_m": 1.45,
                "freeboard_stern_m": 1.1,
                "propeller": "feathering",
                "through_hulls": 9,
                "berths": 5,
                "fitted": SOURCE["seen"]["fitted"],
            },
            "yard": {
                "name": "Oxna Slip Yard",
                "town": "Port Averra",
                "time_zone": "Europe/Lisbon",
                "hours": [{"days": WEEK, "start": "07:00", "end": "20:00"}],
                "latitude": LATITUDE,
                "longitude": -9.2,
                "storm_from": 11,
                "storm_to": 3,
                "shelter_days": 9,
                "rules": [
                    {
                        "emits": "dust",
                        "only": [{"days": WEEK, "start": "08:00", "end": "18:00"}],
                        "reason": "neighbours on both sides",
                    },
                    {"emits": "sparks", "only": [{"days": WEEK[:5], "start": "09:00", "end": "16:00"}]},
                ],
                "slings_hours": 3,
                "slings_night": 14000,
                "lift_and_launch": 68000,
                "lay_day": 3900,
                "free_days": 5,
            },
            "places": [
                {
                    "id": key,
                    "name": name,
                    "spot": SPOTS.get(key, key),
                    "capacity": room,
                    "outdoors": key in OUTDOORS,
                    "opens_onto": SOURCE["data"]["opens_onto"].get(key, []),
                }
                for key, name, room in SOURCE["data"]["places"]
            ],
            "gear": [{"id": "sander", "name": "Random-orbit sander", "count": 2}],
            "visits": SOURCE["past"]["visits"],
            "weather": synthetic_weather(SKY_SEED, DAY_9, 14 * 24, LATITUDE, "simulated").model_dump(mode="json"),
            "people": SOURCE["data"]["people"],
            "parts": [_part(row) for row in SOURCE["data"]["parts"]],
            "jobs": jobs,
            "links": [{"id": f"l{at}"} | tie for at, tie in enumerate(_ties(), 1)],
            "appointments": [
                {
                    "id": "survey",
                    "title": "Insurance surveyor aboard",
                    "at": HAUL + timedelta(days=15, hours=1),
                    "hours": 2,
                    "people": ["joss"],
                },
                {
                    "id": "papers",
                    "title": "Residence papers in town",
                    "at": HAUL + timedelta(days=10, hours=1),
                    "hours": 3,
                    "people": ["mira", "joss"],
                },
            ],
        }
        | _seen()
    )


def _seen() -> dict[str, Any]:
    """What was looked at, found, is not known, lies off the boat or is parked."""
    seen, second = SOURCE["seen"], (HAUL + timedelta(days=1, hours=2)).isoformat()

    def figure(value: float) -> float | None:
        return None if value < 0 else value

    return {
        "inspections": [
            {
                "id": f"look-i{at}",
                "title": title,
                "place": place,
                "task": task or None,
                "unit": unit,
                "good_to": figure(good),
                "bad_from": figure(bad),
                "repair_hours": hours,
                "lead_days": lead,
                "recipe": recipe,
                "verdict": verdict or None,
                "reading": figure(reading),
                "note": note,
                "at": second if verdict else None,
            }
            for at, (title, place, task, unit, good, bad, hours, lead, recipe, verdict, reading, note) in enumerate(
                seen["inspections"], 1
            )
        ],
        "findings": [
            {
                "id": f"f{at}",
                "title": title,
                "place": place,
                "severity": severity,
                "note": note,
                "jobs": [job] if job else [],
                "settled": settled,
                "at": (HAUL + timedelta(days=day - 1, hours=3)).isoformat(),
            }
            for at, (title, place, severity, note, job, settled, day) in enumerate(seen["findings"], 1)
        ],
        "unknowns": [
            {
                "id": f"u{at}",
                "title": title,
                "chance": chance,
                "hours": hours,
                "lead_days": lead,
                "money": cents,
                "task": task,
                "recipe": recipe or None,
            }
            for at, (title, chance, hours, lead, cents, task, recipe) in enumerate(seen["unknowns"], 1)
        ],
        "off_boat": [
            {
                "id": f"o{at}",
                "what": what,
                "off_task": off or None,
                "back_task": back or None,
                "lies_at": lies,
                "note": how,
                "off_at": (HAUL + timedelta(days=day - 1, hours=4)).isoformat() if day else None,
            }
            | (more[0] if more else {})
            for at, (what, off, back, lies, how, day, *more) in enumerate([*seen["off_boat"], *seen["others"]], 1)
        ],
        "parked": [
            {
                "id": f"k{at}",
                "title": title,
                "place": place,
                "state": state,
                "hours": hours,
                "recipe": recipe or None,
                "note": note,
                "next_time": next_time,
            }
            for at, (title, place, state, hours, recipe, note, next_time) in enumerate(seen["parked"], 1)
        ],
    }


def hoped_for(planned: Refit) -> tuple[Refit, Plan]:
    """The refit as it was on haul day, when everything with a date was still on its way, and its plan."""
    hoped = planned.model_dump(mode="json")
    for row in hoped["parts"]:
        row["status"] = "ordered" if row["arrives"] else row["status"]
    made = Refit.model_validate(hoped)
    return made, make_plan(made, HAUL)


def on_day_9(planned: Refit) -> Refit:
    """The same refit with the first eight days behind it: work recorded, some of it late, one parcel overdue."""
    plan = hoped_for(planned)[1].by_task()
    data = planned.model_dump(mode="json")
    rows = {task["id"]: task for job in data["jobs"] for task in job["tasks"]}
    before: dict[str, list[str]] = {}
    for link in planned.links:
        before.setdefault(link.then, []).append(link.first)
    missing = {part.id for part in planned.parts if part.status is not PartStatus.CHECKED}
    done = {"haul"}
    log: list[dict[str, Any]] = []
    for key in sorted((key for key in rows if key in plan), key=lambda key: plan[key].start):
        item, row = plan[key], rows[key]
        blocked = key in SOURCE["late"] or set(row["parts"]) & missing or not set(before.get(key, [])) <= done
        if blocked or item.start >= DAY_9:
            continue
        row["begun_at"], row["crew"] = item.start.isoformat(), list(item.people)
        hours, at = row["work"]["likely"], item.end
        if item.end <= DAY_9 - timedelta(minutes=30):
            row["done_at"] = item.end.isoformat()
            done.add(key)
        else:
            at = DAY_9 - timedelta(minutes=30)
            hours = min(max(0.5, min(hours - 0.5, minutes_of(DAY_9 - item.start) // 30 / 2)), 2.0)
        for who in item.people:
            worked = max(round(hours * PACES.get(who, 1.0) * 2) / 2, 0.5) if row.get("done_at") else hours
            log.append({"id": f"h{len(log) + 1}", "task": key, "person": who, "at": at.isoformat(), "hours": worked})
    data["hours_log"], data["launch_at"] = log, LAUNCH.isoformat()
    for row in data["unknowns"][1:]:  # the first is still to be answered
        row["state"] = "vanished" if row["task"] in done else "open"
    return _looked_at(Refit.model_validate(BOOKS["with_books"](data | _days(data) | WAYS | HANDS, HAUL)))


def _days(data: dict[str, Any]) -> dict[str, Any]:
    """The days so far in their owners' words, and the hours that were lost."""
    first, zone = HAUL.date() - timedelta(days=1), ZoneInfo("Europe/Lisbon")
    there: dict[date, set[str]] = {}
    for entry in data["hours_log"]:
        there.setdefault(datetime.fromisoformat(entry["at"]).astimezone(zone).date(), set()).add(entry["person"])
    return {
        "days": [
            {
                "id": f"d{day}",
                "on": (first + timedelta(days=day)).isoformat(),
                "here": sorted(there.get(first + timedelta(days=day), ())),
                "weather": weather,
                "words": words,
                "closed_at": (HAUL + timedelta(days=day - 1, hours=11)).isoformat(),
            }
            for day, weather, words in SOURCE["past"]["days"]
        ],
        "lost": [
            {
                "id": f"w{at}",
                "on": (first + timedelta(days=day)).isoformat(),
                "reason": reason,
                "hours": hours,
                "person": who or None,
                "job": job,
                "note": note,
            }
            for at, (day, reason, hours, who, job, note) in enumerate(SOURCE["past"]["lost"], 1)
        ],
    }


def _looked_at(made: Refit) -> Refit:
    """The same with what is done looked at by the owners, all but the trade's work that was done last."""
    found = sorted(acceptances(made).values(), key=lambda one: (one.task.done_at or HAUL, one.task.id))
    last = next((one for one in reversed(found) if one.paid), None)
    rows = [
        {
            "id": f"c{at}-{number}",
            "task": one.task.id,
            "title": wanted.title,
            "at": ((one.task.done_at or HAUL) + timedelta(hours=1)).isoformat(),
            "person": next(who for who in ("mira", "joss") if who not in one.task.crew or len(one.task.crew) > 1),
            "passed": True,
        }
        for at, one in enumerate(found, 1)
        for number, wanted in enumerate(one.wanted, 1)
        if one is not last
    ]
    return Refit.model_validate(made.model_dump() | {"checks": rows})


def aside() -> dict[str, Any]:
    """What the demo keeps aside, by kind: rates of exchange, and the plan of haul day."""
    made, plan = hoped_for(refit())
    planned = Planned(plan, judge(made, plan))
    return {
        "baseline": (baseline_of(made, planned, "b1", "Plan at the haul-out", "kept at the haul-out", HAUL),),
        "rate": tuple(
            ExchangeRate.model_validate(row)
            for row in sorted(BOOKS["rates"](HAUL), key=lambda row: (row["at"], row["id"]))
        ),
    }
