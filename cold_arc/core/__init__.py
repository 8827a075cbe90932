"""The job's rules and computation. No pages, no tables; SI units inside, typed text understood in
`units`.
"""
