"""Handing a job over: the owner's sheet, the bay's sheet, files, when to look again, and whether it came back."""
