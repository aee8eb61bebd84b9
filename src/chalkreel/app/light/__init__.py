"""Light: will it light, and for how long?"""
