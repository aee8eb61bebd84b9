"""Gather: what evidence have I got, and what is in the kit?"""
