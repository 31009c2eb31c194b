"""The simulated outside world: full implementations that ship with the app and are tested like it."""
