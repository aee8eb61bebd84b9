"""The demo build: the ice tender Ninepin of Saltmarrow Station, all invented."""
