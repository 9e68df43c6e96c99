"""Speed and memory against a general library, on the same input in the same run."""
