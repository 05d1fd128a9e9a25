"""Rows that are only ever added: refused here for the program, and by triggers in the database for
everyone else."""

from typing import Any

from django.db import models


class ImmutableError(RuntimeError):
    """Someone tried to change or delete what is kept for good."""


class ImmutableQuerySet(models.QuerySet):
    """Refuses bulk changes."""

    def update(self, **values: Any) -> int:
        raise ImmutableError(f"{self.model.__name__} rows are never changed.")

    def delete(self) -> tuple[int, dict[str, int]]:
        raise ImmutableError(f"{self.model.__name__} rows are never deleted.")


class ImmutableModel(models.Model):
    """A model whose rows are written once."""

    objects = ImmutableQuerySet.as_manager()

    class Meta:
        abstract = True

    def save(self, *arguments: Any, **options: Any) -> None:
        if not self._state.adding:
            raise ImmutableError(f"{type(self).__name__} rows are never changed.")
        super().save(*arguments, **{**options, "force_insert": True})

    def delete(self, *arguments: Any, **options: Any) -> tuple[int, dict[str, int]]:
        raise ImmutableError(f"{type(self).__name__} rows are never deleted.")


def trigger_sql(table: str) -> tuple[str, str]:
    """SQL that makes SQLite refuse changes and deletions in a table, and the SQL that takes it away."""
    create = "".join(
        f"CREATE TRIGGER {table}_no_{verb} BEFORE {verb.upper()} ON {table} BEGIN SELECT RAISE(ABORT,"
        f" '{table} rows are kept for good'); END;"
        for verb in ("update", "delete")
    )
    drop = "".join(f"DROP TRIGGER {table}_no_{verb};" for verb in ("update", "delete"))
    return create, drop
