"""The one base of everything the core refuses."""


class RefusedError(ValueError):
    """Input the core cannot use. Its message is a sentence for the modeller: what is wrong, what to do."""
