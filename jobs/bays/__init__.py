"""Bay and lathe in time."""
