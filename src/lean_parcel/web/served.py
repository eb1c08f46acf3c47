"""The workspace that the application serves."""

from flask import current_app

from lean_parcel.work.workspace import Workspace


def workspace() -> Workspace:
    """The workspace of the current request."""
    served = current_app.extensions["workspace"]
    assert isinstance(served, Workspace)
    return served
