"""What a meter read on the wall: made comparable, its uncertainty, slips, the brightest point,
before against after.
"""
