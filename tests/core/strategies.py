"""Random small refits for property tests: calendars, crews, places, parts, all four ties with both lags, facts, pins."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from hypothesis import strategies as st

from rovask.core.refit.model import Decision, Photo, Refit
from rovask.core.refit.seen.kinds import Alternative
from rovask.core.refit.whole import Whole
from rovask.standins.synthetic_weather import synthetic_weather
from tests.builders import HAUL, WEEK, link, person, refit, task

MORE: list[dict[str, Any]] = [
    {},
    {},
    {},
    {"emits": ["dust"], "gear": ["sander"]},
    {"shuns": ["dust"], "tender": 5, "weather": {"dry": True, "dew_margin": 3}},
    {"emits": ["sparks"]},
    {"emits": ["fumes"], "gear": ["sander"]},
    {"weather": {"dry": True, "coverable": False, "most_wind": 9}},
    {"units": 3},
    {"hands": 2, "skill": None, "skilled": ["engine"], "place": "hull"},
    {"takes_out": ["heads"]},
]
HALVES = st.integers(1, 16).map(lambda halves: halves / 2)


@st.composite
def _tasks(draw: st.DrawFn, count: int) -> list[dict[str, Any]]:
    rows = []
    for at in range(count):
        hands = draw(st.sampled_from([1, 1, 1, 2]))
        row = task(
            f"t{at}",
            draw(HALVES),
            hands=hands,
            place=draw(st.sampled_from(["hull", "deck", "bay"])),
            skill=draw(st.sampled_from([None, None, None, "engine"])) if hands == 1 else None,
            unbroken=draw(st.booleans()),
            parts=draw(st.sampled_from([[], [], ["late"], ["soon"]])),
            state=draw(st.sampled_from(["ashore"] * 6 + ["either", "afloat_after", "slings"])),
        ) | draw(st.sampled_from(MORE))
        rows.append(row)
    return rows


@st.composite
def refits(draw: st.DrawFn) -> Refit:
    """A refit of one to nine tasks in up to three jobs; its ties run forwards, so they may be tight but not circular."""
    count = draw(st.integers(1, 9))
    rows = draw(_tasks(count))
    if count > 2 and draw(st.booleans()):
        begun = (HAUL + timedelta(hours=1)).isoformat()
        rows[0] |= {
            "begun_at": begun,
            "done_at": (HAUL + timedelta(hours=3, minutes=10)).isoformat(),
            "crew": ["ann"],
            "state": "ashore",
        }
        if rows[1]["hands"] == 1:
            rows[1] |= {"begun_at": begun, "crew": ["bo"], "state": "ashore", "place": "deck"}
    if draw(st.booleans()):
        rows[-1]["pin"] = (HAUL + timedelta(days=draw(st.integers(2, 9)), hours=draw(st.integers(0, 8)))).isoformat()
    links = []
    for then in range(1, count):
        for first in draw(st.sets(st.integers(0, then - 1), max_size=2)):
            low = draw(st.sampled_from([0, 0, 0.5, 4, 16, 30]))
            high = draw(st.sampled_from([None, None, None, 12, 40, 100]))
            kind = draw(st.sampled_from(["FS", "FS", "FS", "SS", "FF", "SF"]))
            tie = link(f"t{first}", f"t{then}", low, None if high is None else low + high, kind)
            if high is not None and kind == "FS" and draw(st.booleans()):
                tie["make_good_hours"] = 1.5
            links.append(tie | {"cures": draw(st.booleans())})
    cuts = sorted(draw(st.sets(st.integers(1, count), max_size=2)))
    jobs = [
        {
            "id": f"j{at}",
            "title": f"Job {at}",
            "need": draw(st.sampled_from(["must", "must", "should", "could"])),
            "tasks": rows[low:high],
        }
        for at, (low, high) in enumerate(zip([0, *cuts], [*cuts, count], strict=True))
    ]
    away = {"first": "2026-05-07", "last": "2026-05-08"}
    return refit(
        jobs=jobs,
        links=links,
        people=[
            person("ann", absences=[away], longest_run=2),
            person("bo", skills=["engine"], longest_run=draw(st.integers(1, 5))),
            person(
                "eng",
                role="trade",
                skills=["engine"],
                hours=[{"days": ["tue", "fri"], "start": "09:30", "end": "15:00"}],
            ),
        ],
        places=[
            {"id": "hull", "name": "Hull", "capacity": 3},
            {"id": "deck", "name": "Deck", "capacity": 2, "outdoors": True, "opens_onto": ["bay"]},
            {"id": "bay", "name": "Bay", "capacity": 1},
        ],
        gear=[{"id": "sander", "name": "Sander", "count": 1}],
        yard={
            "name": "Yard",
            "time_zone": "Europe/Lisbon",
            "latitude": 38.5,
            "longitude": -9.0,
            "slings_hours": 6,
            "rules": [{"emits": "sparks", "only": [{"days": WEEK, "start": "09:00", "end": "16:00"}]}],
        },
        weather=synthetic_weather(draw(st.integers(1, 50)), HAUL, 14 * 24, source="test").model_dump(mode="json"),
        parts=[
            {
                "id": "late",
                "name": "Late",
                "status": "ordered",
                "arrives": (HAUL + timedelta(days=4, minutes=20)).isoformat(),
            },
            {"id": "soon", "name": "Soon", "status": "needed", "lead_days": 1},
        ],
        **draw(_seen(count)),
    )


@st.composite
def _seen(draw: st.DrawFn, count: int) -> dict[str, Any]:
    """Something of every kind that is seen, not known, off the boat or parked."""
    key = st.sampled_from([None, *(f"t{at}" for at in range(count))])
    moment = (HAUL + timedelta(hours=draw(st.integers(1, 90)))).isoformat()
    photos = draw(st.sampled_from([[], ["p"]]))
    chance = draw(st.floats(0, 1))
    return {
        "inspections": [{"id": "i", "title": "Look", "place": "hull", "task": draw(key), "good_to": 1, "bad_from": 2}],
        "findings": [{"id": "f", "title": "Found", "place": "deck", "at": moment, "jobs": ["j0"], "photos": photos}],
        "unknowns": [{"id": "u", "title": "Perhaps", "chance": chance, "hours": 3, "task": draw(key)}],
        "off_boat": [{"id": "o", "what": "Rudder", "off_task": draw(key), "back_task": draw(key), "off_at": moment}],
        "parked": [{"id": "k", "title": "Later", "state": "afloat_after", "next_time": draw(st.booleans())}],
        **_met("t0" if count else None, moment),  # nothing is drawn for it, so that what is drawn else stays the same
    }


def _met(task: str | None, moment: str) -> dict[str, Any]:
    """Something of every kind that hands meet."""
    rung = {"means": "oil", "outcome": "held", "at": moment}
    corners = [{"x": 0.0, "y": 0.0}, {"x": 90.5, "y": 0.0}, {"x": 0.0, "y": 41.25}]
    look = {"candidate": "deck", "showed": "clear", "at": moment, "note": "dry"}
    own = [{"name": "Hawse pipe", "weight": 4.5, "minutes": 10}]
    foot = {"length": 120.5, "holes": 4, "along": 90.0, "across": 70.0, "thread": "M8"}
    return {
        "seized": [{"id": "s", "title": "Nut", "task": task, "size_mm": 8.0, "near": ["core", "fuel"], "tried": [rung], "at": moment}],
        "fits": [{"id": "fi", "title": "Pump", "task": task, "old": foot, "ways_in": [{"name": "door", "width": 400.0, "height": 900.0}], "settled": ["way-0"], "at": moment}],
        "shapes": [
            {"id": "sh", "title": "Plate", "task": task, "corners": corners, "holes": [{"x": 9.0, "y": 9.0, "d": 6.5}], "at": moment},
            {"id": "sh2", "title": "Other", "corners": corners, "mirror_of": "sh", "at": moment},
        ],
        "traces": [{"id": "tr", "title": "Water", "place": "hull", "clues": ["salt"], "own": own, "looks": [look], "task": task, "waits": [task] if task else [], "at": moment}],
        "contacts": [{"id": "co", "title": "Rail", "place": "deck", "one": "aluminium", "other": "stainless", "job": "j0", "at": moment}],
        "covers": [{"id": "cv", "title": "Sole", "place": "hull", "open_task": task, "at": moment}],
    }  # fmt: skip


@st.composite
def wholes(draw: st.DrawFn) -> Whole:
    """A refit with what is kept aside of it."""
    made = draw(refits())
    at = HAUL + timedelta(hours=draw(st.integers(1, 90)))
    photo = Photo(id="p", sha256="ab" * 32, width=9, height=9, size=9, at=at)
    ways = (Alternative(title="So", money=draw(st.integers(-900, 900))),)
    decision = Decision(id="d", title="How", alternatives=ways, job=draw(st.sampled_from([None, "j0"])), at=at)
    return Whole(made, {"photo": (photo,), "decision": (decision,)})
