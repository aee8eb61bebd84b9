"""Bench: what happened, and is it right?"""
