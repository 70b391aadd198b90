"""The givens: boat, yard, weather, places, people, gear, appointments."""
