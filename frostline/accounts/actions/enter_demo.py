"""Enter the demo as its technician."""

from django.contrib.auth import login
from django.http import HttpRequest

from frostline.accounts.models import User

DEMO_TECHNICIAN = "demo"


def enter_demo(request: HttpRequest) -> User:
    """Sign the demo technician in on this session.

    Raises User.DoesNotExist when no demo data is loaded.
    """
    user = User.objects.get(username=DEMO_TECHNICIAN, is_active=True)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return user
