"""Loaded once by the process that all workers are copies of: our modules, and the compiled kernels."""

import gc
import signal

import cv2

# The key that ends a command goes to every process of the terminal: who began the work ends it.
signal.signal(signal.SIGINT, signal.SIG_IGN)
# A copy has none of its original's threads, so none may be started here (fork(2)); each worker starts its own.
cv2.setNumThreads(0)

from zeichen.core.tracing.warming import make_ready, warm_up  # noqa: E402
from zeichen.jobs import kinds, tasks  # noqa: E402, F401

make_ready()
warm_up()
# What is here stays: copies share it, and need not look through it for rubbish.
gc.freeze()
