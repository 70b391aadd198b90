"""The one door: every act of a person, or of the worker on a person's behalf, as a command (who, refit, what) → result."""
