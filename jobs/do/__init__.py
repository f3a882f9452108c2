"""The Do leg: passes of a cut, plates fitted."""
