"""Users and their roles."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Role(models.TextChoices):
    """What a user may do: leads also manage people and sheets."""

    TECHNICIAN = "technician", "technician"
    LEAD = "lead", "lead"


class User(AbstractUser):
    """A person of the workshop."""

    role = models.CharField(max_length=20, choices=Role, default=Role.TECHNICIAN)

    @property
    def is_lead(self) -> bool:
        """Whether this user may manage people and sheets."""
        return self.role == Role.LEAD

    @property
    def shown_name(self) -> str:
        """The name on slips and reports."""
        return self.get_full_name() or self.username
