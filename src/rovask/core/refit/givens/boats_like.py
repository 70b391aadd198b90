"""Boats to begin from: five invented ones of the usual kinds, each as far as a refit's recipes ask. Everything can be changed."""

from __future__ import annotations

from typing import Any

LIKE: dict[str, tuple[str, dict[str, Any]]] = {
    "sloop": (
        "Fin-keel sloop, 10 m",
        {
            "rig": "sloop", "length_m": 10.2, "waterline_m": 8.6, "beam_m": 3.4, "draft_m": 1.8, "displacement_kg": 5200,
            "keel": "fin", "rudder": "spade", "through_hulls": 8, "berths": 4, "fitted": ["gas", "stanchions", "furler"],
        },
    ),
    "cutter": (
        "Cruising cutter, 12.5 m",
        {
            "rig": "cutter", "length_m": 12.5, "waterline_m": 10.4, "beam_m": 3.9, "draft_m": 1.9,
            "displacement_kg": 11500, "keel": "fin", "rudder": "skeg", "mast_step": "keel", "propeller": "feathering",
            "through_hulls": 11, "berths": 5,
            "fitted": ["windlass", "furler", "gas", "holding tank", "life raft", "tender", "stanchions", "shore power"],
        },
    ),
    "steel": (
        "Long-keel cutter in steel, 11.9 m",
        {
            "rig": "cutter", "hull_material": "steel", "length_m": 11.9, "waterline_m": 9.9, "beam_m": 3.8, "draft_m": 1.7,
            "displacement_kg": 13500, "keel": "long", "rudder": "keel", "mast_step": "keel",
            "cooling": "keel", "through_hulls": 7, "berths": 6,
            "fitted": ["windlass", "gas", "heater", "stanchions", "tender", "holding tank"],
        },
    ),
    "catamaran": (
        "Cruising catamaran, 12 m",
        {
            "rig": "sloop", "hulls": 2, "length_m": 12.0, "waterline_m": 11.5, "beam_m": 6.6, "draft_m": 1.2,
            "displacement_kg": 8200, "keel": "twin", "rudder": "spade", "drive": "leg", "engines": 2, "heads": 2,
            "through_hulls": 14, "berths": 8,
            "fitted": ["windlass", "furler", "gas", "life raft", "tender", "stanchions", "water maker"],
        },
    ),
    "small": (
        "Small sloop with an outboard, 7 m",
        {
            "rig": "sloop", "length_m": 7.1, "waterline_m": 6.0, "beam_m": 2.5, "draft_m": 1.2, "displacement_kg": 1900,
            "keel": "fin", "rudder": "transom", "drive": "outboard", "cooling": "raw water", "through_hulls": 3,
            "berths": 3, "fitted": ["stanchions"],
        },
    ),
}  # fmt: skip
