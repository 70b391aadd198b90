"""Tiny random refits with every kind of rule switched on, small enough to try every plan of them."""

from datetime import timedelta
from typing import Any

from hypothesis import strategies as st

from rovask.core.refit.model import Refit
from tests.builders import BOAT, HAUL, WEEK, link, person, refit, task

MORNING = [{"days": [*WEEK, "sun"], "start": "08:00", "end": "10:30"}]
DAYS = 4
DANGER = {"id": "f", "title": "Loose", "severity": "dangerous", "at": HAUL.isoformat(), "jobs": ["j0"]}


@st.composite
def tiny_refits(draw: st.DrawFn) -> Refit:
    """Two to seven tasks in up to three jobs over a few short days."""
    count = draw(st.integers(2, 7))
    rows: list[dict[str, Any]] = []
    for at in range(count):
        more: dict[str, Any] = draw(
            st.sampled_from(
                [
                    {},
                    {},
                    {"skill": "rigging"},
                    {"hands": 2},
                    {"hands": 2, "skilled": ["rigging"]},
                    {"emits": ["dust"], "gear": ["sander"]},
                    {"gear": ["sander"]},
                    {"shuns": ["dust"], "tender": 1.5, "unbroken": True, "weather": {"dry": True}},
                    {"emits": ["sparks"]},
                    {"emits": ["fumes"]},
                    {"weather": {"dry": True, "coverable": False, "most_wind": 8}},
                    {"state": "afloat_after"},
                    {"state": "slings"},
                    {"parts": ["bolt"]},
                    {"opens": ["hose"]},
                    {"does": ["sands", "seals"]},
                    {"does": ["coats"]},
                    {"state": "either", "takes_out": ["fridge"]},
                ]
            )
        )
        hours = draw(st.sampled_from([0.5, 1, 1.5, 2]))
        place = draw(st.sampled_from(["bay", "deck"]))
        rows.append(task(f"t{at}", hours, place=place) | more)
    links = []
    for then in range(1, count):
        loose = rows[then - 1].get("state", "ashore") == rows[then].get("state", "ashore")
        if loose and draw(st.booleans()):
            low = draw(st.sampled_from([0, 0, 1, 20]))
            high = draw(st.sampled_from([None, None, 3, 24])) if rows[then].get("state") != "slings" else None
            kind = draw(st.sampled_from(["FS", "FS", "SS", "FF", "SF"]))
            tie = link(f"t{then - 1}", f"t{then}", low, None if high is None else low + high, kind)
            links.append(tie | {"cures": draw(st.booleans())})
    meetings = [
        {"id": "survey", "title": "Survey", "at": (HAUL + timedelta(days=1, hours=1)).isoformat(), "hours": 0.5}
    ]
    for end in draw(st.sampled_from([(), (), ("survey", "t0"), ("t0", "survey"), ("survey", "t1"), ("t1", "survey")])):
        if end != "survey" and not any(row["id"] == end and row.get("state", "ashore") != "ashore" for row in rows):
            low = draw(st.sampled_from([0, 0, 2]))
            ends = draw(st.sampled_from([("survey", end), (end, "survey")]))
            links.append(link(*ends, low, draw(st.sampled_from([None, None, 30])), draw(st.sampled_from(["FS", "SS"]))))
    cuts = sorted(draw(st.sets(st.integers(1, count), max_size=2)))
    jobs = []
    for at, (low, high) in enumerate(zip([0, *cuts], [*cuts, count], strict=True)):
        inside = rows[low:high]
        same = len(inside) > 1 and inside[0].get("state", "ashore") == inside[1].get("state", "ashore")
        if same and draw(st.booleans()):
            inside[0] |= {"takes_out": ["heads"], "until": inside[1]["id"]}
        need = draw(st.sampled_from(["must", "must", "could", "should"]))
        jobs.append({"id": f"j{at}", "title": f"Job {at}", "need": need, "tasks": inside})
    wet = draw(st.integers(0, 60))
    hours = 24 * 8
    return refit(
        jobs=[job for job in jobs if job["tasks"]],
        links=links,
        haul_at=HAUL.isoformat(),
        launch_at=(HAUL + timedelta(days=DAYS, hours=1)).isoformat(),
        boat=BOAT | {"fitted": ["holding tank", "water-cooled fridge"]},
        yard={
            "name": "Yard",
            "time_zone": "Europe/Lisbon",
            "slings_hours": 3,
            "rules": [{"emits": "sparks", "only": [{"days": ["tue", "wed", "thu"], "start": "08:00", "end": "10:00"}]}],
        },
        people=[
            person("ann", hours=MORNING, longest_run=2),
            person("bo", hours=MORNING, absences=[{"first": "2026-05-06", "last": "2026-05-06"}]),
            person("rig", role="trade", rate=5000, skills=["rigging"], hours=MORNING),
        ],
        places=[
            {"id": "bay", "name": "Bay", "capacity": 2, "opens_onto": ["deck"]},
            {"id": "deck", "name": "Deck", "capacity": 3},
        ],
        appointments=meetings,
        visits=[{"id": "v", "title": "Bo's stay", "person": "bo", "first": "2026-05-04", "last": "2026-05-07"}]
        if draw(st.booleans())
        else [],
        margins=draw(st.sampled_from([[], [{"what": "water", "days": 1}], [{"what": "water", "days": 1.5}]])),
        findings=draw(st.sampled_from([[], [], [DANGER]])),
        gear=[{"id": "sander", "name": "Sander", "count": 1}],
        outage_limits=[{"service": "heads", "hours": 26}],
        parts=[{"id": "bolt", "name": "Bolt", "status": "ordered", "arrives": (HAUL + timedelta(days=1)).isoformat()}],
        weather={
            "source": "test",
            "fetched_at": HAUL.isoformat(),
            "start": HAUL.isoformat(),
            "temperature": [16.0 + 6 * (hour % 24 < 12) for hour in range(hours)],
            "humidity": [70.0] * hours,
            "rain": [1.0 if wet <= hour < wet + 5 else 0.0 for hour in range(hours)],
            "wind": [12.0 if hour % 24 == 2 else 4.0 for hour in range(hours)],
        },
    )
