"""From a finding to a unit that is proved to work: what to read again after a repair."""
