"""A lab with accounts, for the tests of a module."""

from collections.abc import Iterator

import pytest

from dosis.store.database import Database
from tests.web.lab import Lab, lab_of


@pytest.fixture(scope="module")
def lab(database: Database) -> Iterator[Lab]:
    """The application over the shared database, which asks everybody to sign in."""
    with lab_of(database) as found:
        yield found
