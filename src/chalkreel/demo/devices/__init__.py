"""Stand-ins for instruments: they send what real ones would, so that everything can be tried without any."""
