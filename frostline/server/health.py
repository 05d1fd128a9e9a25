"""Whether the server works, for whoever watches over it."""

from django.contrib.auth.decorators import login_not_required
from django.db import DatabaseError, connection
from django.http import HttpRequest, JsonResponse
from django.views.decorators.http import require_safe

from frostline import __version__


@login_not_required
@require_safe
def health(request: HttpRequest) -> JsonResponse:
    """200 with the version when the database answers and may be written, else 503 and why."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM django_migrations")
            cursor.execute("BEGIN IMMEDIATE")
            cursor.execute("ROLLBACK")
    except DatabaseError as error:
        return JsonResponse({"ok": False, "version": __version__, "why": str(error)}, status=503)
    return JsonResponse({"ok": True, "version": __version__})
