"""Heavy work: each job in a process of its own, which is gone when it is done."""
