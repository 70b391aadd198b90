"""Whether a new thing fits where the old one was."""

from __future__ import annotations

from rovask.core.bench.calculator import AskedAt, Calculator, Input, Result, Row, Values, inches


def _beside(values: Values, _: AskedAt) -> Result:
    bodies = values["centres"] - (values["one"] + values["other"]) / 2
    handles = values["centres"] - swing_sum(values)
    tool = values["centres"] - values["one"] / 2 - values["other"] / 2 - values["tool"]
    warnings = []
    if bodies < 0:
        warnings.append("The bodies touch: set them farther apart before the blocks are bonded.")
    elif handles < 0 and values["turn"] == "both":
        warnings.append("The handles meet when both swing inwards: turn one round, or set them farther apart.")
    elif tool < 0:
        warnings.append("No room for the spanner between them.")
    wanted = max((values["one"] + values["other"]) / 2 + values["tool"], swing_sum(values)) + values["least"]
    return Result(
        (
            Row("Between the bodies", f"{bodies:.0f} mm", inches(bodies), "below nothing they touch", main=True),
            Row(
                "Between the handles at their closest",
                f"{handles:.0f} mm",
                inches(handles),
                _swing_told(values),
                main=True,
            ),
            Row("Beside the spanner", f"{tool:.0f} mm", inches(tool), f"a spanner takes {values['tool']:g} mm"),
            Row(
                "Centres wanted", f"{wanted:.0f} mm", inches(wanted), f"with {values['least']:g} mm to spare", main=True
            ),
        ),
        warnings=tuple(warnings),
        drawing=(
            "beside",
            {name: values[name] for name in ("centres", "one", "other", "swing_one", "swing_other", "turn")},
        ),
    )


def swing_sum(values: Values) -> float:
    """The centres at which two handles just meet, mm: both pointing at each other, or one at the other's body."""
    if values["turn"] == "both":
        return float(values["swing_one"] + values["swing_other"])
    if values["turn"] == "one":
        return float(max(values["swing_one"] + values["other"] / 2, (values["one"] + values["other"]) / 2))
    return float((values["one"] + values["other"]) / 2)


def _swing_told(values: Values) -> str:
    return {
        "both": "both can point at each other",
        "one": "the first can point at the second's body",
        "none": "both turn away",
    }[values["turn"]]


BESIDE = Calculator(
    "beside",
    "Two fittings side by side",
    "Fittings",
    "Whether two valves or fittings clear each other, bodies, handles and spanner, before their blocks are bonded.",
    (
        Input("centres", "Centre to centre", "mm", 120, 1, 5000),
        Input("one", "First one, width", "mm", 70, 1, 2000),
        Input("other", "Second one, width", "mm", 70, 1, 2000),
        Input("swing_one", "First handle, from its centre", "mm", 90, 0, 2000),
        Input("swing_other", "Second handle, from its centre", "mm", 90, 0, 2000),
        Input(
            "turn",
            "Handles turn",
            "",
            "both",
            choices=(
                ("both", "both towards each other"),
                ("one", "the first towards the second"),
                ("none", "both away"),
            ),
        ),
        Input("tool", "Spanner between them", "mm", 30, 0, 500),
        Input("least", "To spare", "mm", 10, 0, 500),
    ),
    "between bodies = centres − half of each width; between handles = centres − both swings",
    "Geometry; look that two valves side by side clear each other before the block is bonded: common practice.",
    "Fittings in one plane; try them dry all the same.",
    _beside,
)
