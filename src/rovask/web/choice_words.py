"""What choices are called in forms."""

from __future__ import annotations

STEP_WORDS = {"deck": "the deck", "keel": "the keel"}
WHICH_WORDS = {"main": "main mast", "third": "third mast", "middle": "middle hull"}


STATE_WORDS = {
    "afloat_before": "afloat, before the haul",
    "lifting": "being lifted and blocked",
    "ashore": "ashore",
    "slings": "in the slings, before the launch",
    "afloat_after": "afloat, after launch",
    "either": "either",
}


STATUS_WORDS = {
    "needed": "to order",
    "ordered": "ordered",
    "aboard": "aboard, fit not tried",
    "checked": "aboard and fits",
}


KIND_WORDS = {
    "FS": "starts after the end of it",
    "SS": "starts after the start of it",
    "FF": "ends after the end of it",
    "SF": "ends after the start of it",
}


SEVERITY_WORDS = {
    "good": "good",
    "watch": "to be watched",
    "bad": "bad",
    "dangerous": "dangerous: she may not float like this",
}


UNKNOWN_WORDS = {
    "open": "nobody has looked yet",
    "vanished": "looked at: nothing there",
    "real": "looked at: it is real",
}


SURENESS_WORDS = {
    "sure": "sure: as thought, or nearly",
    "usual": "as such things usually are",
    "wild": "anybody's guess",
}
