"""Days: when everything is done, with the hands and machines there are."""
