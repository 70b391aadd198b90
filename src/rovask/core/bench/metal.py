"""Metal: chain, cable, unlike metals side by side."""

from __future__ import annotations

from dataclasses import dataclass

CHAIN = 0.022  # kg/m per mm² of link thickness: short link chain of steel (from memory; 10 mm 2.2 kg/m)
SECTIONS = (0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0, 95.0, 120.0, 150.0)  # mm², as sold
COPPER = 0.0164  # ohm mm²/m, as ISO 10133 takes it for copper at 20 °C (from memory)


def chain_mass(metres: float, size: float) -> float:
    """Mass in kg of short link chain ``size`` mm thick.

    >>> 200 < chain_mass(75, 12) < 260  # somewhere over 200 kg (common practice)
    True
    """
    return CHAIN * size**2 * metres


def section_for(amps: float, metres: float, volts: float, drop: float) -> float:
    """Copper section in mm² for a voltage drop of ``drop`` (share): 0.0164 I L / dU, L out and back (ISO 10133 form).

    metres: one way. volts: of the battery.

    >>> round(section_for(10, 5, 12, 0.03), 2)
    4.56
    """
    return COPPER * amps * 2 * metres / (volts * drop)


def sold_section(section: float) -> float | None:
    """The next section sold; None when it is larger than any.

    >>> sold_section(4.56), sold_section(1000)
    (6.0, None)
    """
    return next((one for one in SECTIONS if one >= section - 1e-9), None)


def drop_of(amps: float, metres: float, volts: float, section: float) -> float:
    """The share of the voltage lost in a section of ``section`` mm²."""
    return COPPER * amps * 2 * metres / section / volts


@dataclass(frozen=True, slots=True)
class Metal:
    """A metal of the trade with its potential in flowing sea water against silver chloride, volts (from memory)."""

    key: str
    name: str
    volts: float


# In order of nobility in sea water, the one that is eaten first. Mean values of published galvanic series, from memory.
METALS = (
    Metal("magnesium", "magnesium", -1.61),
    Metal("zinc", "zinc", -1.03),
    Metal("aluminium", "aluminium (5000 series)", -0.86),
    Metal("steel", "steel, iron", -0.63),
    Metal("stainless_starved", "stainless, starved of air", -0.50),
    Metal("lead", "lead", -0.46),
    Metal("brass", "brass", -0.36),
    Metal("copper", "copper", -0.33),
    Metal("bronze", "bronze", -0.28),
    Metal("cupronickel", "copper-nickel", -0.25),
    Metal("monel", "nickel-copper", -0.08),
    Metal("stainless", "stainless, in moving water", -0.05),
    Metal("titanium", "titanium", 0.0),
    Metal("carbon", "carbon fibre, graphite", 0.25),
)
TROUBLE = 0.20  # volts between metals from which one eats the other (common practice)


def metal_of(key: str) -> Metal:
    """The metal of that name. Raises KeyError."""
    return next(metal for metal in METALS if metal.key == key)
