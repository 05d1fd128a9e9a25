"""Forms about people."""

from typing import Any

from django import forms
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError

from frostline.accounts.models import User


class SignInForm(AuthenticationForm):
    """Name and password."""

    error_messages = {
        "invalid_login": (
            "That name and password don't belong together. Check both; capitals count. After five wrong tries"
            " signing in pauses for 15 minutes."
        ),
        "inactive": "This account is switched off. Ask a lead of your workshop.",
    }


class PersonForm(forms.ModelForm):
    """A user as a lead sees one; the password may stay empty to keep the present one."""

    password = forms.CharField(
        label="Password",
        required=False,
        strip=False,
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
        help_text="At least 8 characters, not only digits. Leave empty to keep the present one.",
    )

    class Meta:
        model = User
        fields = ["username", "first_name", "last_name", "role", "is_active"]
        labels = {"username": "Name to sign in with", "is_active": "May sign in"}
        help_texts = {
            "username": "Letters, digits and . _ -",
            "is_active": "Switch off instead of deleting: the tape keeps who wrote what.",
        }

    def __init__(self, *arguments: Any, **options: Any) -> None:
        options.setdefault("label_suffix", "")
        super().__init__(*arguments, **options)

    def clean_password(self) -> str:
        password = self.cleaned_data["password"]
        if not password and self.instance.pk is None:
            raise ValidationError("A new person needs a password. Type one of at least 8 characters.")
        if password:
            validate_password(password, self.instance)
        return password
