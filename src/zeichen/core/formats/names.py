"""Ids for shapes of a file from elsewhere: its own where they are free, numbered where they are taken."""


class FreeNames:
    """Hands out names, none of them twice; a name asked for again and again takes no longer each time.

    Examples
    --------
    >>> names = FreeNames()
    >>> names.take("a"), names.take("a"), names.take("a-2"), names.take("a")
    ('a', 'a-2', 'a-2-2', 'a-3')
    """

    def __init__(self) -> None:
        self._taken: set[str] = set()
        self._last: dict[str, int] = {}

    def take(self, wanted: str) -> str:
        """Return a name, or the next free one with a number behind it."""
        name = wanted
        while name in self._taken:
            self._last[wanted] = self._last.get(wanted, 1) + 1
            name = f"{wanted}-{self._last[wanted]}"
        self._taken.add(name)
        return name
