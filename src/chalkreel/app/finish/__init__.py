"""Finish: in what order, and when?"""
