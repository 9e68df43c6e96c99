"""The rules of the job: pure functions over immutable values, with no interface, database or server code."""
