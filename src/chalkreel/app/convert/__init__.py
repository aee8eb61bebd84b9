"""Convert: what must I change, from what stock?"""
