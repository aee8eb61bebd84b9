"""Colour: which drops from my shelf?"""
