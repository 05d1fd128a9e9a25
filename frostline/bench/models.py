"""Good boards' readings, kept as the references of their types."""

from django.conf import settings
from django.db import models

from frostcore.bench.known_good import KeptReading
from frostline.ui.immutable import ImmutableModel


class KnownGood(ImmutableModel):
    """A good board: what type it is (as printed on it), which supply it was read as, on which mains, its
    readings; the last of a type and supply counts."""

    name = models.CharField(max_length=80)
    supply = models.CharField(max_length=160)
    mains = models.FloatField()
    readings = models.JSONField()
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("name", "-at")

    def __str__(self) -> str:
        return self.name

    @property
    def kept(self) -> tuple[KeptReading, ...]:
        """Its readings."""
        return tuple(KeptReading(str(probe), str(value)) for probe, value in self.readings)
