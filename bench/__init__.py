"""Speed and memory, each beside a general-purpose library in the same run. Run with `make bench`."""
