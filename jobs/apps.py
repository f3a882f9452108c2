"""The job with its legs."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Jobs, corners, sweeps, thickness rounds."""

    name = "jobs"

    def ready(self) -> None:
        """Tell workers what this app can do at length."""
        from jobs.cause import recordings  # need the models
        from jobs.handover import paper
        from jobs.record import many_cases, one_case

        one_case.can_be_done()
        many_cases.can_be_done()
        paper.can_be_done()
        recordings.can_be_done()
