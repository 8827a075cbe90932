"""What stands outside: meters. One small interface; a simulated one ships, real ones feed the
same.
"""
