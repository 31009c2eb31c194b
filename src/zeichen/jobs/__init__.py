"""Background work: worker processes, a queue of jobs with progress and cancel, events for whoever watches."""
