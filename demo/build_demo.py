"""Write demo/demo.refit.json: an invented boat in an invented yard, as it stands on day 9 of 31.

The work below is planned from the haul-out on; what that plan puts before day 9 is then recorded as done,
but for a few things that went late. Run by ``./rovask demo-file``; the result is committed and checked.
"""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from rovask.core.model import Refit
from rovask.core.plan.planner import make_plan
from rovask.formats.refit_file import write_refit
from rovask.core.words import minutes_of

ZONE = timedelta(hours=1)  # Lisbon time in May and June
HAUL = datetime(2026, 5, 4, 9, tzinfo=UTC) - ZONE
LAUNCH = datetime(2026, 6, 4, 10, 30, tzinfo=UTC) - ZONE
DAY_9 = datetime(2026, 5, 12, 10, 0, tzinfo=UTC) - ZONE
LATE = {"steer-3", "hatch-2", "winch-2", "gas-2", "panel-3", "hoses-4"}

DUST = "Mask, goggles, gloves. Old bottom paint is poison: sand wet, collect all of it, follow the yard's rules."
EPOXY = "Gloves and long sleeves: epoxy sensitises for life. Mask when sanding. The product's data sheet comes first."
HULL = "Nobody under the hull alone, and nobody but the yard touches a prop or a block."
ALOFT = "Two lines, two people, not in wind. Nobody stands under the mast."
LIFT = "More than two people can hold. Rig the tackle before the last bolt is out; keep feet clear."
GAS = "Licensed fitter only. Bottles ashore, lockers open, no flame until the test is signed."
MAINS = "Shore power off and plug in hand before the panel is opened. Mains work is for a licensed electrician."
SOLVENT = "Solvent: open hatches, no sparks or smoking, rags into a closed tin."
SLINGS = "In the slings: hands and heads clear of the straps; the yard gives the word."


def shift(days: str, start: str, end: str) -> dict[str, Any]:
    return {"days": days.split(), "start": start, "end": end}


WEEK = "mon tue wed thu fri sat"
OWNERS = [shift(WEEK, "08:00", "12:00"), shift(WEEK, "13:00", "18:00")]
CREW = [shift("mon tue wed thu fri", "08:00", "12:00"), shift("mon tue wed thu fri", "13:00", "17:00")]

PEOPLE = [
    dict(id="mira", name="Mira Oakes", role="owner", skills=["paint", "electric", "sewing"], hours=OWNERS,
         absences=[dict(first="2026-05-18", last="2026-05-24", reason="with her mother")]),
    dict(id="joss", name="Joss Penrow", role="owner", skills=["mechanics", "plumbing", "laminating"], hours=OWNERS),
    dict(id="lene", name="Lene Varga", role="helper", skills=["paint"], hours=[shift(WEEK, "09:00", "13:00"),
         shift(WEEK, "14:00", "17:00")], arrives="2026-05-25", leaves="2026-05-30"),
    dict(id="aurel", name="Aurel Tamm, rigger", role="trade", skills=["rigging"], rate=5800, call_out_hours=3,
         hours=[shift("wed fri", "08:30", "12:30"), shift("wed fri", "13:30", "17:00")]),
    dict(id="bette", name="Bette Kroll, engineer", role="trade", skills=["mechanics", "alignment", "gas"], rate=6400,
         call_out_hours=2, hours=[shift("mon thu", "08:00", "12:00"), shift("mon thu", "13:00", "17:00")]),
    dict(id="ruy", name="Ruy Sabran, laminator", role="trade", skills=["laminating", "structure"], rate=4900,
         call_out_hours=4, hours=[shift("tue wed thu", "08:00", "14:00"), shift("tue wed thu", "14:30", "17:00")]),
    dict(id="nuno", name="Nuno, yard", role="yard", skills=["lifting", "spraying"], rate=3800, hours=CREW),
    dict(id="tico", name="Tico, yard", role="yard", skills=["lifting"], rate=3800, hours=CREW),
]
PLACES = [
    ("rig", "Masthead & rig", 2), ("mast", "Mast & step", 2), ("fore", "Foredeck", 3), ("deck", "Side decks", 4),
    ("cockpit", "Cockpit", 3), ("peak", "Forepeak", 1), ("saloon", "Saloon", 3), ("galley", "Galley", 1),
    ("heads", "Heads", 1), ("nav", "Nav & electrics", 1), ("engine", "Engine bay", 2), ("laz", "Lazarette & steering", 1),
    ("tops", "Topsides", 4), ("water", "Waterline", 4), ("bottom", "Bottom", 5), ("open", "Through-hulls", 2),
    ("shaft", "Shaft & propeller", 2), ("keel", "Keel", 2), ("rudder", "Skeg & rudder", 4),
]
# id, name, quantity, unit, supplier, cents, lead days, status, expected (day of haul-out, or None)
PARTS = [
    ("barrier", "Epoxy barrier coat", 15, "L", "Averra Chandlery", 61500, 3, "checked", 3),
    ("anti", "Eroding antifouling", 10, "L", "Averra Chandlery", 48900, 4, "needed", None),
    ("boot", "Boot-top enamel", 1, "L", "Averra Chandlery", 6400, 2, "needed", None),
    ("resin", "Laminating epoxy with hardener", 12, "kg", "Norrland Resins", 29800, 5, "ordered", 9),
    ("cloth", "Biaxial glass 450 g", 8, "m²", "Norrland Resins", 11800, 5, "ordered", 9),
    ("filler", "Fairing filler", 3, "kg", "Averra Chandlery", 5200, 2, "checked", 4),
    ("bearing", "Shaft bearing 35 x 48 mm", 1, "", "Bearing House Ostra", 9800, 4, "ordered", 8),
    ("seal", "Face seal kit 35 mm", 1, "", "Ostra Marine Supply", 31200, 8, "ordered", 13),
    ("mounts", "Engine mounts", 4, "", "Ostra Marine Supply", 42800, 9, "ordered", 16),
    ("studs", "Stud set M12", 8, "", "Ostra Marine Supply", 3900, 3, "checked", 5),
    ("valves", "Bronze valves 1 ½ in", 3, "", "Averra Chandlery", 27600, 3, "checked", 5),
    ("hose", "Raw-water hose 38 mm", 6, "m", "Averra Chandlery", 9900, 2, "checked", 4),
    ("clamps", "Hose clamps, stainless", 24, "", "Averra Chandlery", 6800, 1, "checked", 4),
    ("anodes", "Anode set", 1, "", "Averra Chandlery", 11200, 2, "needed", None),
    ("wire", "Standing rigging, ten stays", 1, "set", "Tamm Rigging", 298000, 12, "ordered", 18),
    ("gland", "Mast gland and boot", 1, "", "Tamm Rigging", 5400, 6, "ordered", 15),
    ("sealant", "Bedding sealant", 8, "tubes", "Averra Chandlery", 13600, 1, "checked", 3),
    ("plates", "Chainplate bolts", 16, "", "Ostra Marine Supply", 7800, 4, "ordered", 11),
    ("core", "Closed-cell core 15 mm", 2, "m²", "Norrland Resins", 8600, 5, "ordered", 9),
    ("motor", "Windlass gasket kit", 1, "", "Ostra Marine Supply", 4700, 7, "needed", None),
    ("cable", "Steering cable and sheaves", 1, "set", "Ostra Marine Supply", 16900, 6, "ordered", 14),
    ("toilet", "Heads pump and seals", 1, "", "Averra Chandlery", 14800, 4, "ordered", 10),
    ("sanhose", "Sanitary hose 38 mm", 5, "m", "Averra Chandlery", 11500, 4, "ordered", 10),
    ("panel", "Distribution panel", 1, "", "Brightwater Electric", 38600, 10, "ordered", 17),
    ("copper", "Tinned cable and lugs", 1, "lot", "Brightwater Electric", 14200, 3, "checked", 6),
    ("lights", "Navigation lights", 3, "", "Brightwater Electric", 21800, 5, "needed", None),
    ("alarm", "High-water alarm and float", 1, "", "Brightwater Electric", 8900, 5, "needed", None),
    ("lenses", "Hatch acrylic, cut", 2, "", "Town glazier", 16400, 6, "ordered", 15),
    ("chain", "Chain 10 mm", 60, "m", "Averra Chandlery", 48600, 6, "needed", None),
    ("gashose", "Gas hose and regulator", 1, "", "Ostra Marine Supply", 7400, 3, "checked", 6),
    ("impeller", "Impeller and gaskets", 1, "", "Ostra Marine Supply", 5200, 3, "checked", 5),
    ("canvas", "Acrylic canvas", 6, "m", "Sail loft Averra", 17800, 5, "ordered", 12),
]

# job: id, title, need, owner; tasks: title, place, hours, then options:
#   h hands, s skill, u unbroken, p parts, c caution, lag (min, max) after the task before,
#   free not tied to the task before, st state, who named people
J = [
    ("haul", "Haul, wash and block", "must", "joss", [
        ("Lift out and wash", "bottom", 2, dict(h=2, s="lifting", c=HULL)),
        ("Block and prop, keel supported along its length", "keel", 1.5, dict(h=2, s="lifting", c=HULL)),
        ("Photograph blocking and bottom, note the pad patches", "bottom", 1, {}),
        ("Tie the ladder, rig shore power and water", "cockpit", 1.5, dict(h=2)),
    ]),
    ("look", "First look", "must", "mira", [
        ("Propeller, shaft and bearing: play by hand", "shaft", 1, dict(c=HULL)),
        ("Rudder play and skeg", "rudder", 1, dict(free=1)),
        ("Every valve by hand", "open", 1.5, dict(free=1)),
        ("Keel joint and moisture readings", "keel", 2, dict(free=1)),
        ("Engine mounts, hoses and steering gear", "engine", 1.5, dict(free=1)),
    ]),
    ("bottom", "Bottom: barrier and antifouling", "must", "mira", [
        ("Scrape and wet-sand the bottom", "bottom", 9, dict(h=2, c=DUST)),
        ("Open and drain blisters", "bottom", 4, dict(c=DUST)),
        ("Rinse and dry, first round", "bottom", 1.5, {}),
        ("Rinse and dry, second round", "bottom", 1.5, dict(lag=(40, None))),
        ("Moisture readings flat?", "bottom", 1, dict(lag=(72, None))),
        ("Fill blisters", "bottom", 5, dict(p=["filler"], c=EPOXY)),
        ("Sand fair", "bottom", 6, dict(h=2, c=DUST, lag=(16, None))),
        ("Mask the waterline", "water", 2, {}),
        ("Barrier coat 1", "bottom", 4, dict(h=2, s=None, u=1, p=["barrier"], c=EPOXY)),
        ("Barrier coat 2", "bottom", 4, dict(h=2, u=1, c=EPOXY, lag=(6, 48))),
        ("Barrier coat 3", "bottom", 4, dict(h=2, u=1, c=EPOXY, lag=(6, 48))),
        ("Antifouling coat 1", "bottom", 4, dict(h=2, u=1, p=["anti"], c=DUST, lag=(5, 48))),
        ("Antifouling coat 2, third along the edges", "bottom", 4.5, dict(h=2, u=1, c=DUST, lag=(8, None))),
    ]),
    ("boot", "Boot-top", "should", "mira", [
        ("Sand and wipe the boot-top", "water", 3, dict(c=SOLVENT)),
        ("Mask", "water", 2, {}),
        ("Boot-top coat 1", "water", 2.5, dict(u=1, s="paint", p=["boot"], c=SOLVENT)),
        ("Boot-top coat 2", "water", 2.5, dict(u=1, s="paint", c=SOLVENT, lag=(16, 48))),
    ]),
    ("tops", "Topsides polished", "could", "mira", [
        ("Wash and de-wax", "tops", 3, dict(c=SOLVENT)),
        ("Cut port side", "tops", 5, {}),
        ("Cut starboard side", "tops", 5, {}),
        ("Wax", "tops", 4, {}),
        ("Name and hailing port back on", "tops", 1.5, {}),
    ]),
    ("keel", "Keel joint opened and laminated", "must", "ruy", [
        ("Grind the joint open", "keel", 4, dict(c=DUST)),
        ("Drain and dry the void", "keel", 1, {}),
        ("Moisture reading of the void", "keel", 0.5, dict(lag=(96, None))),
        ("Taper the skin 12:1", "keel", 5, dict(s="structure", c=DUST)),
        ("Laminate, largest ply first", "keel", 6, dict(s="structure", u=1, p=["resin", "cloth"], c=EPOXY)),
        ("Fairing coat", "keel", 2.5, dict(s="laminating", c=EPOXY, lag=(18, None))),
        ("Sand, second fairing coat", "keel", 3, dict(s="laminating", c=DUST, lag=(16, None))),
        ("Sand and seal", "keel", 3, dict(s="laminating", c=DUST, lag=(16, None))),
    ]),
    ("shaft", "Shaft bearing renewed", "must", "joss", [
        ("Pull the propeller", "shaft", 2, dict(c=HULL)),
        ("Uncouple and draw the shaft", "shaft", 3, dict(h=2)),
        ("Press the old bearing out", "shaft", 3, dict(s="mechanics")),
        ("Fit the new bearing", "shaft", 2, dict(s="mechanics", p=["bearing"])),
        ("Shaft in", "shaft", 2.5, dict(h=2)),
        ("Propeller greased, on and pinned", "shaft", 2, dict(c=HULL)),
    ]),
    ("seal", "Packed gland to face seal", "should", "joss", [
        ("Old gland off, tube cleaned", "engine", 2.5, dict(s="mechanics")),
        ("Fit face seal and vent", "engine", 3, dict(s="mechanics", p=["seal"])),
        ("Set the compression", "engine", 1, dict(s="mechanics")),
    ]),
    ("mounts", "Engine mounts", "must", "bette", [
        ("Support the engine, measure gaps", "engine", 2, dict(h=2, c=LIFT)),
        ("Old mounts out, sheared studs drilled", "engine", 4, dict(s="mechanics", p=["studs"])),
        ("New mounts in", "engine", 4, dict(s="mechanics", p=["mounts"], c=LIFT)),
        ("Align ashore", "engine", 3, dict(s="alignment")),
        ("Re-check alignment afloat", "engine", 2, dict(s="alignment", st="afloat_after", lag=(0, None))),
    ]),
    ("hoses", "Raw-water circuit", "must", "joss", [
        ("Drain and flush the circuit", "engine", 1, {}),
        ("Old hoses out, strainer stripped", "engine", 3, {}),
        ("Heat exchanger end caps cleaned", "engine", 2.5, dict(s="mechanics")),
        ("Cut and dry-fit new hoses", "engine", 3, dict(p=["hose"])),
        ("Impeller and gaskets", "engine", 1.5, dict(s="mechanics", p=["impeller"])),
        ("Clamp twice at every end and check", "engine", 2, dict(p=["clamps"])),
    ]),
    ("valves", "Three through-hulls renewed", "must", "joss", [
        ("Old valves out", "open", 4, {}),
        ("Grind core edge, fill and seal", "open", 3, dict(c=EPOXY)),
        ("Bond backing blocks, check clearance", "open", 3, dict(s="laminating", c=EPOXY, lag=(16, None))),
        ("Bed fittings", "open", 3, dict(h=2, p=["sealant"], lag=(16, None))),
        ("Valves on, worked by hand", "open", 2, dict(s="plumbing", p=["valves"], lag=(24, None))),
        ("Hoses on, clamped twice, plug tied at each", "open", 2.5, dict(p=["clamps"])),
    ]),
    ("rudder", "Rudder off, lower bearing", "must", "joss", [
        ("Yard lifts for clearance", "rudder", 1, dict(h=2, s="lifting", c=HULL)),
        ("Rudder off", "rudder", 2.5, dict(h=3, c=LIFT, who=["mira", "joss", "nuno", "tico"])),
        ("Clean and measure stock and bearing", "rudder", 2, {}),
        ("New bearing turned and fitted", "rudder", 3, dict(s="mechanics")),
        ("Dry-fit, stop to stop", "rudder", 2, dict(h=3, c=LIFT, who=["mira", "joss", "lene", "nuno", "tico"])),
        ("Fair and seal the blade", "rudder", 3, dict(c=EPOXY)),
        ("Hang the rudder", "rudder", 2.5, dict(h=3, c=LIFT, who=["mira", "joss", "lene", "nuno", "tico"], lag=(16, None))),
    ]),
    ("steer", "Steering cables and quadrant", "must", "joss", [
        ("Old cables out, sheaves off", "laz", 2.5, {}),
        ("Quadrant bolts freed and cleaned", "laz", 2, dict(s="mechanics")),
        ("Repaint bracket", "laz", 1.5, dict(c=SOLVENT)),
        ("New cables and sheaves", "laz", 4, dict(p=["cable"], lag=(16, None))),
        ("Tension, stops and lock-wire", "laz", 2, dict(h=2, who=["mira", "joss", "lene"], pl="cockpit")),
    ]),
    ("rigw", "Standing rigging renewed", "must", "aurel", [
        ("Measure and label every stay", "rig", 3, dict(s="rigging", c=ALOFT)),
        ("Support the mast, forward stays off and on", "rig", 6, dict(s="rigging", p=["wire"], c=ALOFT)),
        ("Aft stays and shrouds off and on", "rig", 6, dict(s="rigging", c=ALOFT)),
        ("Tune ashore, pin and tape", "rig", 2.5, dict(s="rigging", c=ALOFT)),
        ("Tune afloat", "rig", 2, dict(s="rigging", st="afloat_after")),
    ]),
    ("aloft", "Masthead: lights and aerial", "should", "mira", [
        ("Up the mast: old lights off", "rig", 2, dict(h=2, c=ALOFT)),
        ("Aerial and cable run proved", "rig", 1.5, dict(h=2, c=ALOFT)),
        ("New navigation lights wired", "rig", 3, dict(h=2, p=["lights"], c=ALOFT)),
        ("Pushpit light and test", "deck", 1.5, dict(s="electric")),
    ]),
    ("step", "Mast step and gland", "should", "joss", [
        ("Boot off, step cleaned", "mast", 2, {}),
        ("Drain hole cleared, heel looked at", "mast", 1, {}),
        ("Treat and paint the step", "mast", 2, dict(c=SOLVENT)),
        ("New gland and boot", "mast", 3, dict(p=["gland"], lag=(24, None))),
    ]),
    ("plates", "Chainplates rebedded", "must", "mira", [
        ("Panels down, bolts out, port", "saloon", 3, {}),
        ("Old holes filled with thickened epoxy", "deck", 2.5, dict(c=EPOXY)),
        ("Drill, countersink, bed port", "deck", 4, dict(h=2, p=["plates", "sealant"], lag=(18, None))),
        ("Starboard: bolts out, holes filled", "deck", 4, dict(c=EPOXY)),
        ("Drill, countersink, bed starboard", "deck", 4, dict(h=2, lag=(18, None))),
        ("Hose test, panels back", "saloon", 2.5, dict(lag=(24, None))),
    ]),
    ("windlass", "Windlass base and deck core", "must", "joss", [
        ("Windlass off, core cut out", "fore", 5, dict(c=DUST)),
        ("Dry the core edge", "fore", 0.5, {}),
        ("New core bonded", "fore", 3, dict(s="laminating", u=1, p=["core"], c=EPOXY, lag=(60, None))),
        ("Skin laminated", "fore", 4, dict(s="laminating", u=1, p=["resin", "cloth"], c=EPOXY, lag=(14, None))),
        ("Fair and paint", "fore", 3, dict(c=DUST, lag=(18, None))),
        ("Dry-fit and drill the base", "fore", 2.5, {}),
        ("Bed the windlass", "fore", 3, dict(h=2, p=["motor", "sealant"], lag=(24, None))),
        ("Cables on, run it", "fore", 1.5, dict(s="electric", lag=(24, None))),
    ]),
    ("chain", "New chain marked and stowed", "should", "mira", [
        ("Locker scrubbed and painted", "peak", 4, dict(c=SOLVENT)),
        ("Bitter end and shackles renewed", "peak", 1, {}),
        ("Mark the chain", "deck", 3, dict(p=["chain"])),
        ("Stow in two trips", "peak", 1.5, dict(lag=(24, None))),
    ]),
    ("winch", "Winches serviced", "could", "mira", [
        ("Strip port winches", "cockpit", 3.5, dict(c=SOLVENT)),
        ("Strip starboard winches", "cockpit", 3.5, dict(c=SOLVENT)),
        ("Pawls and springs renewed", "cockpit", 2, {}),
        ("Grease and assemble", "cockpit", 4, {}),
    ]),
    ("hatch", "Two hatches reglazed", "should", "mira", [
        ("Old lenses out", "deck", 3, {}),
        ("Frames cleaned and primed", "deck", 2.5, dict(c=SOLVENT)),
        ("Bed new lenses", "deck", 3, dict(p=["lenses"], lag=(12, None))),
        ("Cut back and hose test", "deck", 1.5, dict(lag=(48, None))),
    ]),
    ("head", "Heads and holding tank", "must", "joss", [
        ("Old hoses and pump out", "heads", 4, {}),
        ("Tank flushed and descaled", "heads", 3, dict(c="Acid: gloves, goggles, water at hand, windows open.")),
        ("Pump and seals", "heads", 2.5, dict(p=["toilet"])),
        ("New sanitary hose", "heads", 3.5, dict(p=["sanhose", "clamps"])),
        ("Vent line cleared", "heads", 1, {}),
        ("Test with dye", "heads", 1, {}),
    ]),
    ("panel", "Distribution panel", "should", "mira", [
        ("Draw the old circuits, label every run", "nav", 5, dict(s="electric", c=MAINS)),
        ("Cut the board, dry-fit", "nav", 3, {}),
        ("New runs to the pumps", "saloon", 4, dict(s="electric", p=["copper"])),
        ("Panel in, circuits moved over", "nav", 6, dict(s="electric", p=["panel"], c=MAINS)),
        ("Test under load, label", "nav", 2.5, dict(s="electric")),
    ]),
    ("bilge", "Bilge pumps and alarm", "must", "mira", [
        ("Bilge scrubbed and dried", "saloon", 3, {}),
        ("Pumps stripped, float tried", "saloon", 2.5, {}),
        ("High-water alarm on its own feed", "saloon", 2.5, dict(s="electric", p=["alarm"])),
        ("Limber holes cleared", "saloon", 1, {}),
        ("Pumps and alarm tried with water", "saloon", 1, {}),
    ]),
    ("gas", "Gas line renewed", "must", "bette", [
        ("Locker drain cleared, old hose out", "cockpit", 1.5, {}),
        ("New hose and regulator fitted", "galley", 2.5, dict(s="gas", p=["gashose"], c=GAS)),
        ("Pressure test, signed", "galley", 1, dict(s="gas", c=GAS)),
    ]),
    ("seat", "Saloon panels and berths", "could", "mira", [
        ("Panels cleaned and revarnished", "saloon", 5, dict(c=SOLVENT)),
        ("Berth canvas cut and sewn", "saloon", 5, dict(s="sewing", p=["canvas"])),
        ("Lee-cloth eyes refastened", "saloon", 1, {}),
        ("Panels back", "saloon", 3, dict(lag=(36, None))),
    ]),
    ("anodes", "Anodes and bonding", "must", "joss", [
        ("Bonding cables proved with the meter", "open", 1.5, dict(s="electric")),
        ("Old anodes off, studs cleaned", "shaft", 1, {}),
        ("New anodes on, bare", "shaft", 1.5, dict(p=["anodes"], c=HULL)),
    ]),
    ("ready", "Make ready and launch", "must", "mira", [
        ("Everything off the boat is back on", "deck", 2, dict(h=2)),
        ("Batteries, ignition, starter, pumps and alarm tried", "engine", 1.5, {}),
        ("Log and depth plugs in, bungs out and in", "bottom", 1, {}),
        ("Lines, fenders, berth and crew settled", "deck", 1, {}),
        ("Pad patches coated in the slings", "bottom", 1, dict(c=SLINGS)),
        ("Every fitting looked at in the slings", "open", 1, dict(h=2, c=SLINGS, who=["mira", "joss"])),
        ("Engine run afloat, bilge and seals dry", "engine", 1, dict(st="afloat_after")),
        ("Second look at every fitting after a day", "open", 1, dict(st="afloat_after", lag=(20, 60))),
    ]),
]
# extra ties: first, then, min, max, reason  (task ids are job-number)
TIES = [
    ("haul-1", "look-1", 0, None, "she must be out"), ("haul-2", "look-2", 0, None, "standing safely"),
    ("haul-2", "look-3", 0, None, "standing safely"), ("haul-2", "look-4", 0, None, "standing safely"),
    ("haul-2", "bottom-1", 0, None, "standing safely"), ("haul-3", "bottom-1", 0, None, "photographed first"),
    ("look-1", "shaft-1", 0, None, "looked at first"), ("look-2", "rudder-1", 0, None, "looked at first"),
    ("look-3", "valves-1", 0, None, "looked at first"), ("look-4", "keel-1", 0, None, "looked at first"),
    ("look-5", "mounts-1", 0, None, "looked at first"), ("look-5", "hoses-1", 0, None, "looked at first"),
    ("look-5", "steer-1", 0, None, "looked at first"), ("haul-4", "plates-1", 0, None, "ladder and power"),
    ("haul-4", "panel-1", 0, None, "ladder and power"), ("haul-4", "head-1", 0, None, "ladder and power"),
    ("haul-4", "windlass-1", 0, None, "ladder and power"), ("haul-2", "rigw-1", 0, None, "standing safely"),
    ("haul-2", "winch-1", 0, None, "ladder"), ("haul-2", "gas-1", 0, None, "ladder"),
    ("haul-2", "hatch-1", 0, None, "ladder"), ("haul-2", "seat-1", 0, None, "ladder"),
    ("haul-2", "step-1", 0, None, "ladder"), ("haul-2", "tops-1", 0, None, "standing safely"),
    ("haul-2", "chain-1", 0, None, "ladder"), ("haul-2", "bilge-1", 0, None, "ladder"),
    ("haul-2", "aloft-1", 0, None, "standing safely"), ("haul-2", "anodes-1", 0, None, "standing safely"),
    ("keel-8", "bottom-9", 8, None, "keel sealed before the barrier"),
    ("valves-4", "bottom-9", 16, None, "fittings bedded before the barrier"),
    ("rudder-6", "bottom-12", 8, None, "blade gets bottom paint with the rest"),
    ("bottom-13", "boot-1", 10, None, "bottom dry before masking over it"),
    ("shaft-2", "seal-1", 0, None, "shaft out of the way"), ("seal-1", "shaft-5", 0, None, "tube clean"),
    ("shaft-5", "seal-2", 0, None, "needs the shaft in"), ("mounts-3", "shaft-5", 0, None, "engine at its height"),
    ("shaft-5", "mounts-4", 0, None, "coupled before aligning"), ("seal-2", "mounts-4", 0, None, "seal on the shaft"),
    ("mounts-2", "hoses-4", 0, None, "room behind the engine"), ("valves-5", "hoses-6", 0, None, "inlet valve in"),
    ("rudder-7", "steer-5", 0, None, "rudder hung"), ("plates-6", "rigw-4", 0, None, "plates hold the load"),
    ("rigw-3", "aloft-2", 0, None, "one at a time aloft"), ("plates-5", "rigw-2", 24, None, "sealant cured"),
    ("windlass-7", "chain-4", 0, None, "windlass in"), ("panel-3", "bilge-3", 0, None, "feed is there"),
    ("panel-4", "windlass-8", 0, None, "breaker is there"), ("panel-3", "seat-4", 0, None, "cables before panels"),
    ("plates-6", "seat-4", 0, None, "panels closed last"), ("shaft-6", "anodes-3", 0, None, "shaft anode last"),
    ("bottom-13", "anodes-3", 6, None, "never painted"), ("bottom-13", "launch", 24, 720, "antifouling dries; its launch window"),
    ("ready-1", "launch", 0, 24, "the day before"), ("ready-2", "launch", 0, 48, "close to the launch"),
    ("ready-3", "launch", 0, 30, "close to the launch"), ("ready-4", "launch", 0, 24, "the day before"), ("ready-5", "launch", 0, 2.5, "in the slings"),
    ("ready-6", "launch", 0, 2, "in the slings"), ("ready-7", "mounts-5", 24, None, "the hull settles"),
    ("mounts-4", "ready-2", 0, None, "engine aligned"), ("hoses-6", "ready-2", 0, None, "raw water closed"),
    ("bilge-5", "ready-2", 0, None, "pumps in"), ("steer-5", "ready-6", 0, None, "rudder moves"),
    ("anodes-3", "ready-6", 0, None, "anodes seen"), ("valves-6", "ready-6", 0, None, "fittings done"),
    ("gas-3", "ready-1", 0, None, "gas signed"), ("head-6", "ready-1", 0, None, "heads work"),
    ("windlass-8", "ready-1", 0, None, "windlass runs"), ("rigw-4", "ready-1", 0, None, "rig up"),
]
NOT_CHAINED = {("ready", n) for n in (2, 3, 4, 5)}


def task(job: str, at: int, row: tuple[Any, ...]) -> dict[str, Any]:
    title, place, hours, opt = row
    least, most = max(0.5, round(hours * 0.75 * 2) / 2), round(hours * 1.6 * 2) / 2
    return dict(
        id=f"{job}-{at}", title=title, place=opt.get("pl", place), state=opt.get("st", "ashore"),
        work=dict(least=min(least, hours), likely=hours, most=max(most, hours)), hands=opt.get("h", 1),
        skill=opt.get("s"), unbroken=bool(opt.get("u")), people=opt.get("who", []), parts=opt.get("p", []),
        caution=opt.get("c", ""),
    )


def refit() -> Refit:
    """The whole haul-out as it was planned on haul day, nothing done yet."""
    jobs, links = [], []
    for key, title, need, owner, rows in J:
        tasks = [task(key, at, row) for at, row in enumerate(rows, 1)]
        jobs.append(dict(id=key, title=title, need=need, owner=owner, tasks=tasks))
        for at, row in enumerate(rows[1:], 2):
            if row[3].get("free") or (key, at) in NOT_CHAINED:
                continue
            least, most = row[3].get("lag", (0, None))
            links.append(dict(first=f"{key}-{at - 1}", then=f"{key}-{at}", min_lag=least, max_lag=most,
                              reason="cure and overcoating window" if most else ("cure" if least else "")))
    links += [dict(first=a, then=b, min_lag=lo, max_lag=hi, reason=why) for a, b, lo, hi, why in TIES]
    parts = [
        dict(id=key, name=name, quantity=count, unit=unit, supplier=shop, price=price, lead_days=lead,
             status=status, arrives=None if day is None else (HAUL + timedelta(days=day - 1, hours=2)).isoformat())
        for key, name, count, unit, shop, price, lead, status, day in PARTS
    ]
    return Refit.model_validate(dict(
        name="Sandling, spring haul-out", currency="EUR", budget=1580000,
        haul_at=HAUL.isoformat(), launch_at=LAUNCH.isoformat(),
        boat=dict(name="Sandling", rig="cutter", hull_material="grp", keel="fin", rudder="skeg", drive="shaft",
                  length_m=11.9, waterline_m=9.8, beam_m=3.7, draft_m=1.95, displacement_kg=9800),
        yard=dict(name="Oxna Slip Yard", town="Port Averra", time_zone="Europe/Lisbon",
                  hours=[shift(WEEK, "07:00", "20:00")], lift_and_launch=68000, lay_day=3900, free_days=5),
        places=[dict(id=key, name=name, capacity=room) for key, name, room in PLACES],
        people=PEOPLE, parts=parts, jobs=jobs,
        links=[dict(id=f"l{at}", **link) for at, link in enumerate(links, 1)],
        appointments=[
            dict(id="survey", title="Insurance surveyor aboard", at=(HAUL + timedelta(days=15, hours=1)).isoformat(),
                 hours=2, people=["joss"]),
            dict(id="visa", title="Residence papers in town", at=(HAUL + timedelta(days=10, hours=1)).isoformat(),
                 hours=3, people=["mira", "joss"]),
        ],
    ))


def on_day_9(planned: Refit) -> Refit:
    """The same refit with the first eight days behind it: work recorded, some of it late, one parcel overdue."""
    hoped = planned.model_dump(mode="json")
    for row in hoped["parts"]:  # on haul day everything with a date was still on its way
        row["status"] = "ordered" if row["arrives"] else row["status"]
    plan = make_plan(Refit.model_validate(hoped), HAUL).by_task()
    data = planned.model_dump(mode="json")
    before: dict[str, list[str]] = {}
    for link in planned.links:
        before.setdefault(link.then, []).append(link.first)
    early = {part.id for part in planned.parts if part.status != "checked"}
    done: set[str] = {"haul"}
    log: list[dict[str, Any]] = []
    rows = {task["id"]: task for job in data["jobs"] for task in job["tasks"]}
    for key in sorted(rows, key=lambda k: plan[k].start if k in plan else LAUNCH):
        if key not in plan or key in LATE or plan[key].start >= DAY_9 or set(rows[key]["parts"]) & early:
            continue
        if any(first not in done for first in before.get(key, [])):
            continue
        item, row = plan[key], rows[key]
        row["begun_at"], row["crew"] = item.start.isoformat(), list(item.people)
        hours = row["work"]["likely"]
        if item.end <= DAY_9 - timedelta(minutes=30):
            row["done_at"] = item.end.isoformat()
            done.add(key)
            at = item.end
        else:
            hours = max(0.5, min(hours - 0.5, minutes_of(DAY_9 - item.start) // 30 / 2))
            hours = min(hours, 2.0)
            at = DAY_9 - timedelta(minutes=30)
        for who in item.people:
            log.append(dict(id=f"h{len(log) + 1}", task=key, person=who, at=at.isoformat(), hours=hours))
    data["hours_log"] = log
    return Refit.model_validate(data)


def main() -> None:
    """Write the file beside this one."""
    Path(__file__).with_name("demo.refit.json").write_bytes(write_refit(on_day_9(refit())))


if __name__ == "__main__":
    main()
