"""What the core raises besides programming errors: refusals, and work that was stopped."""


class RefusedError(ValueError):
    """Input the core cannot use. Its message is a sentence for the modeller: what is wrong, what to do."""


class StoppedError(Exception):
    """The user stopped the work. Never a refusal, never an answer: nobody but who started the work catches it."""
