"""The formula that a calculator shows is the one it computes: the shown words themselves are worked out here.

Signs of the shown formula are read as everybody reads them; the figures put in for its words are those typed.
"""

from __future__ import annotations

import math
import re

import pytest
from simpleeval import SimpleEval

from rovask.core.bench.all_calculators import CALCULATORS
from tests.reference.test_bench import result

SIGNS = {"÷": "/", "×": "*", "·": "*", "−": "-", "^": "**", "²": "**2", "³": "**3", "√": "sqrt", "π": "pi"}
COATS = {"area": "", "solids": "50", "film": "55", "how": "roller"}
TAPER = {"skin": "9", "ratio": "12", "mass": "900", "share": "45", "waste": "20"}
RUDDER = {"stock": "0.9", "room": "0.4", "gap": "2", "paint": "400", "growth": "2", "least": "1"}
SHOWN: list[tuple[str, str, dict[str, str], dict[str, float], str]] = [
    ("coats", "waterline × (beam + draft) × share by keel", COATS,
     {"waterline": 9, "beam": 3.5, "draft": 1.8, "share by keel": 0.67}, "Area a coat"),
    ("coats", "10 × volume solids ÷ dry film × (1 − loss)", COATS,
     {"volume solids": 50, "dry film": 55, "loss": 0.1}, "Spreading rate"),
    ("film", "dry film ÷ volume solids", {"dry": "100", "solids": "60"},
     {"dry film": 100, "volume solids": 0.6}, "Wet film to lay"),
    ("cure", "hours × 2 ^ ((20 − temperature) ÷ 10)", {"least": "6", "temperature": "10", "coldest": "5"},
     {"hours": 6, "temperature": 10}, "Dry to overcoat after"),
    ("taper", "thickness × ratio", TAPER, {"thickness": 9, "ratio": 12}, "Taper on every side"),
    ("taper", "glass ÷ 2.55 + resin ÷ 1.15", TAPER, {"glass": 0.9, "resin": 0.9 * 55 / 45}, "Plies: each"),
    ("taper", "fibre × (1 − Wf) ÷ Wf × (1 + waste)", TAPER,
     {"fibre": 0.389, "Wf": 0.45, "waste": 0.2}, "Resin with its hardener"),
    ("blisters", "π × h × (3 × a² + h²) ÷ 6", {"across": "25", "deep": "4"}, {"h": 0.4, "a": 1.25}, "One bowl"),
    ("sealant", "π ÷ 4 × bead² × length × (1 + waste)", {"length": "400", "count": "6", "bead": "8", "waste": "25"},
     {"bead": 0.8, "length": 240, "waste": 0.25}, "Sealant"),
    ("hose", "straight + bends × π ÷ 2 × radius + both spigots",
     {"straight": "600", "bends": "2", "radius": "150", "spigot": "45"},
     {"straight": 600, "bends": 2, "radius": 150, "both spigots": 90}, "Cut each"),
    ("beside", "centres − half of each width", {"centres": "120", "one": "70", "other": "60"},
     {"centres": 120, "half of each width": 35 + 30}, "Between the bodies"),
    ("beside", "centres − both swings", {"centres": "120", "swing_one": "90", "swing_other": "80"},
     {"centres": 120, "both swings": 170}, "Between the handles at their closest"),
    ("flooding", "3600000 · Cd · A · √(2 · g · h)", {"across": "38", "depth": "0.5"},
     {"Cd": 0.6, "A": math.pi / 4 * 0.038**2, "g": 9.81, "h": 0.5}, "Comes in"),
    ("chain", "0.0225 × size²", {"size": "10", "metres": "1"}, {"size": 10}, "Weighs: each"),
    ("cable", "0.0164 · I · L ÷ ΔU", {"amps": "10", "metres": "6", "volts": "12", "drop": "3"},
     {"I": 10, "L": 12, "ΔU": 0.36}, "Section by voltage drop"),
    ("rudder", "stock + 5 cm − room", RUDDER, {"stock": 90, "5 cm": 5, "room": 40}, "Lift, or pit"),
    ("rudder", "gap − paint on both faces − growth", RUDDER,
     {"gap": 2, "paint on both faces": 0.8, "growth": 2}, "Gap left on that side"),
    ("rudder", "room wanted − gap left", RUDDER, {"room wanted": 1, "gap left": -0.8}, "Cut back"),
]  # fmt: skip


def worked_out(shown: str, words: dict[str, float]) -> float:
    """The shown formula with figures for its words."""
    names = {f"w{at}": figure for at, figure in enumerate(words.values())} | {"pi": math.pi}
    for sign, meaning in SIGNS.items():
        shown = shown.replace(sign, meaning)
    for at, word in sorted(enumerate(words), key=lambda row: -len(row[1])):
        shown = re.sub(rf"(?<!\w){re.escape(word.replace('−', '-'))}(?!\w)", f"w{at}", shown)
    return float(SimpleEval(names=names, functions={"sqrt": math.sqrt}).eval(shown))


@pytest.mark.parametrize(("key", "shown", "typed", "words", "row"), SHOWN, ids=lambda value: str(value)[:24])
def test_what_is_shown_is_what_is_computed(
    key: str, shown: str, typed: dict[str, str], words: dict[str, float], row: str
) -> None:
    assert shown.removeprefix("3600000 · ") in CALCULATORS[key].formula  # from m³ a second, as the row tells it
    label, _, each = row.partition(": ")
    found = next(one for one in result(key, **typed).rows if one.label == label)
    told = re.search(r"-?\d+(\.\d+)?", (found.how if each else found.value).replace("−", "-"))
    assert told is not None, found
    decimals = len(told[1] or ".") - 1
    assert float(told[0]) == pytest.approx(worked_out(shown, words), abs=0.51 * 10**-decimals)
