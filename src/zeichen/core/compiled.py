"""How the core's inner loops are compiled."""

from functools import partial

from numba import njit

# What a compiled sum may do to be fast: terms in any order, a product and a sum in one go. No more: inf and nan
# keep their meaning.
FAST_SUMS = {"contract", "arcp", "nsz", "reassoc"}

# For what neither makes arrays nor returns any, and calls nothing that does: as whoever calls it holds all arrays,
# nobody counts who still holds them. The counting, atomic, took an eighth of the time of a trace.
uncounted = partial(njit, error_model="numpy", _nrt=False)
