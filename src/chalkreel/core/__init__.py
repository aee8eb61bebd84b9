"""Pure computing for the trade: no toolkit, no document."""
