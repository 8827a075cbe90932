"""Cold Arc: headlight retrofit from booking in to handing over, measured, computed and recorded."""
