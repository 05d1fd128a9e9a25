"""Users and their roles."""

from typing import Any, ClassVar

from django.conf import settings
from django.contrib.auth.models import AbstractUser, UserManager
from django.db import models

from frostline.ui.immutable import ImmutableModel


class Role(models.TextChoices):
    """What a user may do: leads also manage people and sheets."""

    TECHNICIAN = "technician", "technician"
    LEAD = "lead", "lead"


class People(UserManager["User"]):
    """The people of the workshop; who is made at the command line to run it is a lead."""

    def create_superuser(self, *arguments: Any, **fields: Any) -> "User":
        """A lead, who may add people and publish sheets."""
        return super().create_superuser(*arguments, **{"role": Role.LEAD, **fields})


class User(AbstractUser):
    """A person of the workshop."""

    objects: ClassVar[People] = People()

    role = models.CharField(max_length=20, choices=Role, default=Role.TECHNICIAN)

    @property
    def is_lead(self) -> bool:
        """Whether this user may manage people and sheets."""
        return self.role == Role.LEAD

    @property
    def shown_name(self) -> str:
        """The name on slips and reports."""
        return self.get_full_name() or self.username


class PersonChange(ImmutableModel):
    """That a person was added, or got another role, password or name, and by whom (nobody: at the command
    line); never the password."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="changes")
    what = models.CharField(max_length=200)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["at"]

    def __str__(self) -> str:
        return f"{self.person}: {self.what}"
