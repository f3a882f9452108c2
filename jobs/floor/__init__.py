"""The floor: jobs as strips, search, opening a job."""
