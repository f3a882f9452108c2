"""Whether this process lives, and whether it can do its work: for a balancer and for whoever watches."""

from typing import Final

from django.contrib.auth.decorators import login_not_required
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.middleware.common import CommonMiddleware
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from compass import __version__

_PLACE: Final = "/health/"
_made_for: set[str] = set()  # databases whose tables were found to be of this version, asked once a process


class ByAnyNameMiddleware(CommonMiddleware):
    """Django's own, but that health is told under any name: who watches asks this machine, not ``IC_ALLOWED_HOSTS``."""

    def process_request(self, request: HttpRequest) -> HttpResponse | None:
        """Refuse names that are not ours."""
        return None if request.path_info.startswith(_PLACE) else super().process_request(request)


@login_not_required
@never_cache
@require_GET
def live(request: HttpRequest) -> JsonResponse:
    """Say that the process answers; it asks nobody else."""
    return JsonResponse({"alive": True, "version": __version__})


@login_not_required
@never_cache
@require_GET
def ready(request: HttpRequest) -> JsonResponse:
    """Say whether the database answers and its tables are of this version: 503 keeps a balancer from sending people."""
    with connection.cursor() as cursor:
        cursor.execute("select 1")
    name = connection.settings_dict["NAME"]
    if name not in _made_for:
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            return JsonResponse({"ready": False, "why": "the database is to be migrated"}, status=503)
        _made_for.add(name)
    return JsonResponse({"ready": True, "version": __version__})
