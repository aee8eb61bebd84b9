"""Answers derived from a build by pure functions: sizes, operations, circuits, colours, sequence."""
