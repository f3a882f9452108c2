"""Collect the words of the house for its translators: Django's command, told of our own names for gettext."""

from django.core.management.base import CommandParser
from django.core.management.commands import makemessages

# Words of the core, which knows no Django; names under which modules import gettext_lazy and pgettext_lazy.
OURS = ["--keyword=_N", "--keyword=_lazy", "--keyword=p_:1c,2"]
NOT_OURS = ["node_modules/*", ".venv/*", "staticfiles/*", "tests/*", "*/tests/*", "docs/*", ".local/*"]


class Command(makemessages.Command):
    """Write ``locale/*/LC_MESSAGES/django.po`` anew, without places in the source: they change with every line."""

    xgettext_options = [*makemessages.Command.xgettext_options, *OURS]
    msgmerge_options = [*makemessages.Command.msgmerge_options, "--no-fuzzy-matching"]  # a guess is no translation

    def add_arguments(self, parser: CommandParser) -> None:
        """Take Django's arguments, with ours as what they are unless told otherwise."""
        super().add_arguments(parser)
        parser.set_defaults(all=True, no_location=True, no_wrap=True, no_obsolete=True, ignore_patterns=NOT_OURS)
