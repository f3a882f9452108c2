"""Django's test runner, with its counts left where bin/test can read them."""

import json
import logging
import os
from pathlib import Path
from typing import Any

from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Run tests and write ``{"passed": …, "failed": …, "skipped": …}`` to the file named by IC_TEST_COUNTS."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        """Keep expected refusals (4xx) out of the output."""
        super().setup_test_environment(**kwargs)
        logging.getLogger("django.request").setLevel(logging.ERROR)
        logging.getLogger("django.security").setLevel(logging.CRITICAL)
        logging.getLogger("axes").setLevel(logging.CRITICAL)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> Any:
        """Count before the result is reduced to a number of failures."""
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        target = os.environ.get("IC_TEST_COUNTS")
        if target:
            counts = {"passed": result.testsRun - failed - skipped, "failed": failed, "skipped": skipped}
            Path(target).write_text(json.dumps(counts), encoding="utf-8")
        return super().suite_result(suite, result, **kwargs)
