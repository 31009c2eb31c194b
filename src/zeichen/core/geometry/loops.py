"""Counting round a loop in compiled functions: a division takes as long as twenty sums, and is hardly ever needed."""

from zeichen.core.compiled import uncounted


@uncounted(cache=True)
def around(i: int, n: int) -> int:
    """Return a number counted round a loop of n, from 0 on: i modulo n, soonest within one turn of it.

    >>> around(7, 5), around(-1, 5), around(23, 5)
    (2, 4, 3)
    """
    if i >= n:
        i -= n
    elif i < 0:
        i += n
    return i if 0 <= i < n else i % n
