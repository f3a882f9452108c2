"""The ledger as a Django app."""

from django.apps import AppConfig


class LedgerConfig(AppConfig):
    """Looking back; no tables of its own."""

    name = "ledger"
