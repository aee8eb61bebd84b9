"""Measure: how big is it on my model?"""
