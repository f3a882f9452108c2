"""The bench: practice on simulated corners, drills of judgement. Nothing here touches a real record."""
