"""What was typed on the pages of what hands meet: measures, shapes, openings; every fault by its field, nothing typed is lost."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit import typed
from rovask.core.refit.craft.kinds import Fit, Measures, Shape
from rovask.web.security import Posted

# Name, label, unit, and of which columns it is asked: what sits there, what the place has room for or demands, the new one.
MEASURED: tuple[tuple[str, str, str, str], ...] = (
    ("length", "Foot, along", "mm", "old room new"),
    ("width", "Foot, across", "mm", "old room new"),
    ("height", "Height", "mm", "old room new"),
    ("holes", "Holes", "", "old new"),
    ("circle", "Bolt circle, through their middles", "mm", "old new"),
    ("along", "or between holes, along", "mm", "old new"),
    ("across", "and across", "mm", "old new"),
    ("hole", "Each hole", "mm", "old new"),
    ("thread", "Thread", "", "old new"),
    ("swing", "Swings or opens, from its middle", "mm", "old room new"),
    ("load_kg", "Carries; wanted there", "kg", "room new"),
    ("volts", "Voltage", "V", "old room new"),
    ("amps", "Takes; its cable and fuse carry", "A", "room new"),
    ("coat", "Paint on each face", "mm", "new"),
)
COLUMNS = (("old", "The old one"), ("room", "Room, or wanted there"), ("new", "The new one"))
MOST_MM = 20000.0
WAYS = 4  # openings asked for


def number_in(posted: Posted, name: str, most: float, faults: list[Fault], least: float = 0) -> float | None:
    """A number that may be left out; its fault noted by its field."""
    text = posted.text(name).strip()
    if not text:
        return None
    try:
        return typed.number(text, least, most)
    except ValueError as error:
        faults.append(Fault(name, str(error)))
        return None


def fit_typed(posted: Posted) -> dict[str, Any]:
    """The fields of a measured sheet. Raises RefitFaults with every fault by its field."""
    faults: list[Fault] = []
    data: dict[str, Any] = {"title": posted.words("title", 120), "note": posted.words("note", 4000)}
    if not data["title"]:
        faults.append(Fault("title", "Name what is to be replaced."))
    for column, _ in COLUMNS:
        values: dict[str, Any] = {}
        for name, _, _, of in MEASURED:
            if column not in of.split():
                continue
            if name == "thread":
                values[name] = posted.words(f"{column}-thread", 120)
                continue
            found = number_in(posted, f"{column}-{name}", 60 if name == "holes" else 1e6 if name in ("load_kg", "volts", "amps") else MOST_MM, faults)  # fmt: skip
            if name == "holes" and found is not None:
                if found != int(found):
                    faults.append(Fault(f"{column}-holes", "is not a whole number"))
                    continue
                found = int(found)
            values[name] = found
        data[column] = values
    ways = []
    for at in range(WAYS):
        name = posted.words(f"way-{at}-name", 120)
        wide = number_in(posted, f"way-{at}-width", MOST_MM, faults)
        high = number_in(posted, f"way-{at}-height", MOST_MM, faults)
        if wide and high:
            ways.append({"name": name or f"Opening {at + 1}", "width": wide, "height": high})
        elif wide or high or name:
            faults.append(Fault(f"way-{at}-width", "Give both its width and its height."))
    data |= {"ways_in": ways, "play": number_in(posted, "play", MOST_MM, faults) or 0.0}
    data |= {name: posted.text(name) or None for name in ("task", "part")}
    if faults:
        raise RefitFaults(faults)
    return data


def fit_shown(fit: Fit | None) -> dict[str, str]:
    """What stands in the fields of a sheet."""
    if fit is None:
        return {}
    out = {"title": fit.title, "note": fit.note, "play": f"{fit.play:g}" if fit.play else "", "task": fit.task or "", "part": fit.part or ""}  # fmt: skip
    for column, _ in COLUMNS:
        measures: Measures = getattr(fit, column)
        out |= {
            f"{column}-{name}": value if isinstance(value, str) else f"{value:g}"
            for name, value in measures.said.items()
        }
    for at, way in enumerate(fit.ways_in):
        out |= {f"way-{at}-name": way.name, f"way-{at}-width": f"{way.width:g}", f"way-{at}-height": f"{way.height:g}"}
    return out


def _rows(text: str, count: int, name: str, what: str, faults: list[Fault]) -> list[list[float]]:
    """Numbers line by line, so many on each."""
    out = []
    for at, line in enumerate(text.splitlines(), 1):
        words = line.replace(";", " ").split()
        if not words:
            continue
        try:
            values = [typed.number(word, -MOST_MM, MOST_MM) for word in words]
        except ValueError as error:
            faults.append(Fault(name, f"line {at}: {error}"))
            continue
        if len(values) != count:
            faults.append(Fault(name, f"line {at}: {what}, as “{'120 45' if count == 2 else '120 45 8'}”"))
            continue
        out.append(values)
    return out


def shape_typed(posted: Posted) -> dict[str, Any]:
    """The fields of a shape. Raises RefitFaults with every fault by its field."""
    faults: list[Fault] = []
    data: dict[str, Any] = {
        "title": posted.words("title", 120),
        "note": posted.words("note", 4000),
        "of": posted.words("of", 120),
    }
    if not data["title"]:
        faults.append(Fault("title", "Name the piece."))
    corners = _rows(posted.text("corners"), 2, "corners", "two numbers, along and across in mm", faults)
    holes = _rows(posted.text("holes"), 3, "holes", "three numbers, along, across and how wide in mm", faults)
    if len(corners) < 3 and not any(fault.path == "corners" for fault in faults):
        faults.append(Fault("corners", "An outline has at least three corners, one a line."))
    for along, across, wide in holes:
        if wide <= 0:
            faults.append(Fault("holes", f"the hole at {along:g} {across:g} is no wider than nothing"))
    data["corners"] = [{"x": x, "y": y} for x, y in corners]
    data["holes"] = [{"x": x, "y": y, "d": d} for x, y, d in holes]
    data["thick"] = number_in(posted, "thick", 1000, faults) or 0.0
    data["task"] = posted.text("task") or None
    if faults:
        raise RefitFaults(faults)
    return data


def shape_shown(shape: Shape | None) -> dict[str, str]:
    """What stands in the fields of a shape."""
    if shape is None:
        return {}
    return {
        "title": shape.title, "note": shape.note, "of": shape.of, "thick": f"{shape.thick:g}" if shape.thick else "",
        "task": shape.task or "", "corners": "\n".join(f"{one.x:g} {one.y:g}" for one in shape.corners),
        "holes": "\n".join(f"{one.x:g} {one.y:g} {one.d:g}" for one in shape.holes),
    }  # fmt: skip


def as_typed(posted: Posted, names: Iterable[str] = ()) -> dict[str, str]:
    """Everything that was typed, to stand in the form again."""
    return {
        name: value for name, value in posted.form.items() if isinstance(value, str) and (not names or name in names)
    }
