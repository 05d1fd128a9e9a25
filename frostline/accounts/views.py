"""Signing in and out, and the people of the workshop."""

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView
from django.core.exceptions import PermissionDenied, ValidationError
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.decorators import method_decorator
from django.views.decorators.http import require_http_methods, require_POST

from frostline.accounts.access import demo_entry_allowed, lead_required, signed_in
from frostline.accounts.actions.enter_demo import enter_demo
from frostline.accounts.actions.save_person import save_person
from frostline.accounts.forms import PersonForm, SignInForm
from frostline.accounts.models import PersonChange, User


@method_decorator(login_not_required, name="dispatch")
class SignInView(LoginView):
    """Sign in by name and password; in the demo also by one button."""

    template_name = "accounts/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def get_context_data(self, **context: object) -> dict[str, object]:
        return super().get_context_data(demo_entry=demo_entry_allowed(self.request), **context)


@login_not_required
@require_POST
def demo_entry(request: HttpRequest) -> HttpResponse:
    """Enter as the demo technician, in demo mode and from this machine only."""
    if not demo_entry_allowed(request):
        raise PermissionDenied(
            "The demo button works only in demo mode and on the machine that serves it. Sign in with a name"
            " and password."
        )
    enter_demo(request)
    return redirect("desk:home")


@lead_required
@require_http_methods(["GET", "HEAD"])
def people(request: HttpRequest) -> HttpResponse:
    """Everyone in the workshop."""
    return render(
        request, "accounts/people.html", {"people": User.objects.order_by("-is_active", "username")}
    )


@lead_required
@require_http_methods(["GET", "HEAD", "POST"])
def person(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Add or change one person."""
    instance = get_object_or_404(User, pk=pk) if pk else None
    form = PersonForm(request.POST or None, instance=instance)
    if request.method == "POST" and form.is_valid():
        try:
            saved = save_person(form, signed_in(request))
        except ValidationError as error:
            form.add_error(None, error)
        else:
            messages.success(request, f"{saved.shown_name} is saved.")
            return redirect("accounts:people")
    return render(
        request,
        "accounts/person.html",
        {"form": form, "person": instance, "changes": _changes(instance)},
        status=422 if form.errors else 200,
    )


def _changes(person: User | None) -> QuerySet[PersonChange]:
    """What was changed of a person, and by whom."""
    return PersonChange.objects.filter(person=person).select_related("by")
