"""What is wrong with the marks: gross errors, stills that are not as stated, rulers that disagree.

A fault is a hypothesis with its own test; clean reels are not accused (the thresholds are beyond what a few
hundred honest clicks reach by chance).

Reference: Baarda, *A Testing Procedure for Use in Geodetic Networks*, 1968 (one suspect at a time, over its own σ).
"""
