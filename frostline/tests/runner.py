"""The test runner: Django's, with a password hasher that takes no time."""

from typing import Any

from django.test.runner import DiscoverRunner
from django.test.utils import override_settings


class Runner(DiscoverRunner):
    """Passwords in tests protect nothing; hashing them well took a tenth of the tests' time."""

    def setup_test_environment(self, **options: Any) -> None:
        super().setup_test_environment(**options)
        self._fast = override_settings(PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"])
        self._fast.enable()

    def teardown_test_environment(self, **options: Any) -> None:
        self._fast.disable()
        super().teardown_test_environment(**options)
