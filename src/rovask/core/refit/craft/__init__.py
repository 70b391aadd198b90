"""What hands meet on a boat and how it is got round: things that will not come off."""
