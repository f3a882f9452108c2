"""Pages of long lists: nobody leafs through 100,000 jobs, so nobody waits until they are counted."""

from functools import cached_property

from django.core.paginator import Paginator

MOST_PAGES = 100


class ShallowPaginator(Paginator):
    """Django's paginator, counting no further than ``MOST_PAGES`` pages."""

    @cached_property
    def count(self) -> int:
        """Return how many rows there are, at most as many as the pages hold."""
        return self.object_list.order_by()[: MOST_PAGES * self.per_page].count()

    @property
    def is_cut(self) -> bool:
        """Whether there are more rows than pages for them."""
        return self.count == MOST_PAGES * self.per_page
