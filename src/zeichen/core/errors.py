"""The one family of errors. Each message says what is wrong, the value, and what to do."""


class ZeichenError(Exception):
    """Base of everything this product raises on purpose."""

    code = "error"


class InvalidInputError(ZeichenError, ValueError):
    """A value handed in cannot be used."""

    code = "invalid_input"


class FormatError(InvalidInputError):
    """A file is damaged, hostile, or not of the kind it claims to be."""

    code = "bad_file"


class TooMuchError(InvalidInputError):
    """Work on this would take more time, memory or room than there is for it."""

    code = "too_much"


class DamagedError(ZeichenError):
    """Something that was kept can no longer be read as it was."""

    code = "damaged"


class NotFoundError(ZeichenError):
    """Something asked for does not exist."""

    code = "not_found"


class ConflictError(ZeichenError):
    """The request no longer fits what is stored."""

    code = "conflict"


class OutsideError(ZeichenError):
    """A machine, disk or service outside said no."""

    code = "outside"


class StoppedError(ZeichenError):
    """Work was cancelled."""

    code = "stopped"
