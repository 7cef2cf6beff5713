"""From a finding to a unit that is handed over: lines of work, what is safe until they are done, what
is looked at once more, and what has to be said before it is left."""
