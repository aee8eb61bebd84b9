"""The page shown while no build is open: go on with one, or begin another."""
