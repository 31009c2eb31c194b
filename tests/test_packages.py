"""What the packages promise about themselves."""

import importlib
import pkgutil

import pytest

import zeichen.core

PACKAGES = [
    name
    for _, name, is_package in pkgutil.walk_packages(zeichen.core.__path__, "zeichen.core.")
    if is_package
]


@pytest.mark.parametrize("name", PACKAGES)
def test_public_names_exist_and_are_listed_once(name):
    package = importlib.import_module(name)
    assert package.__doc__
    listed = getattr(package, "__all__", [])
    assert len(listed) == len(set(listed))
    for each in listed:
        assert hasattr(package, each), f"{name} lists {each}, which is not there"


def test_every_error_has_a_code_of_its_own():
    from zeichen.core import errors

    kinds = [
        kind
        for kind in vars(errors).values()
        if isinstance(kind, type) and issubclass(kind, errors.ZeichenError)
    ]
    assert len({kind.code for kind in kinds}) == len(kinds)
    assert all(kind.__doc__ for kind in kinds)
