"""How the core's inner loops are compiled.

What is compiled is read from disk when a command starts, with a copy of all that it calls, and that takes about as
long as the libraries do. Three things that look small make it half as long again and are avoided: sums and copies of
whole arrays (they bring the text of their error messages along, and the code that puts it together), `concatenate`,
and numbers written out as arguments (the function called is compiled once more for each: see NONE).
"""

from functools import partial
from typing import Any, TypeVar, cast

import numpy as np
from numba import njit

# What a compiled sum may do to be fast: terms in any order, a product and a sum in one go. No more: inf and nan
# keep their meaning.
FAST_SUMS = {"contract", "arcp", "nsz", "reassoc"}

# For what makes arrays or returns any, or calls what does. Nobody calls compiled functions from C.
counted = partial(njit, error_model="numpy", no_cfunc_wrapper=True)

# For all others: as whoever calls it holds all arrays, nobody counts who still holds them. The counting, atomic, took
# an eighth of the time of a trace.
uncounted = partial(njit, error_model="numpy", no_cfunc_wrapper=True, _nrt=False)


T = TypeVar("T", bool, int)


def common(value: T) -> T:
    """Return a value for a module's constant that, as an argument, does not ask for a function of its own."""
    same: Any = (np.bool_ if isinstance(value, bool) else np.int64)(value)
    return cast(T, same)


# Where a count begins, and what is or is not. A number that is written out has a type of its own until it is known what
# else its variable holds, and all that is called with it is compiled for that type, too.
NONE, ONE, NO, YES = common(0), common(1), common(False), common(True)
