"""Style sheets as pure functions: their rules, what selectors ask for, what could go."""
