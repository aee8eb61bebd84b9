"""The window: widgets over view-models that can be tested without pixels."""
