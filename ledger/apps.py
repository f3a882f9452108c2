"""The ledger as a Django app."""

from django.apps import AppConfig


class LedgerConfig(AppConfig):
    """Looking back; no tables of its own."""

    name = "ledger"

    def ready(self) -> None:
        """Tell workers what this app can do at length."""
        from ledger import refitting  # needs the models

        refitting.can_be_done()
